"""Pages are made when they are first needed: whenever that is, they are the same."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.pictures import wait_for
from gorvel.desk.window.window import Window
from gorvel.main import DEMO


class _Shown(QObject):
    """Widgets that were seen as a window of their own."""

    def __init__(self) -> None:
        super().__init__()
        self.seen: list[str] = []

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
            self.seen.append(type(watched).__name__)
        return False


@contextmanager
def windows_shown() -> Iterator[list[str]]:
    shown, app = _Shown(), QApplication.instance()
    app.installEventFilter(shown)
    yield shown.seen
    app.removeEventFilter(shown)


def pictures(window: Window) -> list[QImage]:
    """Of all pages, in the order of the path, with nothing at work."""
    out = []
    for page in range(len(NAMES)):
        window.go_to(page)
        wait_for(lambda: window.acts.jobs.idle, "the page")  # and that all is where it belongs
        out.append(window.grab().toImage())
    return out


def in_new_looks(window: Window) -> None:
    """The same looks, with no page made yet."""
    window.other_theme()
    window.other_theme()


def made(window: Window) -> set[str]:
    return {name for name in NAMES if name.lower() in vars(window.pages)}


@pytest.mark.slow
def test_only_pages_that_are_looked_at_are_made(
    opened: Callable[[Path], Window], qtbot: QtBot, readers: Path
) -> None:
    with windows_shown() as shown:
        window = opened(readers)
        assert made(window) == {"Cases"}
        with qtbot.waitSignal(window.focus.tree_changed):
            window.acts.grow()
        window.go_to(2)
        assert made(window) == {"Cases", "Tree"}
        window.go_to(0)
        in_new_looks(window)
        assert made(window) == {"Cases"}
    assert shown == []


@pytest.mark.slow
def test_a_page_that_is_made_late_keeps_nothing_of_another_study(grown: Window) -> None:
    grown.go_to(0)
    grown.cases.answers.show_tab(4)
    grown.go_to(3)
    grown.count.choice.reasons.setPlainText("it suits us")
    grown.go_to(2)
    in_new_looks(grown)
    assert made(grown) == {"Tree"}
    grown.acts.open(DEMO / "online.toml")  # which is of answers too
    wait_for(lambda: "Cases" in made(grown) and grown.acts.jobs.idle, "the other study")
    assert grown.cases.answers.stack.currentIndex() == 0
    assert grown.count.choice.reasons.toPlainText() == ""


@pytest.mark.slow
def test_a_page_is_the_same_whenever_it_is_made(window: Window, qtbot: QtBot) -> None:
    in_new_looks(window)
    pages = [getattr(window, name.lower()) for name in NAMES]  # before there is a study
    window.acts.open(DEMO / "readers.toml")
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.focus.set_count(5)
    pictures(window)  # what is worked out on one page may be seen on another
    early = pictures(window)
    assert [getattr(window, name.lower()) for name in NAMES] == pages
    window.go_to(0)
    with windows_shown() as shown:
        in_new_looks(window)
        late = pictures(window)
    assert shown == []
    assert [name for name, one, other in zip(NAMES, early, late, strict=True) if one != other] == []
