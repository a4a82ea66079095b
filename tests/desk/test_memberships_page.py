"""The Memberships page: what it shows is what the file has; where it leads."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import polars as pl
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import LEFT, press, states
from gorvel.core.base.errors import InputError
from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.window import Window
from gorvel.main import DEMO

Opener = Callable[[Path], Window]
PAGE = NAMES.index("Memberships")


@pytest.mark.slow
@pytest.mark.parametrize("plan", ["readers.toml", "stops.toml", "services.toml"])
def test_what_is_shown_is_what_is_saved(
    plan: str, opened: Opener, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    window = opened(DEMO / plan)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.focus.set_count(3)
    window.focus.name_cluster(2, "Regulars")
    press(window, qtbot, f"Alt+{PAGE + 1}")
    page = window.memberships
    assert page.save.hasFocus()
    file_asked(tmp_path / "m.csv")
    qtbot.keyClick(page.save, Qt.Key.Key_Space)
    assert window.acts.files.written()
    saved = pl.read_csv(tmp_path / "m.csv", infer_schema_length=None)
    shown = page.frame
    added = shown.columns[1:]
    assert [name.split("_")[0] for name in added][:3] == ["cluster", "letter", "name"]
    assert saved.columns[-len(added) :] == added
    for name in added:
        assert saved[name].to_list() == shown[name].to_list()
    for name in added:
        assert f"{name}: " in page.columns.text()
    assert "1 of 3 named" in page.columns.text()
    assert page.saved.text() == "Saved in m.csv."
    assert states(window)["Memberships"] == "3 saved in m.csv"

    # cases without a cluster can be looked at alone
    missing = saved[added[0]].null_count()
    assert page.only.isEnabled() is bool(missing)
    if missing:
        assert page.only.text() == f"Without a cluster ({missing})"
        assert page.without.text().startswith(f"{missing} cases without a cluster")
        qtbot.mouseClick(page.only, LEFT)
        assert page.view.model().rowCount() == missing
        assert page.view.model().index(0, 1).data() == "–"
    else:
        assert page.without.text() == "Every case has a cluster."
    table = page.table()
    assert table is not None
    assert len(table.rows) == page.view.model().rowCount()

    # the cut goes on, and the page with it
    window.focus.set_count(4)
    assert page.frame.columns[1].endswith("_k4")
    assert not page.saved.isVisible()
    assert page.title.text().startswith("4 clusters of ")
    assert page.sizes.text().count("\n") == 3
    qtbot.mouseClick(page.sentence, LEFT)
    assert QApplication.clipboard().text().startswith("Group ")
    qtbot.mouseClick(page.figure, LEFT)
    assert window.pages.seen is window.tree


@pytest.mark.slow
def test_without_a_tree_it_says_what_to_do(opened: Opener, qtbot: QtBot, readers: Path) -> None:
    window = opened(readers)
    window.go_to(PAGE)
    page = window.memberships
    assert "Grow the tree first" in page.tree.text()
    assert not page.save.isEnabled()
    assert page.table() is None
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(PAGE)
    assert page.save.isEnabled()
    assert not page.stale.isVisible()
    window.focus.shelf.change("tree", linkage="average")
    assert page.stale.isVisible()
    assert "joined by Ward’s rule" in page.tree.text()  # of the tree that is there


@pytest.mark.slow
def test_all_groups_of_a_split_have_their_labels_and_clusters(
    opened: Opener, qtbot: QtBot, tmp_path: Path, readers: Path
) -> None:
    window = opened(readers)
    window.focus.shelf.change("cases", split="stop")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(PAGE)
    page = window.memberships
    assert page.title.text() == "6 groups"
    assert window.acts.files.save_memberships(tmp_path / "m.csv")
    assert window.acts.files.written()
    saved = pl.read_csv(tmp_path / "m.csv", infer_schema_length=None)
    assert page.frame.columns == ["reader_id", "group", "cluster", "letter"]
    for name in page.frame.columns:
        assert page.frame[name].to_list() == saved[name].to_list()


def test_what_cannot_be_saved_is_said(
    opened: Opener, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, readers: Path
) -> None:
    def refused(*args: object) -> pl.DataFrame:
        raise InputError("this", "that")

    window = opened(readers)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    monkeypatch.setattr("gorvel.desk.pages.memberships.memberships_added", refused)
    window.go_to(PAGE)
    page = window.memberships
    assert page.columns.text() == "this; expected that"
    assert not page.save.isEnabled()
    assert page.table() is None
