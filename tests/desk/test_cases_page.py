"""The Cases page: lists, remedies, and the cases from all sides."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import QItemSelectionModel, QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from driving import states
from gorvel.desk.editors.condition_builder import ConditionBuilder
from gorvel.desk.views.variables_list import VariablesList
from gorvel.desk.window.window import Window
from gorvel.main import DEMO
from gorvel.paint.theme import DARK, LIGHT, current

Opener = Callable[[Path], Window]


def select(view: VariablesList, *names: str) -> None:
    flags = QItemSelectionModel.SelectionFlag.Rows | QItemSelectionModel.SelectionFlag.Select
    view.clearSelection()
    for row, summary in enumerate(view.table.summaries):
        if summary.name in names:
            view.selectionModel().select(view.table.index(row, 0), flags)


def test_roles_and_levels_are_set_for_many_at_once_and_taken_back(
    opened: Opener, qtbot: QtBot
) -> None:
    window = opened(DEMO / "readers.toml")
    view, focus = window.cases.variables.view, window.focus
    before = focus.shelf.plan
    select(view, "age", "renewals", "visits")
    qtbot.keyClick(view, Qt.Key.Key_A)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.variables.use[:4] == ("age", "visits", "loans", "renewals")
    qtbot.keyClick(view, Qt.Key.Key_2)
    assert set(focus.shelf.plan.variables.ordinal) >= {"age", "renewals", "visits", "quiet"}
    qtbot.keyClick(view, Qt.Key.Key_O)
    assert not {"age", "renewals", "visits"} & set(focus.shelf.plan.variables.use)
    for _ in range(3):
        focus.shelf.undo()
    assert focus.shelf.plan == before

    select(view, "stop", "known_type")  # there is one label: the last of them
    qtbot.keyClick(view, Qt.Key.Key_L)
    assert focus.shelf.plan.cases.label == "known_type"
    select(view, "weight")
    qtbot.keyClick(view, Qt.Key.Key_W)
    assert focus.shelf.plan.cases.weight == "weight"
    assert "weighted by weight" in window.sentence.sentence()
    select(view, "stop")
    qtbot.keyClick(view, Qt.Key.Key_S)
    assert focus.shelf.plan.cases.split == "stop"
    assert window.sentence.sentence().endswith("; split by stop.")
    qtbot.waitUntil(lambda: "6 groups by stop: Alder Bridge 56," in window.plan.state.text())
    assert window.plan.state.text().endswith(" Each grows a tree of its own.")
    assert "pairs" not in window.plan.state.text()  # of all cases: nobody measures those
    select(view, "weight")
    qtbot.keyClick(view, Qt.Key.Key_A)  # a weight that becomes active is a weight no more
    assert focus.shelf.plan.cases.weight is None
    assert "weight" in focus.shelf.plan.variables.use


def test_a_level_is_picked_in_its_cell(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    view = window.cases.variables.view
    row = next(k for k, s in enumerate(view.table.summaries) if s.name == "age")
    index = view.table.index(row, 2)
    assert index.data() == "interval"
    view.setCurrentIndex(index)
    view.edit(index)
    box = view.findChild(QComboBox)
    box.setCurrentText("ordinal")
    box.activated.emit(box.currentIndex())
    assert index.data() == "ordinal"
    assert window.focus.shelf.plan is not None
    assert "age" in window.focus.shelf.plan.variables.ordinal


def test_gaps_and_dropped_cases_are_seen_in_the_table_and_cells_copy_out(
    opened: Opener, qtbot: QtBot
) -> None:
    window = opened(DEMO / "readers.toml")
    view = window.cases.answers.cells
    table, names = view.table, view.table.source.names
    prepared = window.focus.prepared
    assert prepared is not None
    row = prepared.dropped[0].case - 1
    tip = table.index(row, 0).data(Qt.ItemDataRole.ToolTipRole)
    assert tip == f"Excluded: {prepared.dropped[0].reason}"
    gap = next(
        (r, c)
        for r in range(240)
        for c, name in enumerate(names)
        if name == "staff" and table.index(r, c).data() in ("98", "99")
    )
    cell = table.index(*gap)
    assert "is read as missing" in cell.data(Qt.ItemDataRole.ToolTipRole)
    assert cell.data(Qt.ItemDataRole.ForegroundRole) == QColor(current().warn)
    assert current() in (LIGHT, DARK)

    view.setSelectionMode(view.SelectionMode.ContiguousSelection)
    view.setCurrentIndex(table.index(0, 0))
    view.selectionModel().select(table.index(0, 1), QItemSelectionModel.SelectionFlag.Select)
    view.copy()
    assert QApplication.clipboard().text() == "reader_id\tstop\nR001\tDene Cross\n"


def shown_button(parent: QWidget, words: str, qtbot: QtBot) -> QPushButton:
    """The first visible button with these words; new ones are shown a moment later."""

    def shown() -> list[QPushButton]:
        return [b for b in parent.findChildren(QPushButton) if b.text() == words and b.isVisible()]

    qtbot.waitUntil(lambda: bool(shown()))
    return shown()[0]


@pytest.mark.slow
def test_what_is_to_be_looked_at_is_mended_with_one_click(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.csv")
    panel, focus = window.cases.variables, window.focus
    qtbot.waitUntil(lambda: bool(panel.flags.flags))
    before = focus.shelf.plan
    while panel.flags.flags:
        flags = panel.flags.flags
        assert flags[0].remedy is not None
        mend = shown_button(panel.flags, flags[0].remedy.words, qtbot)
        qtbot.mouseClick(mend, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda flags=flags: panel.flags.flags is not flags)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.codes("staff") == ("98", "99")
    assert "renewals" not in focus.shelf.plan.variables.use
    assert focus.shelf.plan.variables.cap["minutes"] == (1, 99)
    assert "capped" in window.sentence.sentence()
    while focus.shelf.to_undo:
        focus.shelf.undo()
    assert focus.shelf.plan == before
    qtbot.waitUntil(lambda: bool(panel.flags.flags))
    tails = next(flag for flag in panel.flags.flags if flag.kind == "heavy-tail")
    name = shown_button(panel.flags, f"{len(tails.columns)} variables", qtbot)
    qtbot.mouseClick(name, Qt.MouseButton.LeftButton)
    chosen = {panel.view.table.summaries[r].name for r in panel.view.chosen_rows()}
    assert chosen == set(tails.columns) > {"minutes"}


def test_variables_are_found_and_given_roles_by_keys_alone(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.csv")
    panel, focus = window.cases.variables, window.focus
    qtbot.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    assert panel.search.hasFocus()
    qtbot.keyClicks(panel.search, "out NOM")
    assert panel.found.text() == "3 found"
    shown = [
        s.name for k, s in enumerate(panel.view.table.summaries) if not panel.view.isRowHidden(k)
    ]
    assert shown == ["stop", "household", "known_type"]
    qtbot.keyClick(panel.search, Qt.Key.Key_Return)
    qtbot.keyClick(panel.view, Qt.Key.Key_P)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.variables.profile == ("stop", "household", "known_type")
    panel.search.setText("known")
    qtbot.keyClick(panel.search, Qt.Key.Key_Return)
    qtbot.keyClick(panel.view, Qt.Key.Key_K)
    assert focus.shelf.plan.cases.groups == "known_type"
    assert focus.shelf.plan.variables.profile == ("stop", "household")
    panel.view.show_variables({"visits"})  # asked for from elsewhere: the search makes way
    assert not panel.search.text()
    assert panel.view.chosen_rows() == [4]
    qtbot.keyClick(panel.view, Qt.Key.Key_5)
    assert focus.shelf.plan.variables.count == ("visits",)


def test_the_ends_of_a_variable_are_capped_or_trimmed(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    answers, focus = window.cases.answers, window.focus
    answers.show_tab(3)
    select(window.cases.variables.view, "minutes")
    qtbot.waitUntil(answers.bounds.isVisible)
    bounds = answers.bounds
    known = focus.shelf.study.source.numbers("minutes", ("98", "99")).values  # type: ignore[union-attr]
    known = known[~np.isnan(known)]

    def beyond(low: float, high: float) -> str:
        ends = np.percentile(known, [low, high])
        return f"{np.count_nonzero((known < ends[0]) | (known > ends[1]))} answers lie below"

    qtbot.waitUntil(lambda: bounds.said.text().startswith(beyond(1, 99)))
    bounds.handling.setFocus()
    qtbot.keyClick(bounds.handling, Qt.Key.Key_Down)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.variables.cap == {"minutes": (1, 99)}
    bounds.high.setValue(95)
    assert focus.shelf.plan.variables.cap == {"minutes": (1, 95)}
    bounds.low.setValue(97)  # not above the upper one
    assert bounds.low.value() == 1
    qtbot.waitUntil(lambda: bounds.said.text().startswith(beyond(1, 95)))
    qtbot.keyClick(bounds.handling, Qt.Key.Key_Down)
    assert not focus.shelf.plan.variables.cap
    assert "(minutes trimmed)" in window.sentence.sentence()
    kept = states(window)["Cases"]
    qtbot.waitUntil(lambda: states(window)["Cases"] != kept)
    select(window.cases.variables.view, "stop")
    qtbot.waitUntil(lambda: not bounds.isVisible())


def test_a_condition_is_put_together_by_clicks(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    focus, line = window.focus, window.cases.source
    focus.shelf.change("cases", keep="age > 30 or age is missing")
    qtbot.mouseClick(line.build, Qt.MouseButton.LeftButton)
    builder = QApplication.activeModalWidget()
    assert isinstance(builder, ConditionBuilder)
    assert not builder.take.isEnabled()
    row = builder.rows[0]
    row.column.setCurrentIndex(row.column.findData("stop"))
    for k in (1, 3):
        row.listed.item(k).setCheckState(Qt.CheckState.Checked)
    builder.add()
    row = builder.rows[1]
    row.column.setCurrentIndex(row.column.findData("visits"))
    row.test.setCurrentText("is between")
    qtbot.keyClicks(row.low, "3")
    qtbot.keyClicks(row.high, "x")
    assert "Still open" in builder.outcome.text()
    row.high.setText("12")
    words = '(age > 30 or age is missing) and stop in ("Birch Lane", "Dene Cross")'
    words += " and visits between 3 and 12"
    assert builder.said.text() == words
    count = builder.outcome.text().split()[0]
    qtbot.mouseClick(builder.take, Qt.MouseButton.LeftButton)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.cases.keep == words
    qtbot.waitUntil(lambda: focus.prepared is not None and focus.prepared.n < 100)
    assert focus.prepared is not None
    reasons = [d for d in focus.prepared.dropped if d.reason.startswith("not chosen")]
    assert 240 - len(reasons) == int(count)
    focus.shelf.undo()

    view = window.cases.answers.cells  # or by a click on a cell
    menu = view.menu_at(view.table.index(0, 1))
    assert menu is not None
    menu.actions()[0].trigger()
    assert focus.shelf.plan.cases.keep == '(age > 30 or age is missing) and stop = "Dene Cross"'


@pytest.mark.slow
def test_cases_set_aside_are_placed_at_the_end(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    window = opened(DEMO / "readers.toml")
    answers, focus = window.cases.answers, window.focus
    answers.show_tab(2)
    assert not answers.place.isVisible()
    focus.shelf.set_aside({97})
    qtbot.waitUntil(answers.place.isVisible)
    qtbot.mouseClick(answers.place, Qt.MouseButton.LeftButton, pos=QPoint(8, 10))
    assert "1 set aside but assigned at the end" in window.sentence.sentence()
    with qtbot.waitSignal(focus.tree_changed):
        window.acts.grow()
    qtbot.waitUntil(lambda: focus.grown is not None)
    assert window.acts.files.save_memberships(tmp_path / "out.csv")
    assert window.acts.files.written()
    saved = pl.read_csv(tmp_path / "out.csv")
    assert saved["placed"].sum() == 1
    assert saved["cluster_k4"][96] is not None


def test_cases_are_chosen_by_a_condition_and_set_aside(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    page, focus = window.cases, window.focus
    page.source.keep.setFocus()
    qtbot.keyClicks(page.source.keep, "visits >\r")
    assert "expected a number" in window.alarm_words.text()
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.cases.keep is None
    page.source.keep.clear()
    qtbot.keyClicks(page.source.keep, "visits > 5 and stop = 'Elm Mill'\r")
    assert not window.alarm.isVisible()
    qtbot.waitUntil(lambda: "used" in window.strip.stops[0].state)
    qtbot.waitUntil(lambda: focus.prepared is not None and len(focus.prepared.dropped) > 100)
    assert "where visits > 5 and stop = 'Elm Mill' by 11 variables" in window.sentence.sentence()

    page.source.keep.clear()
    qtbot.keyClicks(page.source.keep, "\r")
    view = page.answers.cells
    view.selectRow(3)
    qtbot.keyClick(view, Qt.Key.Key_S)
    assert focus.shelf.plan.cases.set_aside == (4,)
    qtbot.waitUntil(
        lambda: view.table.index(3, 0).data(Qt.ItemDataRole.ToolTipRole) == "Excluded: set aside"
    )
    assert "1 set aside" in window.sentence.sentence()
    qtbot.keyClick(view, Qt.Key.Key_B)
    assert focus.shelf.plan.cases.set_aside == ()


@pytest.mark.slow
def test_outliers_are_ranked_and_set_aside(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    page, focus = window.cases, window.focus
    qtbot.mouseClick(page.answers.tabs[2], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.answers.outliers.table.rowCount() == 208)
    view = page.answers.outliers
    worst = view.model().index(0, 0).data()
    assert view.model().index(0, 1).data() == f"{view.table.records[0].apart:.1f} ×"
    view.sortByColumn(2, Qt.SortOrder.DescendingOrder)
    clouds = [float(view.model().index(row, 2).data()) for row in range(208)]
    assert clouds == sorted(clouds, reverse=True)
    view.sortByColumn(1, Qt.SortOrder.DescendingOrder)
    view.selectRow(0)
    qtbot.keyClick(view, Qt.Key.Key_S)
    assert focus.shelf.plan is not None
    assert len(focus.shelf.plan.cases.set_aside) == 1
    qtbot.waitUntil(lambda: view.table.rowCount() == 207)
    assert view.model().index(0, 0).data() != worst
    assert "1 set aside" in window.sentence.sentence()
    qtbot.mouseClick(page.answers.aside[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.table.rowCount() == 208)
    assert focus.shelf.plan.cases.set_aside == ()


def test_the_selected_variables_are_drawn(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    view, detail = window.cases.variables.view, window.cases.answers.detail

    def says(words: str) -> None:
        qtbot.waitUntil(lambda: detail.close_up.title.startswith(words))

    qtbot.mouseClick(window.cases.answers.tabs[3], Qt.MouseButton.LeftButton)
    says("Select one variable")
    select(view, "minutes")
    says("How many minutes do you stay on a usual visit? Half of the answers lie between 18.32")
    pixels = detail.grab().toImage()
    column = [pixels.pixelColor(60, y).name() for y in range(80, pixels.height() - 150)]
    assert column.count(QColor(current().bar).name()) > 150  # the first class is the highest
    select(view, "loans", "renewals")
    says("loans and renewals, 239 cases: r = 0.997, rank correlation 0.994.")
    select(view, "stop")
    says("Where do you mostly board? How often each answer was given.")
    select(view, "stop", "loans")
    says("Two variables can be shown if both are numeric.")


def test_a_cell_of_the_correlation_map_leads_to_its_scatter_plot(
    opened: Opener, qtbot: QtBot
) -> None:
    window = opened(DEMO / "readers.csv")
    answers = window.cases.answers
    qtbot.mouseClick(answers.tabs[4], Qt.MouseButton.LeftButton)
    view = answers.correlations
    qtbot.waitUntil(lambda: view.map is not None)
    assert "loans, renewals" in view.chart().title() or "renewals, loans" in view.chart().title()
    row, column = view.map.names.index("loans"), view.map.names.index("renewals")
    left, cell = view.chart().left, view.chart().cell()
    place = QPointF(left + (column + 0.5) * cell, 44 + (row + 0.5) * cell)
    assert view.at(place) == (row, column)
    before = view.map.values[row, column]
    qtbot.mouseClick(answers.ranks, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.map.values[row, column] != before)
    row, column = view.map.names.index("loans"), view.map.names.index("renewals")
    assert view.map.coefficients[row][column] == "rank r"
    left, cell = view.chart().left, view.chart().cell()
    place = QPointF(left + (column + 0.5) * cell, 44 + (row + 0.5) * cell)
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=place.toPoint())
    assert answers.detail.isVisible()
    qtbot.waitUntil(lambda: answers.detail.close_up.title.startswith("loans and renewals"))


def test_a_code_book_names_questions_and_answers(
    opened: Opener, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    book = tmp_path / "book.json"
    book.write_text(
        '{"fields": [{"name": "stop", "title": "Where do you board?", "categories":'
        ' [{"value": "Elm Mill", "label": "the mill"}]}, {"name": "visits", "type": "integer",'
        ' "categoriesOrdered": true}]}'
    )
    window = opened(DEMO / "readers.toml")
    before = window.focus.shelf.plan
    file_asked(book)
    menu = {a.text(): a for a in window.build_menu().actions()}
    menu["Import codebook …"].trigger()
    assert window.focus.shelf.plan is not None
    assert "visits" in window.focus.shelf.plan.variables.ordinal
    view = window.cases.variables.view
    window.cases.answers.show_tab(3)
    select(view, "stop")
    detail = window.cases.answers.detail
    qtbot.waitUntil(lambda: detail.close_up.title.startswith("Where do you board?"))
    cells, panel = window.cases.answers.cells.table, window.cases.answers
    row = next(k for k in range(240) if cells.source.frame["stop"][k] == "Elm Mill")
    assert cells.index(row, 1).data() == "the mill"
    panel.show_tab(0)
    qtbot.mouseClick(panel.words, Qt.MouseButton.LeftButton)
    assert cells.index(row, 1).data() == "Elm Mill"
    panel.show_tab(3)
    assert "the mill" in window.cases.answers.detail.close_up.chart.names
    row = view.chosen_rows()[0]
    tip = view.table.index(row, 0).data(Qt.ItemDataRole.ToolTipRole)
    assert tip == "Where do you board?"

    saved = tmp_path / "out.json"
    file_asked(saved)
    menu["Export codebook …"].trigger()
    assert window.acts.files.written()
    assert "the mill" in saved.read_text(encoding="utf-8")
    window.focus.shelf.undo()
    assert window.focus.shelf.plan == before
    book.write_text("{}")
    file_asked(book)
    menu["Import codebook …"].trigger()
    assert "book.json: no list of fields" in window.alarm_words.text()
