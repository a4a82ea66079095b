"""The Compare page: trees against trees, and is it the data or the method."""

from __future__ import annotations

from functools import partial
from typing import Protocol

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import sentence
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.analyses import OtherTree
from gorvel.core.plan.others import adopted
from gorvel.desk.controls.arranging import centred, fill, split
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.growing import NoTree, StaleBar
from gorvel.desk.controls.texts import ButtonKind, block, button, clear, heading, panel
from gorvel.desk.pages.compare.alike_card import AlikeCard
from gorvel.desk.pages.compare.cross_card import CrossCard
from gorvel.desk.pages.compare.faces_card import FacesCard
from gorvel.desk.pages.compare.gaps_card import GapsCard
from gorvel.desk.pages.compare.groups_card import GroupsCard
from gorvel.desk.pages.compare.reading_card import ReadingCard
from gorvel.desk.pages.compare.stands_card import StandsCard
from gorvel.desk.pages.compare.sweep_card import SweepCard
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.tabbed_page import TabbedPage
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import NOTHING, Comparing
from gorvel.desk.work.imputation import Imputation
from gorvel.desk.work.moving import Moving
from gorvel.desk.work.replicating import Replicating
from gorvel.desk.work.sweeping import Sweeping
from gorvel.paint.theme import SPACE

_TABS = (
    ("Two trees", "Face to face, with cross-tabulation"),
    ("Stability", "Clusters also found in other trees"),
    ("Sweep", "Linkages against measures, scales or treatments of missing answers"),
    ("Missing answers", "Do clusters depend on the treatment of missing answers?"),
    ("Split groups", "Do the groups of a split find the same clusters?"),
)
_LOWER = 222  # pixels that curve and table need, at the least
_BOX = 520  # pixels of the box of an empty page
_OFFERED = ("average", "complete", "ward", "single")  # linkages, of which three others are offered


class _Card(Protocol):
    def follow(self) -> None:
        """What it shows has changed."""
        ...


class ComparePage(TabbedPage):
    """Before there are two trees it says how to get them.

    Signals: tree_wanted(), to the page of the tree, where something is marked.
    """

    tree_wanted = Signal()

    def __init__(
        self, actions: Actions, comparing: Comparing, sweeping: Sweeping, moving: Moving,
        imputation: Imputation, replicating: Replicating,
        layout: Layout, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__("Compare", layout, parent)
        self.acts, self.focus, self.comparing = actions, actions.focus, comparing
        self.faces, self.alike = FacesCard(actions, comparing), AlikeCard(actions, comparing)
        self.cross, self.reading = CrossCard(actions, comparing), ReadingCard(actions, comparing)
        self.stands = StandsCard(actions, comparing, moving)
        self.sweep = SweepCard(actions, comparing, sweeping)
        self.gaps = GapsCard(actions, imputation)
        self.groups = GroupsCard(actions, comparing, replicating)
        self.view = self.faces.view
        self.offers: list[QWidget] = []
        words = "Trees are compared here. Grow the first one, then others beside it."
        self._stack.addWidget(NoTree(actions, "No tree yet", words))
        self._stack.addWidget(self._one_tree())
        self._stack.addWidget(self._page())
        self._seen = WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.titles_changed, self.focus.shelf.plan_changed,
            self.focus.shelf.shelf_changed, comparing.chosen, comparing.faces.changed,
            comparing.shelf.changed,
        )  # fmt: skip
        self.faces.list_wanted.connect(partial(self.reading.list_cases, None))
        self.cross.view.chosen.connect(self._cell_chosen)
        self.view.opened.connect(self.tree_wanted)
        for signal in (self.sweep.taken, self.stands.averaged, self.groups.faced):
            signal.connect(partial(self.show_tab, 0))
        self.show_kept_tab()

    def _one_tree(self) -> QWidget:
        """What is said while there is one tree: others to put beside it."""
        box = panel()
        box.setFixedWidth(_BOX)
        words = (
            "Is it the data or the method? Keep this tree (Ctrl+K), change the plan and "
            "grow another, or start with one of these."
        )
        self._offers = QHBoxLayout()
        self._offers.setSpacing(SPACE)
        fill(
            box, heading("One tree so far", "result"), block(words, _BOX - 8 * SPACE), self._offers,
            space=SPACE, edges=(4 * SPACE, 3 * SPACE, 4 * SPACE, 3 * SPACE),
        )  # fmt: skip
        page = QWidget()
        centred(page, box)
        return page

    def _page(self) -> QWidget:
        lower = split(self.alike, self.cross)
        lower.setMinimumHeight(_LOWER)
        left = split(self.faces, lower, sizes=(440, 230), down=True)
        both = split(left, self.reading, sizes=(680, 290), shares=(3, 1))
        row = self.tab_row(_TABS, both, self.stands, self.sweep, self.gaps, self.groups)
        page = QWidget()
        fill(
            page, StaleBar(self.acts, self), row, (self._front, 1),
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        return page

    def show_tab(self, number: int) -> None:
        super().show_tab(number)
        self._seen.follow()

    # following

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.view.setFocus(Qt.FocusReason.OtherFocusReason)

    def _follow(self) -> None:
        study = self.focus.shelf.study
        if study is None or (self.focus.grown is None and len(study.trees) < 2):
            self._stack.setCurrentIndex(0)
            return
        if self.comparing.right == NOTHING:
            self._offer()
            self._stack.setCurrentIndex(1)
            return
        self._stack.setCurrentIndex(2)
        if self.isVisible():
            self.comparing.ask()
            self.comparing.ask_shelf()
        for card in self._shown_cards():
            card.follow()

    def _shown_cards(self) -> tuple[_Card, ...]:
        """Those of the tab in front."""
        tabs: tuple[tuple[_Card, ...], ...] = (
            (self.faces, self.alike, self.cross, self.reading), (self.stands,), (self.sweep,),
            (self.gaps,), (self.groups,),
        )  # fmt: skip
        return tabs[self._cards.currentIndex()]

    def _offer(self) -> None:
        """Links to trees by other linkages."""
        plan = self.focus.shelf.plan
        clear(self._offers)
        self.offers = []
        if plan is None:
            return
        others = [key for key in _OFFERED if key != plan.tree.linkage
                  and not plan.why_not("tree", linkage=key)][:3]  # fmt: skip
        for key in others:
            name = LINKAGES[key].name
            kind: ButtonKind = "" if self.offers else "main"  # the first one is proposed
            link = button(sentence(name), partial(self.put_beside, key), kind)
            self._offers.addWidget(link)
            self.offers.append(link)
        self._offers.addStretch(1)

    def put_beside(self, linkage: str) -> None:
        """Keep the tree in hand, and put the same by another linkage on its right."""
        shelf = self.focus.shelf
        if shelf.plan is None:
            return
        try:
            other = adopted(shelf.plan, OtherTree(name="-", linkage=linkage))
        except InputError as error:
            self.acts.said.emit(error.said or str(error), True)
            return
        self.comparing.put_beside(other)

    def _cell_chosen(self) -> None:
        cell = self.cross.view.cell
        if cell is None:
            self.reading.read()
        else:
            self.reading.list_cases(cell)
