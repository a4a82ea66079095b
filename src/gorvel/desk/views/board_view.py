"""The board of rules and counts: pointed at, clicked, and walked through with the keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.plan.count_rule import FAMILIES
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.desk.views.count_views import CountView
from gorvel.desk.work.counting import Counting
from gorvel.paint.charts.board import BoardChart, BoardPlace, board_rows
from gorvel.paint.theme import Theme

_Key = Qt.Key


class BoardView(CountView[BoardChart, BoardPlace]):
    """A click on a count cuts there, on a name selects the rule.

    On its box it leaves the rule out of the vote.
    """

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        name = "Values of each rule by number of clusters"
        super().__init__(counting, name, (760, 600), keys=True, grows=True, parent=parent)
        counting.focus.shelf.plan_changed.connect(self._follow)

    def _follow(self) -> None:
        self.keep_size()
        chart = self.chart()
        if chart is not None:
            place = BoardPlace(self.counting.rule, self.count())
            self.setAccessibleDescription(chart.tip(place))
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> BoardChart | None:
        board, grown = self.counting.board, self.counting.focus.grown
        if board is None or grown is None:
            return None
        return BoardChart(
            theme, width, height, board, self.count(), grown.tree.n, self.counting.left_out,
            self.counting.hovered if screen else 0, self.counting.rule if screen else "",
            screen and self.hasFocus(), self.counting.questions.null,
        )  # fmt: skip

    @property
    def framed(self) -> bool:
        """The row is marked instead."""
        return False

    def count_of(self, place: BoardPlace) -> int:
        return place.count

    def can_press(self, place: BoardPlace | None) -> bool:
        return place is not None and bool(place.row or place.count)

    def press(self, place: BoardPlace | None) -> None:
        if place is None:
            return
        if place.row in FAMILIES and not place.count:
            self._toggle_family(place.row)
        elif place.ticks:
            self.counting.let_vote([place.row], place.row in self.counting.left_out)
        elif place.row in COUNT_RULES:
            self.counting.select(place.row)
        if not place.row or place.row in COUNT_RULES:
            super().press(place)

    def _toggle_family(self, family: str) -> None:
        assert self.counting.board is not None
        keys = [key for key in self.counting.board.verdicts if COUNT_RULES[key].family == family]
        self.counting.let_vote(keys, all(key in self.counting.left_out for key in keys))

    def key(self, key: Qt.Key) -> bool:
        board = self.counting.board
        return board is not None and self._moved(board, key)

    def _moved(self, board: IndexTable, key: Qt.Key) -> bool:
        if key in (_Key.Key_Up, _Key.Key_Down):
            rules = [row for row in board_rows(board) if row in COUNT_RULES]
            step = 1 if key == _Key.Key_Down else -1
            here = rules.index(self.counting.rule) + step if self.counting.rule in rules else 0
            self.counting.select(rules[min(max(here, 0), len(rules) - 1)])
        elif key in (_Key.Key_Left, _Key.Key_Right):
            count = self.count() + (1 if key == _Key.Key_Right else -1)
            self.counting.focus.set_count(max(count, 1))
        elif key == _Key.Key_Space and self.counting.rule:
            rule = self.counting.rule
            self.counting.let_vote([rule], rule in self.counting.left_out)
        else:
            return False
        return True
