"""A study that was worked on in the window, run without one: what it holds is written."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from driving import settled
from gorvel.core.run import run_study
from gorvel.desk.window.window import Window


@pytest.mark.slow
def test_what_a_study_holds_of_each_tree_is_written(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    focus = grown.focus
    focus.shelf.change("count", checks=[])
    focus.set_count(4)
    focus.name_cluster(1, "Regulars")
    settled(grown, qtbot)
    evidence = grown.counting.checks.groups
    if evidence is None:
        grown.counting.check("groups")
        qtbot.waitUntil(lambda: not grown.counting.at_work("groups"))
        evidence = grown.counting.checks.groups
    assert evidence is not None
    grown.keep_tree()
    focus.shelf.call(focus.grown_id, "first")
    focus.shelf.change("tree", linkage="average")
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    focus.set_count(4)
    focus.name_cluster(2, "Rare")
    settled(grown, qtbot)
    assert grown.acts.files.save_study(tmp_path / "s.gorvel")
    assert grown.acts.files.written()
    run_study(tmp_path / "s.gorvel", tmp_path / "o")
    first = tmp_path / "o" / "trees" / "first"
    for folder, name in ((first, "Regulars"), (tmp_path / "o", "Rare")):
        clusters = json.loads((folder / "clusters.json").read_text(encoding="utf-8"))
        assert name in json.dumps(clusters), folder
    choice = json.loads((first / "choice.json").read_text(encoding="utf-8"))
    assert choice["verdict"]["p"] == evidence.p
