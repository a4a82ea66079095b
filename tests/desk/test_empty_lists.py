"""Where there is nothing to show, that is said, with the reason."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import settled
from gorvel.desk.views.schedule_model import ScheduleModel
from gorvel.desk.window.window import Window

Opener = Callable[[Path], Window]
OUTLIERS = 2


@pytest.mark.slow
def test_an_empty_list_of_outliers_says_why(opened: Opener, qtbot: QtBot, readers: Path) -> None:
    window = opened(readers)
    view = window.cases.answers.outliers
    window.cases.answers.show_tab(OUTLIERS)
    settled(window, qtbot)
    assert view.accessibleDescription() == ""
    assert view.table.rowCount()
    window.focus.shelf.change("variables", use=[])
    qtbot.waitUntil(lambda: window.focus.prepared is None)
    assert "No variable is active" in view.accessibleDescription()
    assert not view.table.rowCount()
    filled = view.viewport().grab().toImage()
    view.show_none("")
    assert view.viewport().grab().toImage() != filled  # the words are painted
    window.focus.shelf.undo()
    qtbot.waitUntil(lambda: bool(view.table.rowCount()))
    assert view.accessibleDescription() == ""


@pytest.mark.slow
def test_the_sentence_counts_the_chosen_while_the_plan_cannot_run(
    opened: Opener, qtbot: QtBot, readers: Path
) -> None:
    window = opened(readers)
    read = window.focus.shelf.study.source  # type: ignore[union-attr]
    chosen = (read.frame["stop"] == "Elm Mill").sum()  # type: ignore[union-attr]
    assert 0 < chosen < read.n
    window.focus.shelf.change("cases", keep='stop = "Elm Mill"')
    window.focus.shelf.change("variables", use=[])
    qtbot.waitUntil(lambda: bool(window.focus.problem))
    assert window.sentence.sentence().startswith(f"Group {chosen} cases where ")
    (plan,) = (stop for stop in window.strip.stops if stop.name == "Plan")
    assert (plan.state, plan.tip) == ("cannot run", window.focus.problem)  # why, on every page


@pytest.mark.slow
@pytest.mark.parametrize(
    ("part", "value", "why"),
    [
        ({"handling": "pairwise"}, "missing", "some answers are missing"),
        ({"of": "variables"}, "tree", "a tree of variables"),
    ],
)
def test_columns_of_squares_say_why_they_are_empty(
    part: dict[str, str], value: str, why: str, opened: Opener, qtbot: QtBot, readers: Path
) -> None:
    window = opened(readers)
    across, tip = Qt.Orientation.Horizontal, int(Qt.ItemDataRole.ToolTipRole)

    def column() -> tuple[str, str]:
        table: ScheduleModel = window.tree.schedule.table
        heads = [table.headerData(c, across, 0) for c in range(table.columnCount())]
        place = heads.index("R²")
        return table.text(0, place), str(table.headerData(place, across, tip))

    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    assert column()[0] not in ("", "–")
    assert "Not available" not in column()[1]
    window.focus.shelf.change(value, **part)
    if value == "tree":
        window.focus.shelf.change("tree", measure="correlation", linkage="average")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    assert column()[0] == "–"
    assert f"Not available: {'sums of squares' if value == 'tree' else why}" in column()[1]
    assert why in column()[1]
