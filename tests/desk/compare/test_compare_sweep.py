"""The sweep: trees of many combinations, and the way from one of them to the shelf."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QToolTip
from pytestqt.qtbot import QtBot

from driving import LEFT, settled, sides
from gorvel.core.compare.pair import Pair
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.grown import analyse
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.editors.sweep_choice import SweepChoice
from gorvel.desk.window.window import Window
from gorvel.desk.work.sweeping import CHOICE


@pytest.mark.slow
def test_a_sweep_cell_by_cell_and_to_the_shelf(compared: Window, qtbot: QtBot) -> None:
    page = compared.compare
    qtbot.mouseClick(page.tabs[2], LEFT)
    page.sweep.against.setCurrentIndex(1)  # scales
    qtbot.mouseClick(page.sweep.go, LEFT)
    settled(compared, qtbot)
    known, grown = compared.sweeping.known, compared.focus.grown
    assert known is not None
    assert grown is not None
    assert known.whole
    page.sweep._show_note(known, {known.key(known.found[0].at): "there are negative answers"})
    assert page.sweep.excluded.text() == "1 scale excluded"
    qtbot.mouseClick(page.sweep.excluded, LEFT)  # why, without pointing at it
    assert "there are negative answers" in QToolTip.text()
    own = cut_at_count(grown.tree, 5).membership
    source = compared.focus.shelf.study.source
    for one in known.found[::17]:
        if one.why:
            continue
        other = analyse(source, compared.sweeping.plan_of(one.at))
        pair = Pair.of(grown, other)
        its = cut_at_count(other.tree, 5).membership
        table = cross_counts(own[pair.mine] - 1, its[pair.its] - 1)
        assert one.agreement[5] == pytest.approx(adjusted_rand(table))
    painter = page.sweep.view.chart()
    assert painter is not None
    assert painter.own is not None
    assert painter.cells[painter.own].words == "1.00"
    row, column = painter.rows.index("Average"), (painter.own[1] + 1) % len(painter.columns)
    page.sweep.view.setFocus()
    page.sweep.view.cell = (row, column - 1 if column else 1)
    qtbot.keyClick(page.sweep.view, Qt.Key.Key_Right if column else Qt.Key.Key_Left)
    assert page.sweep.says.text().startswith("Average linkage, ")
    qtbot.keyClick(page.sweep.view, Qt.Key.Key_Return)
    settled(compared, qtbot)
    study = compared.focus.shelf.study
    right = study.tree(sides(compared)[1])
    assert right.plan.tree.linkage == "average"
    assert right.kept
    assert page.tabs[0].isChecked()
    assert compared.comparing.met is not None
    table = page.sweep.take.table()
    assert table is not None
    assert len(table.rows) == len(known.asked)


@pytest.mark.slow
def test_a_choice_of_scales_handlings_and_measures_is_swept_together(
    compared: Window, qtbot: QtBot
) -> None:
    page, sweeping = compared.compare, compared.sweeping
    qtbot.mouseClick(page.tabs[2], LEFT)
    page.sweep.against.setCurrentIndex(page.sweep.against.findData(CHOICE))
    assert not page.sweep.go.isVisible()
    qtbot.mouseClick(page.sweep.choose, LEFT)
    dialog = page.sweep.findChild(SweepChoice)
    assert dialog is not None
    assert dialog.chosen() == {
        "scales": ("zscore",), "handlings": ("drop",), "measures": ("squared-euclidean",),
    }  # fmt: skip
    dialog.boxes["measures"]["squared-euclidean"].click()
    assert dialog.says.text() == "Tick at least one of measures."
    assert not dialog.go.isEnabled()
    dialog.boxes["measures"]["city-block"].click()
    for key in ("none", "range01"):
        dialog.boxes["scales"][key].click()
    dialog.boxes["handlings"]["mean"].click()
    assert dialog.says.text() == "With 11 linkages up to 66 trees."
    qtbot.mouseClick(dialog.go, LEFT)
    settled(compared, qtbot)
    known, grown = sweeping.known, compared.focus.grown
    assert known is not None
    assert grown is not None
    assert known.whole
    assert len(known.found) == 66
    study = compared.focus.shelf.study
    for one in known.found[::7]:
        other = analyse(study.source, sweeping.plan_of(one.at))
        assert one.cases == other.tree.n
        pair = Pair.of(grown, other)
        cuts = cut_at_count(grown.tree, 5), cut_at_count(other.tree, 5)
        table = cross_counts(cuts[0].membership[pair.mine] - 1, cuts[1].membership[pair.its] - 1)
        assert one.agreement[5] == pytest.approx(adjusted_rand(table))
    painter = page.sweep.view.chart()
    assert painter is not None
    assert painter.columns[0] == "city-block, as they are, excluded"
    assert painter.own is None
    qtbot.mouseClick(page.sweep.choose, LEFT)  # it is as it was left
    again = page.sweep.findChildren(SweepChoice)[-1]
    assert again.chosen() == sweeping.choice
    again.reject()


def test_a_sweep_is_stopped_and_keeps_what_is_done(compared: Window, qtbot: QtBot) -> None:
    page, sweeping = compared.compare, compared.sweeping
    qtbot.mouseClick(page.tabs[2], LEFT)
    qtbot.mouseClick(page.sweep.go, LEFT)
    qtbot.waitUntil(lambda: sweeping.known is not None and bool(sweeping.known.found))
    sweeping.trees.stop()
    settled(compared, qtbot)
    known = sweeping.known
    assert known is not None
    assert 0 < len(known.found) < len(known.asked)
    assert "done)" in page.sweep.says.text()
