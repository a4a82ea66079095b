"""The Profiles page: what the clusters of the cut in hand are like, and whether that holds."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import QStackedWidget, QWidget

from gorvel.core.profile.lanes import Lane
from gorvel.desk.controls.arranging import fill, split
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.growing import NoTree, StaleBar
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import panel
from gorvel.desk.pages.profiles.case_card import CaseCard
from gorvel.desk.pages.profiles.cluster_card import ClusterCard
from gorvel.desk.pages.profiles.components_card import ComponentsCard
from gorvel.desk.pages.profiles.drivers_card import DriversCard
from gorvel.desk.pages.profiles.map_card import MapCard
from gorvel.desk.pages.profiles.new_cases_card import NewCasesCard
from gorvel.desk.pages.profiles.questions_card import QuestionsCard
from gorvel.desk.pages.profiles.scatter_card import ScatterCard
from gorvel.desk.pages.profiles.short_form_card import ShortFormCard
from gorvel.desk.pages.profiles.tests_card import TestsCard
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.tabbed_page import TabbedPage
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE

_TABS = (
    ("Questions", "What each cluster answers"),
    ("Tests", "Do the clusters differ, and how much"),
    ("Map", "The cases in two dimensions, similar ones close together"),
    ("Components", "Principal components, with the variables as arrows"),
    ("Scatter", "Two variables against each other, or a matrix of several"),
    ("What matters", "The tree grown without each variable"),
    ("Short form", "The few questions that best separate clusters, with a scoring sheet"),
    ("New cases", "Cases of another file, assigned to the clusters"),
)
_WITHOUT_ANSWERS = ("Questions", "Map")


class ProfilesPage(TabbedPage):
    """Before there is a tree it says how to get one.

    Signals: tree_wanted(), to the page of the tree, where something is marked.
    """

    tree_wanted = Signal()

    def __init__(
        self, actions: Actions, profiling: Profiling, layout: Layout, parent: QWidget | None = None
    ) -> None:
        super().__init__("Profiles", layout, parent)
        self.acts, self.focus, self.profiling = actions, actions.focus, profiling
        self.questions = QuestionsCard(actions, profiling)
        self.tests = TestsCard(actions, profiling)
        self.map = MapCard(actions, profiling)
        self.components = ComponentsCard(actions, profiling)
        self.scatter = ScatterCard(actions, profiling)
        self.drivers = DriversCard(actions, profiling)
        self.form = ShortFormCard(actions, profiling)
        self.new_cases = NewCasesCard(actions, profiling)
        self.card, self.case = ClusterCard(actions, profiling), CaseCard(actions, profiling)
        self.view = self.questions.view
        self._side = QStackedWidget()
        words = "Grow the tree to see what its clusters are like."
        self._stack.addWidget(NoTree(actions, "No clusters yet", words))
        self._stack.addWidget(self._page())
        QShortcut(QKeySequence("Ctrl+F"), self, self._find)
        self._seen = WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.shelf.plan_changed,
        )  # fmt: skip
        self.view.chosen.connect(self._look_at)
        self.focus.mark_changed.connect(self._marked)
        self.case.back.connect(self._to_cluster)
        self.case.tree_wanted.connect(self.tree_wanted)
        for pictures in (self.map, self.components, self.scatter):
            pictures.view.opened.connect(self.tree_wanted)
        self.show_kept_tab()
        self._follow()

    def _page(self) -> QWidget:
        left = panel()
        row = self.tab_row(
            _TABS, self.questions, self.tests, self.map, self.components, self.scatter,
            self.drivers, self.form, self.new_cases,
        )  # fmt: skip
        fill(left, row, (self._front, 1), edges=(2 * SPACE, SPACE // 2, SPACE, SPACE))
        self._side.addWidget(self.card)
        self._side.addWidget(self.case)
        both = split(left, self._side, sizes=(900, 330), shares=(3, 1))
        page = QWidget()
        fill(
            page, StaleBar(self.acts, self), (both, 1), space=SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        return page

    def _find(self) -> None:
        self.show_tab(0)
        self.questions.seek()

    # following

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.view.setFocus(Qt.FocusReason.OtherFocusReason)

    def _follow(self) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        self._stack.setCurrentIndex(0 if grown is None else 1)
        if grown is None or cut is None:
            self.questions.follow()
            return
        answered = grown.of == "cases" and grown.prepared.answers is not None
        for tab, (name, tip) in zip(self.tabs, _TABS, strict=True):
            tab.setEnabled(answered or name in _WITHOUT_ANSWERS)
            tab.setToolTip(as_tip(tip) if tab.isEnabled() else "It needs answers of cases")
        if not self.tabs[self._cards.currentIndex()].isEnabled():
            self.show_tab(0)
        if not 0 <= self.view.selected < cut.clusters:
            self.view.selected = self.view.order[0]
        self.profiling.ask_portraits()
        self.questions.follow()
        self.card.show_cluster(self.view.selected)
        self._marked()

    def _look_at(self, cluster: int) -> None:
        """A cluster (from 0) was chosen."""
        self.card.keep()
        self.view.selected = cluster
        self.view.update()
        self.card.show_cluster(cluster)
        self.focus.select(Mark("cluster", cluster + 1))
        self._side.setCurrentWidget(self.card)

    def _to_cluster(self) -> None:
        cut, mark = self.focus.cut, self.focus.selected
        if cut is not None and mark is not None and mark.kind == "case":
            self._look_at(int(cut.membership[mark.number]) - 1)

    def _marked(self) -> None:
        """What is marked anywhere is told of on the right."""
        mark, cut = self.focus.selected, self.focus.cut
        if not self.isVisible() or cut is None:
            return
        if mark is not None and mark.kind == "case":
            if self.case.case != mark.number or self._side.currentWidget() is not self.case:
                self.card.keep()
                self._side.setCurrentWidget(self.case)
            self.case.show_case(mark.number)
            return
        self._side.setCurrentWidget(self.card)
        known = mark is not None and mark.kind == "cluster" and mark.number <= cut.clusters
        if mark is not None and known and mark.number - 1 != self.view.selected:
            self._look_at(mark.number - 1)

    # what others ask for

    def lanes(self) -> list[Lane]:
        """Those in sight."""
        return self.questions.lanes()
