"""Following what changes: once where several things change together, and only while it is seen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, SignalInstance
from PySide6.QtWidgets import QWidget

from gorvel.desk.state.turn import TURN


class OnceATurn(QObject):
    """Has a widget follow signals, once where several come together."""

    def __init__(self, widget: QWidget, act: Callable[[], None], *signals: SignalInstance) -> None:
        super().__init__(widget)
        self._widget, self._act = widget, act
        for signal in signals:
            signal.connect(self.follow)

    def follow(self, *_: object) -> None:
        """Something has changed; a slot, which goes with the widget."""
        TURN.at_end(self, self._now)

    def _now(self) -> None:
        self._act()


class WhenSeen(OnceATurn):
    """The same, but only while the widget is seen: else as soon as it is shown."""

    def __init__(self, widget: QWidget, act: Callable[[], None], *signals: SignalInstance) -> None:
        super().__init__(widget, act, *signals)
        self._due = False
        widget.installEventFilter(self)

    def _now(self) -> None:
        self._due = not self._widget.isVisible()
        if not self._due:
            self._act()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and self._due:
            self._due = False
            self._act()
        return False
