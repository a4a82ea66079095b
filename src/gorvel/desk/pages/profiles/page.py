"""The Profiles page: what the clusters of the cut in hand are like."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSplitter,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.design import Design, sample_of
from gorvel.core.export.views import ViewTable
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import DesignPlan, VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.lanes import Lane, lanes_of
from gorvel.core.profile.told import Told, told_answers
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut
from gorvel.core.tree.tree import Tree
from gorvel.desk.controls.growing import NoTree, StaleBar
from gorvel.desk.controls.seen import WhenSeen
from gorvel.desk.controls.texts import heading, panel, scrolled, text
from gorvel.desk.pages.profiles.cluster_card import ClusterCard
from gorvel.desk.views.lanes_view import LanesView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.canvas import Canvas
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, SPACE, font

__all__ = ["ProfilesPage"]

_LEGEND = (
    "Letters stand at the clusters’ means or shares, the upright line at that of all cases, bars"
    " are 95 % intervals{how}. Shaded: a quarter of a standard deviation or more above (rust) or"
    " below (green) all cases; bold: a whole one."
)
_AT_ONCE = 400_000  # answers up to which clusters are told while the hand waits
_NONE = {
    "matrix": "A proximity matrix has no answers to tell clusters by. What it knows of each cluster"
    " stands on the right.",
    "variables": "This tree is of variables: clusters of variables have members, and no answers.",
}


class ProfilesPage(QWidget):
    """Before there is a tree it says how to get one."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self._found: _Found | None = None
        self.view = LanesView(self.focus)
        self.card = ClusterCard(actions)
        self.sort = QComboBox()
        self.sought = QLineEdit()
        self.reading, self.legend = text(), text(size=0.86, soft=True)
        self.says = text(soft=True)
        self.by = text("sorted by", soft=True, wrap=False)
        self._stack = QStackedLayout(self)
        words = "Profiles tell what clusters are like. Grow the tree, and they are here."
        self._stack.addWidget(NoTree(actions, "No clusters yet", words))
        self._stack.addWidget(self._page())
        QShortcut(QKeySequence("Ctrl+F"), self, self._find)
        self._seen = WhenSeen(self, self._follow)
        for signal in (
            self.focus.tree_changed, self.focus.cut_changed, self.focus.shelf.plan_changed,
        ):  # fmt: skip
            signal.connect(self._seen.follow)
        self.view.pointed.connect(self._tell)
        self.view.chosen.connect(self._chosen)
        self._follow()

    def _page(self) -> QWidget:
        left = panel()
        column = QVBoxLayout(left)
        column.setContentsMargins(2 * SPACE, SPACE, SPACE, SPACE)
        column.setSpacing(SPACE // 2)
        column.addLayout(self._head())
        self.area: QScrollArea = scrolled(self.view)
        column.addWidget(self.says)
        column.addWidget(self.area, 1)
        column.addWidget(self.reading)
        column.addWidget(self.legend)
        self.reading.setMinimumHeight(38)
        self.reading.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.reading.setAccessibleName("What is pointed at")
        both = QSplitter()
        both.addWidget(left)
        both.addWidget(self.card)
        both.setSizes([880, 350])
        both.setStretchFactor(0, 3)
        both.setStretchFactor(1, 1)
        both.setHandleWidth(SPACE)
        both.setChildrenCollapsible(False)
        page = QWidget()
        outer = QVBoxLayout(page)
        outer.setContentsMargins(2 * SPACE, 0, 2 * SPACE, 2 * SPACE)
        outer.setSpacing(SPACE)
        outer.addWidget(StaleBar(self.acts, self))
        outer.addWidget(both, 1)
        return page

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(heading("What the clusters are like", 1.07))
        row.addStretch(1)
        row.addWidget(self.by)
        self.sort.setAccessibleName("Questions sorted by")
        self.sort.setFont(font(0.93))
        self.sort.setMinimumWidth(150)
        self.sort.currentIndexChanged.connect(self._show)
        row.addWidget(self.sort)
        self.sought.setPlaceholderText("Find a question")
        self.sought.setAccessibleName("Find a question")
        self.sought.setMaximumWidth(130)
        self.sought.textChanged.connect(self._show)
        row.addWidget(self.sought)
        self.take = TakeAway(self.acts, "profiles", self.table, self.sheet)
        row.addWidget(self.take)
        return row

    # following

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.view.setFocus(Qt.FocusReason.OtherFocusReason)

    def _follow(self) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        self._stack.setCurrentIndex(0 if grown is None else 1)
        if grown is None or cut is None:
            self.view.show_lanes([])
            return
        names = [who.told for who in self.focus.identities]
        chosen = self.sort.currentData()
        self.sort.blockSignals(True)
        self.sort.clear()
        self.sort.addItem("what tells apart", -1)
        self.sort.addItem("the plan’s order", -2)
        for cluster in self.view.order:
            self.sort.addItem(f"what marks {names[cluster]}", cluster)
        self.sort.setCurrentIndex(max(self.sort.findData(chosen), 0))
        self.sort.blockSignals(False)
        if not 0 <= self.view.selected < cut.clusters:
            self.view.selected = self.view.order[0]
        self._measure(grown, cut)
        self._show()
        self.card.show_cluster(self.view.selected)

    def _measure(self, grown: Grown, cut: Cut) -> None:
        """Lanes of this cut, unless they are there; large studies do not keep the hand waiting."""
        plan, study = self.focus.plan_of_tree, self.focus.shelf.study
        if plan is None or study is None:
            return
        found = self._found
        same = found is not None and found.tree is grown.tree and found.said == _said(plan)
        if found is not None and same and found.cut is cut:
            return
        work = partial(_portraits, study.source, plan, grown, cut, found if same else None)
        self._found = None
        if grown.tree.n * (len(plan.variables.use) + len(plan.variables.profile)) <= _AT_ONCE:
            self.acts.jobs.cancel(JobKind.PROFILES)
            self._found = work(silent)
            return
        self.acts.jobs.start(JobKind.PROFILES, work, self._measured, self._failed)

    def _measured(self, found: _Found) -> None:
        if found.cut is self.focus.cut:
            self._found = found
            self._show()

    def _failed(self, why: str) -> None:
        self.says.setText(why)
        self.says.setVisible(True)

    def lanes(self) -> list[Lane]:
        """All of the cut in hand, in the order chosen, of the questions sought."""
        if self._found is None:
            return []
        found, by = list(self._found.lanes), self.sort.currentData()
        if by == -2:
            places = {one.name: place for place, one in enumerate(self._found.told)}
            found.sort(key=lambda lane: places[lane.name])
        elif by is not None and by >= 0:
            found.sort(key=lambda lane: (lane.role != "active", -abs(lane.away[by])))
        sought = self.sought.text().strip().casefold()
        return [lane for lane in found if sought in lane.title.casefold()]

    def _show(self) -> None:
        lanes, grown = self.lanes(), self.focus.grown
        self.view.show_lanes(lanes)
        known = self._found
        how = " under the design of the sample" if known is not None and known.design else ""
        self.legend.setText(_LEGEND.format(how=how) if lanes else "")
        self.take.setVisible(bool(lanes))
        told = known is not None and bool(known.told)
        for widget in (self.sort, self.sought, self.by):
            widget.setVisible(told)
        words = ""
        if known is None and grown is not None:
            words = "Working out what the clusters are like …"
        elif known is not None and grown is not None and not lanes:
            kind = "variables" if grown.of == "variables" else "matrix"
            words = known.problem or ("No question is called so." if told else _NONE[kind])
        self.says.setText(words)
        self.says.setVisible(bool(words))
        self._tell(self.view.row, self.view.cluster)

    def _tell(self, row: int, cluster: int) -> None:
        painter = self.view.painter()
        known = painter is not None and 0 <= row < len(painter.lanes)
        self.reading.setText(painter.words(row, cluster) if painter is not None and known else "")

    def _chosen(self, cluster: int) -> None:
        self.card.show_cluster(cluster)

    def _find(self) -> None:
        self.sought.setFocus(Qt.FocusReason.ShortcutFocusReason)

    # copies

    def table(self) -> ViewTable | None:
        """A row for each question, columns as shown."""
        if not self.view.lanes:
            return None
        names, order = self.focus.identities, self.view.order
        heads = ("question", "role", "tells apart", "all cases", *(names[k].told for k in order))
        rows: list[tuple[str | int | float | None, ...]] = [
            (
                lane.title, lane.role, lane.effect, lane.whole,
                *(float(lane.values[k]) for k in order),
            )
            for lane in self.view.lanes
        ]  # fmt: skip
        return ViewTable(heads, rows)

    def sheet(self) -> Sheet | None:
        """The lanes for print."""
        painter = self.view.painter(LIGHT, 900.0)
        if painter is None:
            return None

        def draw(canvas: Canvas, width: float, height: float) -> None:
            found = self.view.painter(LIGHT, width)
            if found is not None:
                found.paint(canvas)

        return Sheet(
            draw, 190.0, 190.0 * painter.height / 900.0, title="What the clusters are like"
        )


@dataclass(frozen=True, eq=False)
class _Found:
    """What is told of one cut. said : what the plan says of questions and sample; problem : why

    answers cannot be read, "" where they can.
    """

    tree: Tree
    cut: Cut
    said: tuple[VariablesPlan, DesignPlan | None]
    told: list[Told]
    design: Design | None
    lanes: list[Lane]
    problem: str = ""


def _said(plan: Plan) -> tuple[VariablesPlan, DesignPlan | None]:
    return plan.variables, plan.design


def _portraits(
    source: Source, plan: Plan, grown: Grown, cut: Cut, before: _Found | None, progress: Progress
) -> _Found:
    """Read the answers, unless they were read before, and lay the clusters side by side."""
    told: list[Told] = [] if before is None else before.told
    design, problem = (None, "") if before is None else (before.design, before.problem)
    try:
        if before is None and isinstance(source, Table) and grown.of == "cases":
            told = told_answers(source, plan, grown.prepared)
            design = sample_of(source, plan, grown.prepared)
    except InputError as error:
        told, problem = [], str(error)
    weights = grown.prepared.weights
    masses = np.ones(grown.tree.n) if weights is None else weights
    lanes = lanes_of(told, cut.membership - 1, cut.clusters, masses, design) if told else []
    return _Found(grown.tree, cut, _said(plan), told, design, lanes, problem)
