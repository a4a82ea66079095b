"""Several widgets of which one is seen, which take no more room than that one needs."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QLayoutItem, QStackedLayout


class CurrentPageStack(QStackedLayout):
    """A wide page does not hold the window open while another is looked at.

    Nor are hidden pages asked for their sizes, which takes long where words are broken into lines.
    """

    def _seen(self) -> QLayoutItem | None:
        return self.itemAt(self.currentIndex()) if self.count() else None

    def sizeHint(self) -> QSize:
        seen = self._seen()
        return QSize() if seen is None else seen.sizeHint()

    def minimumSize(self) -> QSize:
        seen = self._seen()
        return QSize() if seen is None else seen.minimumSize()

    def hasHeightForWidth(self) -> bool:
        seen = self._seen()
        return seen is not None and seen.hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        seen = self._seen()
        return -1 if seen is None else seen.heightForWidth(width)


class Room(CurrentPageStack):
    """The same within something that scrolls, which is for what finds no room at all.

    How high words like to be at a width is no reason to scroll.
    """

    def hasHeightForWidth(self) -> bool:
        return False
