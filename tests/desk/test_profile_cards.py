"""The cards of the Profiles page driven by hand: pictures, tests, short form, new cases, words."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import moved, press, show_tab
from gorvel.core.profile.differences import differences, holm
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.one_case import membership_shares, one_case
from gorvel.core.profile.raw_answers import read_answers
from gorvel.core.study.opening import load_study
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window
from gorvel.desk.work import profiling as work_module
from gorvel.main import DEMO
from gorvel.paint.charts.lanes_layout import LanesPlace

LEFT, NO_BUTTON = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton


def clusters(grown: Window) -> np.ndarray:
    """The cluster of each case, from 1."""
    return grown.focus.cut.membership


# questions


def test_a_question_is_hidden_and_shown_again(
    page: ProfilesPage, grown: Window, qtbot: QtBot
) -> None:
    first = page.view.lanes[0].name
    page.view.setFocus()
    qtbot.keyClick(page.view, Qt.Key.Key_Down)
    qtbot.keyClick(page.view, Qt.Key.Key_Delete)
    assert first not in {lane.name for lane in page.view.lanes}
    assert page.questions.all.text() == "1 hidden"
    grown.focus.set_count(4)
    assert first not in {lane.name for lane in page.view.lanes}
    qtbot.mouseClick(page.questions.all, LEFT)
    assert first in {lane.name for lane in page.view.lanes}
    assert page.questions.all.isHidden()


@pytest.mark.parametrize("kind", ["box", "density", "stacked"])
def test_spreads_show_the_same_questions(
    page: ProfilesPage, grown: Window, qtbot: QtBot, kind: str
) -> None:
    names = dict.fromkeys(lane.name for lane in page.view.lanes)
    letters = page.view.grab().toImage()
    page.questions.kind.setCurrentIndex(page.questions.kind.findData(kind))
    assert [lane.title for lane in page.view.lanes] == list(names)
    assert page.view.grab().toImage() != letters
    painter = page.view.chart()
    row = list(names).index("minutes")
    line = painter.tops[row] + 6 + 2.5 * (painter.tall - 12) / 5  # the third cluster down
    page.view.mouseMoveEvent(moved(page.view, 320, line, NO_BUTTON))
    third = page.view.order[2]
    values = read_answers(
        grown.focus.shelf.study.source, grown.focus.shelf.plan, grown.focus.grown.prepared
    )  # fmt: skip
    minutes = next(one.values for one in values if one.name == "minutes")
    median = np.median(minutes[grown.focus.cut.membership == third + 1])
    said = page.questions.reading.text()
    assert said.startswith(f"minutes, {grown.focus.identities[third].told}: median {median:g}")
    row = list(names).index("household")
    line = painter.tops[row] + 6 + 2.5 * (painter.tall - 12) / 5
    page.view.mouseMoveEvent(moved(page.view, 320, line, NO_BUTTON))
    household = next(one for one in values if one.name == "household")
    inside = household.values[clusters(grown) == third + 1]
    share = np.mean(inside == household.words.index("family"))
    assert f"family {share:.0%}" in page.questions.reading.text()
    page.questions.kind.setCurrentIndex(0)
    assert page.view.kind == ""


def test_numbers_are_means_medians_sd_or_distances(page: ProfilesPage, grown: Window) -> None:
    lane = next(one for one in page.view.lanes if one.name == "minutes")
    wanted = {"mean": lane.values, "median": lane.median, "sd": lane.sd, "away": lane.away}
    for figure, values in wanted.items():
        page.questions.figure.setCurrentIndex(page.questions.figure.findData(figure))
        table = page.questions.take.table()
        row = next(one for one in table.rows if one[0] == "minutes")
        shown = [float(values[k]) for k in page.view.order]
        assert row[4:] == (*shown, *(int(lane.n[k]) for k in page.view.order))


def test_another_count_and_known_groups_stand_beside(page: ProfilesPage, grown: Window) -> None:
    focus, box = grown.focus, page.questions.beside
    box.setCurrentIndex(box.findText("3 clusters"))
    beside = page.view.beside
    own = cut_at_count(focus.grown.tree, 3).membership - 1
    told = read_answers(focus.shelf.study.source, focus.shelf.plan, focus.grown.prepared)
    core = {one.title: one for one in lanes_of(told, own, 3, np.ones(len(own)))}
    for lane in page.view.lanes:
        np.testing.assert_array_equal(beside.lanes[lane.title].values, core[lane.title].values)
    assert beside.cases == np.bincount(own).tolist()
    painter = page.view.chart()
    page.view.mouseMoveEvent(moved(page.view, painter.width - 20, painter.tops[0] + 8, NO_BUTTON))
    last = beside.called(beside.order[-1])
    assert page.questions.reading.text().startswith(f"{page.view.lanes[0].title}: {last} ")
    assert len(page.questions.take.table().heads) == 4 + 5 + 3 + 5
    box.setCurrentIndex(box.findText("household"))
    words = page.view.beside.groups
    assert "alone" in words
    answers = next(one for one in told if one.name == "household")
    row = next(one for one in page.questions.take.table().rows if one[0] == "visits")
    visits = next(one.values for one in told if one.name == "visits")
    alone = visits[answers.values == answers.words.index("alone")]
    assert row[9 + page.view.beside.order.index(words.index("alone"))] == pytest.approx(
        np.nanmean(alone)
    )
    box.setCurrentIndex(0)
    assert page.view.beside is None


def test_tables_are_saved(page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    for kind in ("csv", "xlsx"):
        path = tmp_path / f"t.{kind}"
        page.questions.take.save_table_to(path)
        qtbot.waitUntil(lambda: grown.acts.jobs.idle)
        frame = pl.read_csv(path) if kind == "csv" else pl.read_excel(path)
        assert frame["question"].to_list() == [lane.title for lane in page.view.lanes]
        assert frame["all cases"][0] == pytest.approx(page.view.lanes[0].whole, rel=1e-5)
    page.questions.take.save_table_to(tmp_path / "t.doc")
    qtbot.waitUntil(lambda: "the file type" in grown.alarm_words.text())


# tests


def test_tests_are_corrected_where_asked(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show_tab(page, grown, qtbot, "Tests")
    focus = grown.focus
    told = read_answers(focus.shelf.study.source, focus.shelf.plan, focus.grown.prepared)
    own = focus.cut.membership - 1
    core = {one.name: differences(one, own, 5, np.ones(len(own)))[0] for one in told}
    heads = page.tests.take.table().heads
    rows = {row[0]: dict(zip(heads, row, strict=True)) for row in page.tests.take.table().rows}
    for name, test in core.items():
        assert rows[name]["statistic"] == test.statistic
        assert rows[name]["p"] == test.p
    profile = [one.name for one in told if one.role == "profile"]
    shown = [page.tests.table_view.item(row, 0).text() for row in range(len(profile))]
    assert set(shown) == set(profile)  # those that can test come first
    qtbot.mouseClick(page.tests.holm, LEFT, pos=QPoint(8, 10))
    corrected = holm(np.array([core[name].p for name in profile]))
    rows = {row[0]: row for row in page.tests.take.table().rows}
    place = page.tests.take.table().heads.index("p (Holm)")
    for name, p in zip(profile, corrected.tolist(), strict=True):
        assert rows[name][place] == pytest.approx(p)
    assert rows["minutes"][place] == core["minutes"].p  # it descriptive only, and is not corrected


# words and colours


def test_a_cluster_has_a_portrait_a_note_and_a_colour(
    page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    focus, card = grown.focus, page.card
    page.view.choose(page.view.order[2])
    number = card.cluster + 1
    assert card.portrait.toPlainText() == ""
    qtbot.mouseClick(card.draft, LEFT)
    drafted = focus.told_of_cluster("portraits", number)
    lanes = {lane.title: lane for lane in page.profiling.portrayed.lanes}
    strongest = max(
        (one for one in lanes.values() if one.role == "active"),
        key=lambda one: float(one.away[card.cluster]),
    )
    assert drafted.startswith(f"High on {strongest.title} (")
    card.portrait.setFocus()
    card.portrait.selectAll()
    qtbot.keyClicks(card.portrait, "Come for events.")
    card.note.setFocus()  # what was typed is taken when the keyboard goes elsewhere
    qtbot.keyClicks(card.note, "Run again")
    page.view.choose(page.view.order[0])
    assert focus.told_of_cluster("portraits", number) == "Come for events."
    assert focus.told_of_cluster("notes", number) == "Run again"
    assert card.portrait.toPlainText() == ""
    page.view.choose(number - 1)
    assert card.note.toPlainText() == "Run again"
    card.paint_in("#123456")
    root = int(focus.cut.roots[number - 1])
    assert "#123456" in card.badge.styleSheet()
    focus.set_count(7)  # kept along the tree, in shades for its parts
    of = {int(r): who for r, who in zip(focus.cut.roots, focus.identities, strict=True)}
    inside = set(focus.grown.tree.members(root).tolist())
    for node, who in of.items():
        held = set(focus.grown.tree.members(node).tolist())
        assert (who.colour == "#123456") == bool(held <= inside)
    focus.set_count(5)
    grown.acts.files.save_study(tmp_path / "s.gorvel")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    cut = load_study(tmp_path / "s.gorvel").study.plan.cut
    assert cut.colours["5"][number - 1] == "#123456"
    assert cut.notes["5"][number - 1] == "Run again"
    assert focus.shelf.to_undo == "the colour of a cluster"
    press(grown, qtbot, "Ctrl+Z")
    assert focus.identities[number - 1].colour == ""


def test_all_cases_of_a_cluster_are_sought_and_followed(
    page: ProfilesPage, grown: Window, qtbot: QtBot
) -> None:
    focus, found = grown.focus, page.card.members
    page.view.choose(page.view.order[1])
    cases = np.flatnonzero(focus.cut.membership == page.card.cluster + 1).tolist()
    assert sorted(found.shown) == cases
    labels = focus.grown.prepared.labels
    qtbot.keyClicks(found.sought, labels[cases[3]].lower())
    assert [labels[case] for case in found.shown] == [labels[cases[3]]]
    found.copy_all()
    assert QApplication.clipboard().text().splitlines()[1].split("\t")[1] == labels[cases[3]]
    found._follow(found.view.model().index(0, 1))
    assert focus.selected == Mark("case", cases[3])
    assert page._side.currentWidget() is page.case


# one case


@pytest.mark.slow
def test_a_case_is_told_of(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    focus, case = grown.focus, 30
    focus.select(Mark("case", case))
    own = focus.cut.membership - 1
    core = one_case(focus.grown, own, case)
    card = page.case
    assert f"silhouette {core.silhouette:.2f}".replace("-", "−") in card.sure.text()
    assert focus.identities[core.cluster - 1].told in card.where.text()
    labels = focus.grown.prepared.labels
    QApplication.processEvents()
    links = [one for one in card.findChildren(QPushButton) if one.text() in labels]
    assert [one.text() for one in links if not one.isHidden()] == [
        labels[other] for other, _ in core.nearest[:5]
    ]
    qtbot.mouseClick(card.ask, LEFT)
    qtbot.waitUntil(lambda: bool(card.kept.text()))
    share = membership_shares(focus.grown, own, work_module.ROUNDS)[case]
    assert f"in {share:.0%} of the resamples" in card.kept.text()
    QApplication.processEvents()
    links = [one for one in card.findChildren(QPushButton) if one.text() in labels]
    qtbot.mouseClick(links[0], LEFT)
    assert focus.selected == Mark("case", core.nearest[0][0])
    back = next(one for one in card.findChildren(QPushButton) if "Its cluster" in one.text())
    qtbot.mouseClick(back, LEFT)
    assert page._side.currentWidget() is page.card
    focus.select(Mark("case", case))
    tree = next(one for one in card.findChildren(QPushButton) if one.text() == "Show on the tree")
    qtbot.mouseClick(tree, LEFT)
    assert grown.pages.seen is grown.tree


# without answers, and large


def test_a_matrix_has_a_map_and_no_more(opened: object, qtbot: QtBot) -> None:
    window: Window = opened(DEMO / "services.toml")  # type: ignore[operator]
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(4)
    page = window.profiles
    assert [tab.text() for tab in page.tabs if tab.isEnabled()] == ["Questions", "Map"]
    show_tab(page, window, qtbot, "Map")
    assert page.map.view.points.known.all()
    window.focus.select(Mark("case", 3))
    assert "silhouette" in page.case.sure.text()
    assert page.case.alike.count() == 5


def test_from_a_cut_to_named_clusters_and_a_table(
    grown: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    """By keys and what is typed; then the table as a colleague has it."""
    press(grown, qtbot, "Alt+3")
    grown.focus.set_count(4)
    press(grown, qtbot, "Alt+5")
    page = grown.profiles
    qtbot.waitUntil(lambda: bool(page.view.lanes))
    titles = {}
    for place in range(4):
        page.view.setFocus()
        page.view.point(LanesPlace(0, page.view.order[place]))
        qtbot.keyClick(page.view, Qt.Key.Key_Return)
        page.card.title.setFocus()
        qtbot.keyClicks(page.card.title, f"Type {place + 1}")
        qtbot.keyClick(page.card.title, Qt.Key.Key_Return)
        titles[page.card.cluster] = f"Type {place + 1}"
    whos = grown.focus.identities
    assert {k: who.title for k, who in enumerate(whos)} == titles
    path = tmp_path / "profiles.xlsx"
    file_asked(path)
    action = next(
        one for one in page.questions.take.menu().actions() if one.text() == "Save table …"
    )
    action.trigger()
    qtbot.waitUntil(lambda: path.exists() and grown.acts.jobs.idle)
    frame = pl.read_excel(path)
    told = [whos[k].told for k in page.view.order]
    assert frame.columns[4:] == [*told, *(f"n: {name}" for name in told)]
    assert all("Type" in name for name in frame.columns[4:])
    lane = next(one for one in page.view.lanes if one.name == "visits")
    row = frame.row(by_predicate=pl.col("question") == "visits", named=True)
    for k in page.view.order:
        assert row[whos[k].told] == pytest.approx(float(lane.values[k]), rel=1e-5)
    page.view.mouseMoveEvent(moved(page.view, page.view.chart().width - 20, 18, NO_BUTTON))
    last = page.view.order[-1]
    assert page.questions.reading.text().startswith(f"{whos[last].told}: ")


def test_words_of_a_cluster_never_go_to_another(
    page: ProfilesPage, grown: Window, qtbot: QtBot
) -> None:
    focus, card = grown.focus, page.card
    page.view.choose(page.view.order[0])
    grown.go_to(2)
    card.title.setText("typed long ago")  # left over, while nobody sees the page
    card.note.setPlainText("a note on another cluster")
    number = card.cluster
    before = int(focus.cut.roots[number])
    for count in range(2, 9):
        focus.set_count(count)
        if number < count and int(focus.cut.roots[number]) != before:
            break
    card.keep()
    assert not any(who.title for who in focus.identities)
    assert not focus.shelf.plan.cut.notes
    with qtbot.waitSignal(focus.shelf.study_changed):
        grown.acts.open(DEMO / "stops.toml")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    card.keep()
    assert not focus.shelf.plan.cut.names
    assert not focus.shelf.plan.cut.notes
