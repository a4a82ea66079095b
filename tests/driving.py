"""Hands for the tests of the window."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QKeySequence, QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from gorvel.core.base.progress import silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.grow.grown import grow_prepared
from gorvel.core.study.kept import KeptTree
from gorvel.core.study.reading import Opened, read_file, shown_again
from gorvel.desk.controls.file_dialog import FileDialog
from gorvel.desk.editors.option_editor import options_of
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.state.focus import Focus
from gorvel.desk.window.window import Window
from gorvel.paint.charts.board import BoardChart

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


def choose_file(dialog: FileDialog, *files: Path, kind: int = 0) -> bool:
    """What a user does in the dialog: choose a kind and files, or none and cancel."""
    dialog.selectNameFilter(dialog.nameFilters()[kind])
    for file in files:
        dialog.selectFile(str(file))
    return bool(files)


def show_tab(page: ProfilesPage, grown: Window, qtbot: QtBot, tab: str) -> None:
    """Click a tab, and wait until its work is done."""
    qtbot.mouseClick(next(one for one in page.tabs if one.text() == tab), LEFT)
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    QApplication.processEvents()


def settled(window: Window, qtbot: QtBot) -> None:
    """Wait until no job runs and what it found is shown."""
    QApplication.processEvents()
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    QApplication.processEvents()


def grown_once(path: Path) -> Opened:
    """A plan with its tree, as a study's file would hold both, for many windows to begin with."""
    content = read_file(path, None, silent).content
    study, plan = content.study, content.study.plan
    kept = KeptTree.of(plan, grow_prepared(prepare(study.source, plan), plan, {}))
    return Opened(content, None, shown_again(study.read, study.in_hand, kept, silent))


def shown(window: Window, qtbot: QtBot, opened: Opened) -> Window:
    """Wait until a study that was read and grown before is on the screen."""
    window.acts.show(opened)
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    qtbot.waitUntil(lambda: window.tree.dendrogram.isVisible())
    return window


def sides(window: Window) -> tuple[int, int]:
    """The entries of the two trees that are compared."""
    return window.comparing.left[0], window.comparing.right[0]


def painter(window: Window) -> BoardChart:
    """What paints the board of rules."""
    out = window.count.board.chart()
    assert out is not None
    return out


def board(window: Window) -> IndexTable:
    """What the board shows."""
    assert window.counting.board is not None
    return window.counting.board


def cell(window: Window, key: str, count: int) -> tuple[float, float]:
    """The middle of a cell; count 0 for the name of the rule."""
    at = painter(window)
    x = at.left(at.board.counts.index(count)) + at.column / 2 if count else 90.0
    return x, at.top(at.rows.index(key)) + at.row / 2


def draw(window: Window, qtbot: QtBot, resamples: int) -> None:
    """Have so many resamples drawn, and wait for them."""
    window.count.resamples.setValue(resamples)
    qtbot.mouseClick(window.count.draw, LEFT)
    qtbot.waitUntil(lambda: not window.counting.at_work("resamples"))


def taken(focus: Focus, part: str, key: str | None) -> str:
    """Take one of the choices of a part of the plan; why not, or "" where it is in force."""
    return focus.shelf.attempt(lambda plan: options_of(focus, part).change(plan, key))
