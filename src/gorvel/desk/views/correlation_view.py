"""The correlation map: the stronger, the darker; groups that say the same are framed."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.associations import CorrelationMap
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.associations import AssociationsChart
from gorvel.paint.theme import Theme


class CorrelationView(ChartView[AssociationsChart, tuple[int, int]]):
    """Signals: pair_chosen(first, second), when a cell is clicked."""

    pair_chosen = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Correlations of the active variables", parent=parent)
        self.map: CorrelationMap | None = None

    def show_map(self, found: CorrelationMap | None) -> None:
        """Show the correlations of a study."""
        self.map = found
        self.update()

    def made(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> AssociationsChart:
        return AssociationsChart(theme, width, height, self.map)

    def press(self, place: tuple[int, int] | None) -> None:
        if place is not None and self.map is not None and place[0] != place[1]:
            self.pair_chosen.emit(self.map.names[place[0]], self.map.names[place[1]])
