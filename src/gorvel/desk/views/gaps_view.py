"""The map of gaps as a widget that follows its width."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.missing_patterns import Gaps
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.gaps import GapsChart
from gorvel.paint.theme import Theme


class GapsView(ChartView[GapsChart, str]):
    """Draws what it is given; the pointer tells which variable it is over."""

    pressable = False

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Patterns of missing answers", parent=parent)
        self.gaps: Gaps | None = None

    def made(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> GapsChart | None:
        return None if self.gaps is None else GapsChart(theme, width, height, self.gaps)

    def show_gaps(self, gaps: Gaps | None) -> None:
        """Show the patterns of a study."""
        self.gaps = gaps
        self.keep_size()
        self.update()
