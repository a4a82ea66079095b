"""The map of gaps as a widget that follows its width."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.missing_patterns import Gaps
from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.charts.gaps import GapsChart
from gorvel.paint.theme import current


class GapsView(QWidget):
    """Draws what it is given; the pointer tells which variable it is over."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.gaps: Gaps | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Patterns of missing answers")

    def chart(self) -> GapsChart | None:
        """What is painted."""
        return None if self.gaps is None else GapsChart(self.gaps, current(), self.width())

    def show_gaps(self, gaps: Gaps | None) -> None:
        """Show the patterns of a study."""
        self.gaps = gaps
        chart = self.chart()
        self.setMinimumSize(QSize(0, 0 if chart is None else round(chart.height)))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        chart = self.chart()
        if chart is not None:
            self.setToolTip(as_tip(chart.variable_at(event.position().x())))

    def paintEvent(self, event: QPaintEvent) -> None:
        chart = self.chart()
        if chart is not None:
            with QPainter(self) as painter:
                chart.paint(painter)
