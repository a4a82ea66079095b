"""The Tree page: its views are one picture with one cut and one mark."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from driving import LEFT, click, moved, states
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window


def test_hover_and_selection_are_marked_in_tree_schedule_and_reading(
    grown: Window, qtbot: QtBot
) -> None:
    page, focus = grown.tree, grown.focus
    view, table = page.dendrogram, page.schedule
    tree = view.scene.tree
    join = tree.joins - 3
    frame = view.frame()
    x = frame.x(float(view.scene.share[tree.n + join]))
    y = frame.y(float(view.scene.place[tree.n + join]))
    view.mouseMoveEvent(moved(view, x, y, Qt.MouseButton.NoButton))
    assert focus.hovered == Mark("join", join)
    assert [i.row() for i in table.selectionModel().selectedRows()] == [2]
    assert page.reading.words.text().startswith(f"Join {join + 1} brings")
    view.mouseMoveEvent(moved(view, x + 40, 10, Qt.MouseButton.NoButton))
    assert focus.hovered is None

    rect = table.visualRect(table.table.index(1, 1))
    click(qtbot, table.viewport(), rect.center().x(), rect.center().y())
    assert focus.selected == Mark("join", tree.joins - 2)
    qtbot.mouseClick(page.reading.on, LEFT)
    assert focus.selected == Mark("join", tree.joins - 1)
    qtbot.mouseClick(page.reading.copy, LEFT)
    assert QApplication.clipboard().text() == page.reading.words.text()

    # a case by its label, a cluster by its strip
    position = 5
    labels = page.desk.labels
    click(qtbot, labels, 60, frame.y(position + 0.5))
    case = int(tree.order[position])
    assert focus.selected == Mark("case", case)
    assert grown.focus.grown is not None
    assert grown.focus.grown.prepared.labels[case] in page.reading.words.text()
    other = int(tree.order[position + 40])
    spot = frame.y(position + 40.5)
    labels.mouseMoveEvent(moved(labels, 60, spot, Qt.MouseButton.NoButton))
    assert focus.pair == (case, other)
    assert " of the 21,528 pairs are nearer" in page.reading.words.text()
    click(qtbot, labels, 14, frame.y(position + 0.5))
    assert page.reading.words.text().startswith("Cluster A")
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert "208 cases in 207 joins" in page.reading.words.text()

    table.copy()
    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].startswith("join\tleft\tright")
    assert len(lines) == 208


def test_the_cut_is_one_wherever_it_is_set(grown: Window, qtbot: QtBot) -> None:
    page, focus = grown.tree, grown.focus
    tree = page.dendrogram.scene.tree
    page.count.setFocus()
    page.count.selectAll()
    qtbot.keyClicks(page.count, "7\r")
    assert focus.cut is not None
    assert focus.cut.clusters == 7
    np.testing.assert_array_equal(focus.cut.membership, cut_at_count(tree, 7).membership)

    page.height_field.setFocus()
    page.height_field.selectAll()
    height = (tree.heights[-3] + tree.heights[-2]) / 2
    qtbot.keyClicks(page.height_field, f"{height:.3f}\r")
    assert focus.cut.clusters == 3
    assert page.count.value() == 3
    qtbot.keyClicks(page.height_field, "x\r")
    assert "is not a height" in grown.alarm_words.text()

    spans = page.dendrogram.frame()
    between = float(page.dendrogram.scene.axis.share((tree.heights[-2] + tree.heights[-1]) / 2))
    click(qtbot, page.dendrogram, spans.x(between), spans.bottom + 20)
    assert focus.cut.clusters == 2
    assert states(grown)["Memberships"] == "2 clusters, not saved"


def test_zoom_keeps_the_case_under_the_pointer(grown: Window, qtbot: QtBot) -> None:
    view = grown.tree.dendrogram
    y = view.frame().top + 100.0
    place = view.frame().place(y)
    for _ in range(8):
        view.wheelEvent(wheel(view, y))
    assert view.frame().row > 6
    assert view.frame().place(y) == pytest.approx(place, abs=0.3)
    qtbot.keyClick(view, Qt.Key.Key_0)
    assert grown.tree.desk.bar.maximum() == 0


def wheel(view: QWidget, y: float) -> QWheelEvent:
    point = QPointF(200, y)
    return QWheelEvent(
        point, view.mapToGlobal(point), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.ControlModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
