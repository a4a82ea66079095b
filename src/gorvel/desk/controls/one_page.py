"""Pages of which one is seen, which take no more room than that one needs."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QStackedWidget, QWidget

__all__ = ["OnePage"]


class OnePage(QStackedWidget):
    """A wide page does not hold the window open while another is looked at."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.currentChanged.connect(self._turned)

    def _turned(self, page: int) -> None:
        self.updateGeometry()

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return QSize() if page is None else page.minimumSizeHint()
