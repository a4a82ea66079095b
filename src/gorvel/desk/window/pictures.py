"""Pictures of every page, made from a plan without anybody at the screen."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMessageLogContext, QSize, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from gorvel.core.base.errors import InputError
from gorvel.desk.state.settings import Settings
from gorvel.desk.window.application import make_application
from gorvel.desk.window.pages import COMPARE, NAMES
from gorvel.desk.window.window import Window

_BESIDE = "average"  # linkage of a second tree, so that there is something to compare
_PATIENCE = 60.0  # seconds for one step


def wait_for(ready: Callable[[], bool], what: str) -> None:
    """Let the window live until something is so.

    Raises
    ------
    InputError : it did not come about in time.
    """
    end = time.monotonic() + _PATIENCE
    while not ready():
        if time.monotonic() > end:
            raise InputError(f"waited in vain for {what}", "a study that can be grown")
        QApplication.processEvents()
        time.sleep(0.005)
    for _ in range(20):
        QApplication.processEvents()


def _quiet(kind: QtMsgType, context: QMessageLogContext, words: str) -> None:
    """The offscreen platform has no size hints to pass on, and says so for each window."""
    if "propagateSizeHints" not in words:
        print(words, file=sys.stderr)


def grown_window(plan: Path, size: QSize, theme: str = "light") -> Window:
    """A window on a plan, its tree grown, its tables filled."""
    qInstallMessageHandler(_quiet)
    make_application(theme)
    window = Window(Settings(theme=theme), plan)
    window.resize(size)
    window.show()
    window.acts.open(plan)
    wait_for(lambda: window.focus.prepared is not None, "the cases")
    window.acts.grow()
    wait_for(lambda: window.focus.grown is not None, "the tree")
    wait_for(lambda: window.acts.jobs.idle, "the work behind the pages")
    return window


def picture(window: Window, path: Path) -> None:
    """Write what a window shows as a PNG.

    Raises
    ------
    RuntimeError : it shows an error.
    """
    told, _ = window.alarm.told
    if told:
        raise RuntimeError(f"{path.name} would show: {told}")
    window.grab().save(str(path))


def picture_pages(
    plan: Path, directory: Path, theme: str = "light", size: QSize | None = None, suffix: str = ""
) -> list[Path]:
    """Write one PNG of every page to a directory; returns the files."""
    window = grown_window(plan, size or QSize(1280, 800), theme)
    written = []
    for number, name in enumerate(NAMES):
        window.go_to(number)
        if number == COMPARE:
            window.compare.put_beside(_BESIDE)
        wait_for(lambda: window.acts.jobs.idle, "the page")
        path = directory / f"{name.lower()}{suffix}.png"
        picture(window, path)
        written.append(path)
    window.acts.finish()
    window.hide()
    window.deleteLater()
    QApplication.processEvents()
    return written
