"""Hands for the tests of the window."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QKeySequence, QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.window.window import Window

LEFT = Qt.MouseButton.LeftButton


def click(qtbot: QtBot, widget: QWidget, x: float, y: float) -> None:
    """Click at a pixel of a widget."""
    qtbot.mouseClick(widget, LEFT, pos=QPoint(round(x), round(y)))


def states(window: Window) -> dict[str, str]:
    """What the path strip says of each page."""
    return {stop.name: stop.state for stop in window.strip.stops}


def moved(widget: QWidget, x: float, y: float, buttons: Qt.MouseButton = LEFT) -> QMouseEvent:
    """A move of the pointer, which the offscreen platform does not make by itself."""
    point = QPointF(x, y)
    return QMouseEvent(
        QEvent.Type.MouseMove, point, widget.mapToGlobal(point), Qt.MouseButton.NoButton, buttons,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip


def press(widget: QWidget, qtbot: QtBot, keys: str) -> None:
    """Press keys, such as Ctrl+S."""
    qtbot.keySequence(widget, QKeySequence(keys))


def show_tab(page: ProfilesPage, grown: Window, qtbot: QtBot, tab: str) -> None:
    """Click a tab, and wait until its work is done."""
    qtbot.mouseClick(next(one for one in page.tabs if one.text() == tab), LEFT)
    qtbot.waitUntil(lambda: grown.acts.jobs.idle, timeout=20_000)
    QApplication.processEvents()


def settled(window: Window, qtbot: QtBot) -> None:
    """Wait until no job runs and what it found is shown."""
    QApplication.processEvents()
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    QApplication.processEvents()


def sides(window: Window) -> tuple[int, int]:
    """The entries of the two trees that are compared."""
    return window.comparing.left[0], window.comparing.right[0]
