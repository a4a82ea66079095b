"""Maps, components, scatters, what matters, the short form and new cases, driven by hand."""

from __future__ import annotations

import csv
import json
import time
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import click, show_tab
from gorvel.core.base.progress import Phase
from gorvel.core.grow.assigning import assign
from gorvel.core.plan.file import load_plan
from gorvel.core.profile.components import components_of
from gorvel.core.profile.leave_one_variable_out import Driver
from gorvel.core.profile.map import case_map
from gorvel.core.sources.reading import read_source
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window
from gorvel.desk.work import profiling as work_module
from gorvel.main import DEMO
from reference.formulas import read_book, worked_out

LEFT, NO_BUTTON = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton


# pictures


def test_the_map_shares_what_is_marked(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show_tab(page, grown, qtbot, "Map")
    focus, view = grown.focus, page.map.view
    core = case_map(focus.grown)
    np.testing.assert_array_equal(view.points.places, core.least)
    assert f"Stress {core.stress1:.2f}" in page.map.says.text()
    painter = view.chart()
    case = 17
    x, y = painter.pixels(core.least)[case].tolist()
    at = painter.case_at(x, y)
    click(qtbot, view, x, y)
    assert focus.selected in (Mark("case", at), *(Mark("cluster", k) for k in range(1, 6)))
    focus.select(Mark("case", case))  # from anywhere
    assert view.chart().selected == case
    assert page._side.currentWidget() is page.case
    assert page.case.title.text().startswith(focus.grown.prepared.labels[case])
    before = view.chart().selected
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
    middle = view.chart().pixels(view.points.middles)[2].tolist()
    click(qtbot, view, *middle)
    assert focus.selected == Mark("cluster", 3)
    assert page.card.cluster == 2
    sheet = page.map.take.picture()
    assert sheet is not None
    assert len(page.map.take.table().rows) == focus.grown.tree.n


def test_components_and_scatter(page: ProfilesPage, grown: Window, qtbot: QtBot) -> None:
    show_tab(page, grown, qtbot, "Components")
    core = components_of(grown.focus.grown)
    np.testing.assert_array_equal(page.components.view.points.places, core.places[:, :2])
    assert len(page.components.view.points.arrows) == 11
    page.components.along.setCurrentIndex(2)
    np.testing.assert_array_equal(page.components.view.points.places, core.places[:, [0, 2]])
    assert page.components.take.table().rows[0][1] == core.loadings[0, 0]
    show_tab(page, grown, qtbot, "Scatter")
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
    qtbot.waitUntil(lambda: page.map.bar.says.text() == "Stopped.")
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
    show_tab(page, grown, qtbot, "What matters")
    assert "The clusters change most without visits" in page.drivers.says.text()
    assert "Less than 10% of the variance of hours" in page.drivers.says.text()
    names = [page.drivers.view.item(row, 0).text() for row in range(3)]
    assert names == ["visits", "loans", "hours"]
    assert page.drivers.view.item(2, 4).text() == "contributes little here"
    grown.focus.split_cluster(1)
    qtbot.waitUntil(lambda: "cut by number of clusters" in page.drivers.says.text())


# short form


def test_the_short_form_is_chosen_and_saved_as_formulas(
    page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    show_tab(page, grown, qtbot, "Short form")
    card = page.form
    whole = page.profiling.form.found
    near = [share >= max(whole.accuracy) - 0.01 for share in whole.accuracy]
    assert len(card.profiling.short_form.questions) == near.index(True) + 1
    step = (card.curve.width() - 56) / len(whole.accuracy)
    click(qtbot, card.curve, 44 + 2.5 * step, 40)
    assert card.profiling.short_form.questions == whole.questions[:3]
    assert f"{whole.accuracy[2]:.0%}" in card.finding.text()
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
    wanted = card.profiling.short_form.rule.clusters(
        np.column_stack([told[q] for q in card.profiling.short_form.questions])
    )
    for case in (0, 50, 100):
        for j, question in enumerate(card.profiling.short_form.questions):
            values["Respondents", f"{'BCD'[j]}30"] = float(told[question][case])
        found = worked_out(values, formulas, "Respondents", "E30")
        assert found == focus.identities[int(wanted[case])].told
    saved = json.loads((tmp_path / "s.json").read_text())
    assert [one["variable"] for one in saved["questions"]] == list(
        card.profiling.short_form.questions
    )
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
    show_tab(page, grown, qtbot, "New cases")
    page.new_cases.take_file(path)
    qtbot.waitUntil(lambda: page.profiling.assigned is not None)
    found, focus = page.profiling.assigned, grown.focus
    plan = focus.shelf.plan
    other = read_source(plan, path)
    core = assign(focus.shelf.study.source, plan, focus.grown, other, [5]).by_count[5]
    np.testing.assert_array_equal(found.given.cluster, core.cluster)
    table = page.new_cases.take.table()
    assert [row[2] for row in table.rows] == np.bincount(core.cluster)[1:].tolist()
    assert page.new_cases.far.rowCount() == int(core.far.sum()) >= 1
    assert page.new_cases.far.isVisible()
    assert "chi-square" in page.new_cases.test.text()
    assert focus.shelf.to_undo == "new cases"
    grown.acts.files.save_plan(tmp_path / "p.toml")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    assert load_plan(tmp_path / "p.toml").assign.file == str(path)
    focus.set_count(3)
    qtbot.waitUntil(lambda: page.profiling.assigned is not None)
    assert page.new_cases.sizes.rowCount() == 3
    path.write_text("visits\n1\n")
    page.new_cases.take_file(path)
    qtbot.waitUntil(lambda: page.new_cases.bar.isVisible())
    assert "no such column" in page.new_cases.bar.says.text() or "column" in (
        page.new_cases.bar.says.text()
    )
    qtbot.mouseClick(page.new_cases.drop, LEFT)
    assert focus.shelf.plan.assign is None
    assert page.profiling.assigned is None
