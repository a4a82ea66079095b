"""Starting the window."""

from __future__ import annotations

import gc
import os
import signal
import socket
import sys
from pathlib import Path

from PySide6.QtCore import QSocketNotifier, QTimer
from PySide6.QtWidgets import QApplication

from gorvel.core.base.heap import few_heaps
from gorvel.desk.controls.looks import apply_theme
from gorvel.desk.state.settings import load_settings, settings_file
from gorvel.desk.window.window import Window
from gorvel.desk.work.autosave import left_behind
from gorvel.desk.work.faults import FAULTS, guard_widgets
from gorvel.paint.theme import DARK, LIGHT

# Seconds that a job at work keeps the interpreter when the window asks for it. Every call from Qt
# into Python asks anew, dozens of times in one repaint: with the usual 0.005 the window stands.
_SWITCH = 0.0005
# objects made until those that hold each other are looked for, and how often for older ones. A page
# has some ten thousand; trees and tables are let go without.
_COLLECT = (20_000, 20, 20)
_SIGNALS = 64  # that may come before the first is heard
_VERY_WIDE, _LARGER = 2_600, 1.25  # pixels of a screen, and the text scale there
_PATIENCE = 0.3  # seconds that the program waits for work that nobody will see, when it ends


def make_application(theme: str = "light", text_scale: float = 1.0) -> QApplication:
    """The one application object, in a theme."""
    sys.setswitchinterval(_SWITCH)
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        few_heaps()
        gc.freeze()  # modules stay; to look through them again and again takes a tenth of all time
        gc.set_threshold(*_COLLECT)
        app = QApplication(sys.argv[:1])
        app.setApplicationName("gorvel")
        app.setDesktopFileName("gorvel")
    apply_theme(app, DARK if theme == "dark" else LIGHT, text_scale)
    return app


def first_scale(screen: int) -> float:
    """Of text, where nobody has chosen one yet. screen : its pixels across, as it is scaled."""
    return _LARGER if screen >= _VERY_WIDE else 1.0


class _Signals:
    """Wakes the event loop when a signal comes: Python hears of it in the middle of Python only."""

    def __init__(self) -> None:
        self._here, self._there = socket.socketpair()
        for end in (self._here, self._there):
            end.setblocking(False)
        signal.set_wakeup_fd(self._there.fileno(), warn_on_full_buffer=False)
        self._woken = QSocketNotifier(self._here.fileno(), QSocketNotifier.Type.Read)
        self._woken.activated.connect(lambda: self._here.recv(_SIGNALS))

    def no_more(self) -> None:
        """Signals find nobody any more."""
        self._woken.setEnabled(False)
        signal.set_wakeup_fd(-1)


def start(path: Path | None, demo: Path) -> int:
    """Open the window, on a file if there is one, and stay until it is closed.

    Without a file the study last used is opened, or the welcome page. The process may end here.
    """
    settings = load_settings()
    app = make_application(settings.theme, settings.text_scale)
    if not settings_file().exists():
        settings.text_scale = first_scale(app.primaryScreen().size().width())
        make_application(settings.theme, settings.text_scale)
    FAULTS.watch()
    window = Window(settings, demo)
    guard_widgets()
    recent = Path(settings.recent[0]) if settings.recent else None
    left = left_behind(settings.recent) if path is None else None
    if left is not None:
        window.acts.take_up(left)
    elif path is None and recent is not None and recent.exists():
        path = recent
    if path is not None:
        window.acts.open(path)
    window.keeper.watch()
    window.show()
    window.raise_()
    window.activateWindow()  # its keys work from now on, without a click
    QTimer.singleShot(0, window.acts.load_kernels)  # after the first paint
    # logging out, shutting down, a terminal that closes: nobody is there to answer; what is unsaved
    # is kept for the next start. The event loop does it, not the middle of whatever is going on.
    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(number, lambda *_: QTimer.singleShot(0, window.leave))
    heard = _Signals()
    status = app.exec()
    ended = window.acts.finish(_PATIENCE)
    heard.no_more()
    if ended and app.clipboard().ownsClipboard():
        return status  # what was copied is handed over as the application is taken to pieces
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)  # all that is to be kept is written; to take it to pieces would take longer
