"""One or two variables close up, as a widget that draws what it is given."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.close_up import CloseUp
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.close_up import CloseUpChart
from gorvel.paint.theme import Theme


class DetailView(ChartView[CloseUpChart, None]):
    """Draws what it is given; computes nothing."""

    pressable = False

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Distribution of the selected variable", parent=parent)
        self.close_up = CloseUp("")  # nothing yet

    def show_close_up(self, close_up: CloseUp) -> None:
        """Show a chart, or only words where there is none."""
        self.close_up = close_up
        self.setAccessibleDescription(close_up.title)
        self.update()

    def made(self, theme: Theme, width: float, height: float, screen: bool = True) -> CloseUpChart:
        return CloseUpChart(theme, width, height, self.close_up)
