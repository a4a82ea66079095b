"""One or two variables close up, as a widget that draws what it is given."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.close_up import CloseUp
from gorvel.paint.charts.close_up import CloseUpChart
from gorvel.paint.theme import current


class DetailView(QWidget):
    """Draws what it is given; computes nothing."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.close_up = CloseUp("")  # nothing yet
        self.setAccessibleName("Distribution of the selected variable")

    def show_close_up(self, close_up: CloseUp) -> None:
        """Show a chart, or only words where there is none."""
        self.close_up = close_up
        self.setAccessibleDescription(close_up.title)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            CloseUpChart(self.close_up, current(), self.width(), self.height()).paint(painter)
