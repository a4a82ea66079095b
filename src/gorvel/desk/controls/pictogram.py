"""The small picture of one choice."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.paint.pictograms import PICTURES, Sketch
from gorvel.paint.theme import current


class Pictogram(QWidget):
    """Shows the picture of one choice; says nothing that the words beside it do not."""

    def __init__(self, scale: float = 1.0, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._key = ("", "")
        self._scale = scale
        self.setFixedSize(round(244 * scale), round(96 * scale))

    def show_choice(self, part: str, key: str) -> None:
        """Show the picture of a choice, if there is one; that of any order is one picture."""
        self._key = (part, "order" if part == "neighbours" and key else key)
        self.update()

    @property
    def known(self) -> bool:
        return self._key in PICTURES

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.known:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(self._scale, self._scale)
            PICTURES[self._key](Sketch(painter, current()))
            painter.end()
