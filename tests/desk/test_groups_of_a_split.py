"""One tree for each group: turned between, cut alone or together, saved side by side."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import polars as pl
import pytest
from pytestqt.qtbot import QtBot

from driving import LEFT, press, states
from gorvel.core.run import run_plan
from gorvel.desk.window.window import Window

Opener = Callable[[Path], Window]


@pytest.fixture
def split(opened: Opener, qtbot: QtBot, readers: Path) -> Window:
    """The demo with a tree for each stop."""
    window = opened(readers)
    window.focus.shelf.change(
        "cases", split="stop", keep='household != "couple" or stop != "Fell End"'
    )
    grow(window, qtbot)
    window.go_to(2)
    return window


def grow(window: Window, qtbot: QtBot) -> None:
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()


@pytest.mark.slow
def test_groups_are_turned_between_and_cut_alone_or_together(split: Window, qtbot: QtBot) -> None:
    focus, tabs = split.focus, split.groups
    assert tabs.isVisible()
    names = list(tabs.tabs)
    assert len(names) == 6
    assert focus.grown_group == names[0]
    assert [tab.isChecked() for tab in tabs.tabs.values()] == [True, *[False] * 5]
    sizes = {name: int(tab.text().rpartition("  ")[2]) for name, tab in tabs.tabs.items()}
    assert sum(sizes.values()) == sum(tree.tree.n for tree in focus.of_groups.values())
    assert focus.grown is not None
    assert focus.grown.tree.n == sizes[names[0]]
    assert states(split)["Memberships"] == "6 groups, not saved"
    # one group is cut alone
    focus.set_count(3)
    with qtbot.waitSignal(focus.tree_changed):
        qtbot.mouseClick(tabs.tabs[names[2]], LEFT)
    assert focus.grown.tree.n == sizes[names[2]]
    assert focus.cut is not None
    assert focus.cut.clusters == 4
    assert not focus.out_of_date
    focus.set_count(2)
    with qtbot.waitSignal(focus.tree_changed):
        press(split, qtbot, "Ctrl+PgUp")
    assert focus.grown_group == names[1]
    with qtbot.waitSignal(focus.tree_changed):
        press(split, qtbot, "Ctrl+PgUp")
    assert (focus.grown_group, focus.cut.clusters) == (names[0], 3)
    # then all of them together
    assert tabs.all.text() == "Cut all groups into 3"
    qtbot.mouseClick(tabs.all, LEFT)
    cuts = {g: t.cut.clusters for g, t in focus.of_groups.items() if t.cut is not None}
    assert cuts == dict.fromkeys(names, 3)
    with qtbot.waitSignal(focus.tree_changed):
        press(split, qtbot, "Ctrl+PgDown")
    assert focus.cut.clusters == 3
    # another plan grows all of them again, each with its count
    focus.set_count(5)
    focus.shelf.change("tree", linkage="complete")
    grow(split, qtbot)
    assert focus.grown_group == names[1]
    assert focus.cut.clusters == 5
    assert len(focus.displaced) == 6
    keep = split.notice.offer("Keep it on the shelf")
    assert keep is not None
    keep()
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(2)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.tree.linkage == "ward"
    assert len(focus.groups) == 6
    # without the split there is one tree again
    focus.shelf.change("cases", split=None)
    assert focus.out_of_date
    grow(split, qtbot)
    assert not tabs.isVisible()
    assert focus.grown_group is None
    assert focus.groups == []


@pytest.mark.slow
def test_what_the_window_saves_of_groups_is_what_a_run_writes(
    split: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    focus = split.focus
    focus.shelf.change("count", resamples=1)
    focus.set_count(3)
    qtbot.mouseClick(split.groups.all, LEFT)
    file_asked(tmp_path / "m.csv")
    press(split, qtbot, "Ctrl+M")
    assert split.acts.files.written()
    assert states(split)["Memberships"] == "6 groups saved in m.csv"
    assert split.acts.files.save_plan(tmp_path / "p.toml")
    assert split.acts.files.written()
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    saved = pl.read_csv(tmp_path / "m.csv")
    several = 0
    for group in split.groups.tabs:
        rows = pl.read_csv(tmp_path / "out" / group.replace(" ", "_") / "membership.csv")
        mine = saved[[k - 1 for k in rows["case"].to_list()]]
        assert mine["cluster"].to_list() == rows["k3"].to_list()
        assert set(mine["group"].to_list()) == {group}
        several += len(set(mine["letter"].drop_nulls().to_list()))
    assert several == 18
    focus.set_count(4)
    assert states(split)["Memberships"] == "6 groups, not saved"


@pytest.mark.slow
def test_a_group_that_is_too_small_is_marked(opened: Opener, qtbot: QtBot, readers: Path) -> None:
    window = opened(readers)
    only = 'stop != "Fell End" or reader_id = "R003"'
    window.focus.shelf.change("cases", split="stop", keep=only)
    grow(window, qtbot)
    small = window.groups.tabs["Fell End"]
    assert small.text() == "Fell End  no tree"
    assert not small.isEnabled()
    assert "too few" in small.toolTip()
    assert "1 has no tree: Fell End" in window.note.text()
    window.focus.turn_to("Fell End")
    assert window.focus.grown_group != "Fell End"


@pytest.mark.slow
def test_groups_are_kept_in_the_study(split: Window, qtbot: QtBot, tmp_path: Path) -> None:
    focus, file = split.focus, tmp_path / "s.gorvel"
    with qtbot.waitSignal(focus.tree_changed):
        press(split, qtbot, "Ctrl+PgDown")
    focus.set_count(6)
    group = focus.grown_group
    assert split.acts.files.save_study(file)
    assert split.acts.files.written()
    with qtbot.waitSignal(split.acts.opened):
        split.acts.open(file)
    assert (focus.grown_group, len(focus.groups)) == (group, 6)
    assert focus.cut is not None
    assert focus.cut.clusters == 6
    assert not focus.out_of_date
    assert states(split)["Memberships"] == "6 groups, in the study"
