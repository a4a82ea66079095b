"""How two trees agree: a curve over the counts, and a table of who is where."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.compare.partitions import Agreement
from gorvel.core.results.comparison import as_drawn
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.desk.views.chart_view import ARROWS, ChartView
from gorvel.paint.charts.alike import AgreementChart, CrossTableChart
from gorvel.paint.theme import Theme

_Cell = tuple[int, int]


class AlikeView(ChartView[AgreementChart, int]):
    """Signals: chosen(count), by a click or the arrow keys."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        name = "Agreement by number of clusters"
        super().__init__(name, (320, 180), (0, 120), keys=True, grows=True, parent=parent)
        self.found: Mapping[int, Agreement] = {}
        self.count = 0

    def show_found(self, found: Mapping[int, Agreement], count: int) -> None:
        """count : in hand."""
        self.found, self.count = found, count
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> AgreementChart:
        hovered = self.place or 0 if screen else 0
        return AgreementChart(theme, width, height, self.count, self.found, hovered=hovered)

    def press(self, place: int | None) -> None:
        if place:
            self.chosen.emit(place)

    def key(self, key: Qt.Key) -> bool:
        by = ARROWS.get(key, (0, 0))[0]
        if by and self.count + by in self.found:
            self.chosen.emit(self.count + by)
        return bool(by)


class CrossView(ChartView[CrossTableChart, _Cell]):
    """Signals: chosen(), the cell whose cases are listed, or none any more."""

    chosen = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        name = "Cross-tabulation of the clusters of both trees"
        super().__init__(name, keys=True, parent=parent)
        self.met: PairAtCut | None = None
        self.cell: _Cell | None = None  # clusters of the left and the right tree

    def show_met(self, met: PairAtCut | None) -> None:
        """Show these two cuts."""
        same = met is not None and self.met is not None and met.crossed is self.met.crossed
        self.met, self.place = met, None
        self.keep_size()
        self.update()
        if not same and self.cell is not None:
            self.take(None)

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> CrossTableChart | None:
        met = self.met
        if met is None:
            return None
        found, (rows, columns) = met.crossed, as_drawn(met)
        return CrossTableChart(
            theme, width, height, found.table, rows, columns, met.names, met.others,
            found.partner, self.cell if screen else None, self.place if screen else None,
        )  # fmt: skip

    def words(self, place: _Cell) -> str:
        met = self.met
        assert met is not None
        cases, own = int(met.crossed.table[place]), int(met.crossed.table[place[0]].sum())
        here, there = met.names[place[0]].told, met.others[place[1]].told
        of = met.faced.pair.one.of
        return f"{cases:,} of the {own:,} {of} of {here} are in {there} of the right tree"

    def take(self, cell: _Cell | None) -> None:
        """Have the cases of a cell listed."""
        self.cell = cell
        self.update()
        self.chosen.emit()

    def press(self, place: _Cell | None) -> None:
        self.take(None if place == self.cell else place)

    def key(self, key: Qt.Key) -> bool:
        chart, step = self.chart(), ARROWS.get(key)
        if chart is not None and step is not None:
            row, column = 0, 0
            if self.cell is not None:
                row = chart.rows.index(self.cell[0]) + step[1]
                column = chart.columns.index(self.cell[1]) + step[0]
            row = min(max(row, 0), len(chart.rows) - 1)
            column = min(max(column, 0), len(chart.columns) - 1)
            self.take((chart.rows[row], chart.columns[column]))
        elif key == Qt.Key.Key_Escape and self.cell is not None:
            self.take(None)
        else:
            return False
        return True
