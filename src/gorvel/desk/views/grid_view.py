"""A matrix of small scatters: a few questions, each against each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor, QPen
from PySide6.QtWidgets import QWidget

from gorvel.core.scene.points import Points
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import PointsGridChart
from gorvel.paint.theme import Theme


class GridView(ChartView[PointsGridChart, tuple[int, int]]):
    """Names stand on the diagonal. Signals: chosen(across, along), a picture was clicked."""

    chosen = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Questions all against all", (640, 480), grows=True, parent=parent)
        self.names: Sequence[str] = []
        self._points: Mapping[tuple[str, str], Points] = {}

    def show_grid(self, names: Sequence[str], points: Mapping[tuple[str, str], Points]) -> None:
        """Show these questions. points : of each pair, across and along."""
        self.names, self._points = names, points
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> PointsGridChart | None:
        if not self.names:
            return None
        return PointsGridChart(theme, width, height, self.names, self._points)

    def ground_key(self, chart: PointsGridChart) -> object:
        return chart.theme, tuple(chart.names), tuple(chart.points.values())

    def paint_marks(self, chart: PointsGridChart, canvas: Canvas) -> None:
        if self.place is not None:
            canvas.painter.setPen(QPen(QColor(chart.theme.focus), 1.6))
            canvas.painter.drawRect(chart.cell(*self.place))

    def press(self, place: tuple[int, int] | None) -> None:
        if place is not None:
            self.chosen.emit(self.names[place[1]], self.names[place[0]])
