"""The whole thread through the real interface: from a file to saved memberships."""

from __future__ import annotations

import csv
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QApplication, QListWidget, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from driving import LEFT, click, moved, press, states
from gorvel.core.plan.file import load_plan
from gorvel.desk.editors.option_editor import Choices
from gorvel.desk.state.settings import load_settings
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO, status_of
from gorvel.paint.theme import DARK, current

Opener = Callable[[Path], Window]


def click_stop(qtbot: QtBot, window: Window, number: int) -> None:
    place = window.strip.places()[number].center()
    click(qtbot, window.strip, place.x(), place.y())


def popup(qtbot: QtBot) -> Choices:
    qtbot.waitUntil(lambda: QApplication.activePopupWidget() is not None)
    choices: Choices = QApplication.activePopupWidget().findChild(Choices)
    qtbot.waitUntil(choices.names.hasFocus)
    return choices


def test_from_an_empty_window_to_a_saved_membership_file_with_the_mouse(
    window: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    data = tmp_path / "readers.csv"
    data.write_bytes((DEMO / "readers.csv").read_bytes())
    file_asked(data)
    assert window.pages.seen is window.welcome
    with qtbot.waitSignal(window.acts.opened):
        qtbot.mouseClick(window.welcome.open, LEFT)
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    assert states(window)["Cases"] == "220 of 240 used"  # 98 and 99 still count as answers
    assert window.cases.variables.view.table.rowCount() in (0, 20)

    # say which codes are missing, leave a doubled variable out
    window.cases.source.codes.setFocus()
    qtbot.keyClicks(window.cases.source.codes, "98, 99\r")
    qtbot.waitUntil(lambda: states(window)["Cases"] == "208 of 240 used")
    qtbot.waitUntil(lambda: window.cases.variables.view.table.rowCount() == 20)
    view = window.cases.variables.view
    row = next(k for k, s in enumerate(view.table.summaries) if s.name == "renewals")
    rect = view.visualRect(view.table.index(row, 0))
    click(qtbot, view.viewport(), rect.center().x(), rect.center().y())
    out = next(b for b in window.cases.findChildren(QPushButton) if b.text() == "not used")
    qtbot.mouseClick(out, LEFT)
    assert window.focus.shelf.plan is not None
    assert "renewals" not in window.focus.shelf.plan.variables.use

    # the linkage is chosen in the sentence, on the Plan page
    click_stop(qtbot, window, 1)
    assert window.pages.seen is window.plan
    qtbot.mouseClick(window.sentence.parts["linkage"], LEFT)
    choices = popup(qtbot)
    item = choices.names.findItems("average linkage", Qt.MatchFlag.MatchExactly)[0]
    spot = choices.names.visualItemRect(item).center()
    qtbot.mouseClick(choices.names.viewport(), LEFT, pos=spot)
    qtbot.keyClick(choices.names, Qt.Key.Key_Return)
    assert "joined by average linkage" in window.sentence.sentence()
    assert states(window)["Plan"] == "Average linkage on z-scores"

    qtbot.mouseClick(window.plan.grow.grow, LEFT)
    qtbot.waitUntil(lambda: window.pages.seen is window.tree)
    assert window.focus.grown is not None
    assert states(window)["Tree"] == "207 joins, no ties"
    assert states(window)["Memberships"].endswith("not saved")

    # drag the cut line to six clusters
    drag_to_count(qtbot, window, 6)
    assert window.focus.cut is not None
    assert window.focus.cut.clusters == 6
    saved = tmp_path / "clusters.csv"
    file_asked(saved)
    click_stop(qtbot, window, 6)
    qtbot.mouseClick(window.memberships.save, LEFT)
    assert window.acts.files.written()
    assert states(window)["Memberships"] == "6 saved in clusters.csv"
    check_saved(window, saved)
    # another cut is not saved yet
    window.go_to(2)
    qtbot.keyClick(window.tree.dendrogram, Qt.Key.Key_Left)
    assert states(window)["Memberships"] == "5 clusters, not saved"


def drag_to_count(qtbot: QtBot, window: Window, clusters: int) -> None:
    view = window.tree.dendrogram
    qtbot.waitUntil(lambda: view.isVisible() and view.cut_x() is not None)
    tree, scene = view.scene.tree, view.scene
    kept = tree.n - clusters
    share = scene.share[tree.n :]
    goal = view.frame().x(float(share[kept - 1] + share[kept]) / 2)
    y = round(view.frame().top + 60)
    start = QPoint(round(view.cut_x()), y)
    qtbot.mousePress(view, LEFT, pos=start)
    for part in (0.3, 0.7, 1.0):
        x = start.x() + part * (goal - start.x())
        qtbot.mouseMove(view, QPoint(round(x), y))
        view.mouseMoveEvent(moved(view, x, y))
    qtbot.mouseRelease(view, LEFT, pos=QPoint(round(goal), y))


def check_saved(window: Window, saved: Path) -> None:
    """The table as it was, and for each case kept the cluster that its tree gives."""
    grown, cut = window.focus.grown, window.focus.cut
    assert grown is not None
    assert cut is not None
    with saved.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    with (DEMO / "readers.csv").open(encoding="utf-8", newline="") as file:
        before = list(csv.DictReader(file))
    assert [row["reader_id"] for row in rows] == [row["reader_id"] for row in before]
    assert [float(r["minutes"] or -1) for r in rows] == [float(b["minutes"] or -1) for b in before]
    k = cut.clusters
    expected = [""] * len(before)
    for number, cluster in zip(grown.prepared.numbers, cut.membership, strict=True):
        expected[int(number) - 1] = str(cluster)
    assert [row[f"cluster_k{k}"] for row in rows] == expected
    assert {row[f"letter_k{k}"] for row in rows} == {
        "",
        *(who.name for who in window.focus.identities),
    }
    assert expected.count("") == 32


@pytest.mark.slow
def test_the_same_with_the_keyboard_alone(
    window: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    file_asked(DEMO / "readers.toml")
    with qtbot.waitSignal(window.acts.opened):
        press(window, qtbot, "Ctrl+O")
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    press(window, qtbot, "Alt+2")
    assert window.pages.seen is window.plan
    scale = window.sentence.parts["scale"]
    scale.setFocus()
    qtbot.keyClick(scale, Qt.Key.Key_Space)
    names = popup(qtbot).findChild(QListWidget)
    qtbot.keyClick(names, Qt.Key.Key_Down)
    qtbot.keyClick(names, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.sentence.parts["scale"].hasFocus())
    assert window.focus.shelf.plan is not None
    assert window.focus.shelf.plan.scale.method == "range01"
    press(window, qtbot, "Ctrl+Z")
    assert window.focus.shelf.plan.scale.method == "zscore"
    press(window, qtbot, "Ctrl+Shift+Z")
    assert window.focus.shelf.plan.scale.method == "range01"
    press(window, qtbot, "Ctrl+G")
    qtbot.waitUntil(lambda: window.focus.grown is not None)
    assert window.pages.seen is window.tree
    desk = window.tree.dendrogram
    desk.setFocus()
    assert window.focus.cut is not None
    count = window.focus.cut.clusters
    qtbot.keyClick(desk, Qt.Key.Key_Right)
    assert window.focus.cut.clusters == count + 1
    qtbot.keyClick(desk, Qt.Key.Key_Down)
    assert window.tree.reading.words.text().startswith("Join 207 brings")
    file_asked(tmp_path / "members.xlsx")
    press(window, qtbot, "Ctrl+M")
    assert window.acts.files.written()
    frame = pl.read_excel(tmp_path / "members.xlsx")
    told = frame[f"cluster_k{count + 1}"].drop_nulls().to_list()
    assert told == window.focus.cut.membership.tolist()
    assert frame["minutes"].dtype == pl.Float64
    assert frame["stop"][0] == "Dene Cross"
    file_asked(tmp_path / "plan.toml")
    press(window, qtbot, "Ctrl+Shift+P")
    assert window.acts.files.written()
    plan = load_plan(tmp_path / "plan.toml")
    assert plan.scale.method == "range01"
    assert count + 1 in (plan.cut.counts or ())
    # the plan that was saved gives the same clusters without a window
    assert status_of(["run", str(tmp_path / "plan.toml"), "--out", str(tmp_path / "o")]) == 0
    told = pl.read_csv(tmp_path / "o" / "membership.csv")[f"k{count + 1}"].drop_nulls()
    assert told.to_list() == window.focus.cut.membership.tolist()


@pytest.mark.slow
def test_a_ready_plan_with_the_keyboard_alone_and_the_same_from_its_file(
    window: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    data = tmp_path / "readers.csv"
    data.write_bytes((DEMO / "readers.csv").read_bytes())
    file_asked(data)
    press(window, qtbot, "Ctrl+O")
    qtbot.waitUntil(lambda: window.cases.variables.view.table.rowCount() == 20)
    press(window, qtbot, "Alt+A")
    assert window.cases.source.codes.hasFocus()
    qtbot.keyClicks(QApplication.focusWidget(), "98, 99\r")
    press(window, qtbot, "Alt+O")
    qtbot.keyClicks(QApplication.focusWidget(), "visits > 1\r")
    press(window, qtbot, "Alt+V")
    view = QApplication.focusWidget()
    assert view is window.cases.variables.view
    for name, key in (("age", "O"), ("visits", "2"), ("renewals", "O"), ("weight", "W")):
        qtbot.keyClick(view, Qt.Key.Key_Home)
        while window.cases.variables.view.table.summaries[view.currentIndex().row()].name != name:
            qtbot.keyClick(view, Qt.Key.Key_Down)
        qtbot.keyClicks(view, key)
    plan = window.focus.shelf.plan
    assert plan is not None
    assert "renewals" not in plan.variables.use
    assert "visits" in plan.variables.ordinal
    qtbot.waitUntil(lambda: "filtered" in states(window)["Cases"])
    press(window, qtbot, "Ctrl+G")
    qtbot.waitUntil(lambda: window.focus.grown is not None)
    file_asked(tmp_path / "p.toml")
    press(window, qtbot, "Ctrl+Shift+P")
    assert window.acts.files.written()
    assert status_of(["run", str(tmp_path / "p.toml"), "--out", str(tmp_path / "o")]) == 0
    heights = pl.read_csv(tmp_path / "o" / "schedule.csv")["height"].to_list()
    assert heights == window.focus.grown.tree.heights.tolist()


def test_a_change_of_plan_puts_the_tree_out_of_date(grown: Window, qtbot: QtBot) -> None:
    old = grown.focus.grown
    assert not grown.tree.stale.isVisible()
    grown.focus.shelf.change("tree", linkage="complete")
    assert states(grown)["Tree"] == "out of date"
    assert grown.tree.stale.isVisible()
    grown.focus.shelf.undo()
    assert states(grown)["Tree"] == "207 joins, no ties"
    grown.focus.shelf.redo()
    qtbot.waitUntil(lambda: grown.focus.prepared is not None)
    qtbot.mouseClick(grown.tree.stale.grow.grow, LEFT)
    qtbot.waitUntil(lambda: grown.focus.grown is not old)
    assert not grown.tree.stale.isVisible()


@pytest.mark.slow
def test_growing_can_be_stopped_and_never_holds_up_the_window(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    rng = np.random.default_rng(4)
    path = tmp_path / "many.csv"
    np.savetxt(path, rng.normal(size=(7000, 3)), delimiter=",", header="a,b,c", comments="")
    window = opened(path)
    window.focus.shelf.change("tree", linkage="within-average")  # takes its time
    window.go_to(2)
    beats: list[int] = []
    timer = QTimer(window, interval=5)
    timer.timeout.connect(lambda: beats.append(1))
    timer.start()
    seen: list[float] = []
    window.acts.grow()
    job = window.acts.jobs._newest[None, JobKind.GROW][0]
    job.progressed.connect(lambda phase, share, left: seen.append(share))
    bar = window.tree.empty.grow
    qtbot.waitUntil(lambda: len(seen) > 8 and bar.stop.isVisible())
    assert "%" in bar.words.text()
    qtbot.mouseClick(bar.stop, LEFT)
    qtbot.waitUntil(lambda: not window.acts.jobs.busy(JobKind.GROW))
    timer.stop()
    assert window.focus.grown is None
    assert window.note.text() == "Stopped; nothing was changed."
    assert len(beats) > 3  # the window's own clock went on ticking while the tree grew


def test_a_bad_file_says_what_and_where_and_changes_nothing(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    bad = tmp_path / "bad.csv"
    bad.write_text("a,b\n1,2\n1,2,3\n")
    before = grown.focus.shelf.study
    grown.acts.open(bad)
    qtbot.waitUntil(lambda: grown.alarm.isVisible())
    assert grown.alarm_words.text() == "bad.csv: row 2: 3 cells; expected 2, as in the header"
    assert grown.focus.shelf.study is before
    # a plan that cannot be carried out is told on the path and on the Plan page
    grown.focus.shelf.change("variables", nominal=["visits"], count=["loans", "renewals"])
    qtbot.waitUntil(lambda: bool(grown.focus.problem))
    assert states(grown)["Plan"] == "cannot run"
    assert "visits" in grown.plan.problem.text()


def test_a_matrix_is_known_by_its_labels(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "services.csv")
    assert window.focus.shelf.plan is not None
    assert window.focus.shelf.plan.source.kind == "proximities"
    assert window.sentence.sentence() == (
        "Group 16 cases by the distances of services.csv, joined by average linkage."
    )
    assert window.cases.answers.cells.table.index(1, 0).data() == "30"
    window.cases.similarity.click()  # the file has no diagonal that could tell
    qtbot.waitUntil(lambda: "similarities" in window.sentence.sentence())
    assert window.cases.answers.cells.table.index(1, 0).data() == "0"
    window.acts.grow()
    qtbot.waitUntil(lambda: window.focus.grown is not None)
    assert window.tree.schedule.table.text(14, 7) == "–"  # no variables, so no R²


@pytest.mark.parametrize("answer", ["Save the study …", "Discard changes", "Cancel"])
def test_leaving_asks_once_about_what_is_not_saved(
    grown: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None], answer: str
) -> None:
    file_asked(tmp_path / "kept.gorvel")

    asked: list[str] = []

    def choose() -> None:
        box = QApplication.activeModalWidget()
        assert isinstance(box, QMessageBox)
        asked.append(box.text())
        next(b for b in box.buttons() if b.text() == answer).click()

    press(grown, qtbot, "Ctrl+K")
    grown.focus.shelf.change("tree", linkage="complete")

    QTimer.singleShot(100, choose)
    assert grown.close() == (answer != "Cancel")
    assert (tmp_path / "kept.gorvel").exists() == answer.startswith("Save")
    assert grown.isVisible() == (answer == "Cancel")
    assert asked == [
        "Not saved: the memberships of 4 clusters; 1 tree on the shelf; changes of the plan."
    ]


def test_looks_are_kept_and_everything_stays(grown: Window, qtbot: QtBot) -> None:
    light = grown.grab().toImage().pixelColor(4, 300)
    press(grown, qtbot, "Ctrl+T")
    assert current() is DARK
    assert grown.pages.seen is grown.tree
    assert grown.focus.grown is not None
    assert grown.tree.schedule.table.rowCount() == 207
    assert grown.grab().toImage().pixelColor(4, 300).lightness() < light.lightness() - 100
    small = grown.strip.places()[0].width()
    press(grown, qtbot, "Ctrl++")
    assert grown.strip.places()[0].width() > small
    assert load_settings().theme == "dark"
    assert load_settings().text_scale == grown.settings.text_scale


@pytest.mark.slow
def test_other_looks_lose_nothing_that_was_arranged(grown: Window, qtbot: QtBot) -> None:
    tree, axis = grown.tree, grown.tree.desk.axis
    axis.fold(int(grown.focus.cut.roots[0]))  # type: ignore[union-attr]
    axis.rotate(100)
    axis.sort_by("visits")
    axis.zoom(3.0)
    grown.shown.set_scale("log")
    grown.shown.set_frames((0, 2))
    grown.cases.answers.show_tab(3)
    grown.count.show_tab(2)
    grown.count.choice.reasons.setPlainText("they can be told apart")
    before = axis.arrangement, axis.row, axis.scrolled
    for change in ("Ctrl+T", "Ctrl++", "Ctrl+-", "Ctrl+T"):
        press(grown, qtbot, change)
    assert grown.tree is not tree
    assert (axis.arrangement, axis.row, axis.scrolled) == before
    assert grown.tree.desk.axis is axis
    assert axis.sorted_by == "visits"
    assert grown.tree.dendrogram.scene.axis.scale == "log"  # type: ignore[union-attr]
    assert grown.shown.framed == {0, 2}
    assert grown.cases.answers.stack.currentIndex() == 3
    assert grown.count.tabs[2].isChecked()
    assert grown.count.choice.reasons.toPlainText() == "they can be told apart"
    grown.focus.shelf.change("count", chosen=4, reasons="it was seen")
    assert grown.count.choice.reasons.toPlainText() == "it was seen"
    assert not any(grown.shown.reasons.values())


@pytest.mark.slow
def test_a_failure_is_said_once_whatever_the_looks_were(grown: Window, qtbot: QtBot) -> None:
    said: list[str] = []
    for change in ("Ctrl+T", "Ctrl++", "Ctrl+-", "Ctrl+T"):
        press(grown, qtbot, change)
    grown.acts.said.connect(lambda words, _: said.append(words))
    told = grown.say
    grown.say = lambda words, error: (said.append(words), told(words, error))  # type: ignore
    grown.counting.failed.emit("There is not enough memory for this many cases.")
    assert said == ["There is not enough memory for this many cases."]
    assert grown.alarm_words.text() == said[0]
