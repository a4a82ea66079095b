"""A window with fresh settings for each test; nothing may be left running after it."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from functools import partialmethod
from pathlib import Path

import pytest
import shiboken6
from PySide6.QtCore import QThread
from PySide6.QtWidgets import QApplication, QDialog, QMainWindow, QWidget
from pytestqt.qtbot import QtBot

from driving import choose_file, grown_once, shown
from gorvel.core.study.reading import Opened
from gorvel.desk.controls.file_dialog import FileDialog
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.state.settings import load_settings
from gorvel.desk.window.application import make_application
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO
from plans import quick_demo

Opener = Callable[[Path], Window]
_PATIENCE = 60_000  # milliseconds: shared machines stand still for seconds
_DRAWS = 19  # of data without groups, below which no verdict is given


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch, qapp: QApplication) -> None:
    """Waiting is for something to be so; how soon is the benchmark's business.

    qapp : nothing can be painted before there is an application.
    """
    for name in ("waitUntil", "waitSignal", "waitActive"):
        wait = partialmethod(getattr(QtBot, name), timeout=_PATIENCE)
        monkeypatch.setattr(QtBot, name, wait)


@pytest.fixture(autouse=True)
def only_windows_are_windows(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """What is shown before it is put somewhere flashes up by itself and takes the focus away."""
    astray: list[str] = []
    set_visible = QWidget.setVisible

    def watched(widget: QWidget, visible: bool) -> None:
        alone = widget.parent() is None and type(widget) is not QWidget  # a ground of a test
        if visible and alone and not isinstance(widget, (QMainWindow, QDialog)):
            astray.append(f"{type(widget).__name__} {widget.accessibleName()}")
        set_visible(widget, visible)

    monkeypatch.setattr(QWidget, "setVisible", watched)
    yield
    assert astray == []


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    monkeypatch.setenv("GORVEL_SETTINGS", str(tmp_path / "settings.json"))
    make_application()
    before = set(threading.enumerate())
    window = Window(load_settings(), DEMO / "readers.toml")
    qtbot.addWidget(window, before_close_func=lambda w: w.hide())
    with qtbot.waitActive(window):
        window.show()
        window.activateWindow()
    yield window
    window.acts.finish()
    # a worker's thread shows up as a dummy while the pool keeps it; none may still be at work
    assert window.acts.jobs.threads == 0
    alive = {t for t in set(threading.enumerate()) - before if not t.name.startswith("Dummy")}
    assert not alive
    assert QThread.currentThread() is QApplication.instance().thread()
    window.hide()
    shiboken6.delete(window.centralWidget())  # else the next test's looks are put on all of it


@pytest.fixture
def opened(window: Window, qtbot: QtBot) -> Opener:
    """Opens a file and waits until its plan has been looked at and its columns described."""

    def open_file(path: Path) -> Window:
        with qtbot.waitSignal(window.acts.opened):
            window.acts.open(path)
        qtbot.waitUntil(lambda: bool(window.focus.prepared or window.focus.problem))
        qtbot.waitUntil(lambda: not window.acts.jobs.busy(JobKind.DESCRIBE))
        return window

    return open_file


@pytest.fixture(scope="session")
def readers(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The plan of the demo with as few draws as a verdict needs, since each window makes them."""
    return quick_demo(tmp_path_factory.mktemp("demo"), _DRAWS)


@pytest.fixture(scope="session")
def readers_grown(readers: Path) -> Opened:
    """The demo study with its tree."""
    return grown_once(readers)


@pytest.fixture
def grown(window: Window, qtbot: QtBot, readers_grown: Opened) -> Window:
    """The demo study with its tree on the screen."""
    return shown(window, qtbot, readers_grown)


@pytest.fixture
def file_asked(monkeypatch: pytest.MonkeyPatch) -> Callable[[Path], None]:
    """Answers the next question for a file name."""

    def answer(path: Path) -> None:
        monkeypatch.setattr(FileDialog, "exec", lambda dialog: choose_file(dialog, path))

    return answer


@pytest.fixture
def page(grown: Window, qtbot: QtBot) -> ProfilesPage:
    """The demo study, cut into five."""
    grown.focus.set_count(5)
    grown.go_to(4)
    qtbot.waitUntil(lambda: grown.profiles.view.isVisible() and bool(grown.profiles.view.lanes))
    QApplication.processEvents()
    return grown.profiles


@pytest.fixture
def counted(grown: Window, qtbot: QtBot) -> Window:
    """The demo study on the Count page, with its board."""
    grown.go_to(3)
    qtbot.waitUntil(lambda: grown.counting.board is not None and grown.count.board.isVisible())
    QApplication.processEvents()
    return grown
