"""The first moments: what was used before, keys without a click, and the way to a tree."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QWidget
from pytestqt.qtbot import QtBot

from driving import LEFT, press
from gorvel.core.run import keep_study
from gorvel.core.study.opening import load_study, picture_of
from gorvel.desk.state.settings import Settings
from gorvel.desk.window.window import Window
from gorvel.main import DEMO

Opener = Callable[[Path], Window]


@pytest.fixture
def returning(grown: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    """A second window, of somebody who has used a study, a table, and one that is gone."""
    study = tmp_path / "mine.gorvel"
    assert grown.acts.files.save_study(study)
    assert grown.acts.files.written()
    names = [study, DEMO / "stops.csv", tmp_path / "gone.gorvel"]
    window = Window(Settings(recent=[str(name) for name in names]), DEMO / "readers.toml")
    qtbot.addWidget(window, before_close_func=lambda w: w.acts.finish())
    grown.hide()
    with qtbot.waitActive(window):
        window.show()
        window.activateWindow()
    return window


def test_what_was_used_before_is_listed_with_a_picture(returning: Window, qtbot: QtBot) -> None:
    rows = returning.welcome.recent
    assert [row.name.text() for row in rows] == ["mine.gorvel", "stops.csv", "gone.gorvel"]
    assert [row.isEnabled() for row in rows] == [True, True, False]
    assert rows[2].place.text().startswith("not found")
    qtbot.waitUntil(lambda: not rows[0].picture.pixmap().isNull())
    corner = rows[0].picture.pixmap().toImage().pixelColor(0, 0)
    assert (corner.alpha(), corner.name()) == (255, "#ffffff")  # it can be seen in the dark, too
    assert rows[1].picture.pixmap().isNull()
    menu = returning.build_menu()
    recent = next(a for a in menu.actions() if a.text() == "Open recent").menu()
    offered = {action.text(): action.isEnabled() for action in recent.actions()}
    assert offered == {
        "mine.gorvel": True, "stops.csv": True, "gone.gorvel  (not found)": False,
    }  # fmt: skip
    with qtbot.waitSignal(returning.acts.opened):
        qtbot.mouseClick(rows[0], LEFT)
    assert returning.pages.seen is returning.tree
    with qtbot.waitSignal(returning.acts.opened):
        recent.actions()[1].trigger()
    assert returning.focus.shelf.study is not None
    assert returning.focus.shelf.study.data_file.name == "stops.csv"


def test_a_picture_that_is_none_is_left_out(tmp_path: Path) -> None:
    content = keep_study(DEMO / "services.toml", tmp_path / "s.gorvel")
    assert picture_of(tmp_path / "s.gorvel") == content.picture == b""
    assert load_study(tmp_path / "s.gorvel").picture == b""


def test_keys_work_from_the_first_moment(window: Window, qtbot: QtBot, file_asked) -> None:  # type: ignore[no-untyped-def]
    assert window.focusWidget() is window.welcome.open
    file_asked(DEMO / "readers.csv")
    with qtbot.waitSignal(window.acts.opened):
        qtbot.keyClick(window.focusWidget(), Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    for page, about in (
        (None, window.cases.variables.view), (2, window.plan.grow.grow), (4, window.count),
        (3, window.tree), (1, window.cases.variables.view),
    ):  # fmt: skip
        if page is not None:
            press(window, qtbot, f"Alt+{page}")
        if about.isVisible() and about not in (window.count, window.tree):
            assert window.focusWidget() is about
    press(window, qtbot, "Ctrl+G")
    with qtbot.waitSignal(window.focus.tree_changed):
        pass
    press(window, qtbot, "Alt+4")
    assert window.focusWidget() is window.count.board
    press(window, qtbot, "Alt+3")
    assert window.focusWidget() is window.tree.dendrogram


@pytest.mark.slow
def test_a_button_leads_to_the_tree_wherever_there_is_none(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    grow = window.grow_button

    def main_buttons() -> list[QPushButton]:
        found: list[QWidget] = window.findChildren(QPushButton)
        return [b for b in found if b.isVisible() and b.text() == "Grow the tree"]  # type: ignore

    for page in range(7):
        window.go_to(page)
        assert len(main_buttons()) == 1, page
        assert main_buttons()[0].property("main")
        assert grow.isVisible() is (page in (0, 6))
    window.go_to(0)
    with qtbot.waitSignal(window.focus.tree_changed):
        qtbot.mouseClick(grow, LEFT)
    assert window.pages.seen is window.tree
    assert not grow.isVisible()
