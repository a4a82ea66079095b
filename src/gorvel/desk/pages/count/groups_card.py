"""Clusters held against groups known beforehand: a check, not a rule."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QHBoxLayout, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from gorvel.core.base.numbers import counted, fixed
from gorvel.core.count.groups import Check, KnownGroups, check_of, groups_of
from gorvel.core.results.table import ResultTable
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.controls.seen import WhenSeen
from gorvel.desk.controls.texts import heading, text
from gorvel.desk.views.tables import dress
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import SPACE, font

_NONE = (
    "No column has the role known groups. Set it in the list of variables on the "
    "Cases page; it is never used to form clusters."
)


class GroupsCard(QWidget):
    """Follows the count in hand."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting, self.focus = counting, counting.focus
        self._known: tuple[object, str | None, KnownGroups | None] | None = None
        self.title = heading("", 1.0)
        self.words = text(soft=True)
        self.cross = QTableWidget()
        self.by_count = QTableWidget(0, 3)
        self.by_count.setHorizontalHeaderLabels(
            ["clusters", "adjusted Rand", "normalised mutual information"]
        )
        dress(self.cross, "Clusters by known groups")
        dress(self.by_count, "Agreement by number of clusters", (80, 110))
        for table in (self.cross, self.by_count):
            table.horizontalHeader().setFixedHeight(24)
            table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.by_count.setMouseTracking(True)
        self.by_count.cellEntered.connect(lambda row, _: counting.look_at(self._counts()[row]))
        self.by_count.cellClicked.connect(self._cut_here)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE // 2)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        self.take = TakeAway(actions, "known-groups", self.table)
        head.addWidget(self.take)
        layout.addLayout(head)
        layout.addWidget(self.words)
        layout.addWidget(self.cross, 3)
        layout.addWidget(self.by_count, 3)
        seen = WhenSeen(self, self._follow)
        for signal in (counting.changed, self.focus.cut_changed, self.focus.shelf.plan_changed):
            signal.connect(seen.follow)
        seen.follow()

    def groups(self) -> KnownGroups | None:
        """The groups of the cases of the tree."""
        grown, plan, study = self.focus.grown, self.focus.shelf.plan, self.focus.shelf.study
        if grown is None or plan is None or study is None:
            return None
        asked = (grown, plan.cases.groups)
        if self._known is None or self._known[:2] != asked:
            self._known = (*asked, groups_of(grown, study.source, plan))
        return self._known[2]

    def _counts(self) -> list[int]:
        board, cut = self.counting.board, self.focus.cut
        counts = set(board.counts if board is not None else ())
        return sorted(counts | ({cut.clusters} if cut is not None else set()))

    def checks(self) -> dict[int, Check]:
        """How each count goes with the groups."""
        groups, grown = self.groups(), self.focus.grown
        if groups is None or grown is None:
            return {}
        return {k: check_of(groups, cut_at_count(grown.tree, k)) for k in self._counts()}

    def _follow(self) -> None:
        groups, cut = self.groups(), self.focus.cut
        for widget in (self.cross, self.by_count, self.take):
            widget.setVisible(groups is not None)
        self.title.setText("Known groups" if groups is None else f"By {groups.name}")
        if groups is None or cut is None:
            self.words.setText(_NONE)
            return
        checks = self.checks()
        own, best = check_of(groups, cut), max(checks, key=lambda k: (checks[k].rand, -k))
        unknown = ""
        if own.unknown:
            unknown = f" {counted(own.unknown, 'case')} without a group excluded."
        self.words.setText(
            f"A check, not a rule: it has no vote. {best} clusters agree best with {groups.name},"
            f" adjusted Rand index {fixed(checks[best].rand, 2)}; at {cut.clusters} it is"
            f" {fixed(own.rand, 2)}.{unknown}"
        )
        self._fill_cross(groups, own)
        self.by_count.setRowCount(len(checks))
        for row, (count, check) in enumerate(checks.items()):
            for column, words in enumerate(
                (str(count), fixed(check.rand, 3), fixed(check.information, 3))
            ):
                item = QTableWidgetItem(words)
                strong = count == best or count == cut.clusters
                item.setFont(font(0.93, 600 if strong else 400))
                self.by_count.setItem(row, column, item)

    def _fill_cross(self, groups: KnownGroups, own: Check) -> None:
        names = [who.name for who in self.focus.identities]
        self.cross.setRowCount(len(names))
        self.cross.setColumnCount(len(groups.groups))
        self.cross.setVerticalHeaderLabels(names)
        self.cross.setHorizontalHeaderLabels(list(groups.groups))
        for i, row in enumerate(own.table.tolist()):
            for j, cases in enumerate(row):
                item = QTableWidgetItem(f"{cases:,}" if cases else "·")
                item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                strong = cases and 2 * cases > sum(row)
                item.setFont(font(0.93, 600 if strong else 400))
                self.cross.setItem(i, j, item)
        self.cross.resizeColumnsToContents()

    def leaveEvent(self, event: QEvent) -> None:
        self.counting.look_at(0)

    def _cut_here(self, row: int, column: int) -> None:
        self.focus.set_count(self._counts()[row])

    def table(self) -> ResultTable | None:
        """The cross table at the count in hand."""
        groups, cut = self.groups(), self.focus.cut
        if groups is None or cut is None:
            return None
        own = check_of(groups, cut)
        rows = [
            (who.name, *cases)
            for who, cases in zip(self.focus.identities, own.table.tolist(), strict=True)
        ]
        return ResultTable(("cluster", *groups.groups), rows)
