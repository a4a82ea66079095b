"""A matrix of small scatters: a few questions, each against each."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor, QPen
from PySide6.QtWidgets import QWidget

from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import Points, PointsGridChart
from gorvel.paint.theme import Theme


class GridView(ChartView[PointsGridChart, tuple[int, int]]):
    """Names stand on the diagonal. Signals: chosen(across, along), a picture was clicked."""

    chosen = Signal(str, str)
    paper = (170.0, 150.0)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Questions all against all", (640, 480), grows=True, parent=parent)
        self.names: Sequence[str] = []
        self._points: dict[tuple[str, str], Points] = {}

    def show_grid(
        self, names: Sequence[str], made: Callable[[str, str], Points | None] | None
    ) -> None:
        """Show these questions. made : the points of a pair, across and along."""
        self.names, self._points = names, {}
        for row, along in enumerate(names):
            for across in names[:row]:
                points = made(across, along) if made is not None else None
                if points is not None:
                    self._points[across, along] = points
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
