"""Further rules on the board, other indices beside data without groups, and the units of both."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot

from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.indices.uneven import uneven_of
from gorvel.core.count.null.evidence import evidence_of_groups
from gorvel.core.plan.count_rules import COMPARABLE, FURTHER, USUAL
from gorvel.core.tree.cuts import cut_branches
from gorvel.desk.pages.count.rule_menus import MoreRules
from gorvel.desk.window.window import Window
from gorvel.paint.charts.board import BoardChart, BoardPlace

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def counted(grown: Window, qtbot: QtBot) -> Window:
    """The demo study on the Count page, with few draws, asked whether there are groups."""
    grown.focus.shelf.change("count", resamples=20)
    grown.go_to(3)
    settled(grown, qtbot)
    return grown


def settled(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.counting.complete and window.acts.jobs.idle)
    QApplication.processEvents()


def opened_menu(button: MoreRules) -> QMenu:
    menu = button.menu()
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))
    return menu


def press(qtbot: QtBot, menu: QMenu, action: QAction) -> None:
    qtbot.mouseClick(menu, LEFT, pos=menu.actionGeometry(action).center())


def on_board(window: Window) -> list[str]:
    assert window.counting.board is not None
    return list(window.counting.board.verdicts)


@pytest.mark.slow
def test_further_rules_come_onto_the_board_and_leave_it(counted: Window, qtbot: QtBot) -> None:
    counting, page = counted.counting, counted.count
    before = dict(counting.board.verdicts)
    assert not set(before) & set(FURTHER)
    qtbot.mouseClick(page.draw, LEFT)
    settled(counted, qtbot)
    drawn = counting.board.verdicts["split-half"]
    menu = opened_menu(page.more)
    press(qtbot, menu, page.more.entries["tau"])
    press(qtbot, menu, page.more.entries["density"])
    assert menu.isVisible()  # several are checked one after the other
    menu.close()
    settled(counted, qtbot)
    assert counted.focus.shelf.plan.counting.more == ("tau", "density")
    assert page.more.text() == "More rules: 2"
    core = compute_indices(counted.focus.grown, counting.asked)
    for key in ("tau", "density"):
        shown = counting.board.verdicts[key]
        np.testing.assert_array_equal(shown.values, core.verdicts[key].values)
        assert key in page.board.chart().rows
    for key, verdict in before.items():  # the others are not worked out again
        assert counting.board.verdicts[key] is verdict
    assert counting.board.verdicts["split-half"] is drawn
    assert counting.rounds == 20
    counted.focus.shelf.undo()
    settled(counted, qtbot)
    assert set(on_board(counted)) & set(FURTHER) == {"tau"}
    assert counting.board.verdicts["split-half"] is drawn


@pytest.mark.slow
def test_all_of_them_and_none_with_the_keys(counted: Window, qtbot: QtBot) -> None:
    page = counted.count
    menu = opened_menu(page.more)
    qtbot.keyClick(menu, Qt.Key.Key_Down)
    assert menu.activeAction() is page.more.entries["beale"]
    qtbot.keyClick(menu, Qt.Key.Key_Space)
    assert counted.focus.shelf.plan.counting.more == ("beale",)
    assert menu.isVisible()
    menu.close()
    every, none = menu.actions()[-2:]
    every.trigger()
    settled(counted, qtbot)
    assert page.more.text() == f"More rules: {len(FURTHER)}"
    assert len(on_board(counted)) == len([*USUAL, *FURTHER]) - 8  # those that resample come later
    qtbot.mouseClick(page.draw, LEFT)
    settled(counted, qtbot)
    assert set(on_board(counted)) == {*USUAL, *FURTHER}
    none.trigger()
    settled(counted, qtbot)
    assert set(on_board(counted)) == set(USUAL)
    assert page.more.text() == "More rules"


@pytest.mark.slow
def test_another_index_is_held_against_data_without_groups(counted: Window, qtbot: QtBot) -> None:
    counting, card = counted.counting, counted.count.evidence
    first = counting.checks.groups
    assert card.by.text() == "by silhouette"
    card.by.entries["density"].trigger()
    settled(counted, qtbot)
    assert card.by.text() == "by density"
    assert counted.focus.shelf.plan.counting.groups_by == ("density",)
    core = evidence_of_groups(counted.focus.grown, counting.asked)
    found = counting.checks.groups
    np.testing.assert_array_equal(found.drawn, first.drawn)
    np.testing.assert_array_equal(found.beside["density"].drawn, core.beside["density"].drawn)
    assert card.view.chart().evidence is found.beside["density"]
    assert "The verdict rests on silhouettes." in card.more.text()
    table = card.take.table()
    assert table.heads[1] == "density"
    assert table.rows[0][1] == found.beside["density"].values[0]
    assert card.take.picture().title == "Density compared with data without groups"
    assert "favour five" in counted.count.verdict.head.text()
    card.by.entries["silhouette"].trigger()
    assert card.view.chart().evidence is found  # nothing is drawn anew
    assert card.take.table().heads[1] == "silhouette"
    card.by.entries["density"].trigger()
    card.by.entries["density"].trigger()  # the one that is shown: no longer asked for
    assert counted.focus.shelf.plan.counting.groups_by == ()
    assert card.by.text() == "by silhouette"


@pytest.mark.slow
def test_the_board_is_shown_beside_data_without_groups(counted: Window, qtbot: QtBot) -> None:
    counting, page = counted.counting, counted.count
    values = shown(page.board.chart(), "gamma", 5)
    assert values[1] == "0.91"
    qtbot.mouseClick(page.units, LEFT)
    settled(counted, qtbot)
    found = counting.checks.groups
    assert set(found.beside) == set(COMPARABLE) & set(USUAL)
    painter = page.board.chart()
    for key in ("gamma", "davies-bouldin", "silhouette"):
        index = found.of(key)
        for place, count in enumerate(index.counts):
            assert shown(painter, key, count)[1] == f"{index.standing[place]:.1f}"
    assert shown(painter, "hartigan", 5)[1] == ""
    assert "SD above data without groups" in painter.tip(BoardPlace("gamma", 5))
    assert counted.focus.shelf.plan.counting.groups_by == ()  # a look, no part of the plan
    assert page.units.text() == "Show values"
    counted.focus.shelf.change("count", more=["tau"])
    settled(counted, qtbot)
    assert "tau" in counting.checks.groups.beside
    qtbot.mouseClick(page.units, LEFT)
    assert shown(page.board.chart(), "gamma", 5) == values


@pytest.mark.slow
def test_the_best_uneven_cut_is_taken_with_a_click(counted: Window, qtbot: QtBot) -> None:
    counted.focus.shelf.change("count", more=["cop"])
    settled(counted, qtbot)
    card, tree = counted.count.rule, counted.focus.grown.tree
    counted.counting.select("dunn")
    assert card.cut_so.isHidden()
    counted.counting.select("cop")
    counted.count.show_tab(1)
    uneven = uneven_of(counted.focus.grown, counted.counting.board)
    assert card.cut_so.text() == f"Cut into these {uneven.clusters}"
    assert "Branches cut at different heights" in card.says.text()
    qtbot.mouseClick(card.cut_so, LEFT)
    cut = cut_branches(tree, uneven.level, uneven.split)
    np.testing.assert_array_equal(counted.focus.cut.membership, cut.membership)
    assert cut.clusters == uneven.clusters


def shown(painter: BoardChart, key: str, count: int) -> tuple[float, str]:
    verdict = painter.board.verdicts[key]
    return painter._shown(verdict, verdict.counts.index(count), count)
