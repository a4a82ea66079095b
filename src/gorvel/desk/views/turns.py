"""Painting that takes long, spread over several turns of the event loop."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget

_MOST = 0.02  # seconds of painting after which the others wait
_PAUSE = 10  # milliseconds between turns, for clicks and keys to come through


class Turns(QObject):
    """Widgets that paint the same large thing: those that would hold the hand up paint later."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._spent = 0.0  # seconds in this turn
        self._waiting: set[QWidget] = set()

    def must_wait(self, widget: QWidget) -> bool:
        """Is this turn used up? The widget is then asked to paint in the next."""
        if self._spent <= _MOST:
            return False
        self._waiting.add(widget)
        return True

    @contextmanager
    def painting(self) -> Iterator[None]:
        """Counts what is painted inside to this turn."""
        began = time.perf_counter()
        yield
        self._spend(time.perf_counter() - began)

    def use_up(self) -> None:
        """Much else is done in this turn: all painting waits for the next."""
        self._spend(2 * _MOST)

    def _spend(self, seconds: float) -> None:
        if self._spent == 0.0:
            QTimer.singleShot(_PAUSE, self, self._next)
        self._spent += seconds

    def _next(self) -> None:
        waiting, self._waiting, self._spent = self._waiting, set(), 0.0
        for widget in waiting:
            widget.update()
