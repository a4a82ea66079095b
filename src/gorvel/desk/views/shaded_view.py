"""A grid of shaded numbers: pointed at, walked through with the keys, clicked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from types import MappingProxyType

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QWidget

from gorvel.desk.views.chart_view import ARROWS, ChartView
from gorvel.paint.charts.shaded import Cells, ShadedChart
from gorvel.paint.theme import Theme

_Cell = tuple[int, int]
_Grid = tuple[Sequence[str], Sequence[str], Cells, _Cell | None]  # as `show_grid`
_NO_CELLS: Cells = MappingProxyType({})


class ShadedView(ChartView[ShadedChart, _Cell]):
    """told : says what a cell is.

    Signals: taken(row, column), by a click or Return; pointed(), at another cell.
    """

    taken = Signal(int, int)
    pointed = Signal()

    def __init__(
        self, name: str, told: Callable[[_Cell], str], parent: QWidget | None = None
    ) -> None:
        super().__init__(name, keys=True, parent=parent)
        self._told = told
        self._grid: _Grid = (), (), _NO_CELLS, None
        self.cell: _Cell | None = None  # walked to, or clicked

    def show_grid(
        self, rows: Sequence[str] = (), columns: Sequence[str] = (), cells: Cells = _NO_CELLS,
        own: _Cell | None = None,
    ) -> None:  # fmt: skip
        """Show this, as the chart says; without rows nothing."""
        self._grid = rows, columns, cells, own
        self.keep_size()
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> ShadedChart | None:
        if not self._grid[0]:
            return None
        marks = (self.cell, self.place) if screen else (None, None)
        return ShadedChart(theme, width, height, *self._grid, *marks)

    @property
    def shown(self) -> _Cell | None:
        """What is pointed at, or else walked to."""
        return self.place or self.cell

    @property
    def framed(self) -> bool:
        """The cell is marked instead."""
        return False

    def words(self, place: _Cell) -> str:
        return self._told(place)

    def point(self, place: _Cell | None) -> None:
        if place != self.place:
            super().point(place)
            self.pointed.emit()

    def press(self, place: _Cell | None) -> None:
        if place is not None:
            self.cell = place
            self.update()
            self.taken.emit(*place)

    def key(self, key: Qt.Key) -> bool:
        chart, step = self.chart(), ARROWS.get(key)
        if chart is not None and step is not None:
            row, column = self.cell or (0, 0)
            if self.cell is not None:
                row, column = row + step[1], column + step[0]
            self.cell = (min(max(row, 0), len(chart.rows) - 1),
                         min(max(column, 0), len(chart.columns) - 1))  # fmt: skip
            self.place = None
            self.pointed.emit()
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.cell is not None:
            self.taken.emit(*self.cell)
        else:
            return False
        return True
