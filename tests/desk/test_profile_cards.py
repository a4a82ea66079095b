"""The cards of the Profiles page driven by hand: pictures, tests, short form, new cases, words."""

from __future__ import annotations

import csv
import json
import time
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import click, moved, press
from gorvel.core.base.progress import Phase
from gorvel.core.grow.assigning import assign
from gorvel.core.grow.grown import read_source
from gorvel.core.plan.file import load_plan
from gorvel.core.profile.components import components_of
from gorvel.core.profile.differences import differences, holm
from gorvel.core.profile.drivers import Driver
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.map import case_map
from gorvel.core.profile.one_case import membership_shares, one_case
from gorvel.core.profile.told import told_answers
from gorvel.core.study.opening import load_study
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window
from gorvel.desk.work import profiling as work_module
from gorvel.main import DEMO
from reference.formulas import read_book, worked_out

LEFT, NO_BUTTON = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton


def show(page: ProfilesPage, grown: Window, qtbot: QtBot, tab: str) -> None:
    """Click a tab, and wait until its work is done."""
    qtbot.mouseClick(next(one for one in page.tabs if one.text() == tab), LEFT)
    qtbot.waitUntil(lambda: grown.acts.jobs.idle, timeout=20_000)
    QApplication.processEvents()


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
    painter = page.view.painter()
    row = list(names).index("minutes")
    line = painter.tops[row] + 6 + 2.5 * (painter.tall - 12) / 5  # the third cluster down
    page.view.mouseMoveEvent(moved(page.view, 320, line, NO_BUTTON))
    third = page.view.order[2]
    values = told_answers(
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
        table = page.table()
        row = next(one for one in table.rows if one[0] == "minutes")
        assert row[4:] == tuple(float(values[k]) for k in page.view.order)


def test_another_count_and_known_groups_stand_beside(page: ProfilesPage, grown: Window) -> None:
    focus, box = grown.focus, page.questions.beside
    box.setCurrentIndex(box.findText("3 clusters"))
    beside = page.view.beside
    own = cut_at_count(focus.grown.tree, 3).membership - 1
    told = told_answers(focus.shelf.study.source, focus.shelf.plan, focus.grown.prepared)
    core = {one.title: one for one in lanes_of(told, own, 3, np.ones(len(own)))}
    for lane in page.view.lanes:
        np.testing.assert_array_equal(beside.lanes[lane.title].values, core[lane.title].values)
    assert beside.cases == np.bincount(own).tolist()
    painter = page.view.painter()
    page.view.mouseMoveEvent(moved(page.view, painter.width - 20, painter.tops[0] + 8, NO_BUTTON))
    last = beside.called(beside.order[-1])
    assert page.questions.reading.text().startswith(f"{page.view.lanes[0].title}: {last} ")
    assert len(page.table().heads) == 4 + 5 + 3
    box.setCurrentIndex(box.findText("household"))
    words = page.view.beside.groups
    assert "alone" in words
    answers = next(one for one in told if one.name == "household")
    row = next(one for one in page.table().rows if one[0] == "visits")
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
        assert frame["all cases"][0] == pytest.approx(page.view.lanes[0].whole)
    page.questions.take.save_table_to(tmp_path / "t.doc")
    qtbot.waitUntil(lambda: "the file type" in grown.alarm_words.text())


# tests


def test_tests_are_corrected_where_asked(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show(page, grown, qtbot, "Tests")
    focus = grown.focus
    told = told_answers(focus.shelf.study.source, focus.shelf.plan, focus.grown.prepared)
    own = focus.cut.membership - 1
    core = {one.name: differences(one, own, 5, np.ones(len(own)))[0] for one in told}
    heads = page.tests.table().heads
    rows = {row[0]: dict(zip(heads, row, strict=True)) for row in page.tests.table().rows}
    for name, test in core.items():
        assert rows[name]["statistic"] == test.statistic
        assert rows[name]["p"] == test.p
    profile = [one.name for one in told if one.role == "profile"]
    shown = [page.tests.table_view.item(row, 0).text() for row in range(len(profile))]
    assert set(shown) == set(profile)  # those that can test come first
    qtbot.mouseClick(page.tests.holm, LEFT, pos=QPoint(8, 10))
    corrected = holm(np.array([core[name].p for name in profile]))
    rows = {row[0]: row for row in page.tests.table().rows}
    place = page.tests.table().heads.index("p (Holm)")
    for name, p in zip(profile, corrected.tolist(), strict=True):
        assert rows[name][place] == pytest.approx(p)
    assert rows["minutes"][place] == core["minutes"].p  # it only describes, and is not corrected


# pictures


def test_the_map_shares_what_is_marked(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show(page, grown, qtbot, "Map")
    focus, view = grown.focus, page.map.view
    core = case_map(focus.grown)
    np.testing.assert_array_equal(view.points.places, core.least)
    assert f"Stress {core.stress1:.2f}" in page.map.says.text()
    painter = view.painter()
    case = 17
    x, y = painter.pixels(core.least)[case].tolist()
    at = painter.case_at(x, y)
    click(qtbot, view, x, y)
    assert focus.selected in (Mark("case", at), *(Mark("cluster", k) for k in range(1, 6)))
    focus.select(Mark("case", case))  # from anywhere
    assert view.painter().selected == case
    assert page._side.currentWidget() is page.case
    assert page.case.title.text().startswith(focus.grown.prepared.labels[case])
    before = view.painter().selected
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Right)
    after = focus.selected.number
    assert after != before
    assert painter.pixels(core.least)[after][0] > painter.pixels(core.least)[before][0]
    parts = {name for name, _ in view.points.shadows}
    assert len(parts) == 2  # what a sixth cluster would part
    grown.focus.set_count(6)
    assert parts <= {who.name for who in focus.identities}
    page.map.next.click()
    assert not view.points.shadows
    page.map.way.setCurrentIndex(1)
    np.testing.assert_array_equal(view.points.places, core.classical)
    middle = view.painter().pixels(view.points.middles)[2].tolist()
    click(qtbot, view, *middle)
    assert focus.selected == Mark("cluster", 3)
    assert page.card.cluster == 2
    sheet = page.map.sheet()
    assert sheet is not None
    assert len(page.map.table().rows) == focus.grown.tree.n


def test_components_and_scatter(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show(page, grown, qtbot, "Components")
    core = components_of(grown.focus.grown)
    np.testing.assert_array_equal(page.components.view.points.places, core.places[:, :2])
    assert len(page.components.view.points.arrows) == 11
    page.components.along.setCurrentIndex(2)
    np.testing.assert_array_equal(page.components.view.points.places, core.places[:, [0, 2]])
    assert page.components.table().rows[0][1] == core.loadings[0, 0]
    show(page, grown, qtbot, "Scatter")
    scatter = page.scatter
    assert {scatter.across.currentText(), scatter.along.currentText()} == {
        lane.name for lane in page.profiling.portrayed.lanes[:2]
    }
    scatter.across.setCurrentText("visits")
    scatter.along.setCurrentText("quiet")  # few different answers, set apart
    told = {one.name: one.values for one in page.profiling.portrayed.told}
    np.testing.assert_array_equal(scatter.view.points.places[:, 0], told["visits"])
    moved_by = np.abs(scatter.view.points.places[:, 1] - told["quiet"])
    assert 0 < np.nanmax(moved_by) < 0.5
    qtbot.mouseClick(scatter.matrix, LEFT)
    QApplication.processEvents()
    grid = scatter.grid
    assert len(grid.names) == 5
    click(qtbot, grid, grid.width() * 0.3, grid.height() * 0.7)
    assert scatter.pictures.currentIndex() == 0
    assert (scatter.across.currentText(), scatter.along.currentText()) == (
        grid.names[1], grid.names[3],
    )  # fmt: skip


def test_a_map_that_is_stopped_goes_on_when_asked(
    page: ProfilesPage, grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = work_module.case_map

    def slow(tree: object, progress: object) -> object:
        while True:
            progress(Phase.MAP, 0.5)  # type: ignore[operator]
            time.sleep(0.002)

    monkeypatch.setattr(work_module, "case_map", slow)
    qtbot.mouseClick(page.tabs[2], LEFT)
    qtbot.waitUntil(lambda: page.map.bar.isVisible())
    qtbot.mouseClick(page.map.bar.stop, LEFT)
    qtbot.waitUntil(lambda: page.map.bar.says.text() == "It was stopped.")
    page.show_tab(0)
    page.show_tab(2)
    assert page.map.view.points is None  # not begun again unasked
    monkeypatch.setattr(work_module, "case_map", real)
    qtbot.mouseClick(page.map.bar.again, LEFT)
    qtbot.waitUntil(lambda: page.map.view.points is not None)
    assert page.map.bar.isHidden()


# what matters


def test_what_matters_is_worked_out_and_said(
    page: ProfilesPage, grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = [
        Driver("visits", 0.4, 0.7, -0.1),
        Driver("hours", 0.9, 0.02, 0.01),
        Driver("loans", 0.8, 0.6, 0.0),
    ]
    monkeypatch.setattr(work_module, "drivers", lambda *args: made)
    show(page, grown, qtbot, "What matters")
    assert "Without visits the clusters change most" in page.drivers.says.text()
    assert "less than a tenth of hours" in page.drivers.says.text()
    names = [page.drivers.view.item(row, 0).text() for row in range(3)]
    assert names == ["visits", "loans", "hours"]
    assert page.drivers.view.item(2, 4).text() == "only adds noise here"
    grown.focus.split_cluster(1)
    qtbot.waitUntil(lambda: "cut by count" in page.drivers.says.text())


# short form


def test_the_short_form_is_chosen_and_saved_as_formulas(
    page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    show(page, grown, qtbot, "Short form")
    card = page.form
    whole = page.profiling.form.found
    near = [share >= max(whole.accuracy) - 0.01 for share in whole.accuracy]
    assert len(card.form.questions) == near.index(True) + 1
    step = (card.curve.width() - 56) / len(whole.accuracy)
    click(qtbot, card.curve, 44 + 2.5 * step, 40)
    assert card.form.questions == whole.questions[:3]
    assert f"{whole.accuracy[2]:.0%}" in card.says.text()
    focus = grown.focus
    order = page.view.order
    assert [card.rule.horizontalHeaderItem(k).text() for k in range(5)] == [
        focus.identities[k].name for k in order
    ]
    card.save_to(tmp_path / "s.ods")
    card.save_to(tmp_path / "s.json")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    values, formulas = read_book(tmp_path / "s.ods")
    told = {one.name: one.values for one in page.profiling.portrayed.told}
    wanted = card.form.rule.clusters(np.column_stack([told[q] for q in card.form.questions]))
    for case in (0, 50, 100):
        for j, question in enumerate(card.form.questions):
            values["Respondents", f"{'BCD'[j]}30"] = float(told[question][case])
        found = worked_out(values, formulas, "Respondents", "E30")
        assert found == focus.identities[int(wanted[case])].told
    saved = json.loads((tmp_path / "s.json").read_text())
    assert [one["variable"] for one in saved["questions"]] == list(card.form.questions)
    assert saved["clusters"] == [who.told for who in focus.identities]


# new cases


def test_new_cases_are_given_and_compared(
    page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    rows = list(csv.reader((DEMO / "readers.csv").read_text().splitlines()))
    body = [row for row in rows[1:] if "" not in row][:80]
    far = list(body[0])
    far[rows[0].index("minutes")] = "5000"
    path = tmp_path / "wave2.csv"
    with path.open("w", newline="") as file:
        csv.writer(file).writerows([rows[0], *body, far])
    show(page, grown, qtbot, "New cases")
    page.new_cases.take_file(path)
    qtbot.waitUntil(lambda: page.new_cases.found is not None)
    found, focus = page.new_cases.found, grown.focus
    plan = focus.shelf.plan
    other = read_source(plan, path)
    core = assign(focus.shelf.study.source, plan, focus.grown, other, [5]).by_count[5]
    np.testing.assert_array_equal(found.given.cluster, core.cluster)
    table = page.new_cases.table()
    assert [row[2] for row in table.rows] == np.bincount(core.cluster)[1:].tolist()
    assert page.new_cases.far.rowCount() == int(core.far.sum()) >= 1
    assert page.new_cases.far.isVisible()
    assert "chi-square" in page.new_cases.test.text()
    assert focus.shelf.to_undo == "which cases are given clusters"
    grown.acts.files.save_plan(tmp_path / "p.toml")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    assert load_plan(tmp_path / "p.toml").assign.file == str(path)
    focus.set_count(3)
    qtbot.waitUntil(lambda: page.new_cases.found is not None)
    assert page.new_cases.sizes.rowCount() == 3
    path.write_text("visits\n1\n")
    page.new_cases.take_file(path)
    qtbot.waitUntil(lambda: page.new_cases.bar.isVisible())
    assert "no such column" in page.new_cases.bar.says.text() or "column" in (
        page.new_cases.bar.says.text()
    )
    qtbot.mouseClick(page.new_cases.drop, LEFT)
    assert focus.shelf.plan.assign is None
    assert page.new_cases.found is None


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
    qtbot.keyClicks(card.note, "ask again")
    page.view.choose(page.view.order[0])
    assert focus.told_of_cluster("portraits", number) == "Come for events."
    assert focus.told_of_cluster("notes", number) == "ask again"
    assert card.portrait.toPlainText() == ""
    page.view.choose(number - 1)
    assert card.note.toPlainText() == "ask again"
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
    assert cut.notes["5"][number - 1] == "ask again"
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
    qtbot.waitUntil(lambda: bool(card.kept.text()), timeout=20_000)
    share = membership_shares(focus.grown, own, work_module.ROUNDS)[case]
    assert f"In {share:.0%} of the resamples" in card.kept.text()
    QApplication.processEvents()
    links = [one for one in card.findChildren(QPushButton) if one.text() in labels]
    qtbot.mouseClick(links[0], LEFT)
    assert focus.selected == Mark("case", core.nearest[0][0])
    back = next(one for one in card.findChildren(QPushButton) if "its cluster" in one.text())
    qtbot.mouseClick(back, LEFT)
    assert page._side.currentWidget() is page.card
    focus.select(Mark("case", case))
    tree = next(one for one in card.findChildren(QPushButton) if one.text() == "on the tree")
    qtbot.mouseClick(tree, LEFT)
    assert grown.pages.currentWidget() is grown.tree


# without answers, and large


def test_a_matrix_has_a_map_and_no_more(opened: object, qtbot: QtBot) -> None:
    window: Window = opened(DEMO / "services.toml")  # type: ignore[operator]
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(4)
    page = window.profiles
    assert [tab.text() for tab in page.tabs if tab.isEnabled()] == ["Questions", "Map"]
    show(page, window, qtbot, "Map")
    assert page.map.view.points.known.all()
    window.focus.select(Mark("case", 3))
    assert "silhouette" in page.case.sure.text()
    assert page.case.alike.count() == 5


def test_from_a_cut_to_named_clusters_and_a_table(
    grown: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
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
        page.view.point(0, page.view.order[place])
        qtbot.keyClick(page.view, Qt.Key.Key_Return)
        page.card.title.setFocus()
        qtbot.keyClicks(page.card.title, f"Type {place + 1}")
        qtbot.keyClick(page.card.title, Qt.Key.Key_Return)
        titles[page.card.cluster] = f"Type {place + 1}"
    whos = grown.focus.identities
    assert {k: who.title for k, who in enumerate(whos)} == titles
    path = tmp_path / "profiles.xlsx"
    monkeypatch.setattr(
        "gorvel.desk.views.taking_away.QFileDialog.getSaveFileName",
        lambda *args: (str(path), "Spreadsheet (*.xlsx)"),
    )
    action = next(
        one for one in page.questions.take.menu().actions() if one.text() == "Save the table …"
    )
    action.trigger()
    qtbot.waitUntil(lambda: path.exists() and grown.acts.jobs.idle)
    frame = pl.read_excel(path)
    assert frame.columns[4:] == [whos[k].told for k in page.view.order]
    assert all("Type" in name for name in frame.columns[4:])
    lane = next(one for one in page.view.lanes if one.name == "visits")
    row = frame.row(by_predicate=pl.col("question") == "visits", named=True)
    for k in page.view.order:
        assert row[whos[k].told] == pytest.approx(float(lane.values[k]))
    page.view.mouseMoveEvent(moved(page.view, page.view.painter().width - 20, 18, NO_BUTTON))
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
