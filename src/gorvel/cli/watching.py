"""Progress on one line of a terminal."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TextIO

from gorvel.core.base.progress import Phase, Progress, progress_words, seconds_left

STOP = threading.Event()  # somebody asked to stop, even if whoever was at work swallowed that

_PATIENCE = 0.5  # seconds before anything is said
_BETWEEN = 0.1  # seconds between two changes
_CLEAR = "\r\x1b[K"


class _Line:
    """The line, written over again and again."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream
        self._phase: Phase | None = None
        self._phase_began = 0.0
        self._told = time.monotonic() + _PATIENCE
        self.shown = False

    def __call__(self, phase: Phase, share: float) -> None:
        now = time.monotonic()
        if phase != self._phase:
            self._phase, self._phase_began = phase, now
        if now - self._told < _BETWEEN:
            return
        self._told, self.shown = now, True
        words = progress_words(phase, share, seconds_left(now - self._phase_began, share))
        self._stream.write(_CLEAR + words)
        self._stream.flush()

    def clear(self) -> None:
        """Leave nothing behind."""
        if self.shown:
            self._stream.write(_CLEAR)
            self._stream.flush()


@contextmanager
def watched(stream: TextIO | None = None) -> Iterator[Progress]:
    """Progress of the work inside, for who sits at a terminal; silent elsewhere.

    stream : None for the errors' one.
    """
    stream = sys.stderr if stream is None else stream
    line = _Line(stream) if stream.isatty() else None

    def told(phase: Phase, share: float) -> None:
        if STOP.is_set():
            raise KeyboardInterrupt
        if line is not None:
            line(phase, share)

    try:
        yield told
    finally:
        if line is not None:
            line.clear()
