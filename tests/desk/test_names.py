"""Clusters are given names on the tree, and keep them as long as they are there."""

from __future__ import annotations

from pathlib import Path

import polars as pl
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from driving import click, press
from gorvel.core.study.opening import load_study
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window


def name(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, title: str) -> None:
    """F2 on the dendrogram, with what is typed."""
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: (title, True))
    window.tree.dendrogram.setFocus()
    qtbot.keyClick(window.tree.dendrogram, Qt.Key.Key_F2)


def titles(window: Window) -> list[str]:
    return [who.title for who in window.focus.identities]


def test_a_cluster_keeps_its_name_at_every_count_and_in_the_file(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    focus, desk = grown.focus, grown.tree.desk
    at = desk.axis.arrangement
    assert at is not None
    top, bottom = at.span(int(focus.cut.roots[1]))  # type: ignore[union-attr]
    middle = desk.labels.frame().y((top + bottom) / 2)
    click(qtbot, desk.labels, 10, middle)  # the bar of cluster B
    assert focus.selected == Mark("cluster", 2)
    bare = desk.labels.grab().toImage()
    name(grown, qtbot, monkeypatch, "  Regulars ")
    assert titles(grown) == ["", "Regulars", "", ""]
    assert desk.labels.grab().toImage() != bare
    assert grown.tree.reading.words.text().startswith("Cluster B “Regulars”: ")
    menu = desk.column_menu(desk.labels)
    assert "Name cluster B “Regulars” …" in [action.text() for action in menu.actions()]
    menu.close()
    root = focus.cut.roots[1]  # type: ignore[union-attr]
    for count in (2, 3, 5, 6, 9):
        focus.set_count(count)
        roots = focus.cut.roots.tolist()  # type: ignore[union-attr]
        assert titles(grown) == ["Regulars" if node == root else "" for node in roots]
    focus.set_count(4)
    assert grown.acts.files.save_memberships(tmp_path / "m.csv")
    assert grown.acts.files.written()
    saved = pl.read_csv(tmp_path / "m.csv")
    told = saved.filter(pl.col("letter_k4") == "B")["name_k4"].unique().to_list()
    assert told == ["Regulars"]
    assert grown.acts.files.save_study(tmp_path / "s.gorvel")
    assert grown.acts.files.written()
    kept = load_study(tmp_path / "s.gorvel").study.plan.cut.names
    assert kept == {"4": ("", "Regulars", "", "")}
    assert focus.shelf.to_undo == "the name of a cluster"
    press(grown, qtbot, "Ctrl+Z")
    assert titles(grown) == ["", "", "", ""]
    press(grown, qtbot, "Ctrl+Y")
    assert titles(grown) == ["", "Regulars", "", ""]
    focus.select(Mark("cluster", 2))
    name(grown, qtbot, monkeypatch, "")
    assert titles(grown) == ["", "", "", ""]
    assert focus.shelf.plan.cut.names == {}  # type: ignore[union-attr]


def test_names_go_over_to_the_next_tree_where_the_same_cases_are_together(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    focus = grown.focus
    last = grown.focus.grown.tree.joins - 1  # type: ignore[union-attr]
    focus.select(Mark("join", 0))
    case = int(grown.focus.grown.tree.left[0])  # type: ignore[union-attr]
    focus.select(None)
    focus.set_count(grown.focus.grown.tree.n - 1)  # type: ignore[union-attr]
    pair = int(focus.cut.membership[case])  # type: ignore[union-attr]
    focus.name_cluster(pair, "the first two")
    focus.set_count(1)
    focus.name_cluster(1, "everybody")
    focus.set_count(2)
    focus.name_cluster(1, "one side")
    focus.shelf.change("tree", linkage="complete")
    assert focus.out_of_date
    assert "one side" in titles(grown)  # the tree on the screen is still that one
    focus.name_cluster(2, "the other")
    assert "Grow the tree first" in grown.alarm_words.text()
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    names = focus.shelf.plan.cut.names  # type: ignore[union-attr]
    assert names["1"] == ("everybody",)  # all cases are together in every tree
    assert ["the first two"] in [[t for t in told if t] for told in names.values()]  # joined first
    assert all("one side" not in told for told in names.values())
    focus.set_count(1)
    assert titles(grown) == ["everybody"]
    press(grown, qtbot, "Ctrl+Z")  # the linkage, and the names with it
    assert "one side" in str(focus.shelf.plan.cut.names)  # type: ignore[union-attr]
    assert last == grown.focus.grown.tree.joins - 1  # type: ignore[union-attr]


def test_groups_of_a_split_have_letters_and_names_wait_until_it_is_gone(
    grown: Window, qtbot: QtBot
) -> None:
    focus, named = grown.focus, {"4": ("", "Regulars", "", "")}
    focus.name_cluster(2, "Regulars")
    focus.shelf.change("cases", split="stop")
    assert not grown.alarm.isVisible()
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    assert focus.grown_group is not None
    assert not any(titles(grown))
    focus.name_cluster(1, "of one group")
    assert "each group has its own clusters" in grown.alarm_words.text()
    desk = grown.tree.desk
    focus.select(Mark("cluster", 1))
    menu = desk.column_menu(desk.labels)
    assert not [action.text() for action in menu.actions() if action.text().startswith("Name")]
    menu.close()
    assert focus.shelf.plan.cut.names == named  # type: ignore[union-attr]
    focus.shelf.change("cases", split=None)
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    focus.set_count(4)
    assert titles(grown) == ["", "Regulars", "", ""]


def test_two_clusters_of_a_cut_have_different_names(grown: Window) -> None:
    grown.focus.name_cluster(1, "Regulars")
    grown.focus.name_cluster(2, "Regulars")
    assert titles(grown) == ["Regulars", "", "", ""]
    said = "Another cluster is already called “Regulars”."
    assert grown.alarm_words.text() == said
    grown.focus.set_count(5)  # where it is the same cluster, or one beside it
    at = titles(grown).index("Regulars") + 1 if "Regulars" in titles(grown) else 0
    other = 1 if at != 1 else 2
    if at:
        grown.focus.name_cluster(other, "Regulars")
        assert titles(grown).count("Regulars") == 1
