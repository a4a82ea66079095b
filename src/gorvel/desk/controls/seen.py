"""What nobody sees follows when it is seen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget


class WhenSeen(QObject):
    """Has a widget follow something: at once, or as soon as the widget is shown."""

    def __init__(self, widget: QWidget, act: Callable[[], None]) -> None:
        super().__init__(widget)
        self._widget, self._act = widget, act
        self._due = False
        widget.installEventFilter(self)

    def follow(self) -> None:
        """Something has changed; a slot, which goes with the widget."""
        self._due = not self._widget.isVisible()
        if not self._due:
            self._act()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and self._due:
            self._due = False
            self._act()
        return False
