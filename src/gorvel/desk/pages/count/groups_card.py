"""Clusters held against groups known beforehand: a check, not a rule."""

from __future__ import annotations

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import counted, fixed
from gorvel.core.count.groups import Check, KnownGroups, check_of
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import heading, text
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting

_NONE = (
    "No column has the role known groups. Set it in the list of variables on the "
    "Cases page; it is never used to form clusters."
)


class GroupsCard(QWidget):
    """Follows the count in hand."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting, self.focus = counting, counting.focus
        self.title = heading("", "text")
        self.words = text(soft=True)
        self.cross = ResultView((), "Clusters by known groups", row=22)
        self.by_count = ResultView(
            ("clusters", "adjusted Rand", "normalised mutual information"),
            "Agreement by number of clusters", (80, 110), 22,
        )  # fmt: skip
        for table in (self.cross, self.by_count):
            table.horizontalHeader().setFixedHeight(24)
        self.by_count.setMouseTracking(True)
        self.by_count.cellEntered.connect(lambda row, _: counting.look_at(self._counts()[row]))
        self.by_count.cellClicked.connect(self._cut_here)
        self.take = TakeAway.of(actions, "known-groups")
        head = in_row((self.title, 1), self.take)
        fill(self, head, self.words, (self.cross, 3), (self.by_count, 3))
        WhenSeen(
            self, self._follow, counting.changed, self.focus.cut_changed,
            self.focus.shelf.plan_changed,
        ).follow()  # fmt: skip

    def _counts(self) -> list[int]:
        board, cut = self.counting.board, self.focus.cut
        counts = set(board.counts if board is not None else ())
        return sorted(counts | ({cut.clusters} if cut is not None else set()))

    def checks(self) -> dict[int, Check]:
        """How each count goes with the groups."""
        groups, grown = self.counting.known_groups, self.focus.grown
        if groups is None or grown is None:
            return {}
        return {k: check_of(groups, cut_at_count(grown.tree, k)) for k in self._counts()}

    def _follow(self) -> None:
        groups, cut = self.counting.known_groups, self.focus.cut
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
        counts = list(checks)
        self.by_count.show_rows(
            [(str(k), fixed(one.rand, 3), fixed(one.information, 3)) for k, one in checks.items()],
            lambda row, _: counts[row] in (best, cut.clusters),
        )

    def _fill_cross(self, groups: KnownGroups, own: Check) -> None:
        table = own.table.tolist()
        self.cross.show_cross(
            [who.name for who in self.focus.identities], list(groups.groups),
            [[f"{cases:,}" if cases else "·" for cases in row] for row in table],
            lambda row, column: 2 * table[row][column] > sum(table[row]),
        )  # fmt: skip

    def leaveEvent(self, event: QEvent) -> None:
        self.counting.look_at(0)

    def _cut_here(self, row: int, column: int) -> None:
        self.focus.set_count(self._counts()[row])
