"""Jobs, settings, and small matters of the window."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QCheckBox, QDoubleSpinBox
from pytestqt.qtbot import QtBot

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.desk.editors.option_editor import Choices
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind, Jobs, Lane
from gorvel.paint.pictograms import PICTURES, Sketch
from gorvel.paint.theme import DARK, LIGHT

Opener = Callable[[Path], Window]


def test_the_newest_job_wins_and_reports_on_the_interface_thread(qtbot: QtBot) -> None:
    jobs, told, threads = Jobs(), [], set()
    release = threading.Event()

    def slow(progress: Progress) -> str:
        while not release.wait(0.005):
            progress(Phase.PAIRS, 0.5)
        return "old"

    def done(result: str) -> None:
        told.append(result)
        threads.add(threading.current_thread())

    first = jobs.start(JobKind.GROW, slow, done, told.append, lambda: told.append("stopped"))
    jobs.start(JobKind.PREPARE, lambda progress: "beside", done, told.append)
    jobs.start(JobKind.GROW, lambda progress: "new", done, told.append)
    qtbot.waitUntil(lambda: sorted(told) == ["beside", "new"])
    release.set()
    qtbot.wait(30)
    assert first.cancelled
    assert sorted(told) == ["beside", "new"]
    assert threads == {threading.main_thread()}
    jobs.finish()


def test_a_job_that_fails_says_why_and_one_that_is_stopped_says_so(qtbot: QtBot) -> None:
    jobs, told = Jobs(), []

    def wrong(progress: Progress) -> None:
        raise InputError("this", "that", place="here")

    def defect(progress: Progress) -> None:
        raise ZeroDivisionError

    def endless(progress: Progress) -> None:
        while True:
            progress(Phase.PAIRS, 0.1)
            time.sleep(0.001)

    jobs.start(JobKind.GAPS, wrong, told.append, told.append)
    qtbot.waitUntil(lambda: told == ["here: this; expected that"])
    jobs.start(JobKind.SCREEN, defect, told.append, told.append)
    qtbot.waitUntil(lambda: len(told) == 2)
    assert told[1].startswith("Internal error")
    assert "ZeroDivisionError" in told[1]
    seen: list[float] = []
    job = jobs.start(
        JobKind.SUPPORT, endless, told.append, told.append, lambda: told.append("stopped")
    )
    job.progressed.connect(lambda phase, share, left: seen.append(share))
    qtbot.waitUntil(lambda: bool(seen))
    jobs.cancel(JobKind.SUPPORT)
    qtbot.waitUntil(lambda: told[-1] == "stopped")
    assert not jobs.busy(JobKind.SUPPORT)
    jobs.finish()


def test_what_takes_long_holds_up_nothing_at_hand(qtbot: QtBot) -> None:
    jobs, told, go = Jobs(), [], threading.Event()

    def endless(progress: Progress) -> str:
        while not go.wait(0.002):
            progress(Phase.RESAMPLES, 0.1)
        return "long"

    for kind in JobKind:  # as many as there are, more than threads
        if kind.lane is not Lane.AT_HAND:
            jobs.start(kind, endless, told.append, told.append)
    for kind in JobKind:
        if kind.lane is Lane.AT_HAND:
            jobs.start(kind, lambda progress: "at hand", told.append, told.append)
    at_hand = sum(kind.lane is Lane.AT_HAND for kind in JobKind)
    qtbot.waitUntil(lambda: told == ["at hand"] * at_hand)
    jobs.finish()
    assert jobs.threads == 0


def test_whoever_began_a_dropped_job_is_told(qtbot: QtBot) -> None:
    jobs, told, seen = Jobs(), [], []

    def endless(progress: Progress) -> None:
        while True:
            progress(Phase.RESAMPLES, 0.1)
            time.sleep(0.001)

    kinds = (JobKind.SUPPORT, JobKind.KERNELS, JobKind.OPEN)
    for kind in kinds:
        calls = (lambda what, kind=kind: told.append((kind, what)),) * 2
        ends = [lambda kind=kind, how=how: told.append((kind, how)) for how in ("stop", "drop")]
        job = jobs.start(kind, endless, *calls, *ends)
        job.stopped.connect(lambda kind=kind: seen.append(kind))
    jobs.drop_all()
    assert told == [(JobKind.SUPPORT, "drop"), (JobKind.OPEN, "drop")]  # kernels are of no study
    assert jobs.busy(JobKind.KERNELS)
    jobs.drop(JobKind.SUPPORT)  # is over
    qtbot.waitUntil(lambda: len(seen) == 2)
    assert len(told) == 2
    jobs.finish()


@pytest.mark.slow
def test_nothing_of_the_study_before_reaches_the_next_one(
    opened: Opener, qtbot: QtBot, tmp_path: Path, readers: Path
) -> None:
    path = tmp_path / "many.csv"
    path.write_text("a,b\n" + "".join(f"{k * k % 997},{k % 13}\n" for k in range(3000)))
    window = opened(path)
    window.acts.grow()
    old = window.acts.jobs._newest[None, JobKind.GROW][0]
    finished: list[object] = []
    for signal in (old.done, old.stopped):
        signal.connect(lambda *_: finished.append(1))
    opened(readers)
    qtbot.waitUntil(lambda: bool(finished))
    assert window.focus.grown is None
    assert window.focus.prepared is not None
    assert window.focus.prepared.file == "readers.csv"
    assert not window.tree.empty.grow.stop.isVisibleTo(window.tree.empty.grow)


def test_a_selected_join_is_brought_into_sight(grown: Window, qtbot: QtBot) -> None:
    view = grown.tree.dendrogram
    for _ in range(12):
        grown.tree.desk.axis.zoom(1.25)
    tree = view.scene.tree
    for join in (3, 60, tree.joins - 1):
        grown.focus.select(Mark("join", join))
        frame = view.frame()
        assert frame.top <= frame.y(float(view.scene.place[tree.n + join])) <= frame.bottom


def test_the_menu_offers_what_can_be_done(window: Window, grown: Window) -> None:
    offered = {a.text().split("\t")[0]: a.isEnabled() for a in grown.build_menu().actions()}
    assert offered["Save memberships …"]
    assert not offered["Undo"]
    grown.focus.shelf.change("tree", linkage="single")
    offered = {a.text().split("\t")[0]: a.isEnabled() for a in grown.build_menu().actions()}
    assert offered["Undo: the linkage"]


def test_measures_come_in_groups_and_bring_their_dials(grown: Window, qtbot: QtBot) -> None:
    popup = grown.sentence.edit("measure")
    assert popup is not None
    editor = popup.findChild(Choices)
    heads = [
        editor.names.item(k).text()
        for k in range(editor.names.count())
        if editor.names.item(k).flags() == Qt.ItemFlag.NoItemFlags
    ]
    assert heads == ["Numbers", "Any mixture", "Counts", "Yes/no answers"]
    (item,) = editor.names.findItems("the power distance", Qt.MatchFlag.MatchExactly)
    editor.names.setCurrentItem(item)
    dials = {box.objectName(): box for box in editor.findChildren(QDoubleSpinBox)}
    assert set(dials) == {"power", "root"}
    dials["power"].setValue(3)
    assert grown.focus.shelf.plan is not None
    assert grown.focus.shelf.plan.proximity.measure == "power"
    assert grown.focus.shelf.plan.proximity.power == 3
    assert "the power distance (p = 3, r = 2)" in grown.sentence.sentence()
    (item,) = editor.names.findItems("Jaccard distance", Qt.MatchFlag.MatchExactly)
    editor.names.setCurrentItem(item)
    assert "visits is not binary" in editor._caution.text()
    popup.close()
    for _ in range(3):
        grown.focus.shelf.undo()
    assert not grown.focus.out_of_date


def test_every_choice_has_a_picture_of_its_own_in_both_themes(qtbot: QtBot) -> None:
    keys = [("linkage", key) for key in TREE_RULES] + [("measure", key) for key in MEASURES]
    keys += [("scale", key) for key in SCALINGS] + [("neighbours", "order")]
    assert set(keys) == set(PICTURES)
    for theme in (LIGHT, DARK):
        seen: dict[bytes, tuple[str, str]] = {}
        for part, key in keys:
            image = QImage(244, 96, QImage.Format.Format_RGB32)
            image.fill(QColor(theme.panel))
            painter = QPainter(image)
            PICTURES[part, key](Sketch(painter, theme))
            painter.end()
            edge = {image.pixelColor(x, y).rgb() for x in range(244) for y in (0, 95)}
            assert edge == {QColor(theme.panel).rgb()}, f"{key} is cut off"
            seen.setdefault(bytes(image.constBits()), (part, key))
            assert len(seen) == keys.index((part, key)) + 1, f"{key} looks like another"


def test_the_variables_can_be_grouped_instead(grown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    focus, before = grown.focus, grown.focus.grown
    popup = grown.sentence.edit("of")
    assert popup is not None
    names = popup.findChild(Choices).names
    qtbot.keyClick(names, Qt.Key.Key_Down)
    qtbot.keyClick(names, Qt.Key.Key_Return)
    popup = grown.sentence.edit("scale")
    assert popup is not None
    within = popup.findChild(QCheckBox)
    assert within.objectName() == "by"
    qtbot.mouseClick(within, Qt.MouseButton.LeftButton, pos=QPoint(8, within.height() // 2))
    popup.close()
    assert focus.shelf.plan is not None
    assert (focus.shelf.plan.tree.of, focus.shelf.plan.scale.by) == ("variables", "cases")
    assert grown.sentence.sentence().startswith(
        "Group 11 variables by 208 cases on z-scores within"
    )
    focus.shelf.undo()
    qtbot.waitUntil(lambda: focus.prepared is not None and focus.prepared.of == "variables")
    assert grown.plan.state_title.text().startswith("11 variables grouped, by 208 of 240")
    grown.acts.grow()
    qtbot.waitUntil(lambda: focus.grown is not None and focus.grown is not before)
    assert focus.grown is not None
    assert focus.grown.prepared.labels == focus.shelf.plan.variables.use
    assert "11 variables in 10 joins" in grown.tree.reading.words.text()
    grown.focus.select(Mark("case", 0))
    assert "visits is variable 1 of the plan" in grown.tree.reading.words.text()
    assert grown.tree.sought.placeholderText() == "Find a variable"
    assert grown.acts.files.save_memberships(tmp_path / "m.csv")
    assert grown.acts.files.written()
    lines = (tmp_path / "m.csv").read_text(encoding="utf-8").splitlines()
    assert lines[0].startswith("variable,cluster_k")
    assert [line.split(",")[0] for line in lines[1:]] == list(focus.shelf.plan.variables.use)


def test_yes_no_answers_are_scaled_and_proximities_taken_as_squares(
    grown: Window, qtbot: QtBot
) -> None:
    focus = grown.focus

    def tick(part: str, key: str) -> None:
        popup = grown.sentence.edit(part)
        assert popup is not None
        box = popup.findChild(QCheckBox, key)
        qtbot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
        popup.close()

    tick("scale", "binary")
    assert focus.shelf.plan.scale.binary == "scale"
    assert focus.out_of_date
    popup = grown.sentence.edit("linkage")
    assert popup.findChild(QCheckBox) is None  # Ward's rule has squares before it
    popup.close()
    focus.shelf.change("proximity", measure="correlation")
    tick("linkage", "proximities_are")
    assert focus.shelf.plan.proximities_are == "squares"
    assert "joined by Ward’s rule (proximities as squares)" in grown.sentence.sentence()
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    codes = {caution.code for caution in focus.grown.cautions}
    assert not codes & {"linkage-geometry", "yes-no-unscaled"}
    for _ in range(3):
        focus.shelf.undo()
    assert focus.shelf.plan.scale.binary == "keep"
