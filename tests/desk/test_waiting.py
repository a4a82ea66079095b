"""Nobody waits: for loops that are compiled, or for a correlation that takes long."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtGui import QImage, QPaintEvent, QPixmap
from PySide6.QtWidgets import QApplication, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from gorvel.core.base.progress import Phase, Progress
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.views import answers_view, case_axis, column
from gorvel.desk.views.column import Column
from gorvel.desk.window.window import Window
from gorvel.desk.work import actions
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO
from gorvel.paint.axes import Frame

Opener = Callable[[Path], Window]


def test_the_tree_is_shown_before_its_correlation(
    opened: Opener, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, readers: Path
) -> None:
    go, begun = threading.Event(), []

    def slowly(tree: object, pairs: object, progress: Progress) -> float:
        begun.append(tree)
        while not go.wait(0.01):
            progress(Phase.CORRELATION, 0.4)
        return 0.4321

    monkeypatch.setattr(actions, "cophenetic_correlation", slowly)
    window = opened(readers)
    window.acts.grow()
    qtbot.waitUntil(lambda: window.focus.grown is not None)
    window.go_to(2)
    reading = window.tree.reading
    qtbot.waitUntil(lambda: "Computing the cophenetic correlation: 40%" in reading.words.text())
    assert "Computing the cophenetic correlation" in reading.words.text()
    assert window.focus.faithful is None
    assert reading.correlate.isVisible()
    # it can be left out, and asked for later
    assert reading.correlate.text() == "Stop"
    reading.correlate.click()
    qtbot.waitUntil(lambda: reading.correlate.text() == "Correlate")
    assert "correlation" not in reading.words.text()
    assert window.focus.grown is not None
    reading.correlate.click()
    qtbot.waitUntil(lambda: len(begun) == 2)
    go.set()
    qtbot.waitUntil(lambda: window.focus.faithful is not None)
    assert "Cophenetic correlation 0.43 (" in reading.words.text()
    assert not reading.correlate.isVisible()


def test_a_new_tree_drops_the_correlation_of_the_one_before(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    qtbot.waitUntil(lambda: grown.focus.faithful is not None)
    go, seen = threading.Event(), []

    def slowly(tree: object, pairs: object, progress: Progress) -> float:
        seen.append(tree)
        while len(seen) == 1:
            progress(Phase.CORRELATION, 0.1)  # is stopped here, by the next tree
        go.wait(30)
        return 0.25

    monkeypatch.setattr(actions, "cophenetic_correlation", slowly)
    for linkage in ("average", "single"):
        grown.focus.shelf.change("tree", linkage=linkage)
        with qtbot.waitSignal(grown.focus.cut_changed):
            grown.acts.grow()
        assert grown.focus.faithful is None
        qtbot.waitUntil(lambda: bool(seen) and seen[-1] is grown.focus.grown.tree)
    go.set()
    qtbot.waitUntil(lambda: grown.focus.faithful is not None)
    assert grown.focus.faithful.correlation == 0.25


@pytest.mark.slow
def test_compiling_is_told_and_holds_up_no_small_study(
    opened: Opener, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, readers: Path
) -> None:
    go, asked, warmed = threading.Event(), [], []

    def compiling(progress: Progress, gently: bool = False) -> None:
        asked.append(gently)
        while not go.wait(0.01):
            progress(Phase.KERNELS, 0.34)

    monkeypatch.setattr(actions, "loaded", lambda: bool(warmed))
    monkeypatch.setattr(actions, "compile_apart", compiling)
    monkeypatch.setattr(actions, "warm", lambda progress: warmed.append(True))
    window = opened(readers)
    assert not window.loading.isVisible()
    window.acts.load_kernels()
    window.acts.load_kernels()  # asked twice, done once
    qtbot.waitUntil(window.loading.isVisible)
    assert window.loading.text().startswith("Compiling loops for large studies (once): 34%")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    assert window.focus.grown is not None
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(DEMO / "services.toml")  # another study does not end it
    assert window.loading.isVisible()
    go.set()
    qtbot.waitUntil(lambda: not window.loading.isVisible())
    assert (asked, warmed) == ([True], [True])
    window.acts.load_kernels()
    assert not window.acts.jobs.busy(JobKind.KERNELS)


def test_leaving_stops_the_compiling(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    ended = []

    def compiling(progress: Progress, gently: bool = False) -> None:
        try:
            while True:
                progress(Phase.KERNELS, 0.5)
                threading.Event().wait(0.01)
        finally:
            ended.append(True)

    monkeypatch.setattr(actions, "loaded", lambda: False)
    monkeypatch.setattr(actions, "compile_apart", compiling)
    window.acts.load_kernels()
    qtbot.waitUntil(window.loading.isVisible)
    window.acts.finish()
    assert ended == [True]


def test_what_is_painted_in_turns_or_off_the_thread_looks_the_same(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk, painted = grown.tree.desk, []

    def pictures() -> list[QImage]:
        qtbot.waitUntil(lambda: grown.acts.jobs.idle and all(one.up_to_date for one in desk.seen))
        return [one.grab().toImage() for one in desk.seen]

    grown.focus.set_count(5)
    usual = pictures()
    assert len(usual) >= 4
    monkeypatch.setattr(column, "_LARGE", 1)
    monkeypatch.setattr(case_axis, "_MOST", 0.0)  # never more than one at a time
    monkeypatch.setattr(answers_view, "_AT_ONCE", 0)

    def noting(one: Column, anew: Callable[[Frame], QPixmap]) -> Callable[[Frame], QPixmap]:
        def paint(frame: Frame) -> QPixmap:
            painted.append(one.key)
            return anew(frame)

        return paint

    for one in desk.seen:
        monkeypatch.setattr(one, "_paint_anew", noting(one, one._paint_anew))
    grown.focus.set_count(7)
    QApplication.processEvents()
    assert len(painted) < len(usual)  # the others wait for their turn, showing what they showed
    assert pictures() != usual
    assert sorted(painted) == sorted(one.key for one in desk.seen)
    desk.axis.rotate(30)
    desk.axis.rotate(30)  # the answers are put in order anew
    grown.focus.set_count(5)
    assert pictures() == usual


def test_another_plan_leaves_the_tree_in_hand_alone(grown: Window, qtbot: QtBot) -> None:
    focus, trees = grown.focus, []
    focus.tree_changed.connect(lambda: trees.append(focus.grown))
    before, part = focus.grown, grown.sentence.parts["linkage"]
    table = grown.tree.show_matrix()
    assert table is not None
    closed: list[int] = []
    table.destroyed.connect(lambda: closed.append(1))
    focus.shelf.change("tree", linkage="average")
    assert grown.sentence.parts["linkage"] is part  # the words change, not the button
    assert part.text() == "average linkage"
    assert grown.tree.stale.isVisible()
    assert table.isVisible()
    focus.shelf.undo()
    assert part.text() == "Ward’s rule"
    assert not grown.tree.stale.isVisible()
    assert not trees
    focus.shelf.change("tree", linkage="single")
    grown.acts.grow()
    qtbot.waitUntil(lambda: focus.grown is not before)
    assert len(trees) == 1
    qtbot.waitUntil(lambda: bool(closed))  # it was of the tree before


def test_progress_that_is_told_paints_nothing_at_once(qtbot: QtBot) -> None:
    """What else of the window is to be painted may not be whole yet, and would be painted twice."""
    ground, painted = QWidget(), []

    class Beside(QWidget):
        def paintEvent(self, event: QPaintEvent) -> None:
            painted.append(bar.value())

    bar, beside = JobBar(lambda shown: None), Beside()
    layout = QVBoxLayout(ground)
    layout.addWidget(bar)
    layout.addWidget(beside, 1)
    qtbot.addWidget(ground)
    with qtbot.waitExposed(ground):
        ground.show()
    for value in (200, 200, 900):
        painted.clear()
        beside.update()
        bar.setValue(value)
        assert (painted, bar.value()) == ([], value)
        qtbot.waitUntil(lambda value=value: painted == [value])
    before = ground.grab(bar.geometry()).toImage()
    bar.setValue(100)
    assert ground.grab(bar.geometry()).toImage() != before
