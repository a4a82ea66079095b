"""Only plans that fit are put in force in the window, only what matters ages a tree."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import taken
from gorvel.core.base.errors import GorvelError
from gorvel.core.cases.prepare import prepare
from gorvel.core.plan.consistency import misfits
from gorvel.core.plan.file import load_plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.sources.reading import read_source
from gorvel.core.study.file import StudyFile
from gorvel.core.study.study import study_of
from gorvel.desk.editors.option_editor import Choices, options_of
from gorvel.desk.state.focus import Focus
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO

PARTS = ("of", "scale", "measure", "linkage", "missing", "weight")


@pytest.mark.parametrize(
    ("part", "changed"),
    [
        ("variables", {"labels": {"visits": "How often were you here?"}}),
        ("variables", {"values": {"visits": {"1": "never"}}}),
        ("variables", {"profile": ["household"]}),
        ("variables", {"nominal": ["stop"]}),
        ("cases", {"groups": "stop"}),
        ("cases", {"place_set_aside": True}),
    ],
)
def test_what_is_said_of_a_tree_leaves_it_in_force(
    grown: Window, part: str, changed: dict[str, Any]
) -> None:
    focus = grown.focus
    focus.shelf.change(part, **changed)
    assert focus.shelf.to_undo
    assert not focus.out_of_date
    assert not grown.tree.stale.isVisible()
    assert not grown.alarm.isVisible()
    assert "out of date" not in {stop.state for stop in grown.strip.stops}


def test_parts_that_do_not_go_together_are_refused_in_words(grown: Window) -> None:
    focus = grown.focus
    focus.shelf.change("missing", handling="pairwise")
    before = focus.shelf.plan
    said = taken(focus, "measure", "mahalanobis")
    assert said == (
        "Mahalanobis distance needs complete cases: choose another treatment of missing answers."
    )
    assert focus.shelf.plan is before
    focus.shelf.change("proximity", measure="mahalanobis")  # elsewhere than where it can be read
    assert grown.alarm.isVisible()
    assert "needs complete cases" in grown.alarm_words.text()
    assert focus.shelf.plan is before
    focus.shelf.change("missing", handling="drop")
    focus.shelf.change("proximity", measure="mahalanobis")
    offered = {c.key: c.allowed for c in options_of(focus, "missing").choices}
    assert not offered["pairwise"]
    assert offered["mean"]
    focus.shelf.change("variables", importance={"visits": 2.0})
    assert "weights all variables equally" in grown.alarm_words.text()


def test_no_tree_grows_without_variables(grown: Window, qtbot: QtBot) -> None:
    focus, before = grown.focus, grown.focus.grown
    focus.shelf.change_by(lambda plan: plan.using([]))
    qtbot.waitUntil(lambda: bool(focus.problem))
    qtbot.keyClick(grown, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    assert grown.alarm_words.text() == "No variable is active yet: choose some on the Cases page."
    assert not grown.acts.jobs.busy(JobKind.GROW)
    assert focus.grown is before


@pytest.mark.slow
def test_every_choice_that_the_window_offers_can_be_carried_out(qtbot: QtBot) -> None:
    path = DEMO / "readers.toml"
    start, tried = load_plan(path), 0
    source = read_source(start, path.with_name(start.source.file))
    focus = Focus()
    focus.open(StudyFile(study_of(source, path, start)))
    for measure in MEASURES:
        focus.shelf.replace_plan(start)
        if taken(focus, "measure", measure):
            continue
        first = focus.shelf.plan
        assert first is not None
        for part in PARTS:
            offered = options_of(focus, part)
            for choice in offered.choices:
                said = taken(focus, part, choice.key)
                assert bool(said) == (focus.shelf.plan is first and choice.key != _now(first, part))
                assert choice.allowed or said
                assert focus.shelf.plan is not None
                assert not list(misfits(focus.shelf.plan))
                if part != "linkage":  # which changes nothing before the joins
                    with suppress(GorvelError):  # a defect of ours would be another error
                        prepare(source, focus.shelf.plan)
                tried += 1
                focus.shelf.replace_plan(first)
    assert tried > 500


def _now(plan: Any, part: str) -> str | None:
    now: str | None = {
        "of": plan.tree.of, "scale": plan.scale.method, "measure": plan.proximity.measure,
        "linkage": plan.tree.linkage, "missing": plan.handling, "weight": plan.cases.weight,
    }[part]  # fmt: skip
    return now


def test_what_is_asked_after_growing_is_carried_out_without_growing_anew(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    focus = grown.focus
    focus.shelf.set_aside({97})
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    before = focus.grown
    focus.shelf.change("cases", place_set_aside=True)
    assert not focus.out_of_date
    assert grown.acts.files.save_memberships(tmp_path / "out.csv")
    assert focus.saved_to is None  # it is being written, and the window goes on
    focus.set_count(6)
    assert grown.acts.files.save_memberships(tmp_path / "none" / "out.csv")
    assert not grown.acts.files.written()
    assert "the memberships were not saved" in grown.alarm_words.text()
    assert focus.saved_to is None  # the clusters in hand are others than those saved
    saved = pl.read_csv(tmp_path / "out.csv")
    assert saved["placed"].sum() == 1
    assert "cluster_k4" in saved.columns
    assert focus.grown is before
    assert grown.acts.files.save_memberships(tmp_path / "six.csv")
    assert grown.acts.files.written()
    assert focus.saved_to == tmp_path / "six.csv"


def test_walking_through_the_choices_is_one_step(grown: Window, qtbot: QtBot) -> None:
    """The arrow keys try one after the other; undo takes back all that was tried."""
    grown.go_to(1)
    shelf, first = grown.focus.shelf, grown.focus.shelf.plan
    editor = Choices(grown.focus, options_of(grown.focus, "linkage"))
    qtbot.addWidget(editor)
    editor.show()
    for _ in range(4):
        qtbot.keyClick(editor.names, Qt.Key.Key_Up)
    tried = shelf.plan.tree.linkage
    assert tried != first.tree.linkage
    shelf.undo()
    assert shelf.plan == first
    shelf.redo()
    assert shelf.plan.tree.linkage == tried
    qtbot.keyClick(editor.names, Qt.Key.Key_Down)  # after undo and redo a step of its own
    assert shelf.plan.tree.linkage != tried
    shelf.undo()
    assert shelf.plan.tree.linkage == tried


def test_choices_that_lead_back_are_no_step(grown: Window, qtbot: QtBot) -> None:
    shelf, first, words = grown.focus.shelf, grown.focus.shelf.plan, grown.focus.shelf.to_undo
    editor = Choices(grown.focus, options_of(grown.focus, "linkage"))
    qtbot.addWidget(editor)
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Down):
        qtbot.keyClick(editor.names, key)
    assert shelf.plan == first
    assert shelf.to_undo == words
    assert grown.focus.grown is not None
    assert not grown.focus.out_of_date
