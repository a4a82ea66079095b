"""Trees are kept while others are tried, and one file holds them all."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import LEFT, press, states
from gorvel.core.run import keep_study
from gorvel.core.study.opening import load_study, picture_of
from gorvel.desk.window.shelf_panel import TreeCard
from gorvel.desk.window.window import Window
from gorvel.desk.work import actions
from plans import quick_demo

Opener = Callable[[Path], Window]


def card(window: Window, number: int) -> TreeCard:
    """The card of a tree."""
    return next(c for c in window.shelf.cards if c.entry.id == number)


def grow(window: Window, qtbot: QtBot) -> None:
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()


def settled(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.acts.jobs.idle and window.focus.faithful is not None)


def test_a_tree_that_made_way_is_shown_again_where_its_plan_is_in_force(
    grown: Window, qtbot: QtBot
) -> None:
    focus = grown.focus
    focus.shelf.change("tree", linkage="complete")
    ward, _ = focus.grown, grow(grown, qtbot)
    focus.shelf.undo()
    assert focus.out_of_date
    with qtbot.waitSignal(focus.tree_changed):
        focus.keep_displaced()
    settled(grown, qtbot)
    assert not focus.out_of_date
    assert ward is not None
    assert focus.grown is not None
    assert focus.grown.tree.heights.tolist() == ward.tree.heights.tolist()
    study = focus.shelf.study
    assert study is not None
    assert [(entry.id, entry.kept) for entry in study.trees] == [(1, True)]
    assert study.in_hand == 1


def test_two_trees_side_by_side_with_the_keyboard(grown: Window, qtbot: QtBot) -> None:
    focus = grown.focus
    settled(grown, qtbot)
    grown.shown.set_scale("log")
    grown.shown.axis.rotate(200)
    grown.shown.axis.fold(int(focus.cut.roots[0]))  # type: ignore[union-attr]
    focus.set_count(6)
    ward, look = focus.grown, grown.shown.axis.arrangement
    press(grown, qtbot, "Ctrl+K")
    assert grown.shelf.isVisible()
    assert [c.entry.id for c in grown.shelf.cards] == [1]
    assert card(grown, 1).says.text() == "Current. 6 clusters of 208 cases."
    # another plan begins another tree, and the kept one stays as it is
    focus.shelf.change("tree", linkage="complete")
    assert [(c.entry.id, c.in_hand) for c in grown.shelf.cards] == [(1, False), (2, True)]
    assert card(grown, 2).says.text() == "Current, not kept. Not grown yet."
    assert states(grown)["Tree"] == "out of date"
    grow(grown, qtbot)
    assert focus.displaced == ()  # it is on the shelf
    settled(grown, qtbot)
    focus.set_count(3)
    assert card(grown, 1).says.text() == "6 clusters of 208 cases."
    assert card(grown, 2).says.text() == "Current, not kept. 3 clusters of 208 cases."
    # back to the first: as it was left, and not grown again
    press(grown, qtbot, "Ctrl+L")
    press(grown, qtbot, "Ctrl+L")
    qtbot.waitUntil(card(grown, 2).hasFocus)
    qtbot.keyClick(card(grown, 2), Qt.Key.Key_Up)
    assert card(grown, 1).hasFocus()
    with pytest.MonkeyPatch.context() as patch, qtbot.waitSignal(focus.tree_changed):
        patch.setattr(actions, "grow_prepared", None)
        qtbot.keyClick(card(grown, 1), Qt.Key.Key_Return)
    assert focus.shelf.plan is not None
    assert focus.cut is not None
    assert focus.grown is not None
    assert ward is not None
    assert look is not None
    assert (focus.shelf.plan.tree.linkage, focus.cut.clusters) == ("ward", 6)
    assert np.array_equal(focus.grown.tree.heights, ward.tree.heights)
    at = grown.shown.axis.arrangement
    assert at is not None
    assert at.flipped[200]
    assert at.folded == look.folded
    assert grown.shown.scale == "log"
    assert "joined by Ward’s rule" in grown.sentence.sentence()
    assert states(grown)["Tree"].startswith("207 joins")
    # what was done to the shelf is taken back, step by step, and done again
    qtbot.keyClick(card(grown, 1), Qt.Key.Key_F2)
    qtbot.keyClicks(card(grown, 1).naming, "the first\r")
    assert card(grown, 1).title.text() == "the first"
    qtbot.keyClick(card(grown, 1), Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert [c.entry.id for c in grown.shelf.cards] == [2, 1]
    qtbot.keyClick(card(grown, 1), Qt.Key.Key_Delete)
    assert focus.shelf.study is not None
    assert focus.shelf.study.kept == ()
    assert focus.shelf.to_undo == "removing a tree"
    for _ in range(2):
        press(grown, qtbot, "Ctrl+Z")
    assert [c.entry.id for c in grown.shelf.cards] == [1, 2]
    press(grown, qtbot, "Ctrl+Z")
    assert card(grown, 1).title.text() == "Ward’s rule on z-scores"
    with qtbot.waitSignal(focus.tree_changed):
        press(grown, qtbot, "Ctrl+Z")  # the other tree is in hand again
    assert (focus.shelf.plan.tree.linkage, focus.cut.clusters) == ("complete", 3)
    for _ in range(3):
        press(grown, qtbot, "Ctrl+Shift+Z")
    assert card(grown, 1).title.text() == "the first"


def test_with_the_mouse_a_title_is_typed_and_a_tree_taken(grown: Window, qtbot: QtBot) -> None:
    qtbot.mouseClick(grown.shelf_button, LEFT)
    assert "No tree is kept yet" in grown.shelf.nothing.text()
    assert grown.shelf.nothing.isVisible()
    qtbot.mouseClick(grown.shelf.keep, LEFT)
    assert grown.shelf_button.text() == "Shelf (1)"
    assert not grown.shelf.keep.isEnabled()
    grown.focus.shelf.change("scale", method="range01")
    grow(grown, qtbot)
    qtbot.mouseDClick(card(grown, 1), LEFT)
    qtbot.keyClicks(card(grown, 1).naming, "no")
    qtbot.keyClick(card(grown, 1).naming, Qt.Key.Key_Escape)
    assert card(grown, 1).title.text() == "Ward’s rule on z-scores"
    with qtbot.waitSignal(grown.focus.tree_changed):
        qtbot.mouseClick(card(grown, 1), LEFT)
    assert grown.focus.shelf.plan is not None
    assert grown.focus.shelf.plan.scale.method == "zscore"
    grown.focus.shelf.take(99)  # there is none
    assert grown.focus.shelf.study is not None
    assert grown.focus.shelf.study.in_hand == 1


def test_a_tree_that_made_way_can_still_be_kept(grown: Window, qtbot: QtBot) -> None:
    focus = grown.focus
    focus.set_count(9)
    focus.shelf.change("tree", linkage="average")
    grow(grown, qtbot)
    said = "The previous tree (Ward’s rule on z-scores) was replaced."
    assert grown.notice.words.text() == said
    press(grown, qtbot, "Ctrl+T")  # other looks lose no offer
    assert grown.notice.words.text() == said
    keep = grown.notice.offer("Keep it on the shelf")
    assert keep is not None
    keep()
    assert grown.notice.words.text() == ""
    qtbot.waitUntil(grown.shelf.isVisible)
    assert [(c.title.text(), c.in_hand) for c in grown.shelf.cards] == [
        ("Ward’s rule on z-scores", False), ("Average linkage on z-scores", True),
    ]  # fmt: skip
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(2)
    assert focus.cut is not None
    assert focus.cut.clusters == 9
    grow(grown, qtbot)  # the same plan once more: nothing made way
    assert focus.displaced == ()


def test_a_tree_that_grew_while_another_was_taken_in_hand_goes_where_it_belongs(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    focus, gate, grow_now = grown.focus, threading.Event(), actions.grow_prepared
    press(grown, qtbot, "Ctrl+K")
    ward = focus.grown

    def slow(*args: object) -> object:
        gate.wait(30)
        return grow_now(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(actions, "grow_prepared", slow)
    focus.shelf.change("tree", linkage="single")
    grown.acts.grow()
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(1)
    gate.set()
    qtbot.waitUntil(lambda: (2, None) in focus.shelf.kept)
    assert ward is not None
    assert focus.grown is not None
    assert np.array_equal(focus.grown.tree.heights, ward.tree.heights)
    assert np.array_equal(focus.shelf.kept[1, None].tree.heights, ward.tree.heights)
    assert focus.shelf.kept[2, None].plan.tree.linkage == "single"
    assert "make it current" in grown.note.text()
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(2)
    assert not focus.out_of_date


def test_a_tree_out_of_date_is_kept_as_it_was_grown(grown: Window, qtbot: QtBot) -> None:
    grown.focus.shelf.change("tree", linkage="single")
    press(grown, qtbot, "Ctrl+K")
    study = grown.focus.shelf.study
    assert study is not None
    assert [entry.plan.tree.linkage for entry in study.trees] == ["ward", "single"]
    assert [entry.kept for entry in study.trees] == [True, False]
    assert study.in_hand == 1
    fresh = grown.notice
    press(grown, qtbot, "Ctrl+K")  # once is enough
    assert fresh is grown.notice


def test_nothing_can_be_kept_where_nothing_was_grown(window: Window, qtbot: QtBot) -> None:
    press(window, qtbot, "Ctrl+K")
    assert "grow it first" in window.alarm_words.text()
    press(window, qtbot, "Ctrl+L")
    assert not window.shelf.isVisible()


def test_a_study_is_saved_and_opened_as_it_was_left(
    grown: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    focus = grown.focus
    qtbot.waitUntil(lambda: grown.counting.complete)
    focus.shelf.change("count", resamples=4)
    grown.counting.resample()
    grown.counting.check("support")
    settled(grown, qtbot)
    board, support = grown.counting.board, focus.support
    focus.set_count(5)
    focus.split_cluster(2)
    press(grown, qtbot, "Ctrl+K")
    focus.shelf.change("tree", linkage="complete")
    grow(grown, qtbot)
    focus.set_count(8)
    settled(grown, qtbot)
    file = tmp_path / "mine.gorvel"
    file_asked(tmp_path / "mine")
    press(grown, qtbot, "Ctrl+S")
    assert grown.acts.files.written()
    assert grown.windowTitle() == "mine.gorvel – Gorvel"
    assert grown.dialogs.unsaved() == []
    assert picture_of(file).startswith(b"\x89PNG")
    assert load_study(file).study.in_hand == 2
    focus.set_count(7)
    assert grown.dialogs.unsaved() == ["changes of mine.gorvel"]
    press(grown, qtbot, "Ctrl+S")  # there is no need to ask again
    assert grown.acts.files.written()
    assert grown.windowTitle() == "mine.gorvel – Gorvel"

    with pytest.MonkeyPatch.context() as patch, qtbot.waitSignal(grown.acts.opened):
        patch.setattr(actions, "grow_prepared", None)
        grown.acts.open(file)
    assert grown.pages.seen is grown.tree
    assert focus.shelf.plan is not None
    assert focus.cut is not None
    assert (focus.shelf.plan.tree.linkage, focus.cut.clusters) == ("complete", 7)
    assert focus.faithful is not None
    assert not focus.out_of_date
    assert not focus.shelf.study_unsaved
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(1)
    assert (focus.cut.level, focus.cut.clusters) == (5, 6)
    assert focus.support is not None
    assert support is not None
    assert np.array_equal(focus.support.unbiased, support.unbiased, equal_nan=True)
    qtbot.waitUntil(lambda: grown.counting.complete)
    assert grown.counting.rounds == 4
    assert board is not None
    assert grown.counting.board is not None
    assert grown.counting.board.votes() == board.votes()
    assert "gap" in grown.counting.board.verdicts


def test_a_study_of_the_terminal_opens_with_its_tree(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    file = tmp_path / "s.gorvel"
    keep_study(quick_demo(tmp_path), file)
    window = opened(file)
    assert states(window)["Tree"] == "207 joins, no ties"
    assert states(window)["Memberships"] == "4 clusters, in the study"
    assert window.dialogs.unsaved() == []  # the study has them


@pytest.mark.slow
def test_what_is_left_of_a_damaged_study_is_opened(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    file = tmp_path / "s.gorvel"
    keep_study(quick_demo(tmp_path), file)
    whole = file.read_bytes()
    file.write_bytes(whole[: whole.index(b"trees/1.parquet") + 200])
    window.acts.open(file)
    qtbot.waitUntil(lambda: window.notice.offer("Open what can be read") is not None)
    assert "s.gorvel: damaged or cut short" in window.notice.words.text()
    rescue = window.notice.offer("Open what can be read")
    assert rescue is not None
    with qtbot.waitSignal(window.acts.opened):
        rescue()
    assert "Lost: a grown tree, which can be grown again" in window.alarm_words.text()
    assert window.focus.shelf.file is None
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    grow(window, qtbot)
    file.write_bytes(b"")
    window.acts.open(file)
    qtbot.waitUntil(lambda: "an empty file" in window.notice.words.text())


def test_a_study_that_cannot_be_written_is_not_said_to_be_saved(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert grown.acts.files.save_study(tmp_path / "none" / "s.gorvel")
    assert not grown.acts.files.written()
    assert "the study was not saved" in grown.alarm_words.text()
    assert grown.focus.shelf.file is None
    assert grown.focus.shelf.study_unsaved
