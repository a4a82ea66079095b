"""The Count page at work: what is drawn is shown as it grows, stopped, kept, and let go."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import LEFT, board, draw, states
from gorvel.core.base.progress import Phase, Progress
from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.resampling.resampled_rules import RESAMPLING, resampled
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import USUAL
from gorvel.core.plan.parts import CountPlan
from gorvel.desk.window.window import Window
from gorvel.main import DEMO

NO_BUTTON = Qt.MouseButton.NoButton


@pytest.mark.slow
def test_resampling_is_shown_as_it_grows_stopped_and_kept(counted: Window, qtbot: QtBot) -> None:
    counting = counted.counting
    counted.count.resamples.setValue(3000)
    qtbot.mouseClick(counted.count.draw, LEFT)
    qtbot.waitUntil(lambda: counting.rounds > 0 and counted.count.stop.isVisible())
    assert not counted.count.draw.isVisible()
    qtbot.mouseClick(counted.count.stop, LEFT)
    qtbot.waitUntil(lambda: not counting.at_work("resamples"))
    assert 0 < counting.rounds < 3000
    assert counted.count.note.text() == f"{counting.rounds:,} resamples of 3,000, stopped"
    grown = counting.grown
    assert grown is not None
    fewer = resampled(grown, counting.asked.model_copy(update={"resamples": counting.rounds}))
    for verdict in fewer:
        shown = board(counted).verdicts[verdict.key]
        np.testing.assert_array_equal(shown.values, verdict.values)
    counted.count.seed.setValue(2)  # other numbers: what was drawn is dropped
    assert counting.rounds == 0
    assert not set(RESAMPLING) & set(board(counted).verdicts)
    draw(counted, qtbot, 3)
    assert set(RESAMPLING) & set(USUAL) <= set(board(counted).verdicts)
    assert counted.count.note.text() == "3 resamples"


def test_long_work_on_the_rules_is_shown_stopped_and_begun_again(
    counted: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, counting = counted.count, counted.counting
    held = threading.Event()

    def slow(
        grown: Grown, asked: CountPlan, keys: None, progress: Progress,
        report: Callable[[IndexTable], None],
    ) -> IndexTable:  # fmt: skip
        report(compute_indices(grown, asked, ["hartigan"]))
        while not held.wait(0.01):
            progress(Phase.RANKS, 0.4)
        return compute_indices(grown, asked, keys, progress)

    monkeypatch.setattr("gorvel.desk.work.counting.compute_indices", slow)
    monkeypatch.setattr("gorvel.desk.work.counting._AT_ONCE", 0)  # as if there were many cases
    page.last.setValue(7)
    qtbot.waitUntil(page.stop.isVisible)
    qtbot.waitUntil(lambda: "40%" in page.note.text())
    assert set(board(counted).verdicts) == {"hartigan"}  # what there is already is shown
    qtbot.mouseClick(page.stop, LEFT)
    qtbot.waitUntil(lambda: page.draw.isVisible() and page.draw.text() == "Compute the rules")
    assert page.note.text() == "Some rules are not computed yet."
    held.set()
    qtbot.mouseClick(page.draw, LEFT)
    qtbot.waitUntil(lambda: counting.complete)
    assert board(counted).counts == (2, 3, 4, 5, 6, 7)
    qtbot.waitUntil(lambda: page.draw.text() == "Resample")


@pytest.mark.slow
def test_what_belongs_to_another_tree_is_dropped(counted: Window, qtbot: QtBot) -> None:
    counting, page = counted.counting, counted.count
    page.resamples.setValue(5000)
    qtbot.mouseClick(page.draw, LEFT)
    qtbot.waitUntil(lambda: counting.rounds > 0)
    counted.focus.shelf.change("tree", linkage="average")
    assert states(counted)["Count"] == "out of date"
    assert counting.at_work("resamples")  # the tree on screen is still the one that is looked at
    before = counting.board
    counted.acts.grow()
    qtbot.waitUntil(lambda: not counted.focus.out_of_date and counting.complete)
    assert counting.board is not before
    assert not counting.at_work("resamples")
    assert counting.rounds == 0
    assert not set(RESAMPLING) & set(board(counted).verdicts)
    grown = counted.focus.grown
    assert grown is not None
    assert board(counted).votes() == compute_indices(grown).votes()
    with qtbot.waitSignal(counted.acts.opened):
        counted.acts.open(DEMO / "services.toml")
    assert counting.board is None
    assert counting.checks.splits is None


@pytest.mark.slow
def test_the_page_is_built_anew_in_other_looks_while_it_works(
    counted: Window, qtbot: QtBot
) -> None:
    counted.count.resamples.setValue(5000)
    qtbot.mouseClick(counted.count.draw, LEFT)
    qtbot.waitUntil(lambda: counted.counting.rounds > 0)
    counted.counting.check("support")
    counted.other_theme()
    page = counted.count
    assert counted.pages.seen is page
    qtbot.waitUntil(lambda: page.stop.isVisible() and "%" in page.note.text())
    qtbot.mouseClick(page.stop, LEFT)
    qtbot.waitUntil(lambda: not counted.counting.at_work("resamples"))
    rounds = counted.counting.rounds
    qtbot.waitUntil(lambda: page.note.text() == f"{rounds:,} resamples of 5,000, stopped")
    assert page.draw.isVisible()
    page.show_tab(3)
    section = page.checks.sections["support"]
    qtbot.waitUntil(lambda: section.stop.isVisible() and section.bar.value() > 0)
    qtbot.mouseClick(section.stop, LEFT)
    qtbot.waitUntil(section.run.isVisible)
    assert counted.counting.checks.support is None


@pytest.mark.slow
def test_sights_of_dropped_work_are_not_taken(counted: Window, qtbot: QtBot) -> None:
    counting, page = counted.counting, counted.count
    page.resamples.setValue(4000)
    qtbot.mouseClick(page.draw, LEFT)
    qtbot.waitUntil(lambda: counting.rounds > 0)
    late = 7, list(board(counted).verdicts.values())[-4:]
    before = counting.work["resamples"]._parts
    page.last.setValue(5)  # another range: what was drawn has other columns
    qtbot.waitUntil(lambda: counting.complete and board(counted).counts == (2, 3, 4, 5))
    qtbot.mouseClick(page.draw, LEFT)
    counting.work["resamples"]._part.emit(before, late)
    qtbot.waitUntil(lambda: counting.rounds > 0)
    assert {verdict.counts for verdict in board(counted).verdicts.values()} == {(2, 3, 4, 5)}
    counted.focus.shelf.change("count", rules=["dunn", "mojena"])
    qtbot.waitUntil(
        lambda: counting.complete and set(board(counted).verdicts) == {"dunn", "mojena"}
    )
    assert not page.draw.isEnabled()
    assert page.note.text() == "The plan asks for no resampling rule."


@pytest.mark.slow
def test_another_study_ends_what_was_resampled_of_this_one(
    counted: Window, opened: object, qtbot: QtBot
) -> None:
    page = counted.count
    page.resamples.setValue(5000)
    qtbot.mouseClick(page.draw, LEFT)
    qtbot.waitUntil(page.stop.isVisible)
    opened(DEMO / "stops.toml")  # type: ignore[operator]
    assert not any(one.job for one in counted.counting.work.values())
    counted.other_theme()  # the page is built anew, and does not take up what is no more
    qtbot.wait(300)
    assert not counted.count.stop.isVisibleTo(counted.count)
    assert "Resampling" not in counted.count.note.text()
