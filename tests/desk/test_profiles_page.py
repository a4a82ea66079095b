"""The Profiles page driven by hand: lanes pointed at, sorted, sought; clusters named; copies."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import click, moved
from gorvel.core.base.progress import Phase
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.members import members_of
from gorvel.core.profile.raw_answers import read_answers
from gorvel.desk.pages.profiles import cluster_card as card_module
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.window.window import Window
from gorvel.desk.work import profiling as work_module
from gorvel.main import DEMO
from gorvel.paint.canvas import Canvas

LEFT, NO_BUTTON = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton


def test_lanes_hold_what_the_core_says_and_follow_the_cut(
    page: ProfilesPage, grown: Window
) -> None:
    focus = grown.focus
    answers = read_answers(focus.shelf.study.source, focus.shelf.plan, focus.grown.prepared)
    n = focus.grown.tree.n
    core = lanes_of(answers, focus.cut.membership - 1, 5, np.ones(n))
    assert [lane.title for lane in page.view.lanes] == [lane.title for lane in core]
    for shown, wanted in zip(page.view.lanes, core, strict=True):
        np.testing.assert_array_equal(shown.values, wanted.values)
    assert {lane.role for lane in core} == {"active", "profile"}
    names = [focus.identities[k].name for k in page.view.order]
    assert names == ["A1", "A2", "B", "C", "D"]
    focus.set_count(3)
    assert len(page.view.order) == 3
    assert all(len(lane.values) == 3 for lane in page.view.lanes)
    focus.split_cluster(1)  # a branch cut lower
    assert all(len(lane.values) == 4 for lane in page.view.lanes)


def test_the_head_with_the_names_stays_while_rows_scroll(
    page: ProfilesPage, grown: Window, qtbot: QtBot
) -> None:
    view, before = page.view, page.view.chart().head
    for cluster, name in enumerate(("Regulars by habit", "Commuters"), 1):
        grown.focus.name_cluster(cluster, name)
    painter = view.chart()
    assert painter.head > before
    assert view.minimumHeight() == int(painter.foot)
    told = {" ".join(lines) for lines in painter.titles.values()}
    assert "Commuters" in told
    grown.resize(1200, 700)
    QApplication.processEvents()
    area = view.parent().parent()
    area.verticalScrollBar().setValue(150)
    QApplication.processEvents()
    assert view.above == 150
    painter = view.chart()
    picture, still = view.grab().toImage(), QImage(view.size(), QImage.Format.Format_RGB32)
    with QPainter(still) as ground:
        view.chart().paint_head(Canvas(ground), 0.0)
    ratio, place = picture.devicePixelRatio(), view.order.index(0)
    x = painter.width - 8 - (len(view.order) - place - 0.5) * painter._cell_wide
    for y in (10, 20, 40):  # the same badge and name, 150 pixels lower
        seen = picture.pixelColor(round(x * ratio), round((150 + y) * ratio))
        assert seen == still.pixelColor(round(x), y)
    view.setFocus()
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Up):  # keys never leave what is in sight
        for _ in range(len(view.lanes)):
            qtbot.keyClick(view, key)
            top = view.chart().tops[view.row]
            seen = view.above, view.above + area.viewport().height()
            assert top >= seen[0] + painter.head or view.row == 0
            assert top + painter.tall <= seen[1]
    area.verticalScrollBar().setValue(150)
    view.mouseMoveEvent(moved(view, x, 170, NO_BUTTON))
    assert (view.row, view.cluster) == (-1, 0)
    view.mouseMoveEvent(moved(view, x, 150 + painter.head + 40, NO_BUTTON))
    assert view.row >= 0


def test_what_is_pointed_at_is_a_sentence(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    painter = page.view.chart()
    row = [lane.name for lane in painter.lanes].index("minutes")
    y = painter.tops[row] + 10
    lane, last = painter.lanes[row], page.view.order[-1]
    page.view.mouseMoveEvent(moved(page.view, painter.width - 30, y, NO_BUTTON))
    said = page.questions.reading.text()
    assert said.startswith("minutes: D ")
    assert "95% CI" in said
    assert f"{lane.n[last]:,} answered." in said
    letter = painter.x(lane, float(lane.values[page.view.order[0]]))
    page.view.mouseMoveEvent(moved(page.view, letter, y, NO_BUTTON))
    assert page.questions.reading.text().startswith("minutes: A1 ")
    page.view.mouseMoveEvent(moved(page.view, 40, y, NO_BUTTON))
    assert page.questions.reading.text().startswith(
        "minutes: 44.15 in all cases; 76% of its variance"
    )
    page.view.leaveEvent(None)
    assert page.questions.reading.text() == ""
    page.view.setFocus()
    qtbot.keyClick(page.view, Qt.Key.Key_Down)
    qtbot.keyClick(page.view, Qt.Key.Key_Right)
    assert page.questions.reading.text().startswith(f"{page.view.lanes[0].title}: A1 ")
    qtbot.keyClick(page.view, Qt.Key.Key_Right)
    qtbot.keyClick(page.view, Qt.Key.Key_Return)
    assert page.card.badge.text() == "A2"


def test_questions_are_sorted_and_sought(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    plan = grown.focus.shelf.plan
    page.questions.sort.setCurrentIndex(1)
    active = [lane.name for lane in page.view.lanes if lane.role == "active"]
    assert active == list(plan.variables.use)
    page.questions.sort.setCurrentIndex(2)  # what marks A1
    by = page.questions.sort.currentData()
    away = [abs(lane.away[by]) for lane in page.view.lanes if lane.role == "active"]
    assert away == sorted(away, reverse=True)
    page.questions.sought.setFocus()
    qtbot.keyClicks(page.questions.sought, "EVENT")
    assert {lane.name for lane in page.view.lanes} == {"events_pull", "attends_events"}
    qtbot.keyClicks(page.questions.sought, " nowhere")
    assert page.view.lanes == []
    assert page.questions.says.text() == "No question contains these words."
    page.questions.sought.clear()
    assert len(page.view.lanes) > 10


def test_a_cluster_is_chosen_named_and_told_everywhere(
    page: ProfilesPage, grown: Window, qtbot: QtBot
) -> None:
    painter = page.view.chart()
    place = page.view.order.index(next(
        k for k in page.view.order if grown.focus.identities[k].name == "C"
    ))  # fmt: skip
    x = painter.width - 8 - (len(page.view.order) - place - 0.5) * 62
    click(qtbot, page.view, x, 18)
    cluster = page.card.cluster
    assert page.card.badge.text() == "C"
    core = members_of(grown.focus.grown, grown.focus.cut, cluster + 1)
    QApplication.processEvents()
    links = [b for b in page.card.findChildren(QPushButton) if not b.isHidden()]
    labels = grown.focus.grown.prepared.labels
    link = next(one for one in links if one.text() == labels[int(core.typical[0])])
    qtbot.mouseClick(link, LEFT)
    assert grown.focus.mark.kind == "case"
    assert grown.focus.mark.number == int(core.typical[0])
    page.case.back.emit()
    page.card.title.setText("Event families")
    qtbot.keyClick(page.card.title, Qt.Key.Key_Return)
    assert grown.focus.identities[cluster].title == "Event families"
    assert [stop.state for stop in grown.stops() if stop.name == "Profiles"] == ["1 of 5 named"]
    assert any(
        "Event families" in page.questions.sort.itemText(k)
        for k in range(page.questions.sort.count())
    )
    grown.focus.set_count(4)
    assert any(who.title == "Event families" for who in grown.focus.identities)


def test_large_studies_are_told_off_the_thread(
    page: ProfilesPage, grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    at_once = [lane.values.tolist() for lane in page.view.lanes]
    monkeypatch.setattr(work_module, "_AT_ONCE", 10)
    grown.focus.set_count(4)
    assert page.view.lanes == []
    assert page.questions.says.text() == "Computing profiles …"
    grown.focus.set_count(5)  # what was begun for four is not shown
    qtbot.waitUntil(lambda: bool(page.view.lanes))
    assert [lane.values.tolist() for lane in page.view.lanes] == at_once
    assert page.questions.says.isHidden()


def test_members_of_large_studies_are_measured_when_asked_and_stopped(
    page: ProfilesPage, grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    core = members_of(grown.focus.grown, grown.focus.cut, page.view.order[1] + 1)
    held = threading.Event()

    def slow(*args: object) -> object:
        while not held.is_set():
            time.sleep(0.005)
            args[-1](Phase.PAIRS, 0.5)  # type: ignore[operator]
        return members_of(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(card_module, "_PAIRS", 10)
    monkeypatch.setattr(card_module, "members_of", slow)
    page.view.choose(page.view.order[1])

    def press(words: str) -> None:
        QApplication.processEvents()
        links = [b for b in page.card.findChildren(QPushButton) if b.text() == words]
        qtbot.mouseClick(links[-1], LEFT)

    press("Compute members")
    qtbot.waitUntil(lambda: "50%" in page.card.figures.text())
    press("Stop")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    held.set()
    press("Compute members")
    qtbot.waitUntil(lambda: "mean silhouette" in page.card.figures.text())
    assert f"{core.silhouette:.2f}" in page.card.figures.text()


@pytest.mark.slow
def test_a_case_by_itself_is_told_as_such(page: ProfilesPage, grown: Window) -> None:
    grown.focus.set_count(grown.focus.grown.tree.n)
    page.view.choose(0)
    assert page.card.figures.text() == "One case by itself."


def test_the_lanes_are_copied_and_drawn(page: ProfilesPage, grown: Window) -> None:
    page.questions.take.copy_values()
    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].split("\t")[:4] == ["question", "role", "effect size", "all cases"]
    assert len(lines) == len(page.view.lanes) + 1
    first = page.view.lanes[0]
    assert float(lines[1].split("\t")[3]) == pytest.approx(first.whole)
    sheet = page.questions.take.picture()
    assert sheet is not None
    assert sheet.height > 60


def test_a_matrix_has_members_and_no_answers(opened: object, qtbot: QtBot) -> None:
    window: Window = opened(DEMO / "services.toml")  # type: ignore[operator]
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(4)
    page = window.profiles
    assert "no variables to profile" in page.questions.says.text()
    assert page.questions.sort.isHidden()
    assert page.card.figures.text().startswith("Mean within-cluster proximity")
    assert page.questions.take.picture() is None


def test_before_there_is_a_tree_the_page_says_how_to_get_one(opened: object) -> None:
    window: Window = opened(DEMO / "readers.toml")  # type: ignore[operator]
    window.go_to(4)
    assert window.profiles._stack.currentIndex() == 0
    assert [stop.state for stop in window.stops() if stop.name == "Profiles"] == ["no clusters yet"]


def test_a_column_that_cannot_be_read_is_said(opened: object, qtbot: QtBot, tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("a,b,c\n1,2,1\n2,1,2\n9,8,3\n8,9,oops\n7,8,4\n")
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\nprofile = ["c"]\n'
        'interval = ["c"]\n'
    )
    window: Window = opened(tmp_path / "p.toml")  # type: ignore[operator]
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(4)
    assert 'row 4, column "c"' in window.profiles.questions.says.text()


def test_the_hand_is_shown_where_a_press_means_something(page: ProfilesPage) -> None:
    view, chart = page.view, page.view.chart()
    assert chart is not None
    y = chart.tops[0] + chart.tall / 2
    shapes = {}
    for x in (20.0, chart.width - 8 - 0.5 * chart._cell_wide):
        place = chart.at(x, y)
        view.mouseMoveEvent(moved(view, x, y, Qt.MouseButton.NoButton))
        assert place is not None
        shapes[place.cluster >= 0] = view.cursor().shape()
    assert shapes == {
        False: Qt.CursorShape.ArrowCursor, True: Qt.CursorShape.PointingHandCursor
    }  # fmt: skip
