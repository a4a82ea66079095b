"""Other labels for the cases: the same tree, called otherwise wherever a case is named."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from gorvel.core.results.tree import labels_table
from gorvel.core.words.differences import differences
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.matrix_view import MatrixView
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind


def _labels(window: Window) -> list[str]:
    """Labels of the cases kept, by the column of the plan in force or by number."""
    focus, table = window.focus, window.focus.shelf.study.source
    column, rows = focus.shelf.plan.cases.label, focus.grown.prepared.numbers - 1
    return [str(row + 1) if column is None else table.frame[column][int(row)] for row in rows]


def test_another_label_column_grows_nothing_anew(grown: Window, qtbot: QtBot) -> None:
    focus, page = grown.focus, grown.tree
    tree, arrangement, case = focus.grown.tree, page.desk.axis.arrangement, 3
    qtbot.waitUntil(lambda: grown.count.counting.board is not None)
    board = grown.count.counting.board
    rows = page.schedule.table
    column = [rows.headerData(k, Qt.Orientation.Horizontal, 0) for k in range(rows.columnCount())]
    left = rows.index(rows.row_of(0), column.index("left branch"))
    focus.select(Mark("case", case))
    assert focus.shelf.plan.cases.label == "reader_id"
    for label in (None, "stop", "reader_id"):
        focus.shelf.change("cases", label=label)
        labels = _labels(grown)
        assert not focus.out_of_date
        assert focus.grown.tree is tree
        assert list(focus.grown.prepared.labels) == labels
        assert page.desk.axis.arrangement is arrangement
        assert page.desk.axis.look().labels == focus.grown.prepared.labels
        assert page.reading.words.text().startswith(f"{labels[case]} is case ")
        assert rows.data(left, 0) == labels[int(tree.firsts[tree.left[0]])]
        assert grown.count.counting.board is board
        assert not grown.acts.jobs.busy(JobKind.GROW)
        told = page.desk.labels.table(page.desk.axis.look())
        assert [row[2] for row in told.rows] == [labels[k] for k in arrangement.order]
    focus.shelf.undo()
    assert list(focus.grown.prepared.labels) == _labels(grown)


def test_tables_that_are_open_are_relabelled(grown: Window, qtbot: QtBot) -> None:
    page, focus = grown.tree, grown.focus
    pairs, matrix = page.compare(), page.show_matrix()
    qtbot.waitUntil(lambda: pairs.nearest.count() > 1)
    focus.shelf.change("cases", label=None)
    labels = _labels(grown)
    table = matrix.findChild(MatrixView).model()
    assert table.headerData(0, Qt.Orientation.Horizontal, 0) == labels[table.order[0]]
    qtbot.waitUntil(lambda: pairs.nearest.count() > 1)
    assert all(word in labels for word in pairs.nearest.item(0).text().split(":")[0].split(" and "))
    pairs.close()
    matrix.close()


def test_labels_are_of_the_data_and_not_of_a_tree(grown: Window, qtbot: QtBot) -> None:
    """A tree on the shelf is called like the one in hand, and comes back with the labels of now."""
    focus = grown.focus
    first = focus.shelf.study.in_hand
    grown.keep_tree()
    focus.shelf.change("tree", linkage="average")
    with qtbot.waitSignal(focus.tree_changed):
        grown.acts.grow()
    focus.shelf.change("cases", label=None)
    study = focus.shelf.study
    assert {entry.plan.cases.label for entry in study.trees} == {None}
    assert differences(study.plan, study.tree(first).plan) == ["Ward’s rule"]
    with qtbot.waitSignal(focus.tree_changed):
        focus.shelf.take(first)
    assert list(focus.grown.prepared.labels) == _labels(grown)
    assert not focus.out_of_date


@pytest.mark.parametrize("words", [{"Birch Lane": "the lane"}, {}])
def test_words_of_labels_are_shown(grown: Window, words: dict[str, str]) -> None:
    focus = grown.focus
    focus.shelf.change("cases", label="stop")
    plain = focus.grown.prepared.labels
    focus.shelf.change("variables", values={"stop": words})
    assert not focus.out_of_date
    shown = [words.get(label, label) for label in plain]
    assert list(focus.grown.prepared.labels) == shown
    names, members = ["A"] * 4, focus.cut.membership.tolist()
    rows = labels_table(focus.grown, grown.tree.desk.axis.arrangement, names, members).rows
    assert {row[2] for row in rows} == set(shown)
