"""What is no longer shown is let go: trees, boards, studies, dialogs."""

from __future__ import annotations

import gc
import weakref
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QDialog, QWidget
from pytestqt.qtbot import QtBot

from gorvel.desk.window.window import Window
from gorvel.main import DEMO

Opener = Callable[[Path], Window]


@pytest.fixture
def uncollected() -> Iterator[None]:
    """What is large does not wait for the collector, which looks seldom."""
    gc.collect()
    gc.disable()
    yield
    gc.enable()


@pytest.fixture
def grown(opened: Opener, qtbot: QtBot, readers: Path) -> Window:
    """The demo study with a tree that nobody else holds."""
    window = opened(readers)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    return window


def settle(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    QApplication.sendPostedEvents(None, 52)  # what was to be deleted later
    qtbot.wait(1)


def gone(window: Window, qtbot: QtBot, held: list[weakref.ref[object]]) -> None:
    """Wait until all is let go; work that was stopped holds it until it hears of that."""

    def none() -> bool:
        settle(window, qtbot)
        if gc.isenabled():  # widgets may hold each other
            gc.collect()
        return not any(ref() is not None for ref in held)

    qtbot.waitUntil(none)


def all_pages(window: Window, qtbot: QtBot) -> None:
    for page in range(6):
        window.go_to(page)
        settle(window, qtbot)


@pytest.mark.slow
@pytest.mark.usefixtures("uncollected")
def test_trees_grown_before_are_let_go(grown: Window, qtbot: QtBot) -> None:
    held: list[weakref.ref[object]] = []
    for linkage in ("single", "ward"):
        all_pages(grown, qtbot)
        now, board = grown.focus.grown, grown.counting.board
        assert now is not None
        assert board is not None
        held += [weakref.ref(now), weakref.ref(now.pairs), weakref.ref(board)]
        del now, board
        grown.focus.shelf.change("tree", linkage=linkage)
        grown.acts.grow()
        qtbot.waitUntil(lambda: grown.focus.grown.method.linkage == linkage)  # type: ignore[union-attr] # noqa: B023
    all_pages(grown, qtbot)
    grown.focus.shelf.undo()  # a tree that is taken up again is made anew
    settle(grown, qtbot)
    gone(grown, qtbot, held)


@pytest.mark.slow
@pytest.mark.usefixtures("uncollected")
def test_a_study_that_was_closed_is_let_go(grown: Window, qtbot: QtBot, opened: Opener) -> None:
    all_pages(grown, qtbot)
    focus = grown.focus
    held: list[weakref.ref[object]] = [
        weakref.ref(o) for o in (focus.grown, focus.prepared, focus.shelf.study.read)
    ]  # type: ignore[union-attr]
    opened(DEMO / "services.toml")
    all_pages(grown, qtbot)
    gone(grown, qtbot, held)


def test_dialogs_are_let_go(grown: Window, qtbot: QtBot) -> None:
    held: list[weakref.ref[object]] = []
    for show in (grown.show_about, grown.tree.compare):
        dialog = show()
        assert dialog is not None
        held.append(weakref.ref(dialog))
        dialog.close()
        del dialog
    menu = grown.build_menu()
    menu.popup(grown.pos())
    held.append(weakref.ref(menu))
    menu.close()
    del menu
    gone(grown, qtbot, held)
    before = len(grown.findChildren(QWidget))
    for _ in range(3):
        grown.show_keys()
        (keys,) = grown.findChildren(QDialog)
        keys.close()
        del keys
        settle(grown, qtbot)
    settle(grown, qtbot)
    assert len(grown.findChildren(QWidget)) == before


@pytest.mark.slow
def test_what_is_open_is_brought_to_the_front(grown: Window, qtbot: QtBot) -> None:
    grown.focus.set_count(9)
    grown.go_to(3)
    grown.count.show_tab(3)
    settle(grown, qtbot)
    strip = grown.count.checks.moving
    asked: tuple[Callable[[], object], ...] = (
        grown.show_keys, grown.show_about, grown.tree.show_matrix, strip.show_list,
    )  # fmt: skip
    for show in asked:
        for _ in range(3):
            show()
            settle(grown, qtbot)
        (dialog,) = [one for one in grown.findChildren(QDialog) if one.isVisible()]
        assert dialog.isActiveWindow()
        dialog.close()
        del dialog
        settle(grown, qtbot)
        assert not grown.findChildren(QDialog)
        assert show() is None or grown.findChildren(QDialog)[0].isVisible()  # and it opens again
        for one in grown.findChildren(QDialog):
            one.close()
        settle(grown, qtbot)
