"""Defects of ours: said once, written down, and never the end of the window.

An error in a method that Qt calls would bring the interpreter down when the next one follows it,
and is lost at best. So each such method of our classes is guarded (`guard_widgets`), and what is
raised anywhere else ends in `sys.excepthook`. What is written down has no answers of a survey in
it: the kind of error, and the lines of our code that led to it, but not its words.
"""

from __future__ import annotations

import functools
import importlib.metadata
import logging
import logging.handlers
import platform
import sys
import threading
import traceback
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from types import FunctionType, TracebackType
from typing import Any

import platformdirs
from PySide6.QtCore import QObject, QSize, Qt, Signal

from gorvel import __version__

_MOST_BYTES, _OLD_LOGS = 256 * 1024, 2
_MOST_REMEMBERED = 50
# what Qt calls, and what it is told where the method fails
_CALLED: dict[str, Callable[[], Any]] = dict.fromkeys(
    (
        "paintEvent", "paint", "mousePressEvent", "mouseReleaseEvent", "mouseMoveEvent",
        "mouseDoubleClickEvent", "keyPressEvent", "keyReleaseEvent", "wheelEvent", "enterEvent",
        "leaveEvent", "focusInEvent", "focusOutEvent", "resizeEvent", "moveEvent", "showEvent",
        "hideEvent", "closeEvent", "changeEvent", "contextMenuEvent", "dragEnterEvent",
        "dragMoveEvent", "dragLeaveEvent", "dropEvent", "timerEvent", "data", "headerData",
        "createEditor", "setEditorData", "setModelData", "updateEditorGeometry", "setGeometry",
        "startDrag", "mimeData", "sort", "currentChanged", "selectionChanged",
    ),
    lambda: None,
) | {
    "eventFilter": lambda: False, "event": lambda: False, "setData": lambda: False,
    "helpEvent": lambda: False, "editorEvent": lambda: False, "lessThan": lambda: False,
    "filterAcceptsRow": lambda: True, "dropMimeData": lambda: False, "rowCount": lambda: 0,
    "columnCount": lambda: 0, "hasHeightForWidth": lambda: False, "heightForWidth": lambda: -1,
    "sizeHint": QSize, "minimumSizeHint": QSize, "flags": lambda: Qt.ItemFlag.NoItemFlags,
}  # fmt: skip


def log_file() -> Path:
    """Where defects are written down."""
    return platformdirs.user_log_path("gorvel") / "gorvel.log"


def machine() -> str:
    """The program and what it runs on, in a line."""
    qt = importlib.metadata.version("PySide6-Essentials")
    return (
        f"Gorvel {__version__}, Python {platform.python_version()}, Qt {qt},"
        f" {platform.system()} {platform.release()} ({platform.machine()})"
    )


class Faults(QObject):
    """Those met so far.

    Signals: met(sentence), for a defect that was not met before.
    """

    met = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.last = ""  # the trace of the latest one
        self._seen: set[tuple[str, str]] = set()
        self._log = logging.getLogger("gorvel.faults")
        self._log.propagate = False
        self._log.addHandler(logging.NullHandler())
        self._lock = threading.Lock()

    def watch(self) -> None:
        """From now on whatever is raised and caught by nobody comes here, and into the log."""
        with suppress(OSError):
            log_file().parent.mkdir(parents=True, exist_ok=True)
            self._log.addHandler(
                logging.handlers.RotatingFileHandler(
                    log_file(), maxBytes=_MOST_BYTES, backupCount=_OLD_LOGS, encoding="utf-8",
                    delay=True,
                )
            )  # fmt: skip
            logging.raiseExceptions = False  # a full disk is no reason to say more
        sys.excepthook = self._raised
        threading.excepthook = lambda told: self.note(told.exc_value)

    def _raised(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
        else:
            self.note(error)

    def note(self, error: BaseException | None) -> str:
        """Write a defect down; returns the sentence that says so, which is `met` once."""
        if error is None:
            return ""
        frames = traceback.extract_tb(error.__traceback__)
        lines = [f"  {_short(one.filename)}, line {one.lineno}, {one.name}" for one in frames]
        at = lines[-1].strip() if lines else "nowhere"
        sentence = (
            f"Internal error ({type(error).__name__} in {at}). The display may be "
            "incomplete; saved files are not affected."
        )
        with self._lock:
            key = (type(error).__name__, at)
            new = key not in self._seen and len(self._seen) < _MOST_REMEMBERED
            self._seen.add(key)
            self.last = "\n".join([machine(), *lines, type(error).__name__])
            if new:
                self._log.error("%s", self.last)
        if new:
            self.met.emit(sentence)
        return sentence

    @property
    def report(self) -> str:
        """What whoever mends it wants to know; no answers of a survey are in it."""
        return self.last or machine()


def _short(file: str) -> str:
    """A file of ours or of a library, without the places of this machine."""
    parts = Path(file).parts
    for root in ("gorvel", "site-packages"):
        if root in parts:
            return "/".join(parts[len(parts) - parts[::-1].index(root) - (root == "gorvel") :])
    return parts[-1] if parts else file


FAULTS = Faults()


def guard_widgets() -> int:
    """Guard what Qt calls of all our classes that there are; returns how many methods it guards.

    May be called again, when there are more.
    """
    guarded = 0
    for kind in _ours(QObject):
        for name, method in list(vars(kind).items()):
            if name not in _CALLED or not isinstance(method, FunctionType):
                continue  # none that Qt calls
            if not hasattr(method, "guards"):
                setattr(kind, name, _guarded(method, _CALLED[name]))
            guarded += 1
    return guarded


def _ours(kind: type) -> Iterator[type]:
    below: type
    for below in kind.__subclasses__():
        if below.__module__.split(".")[0] == "gorvel":
            yield below
        yield from _ours(below)


def _guarded(method: Callable[..., Any], otherwise: Callable[[], Any]) -> Callable[..., Any]:
    @functools.wraps(method)
    def called(*arguments: Any, **named: Any) -> Any:
        try:
            return method(*arguments, **named)
        except Exception as error:  # Qt knows nothing of it
            FAULTS.note(error)
            return otherwise()

    called.guards = method  # type: ignore[attr-defined]
    return called
