"""What stands in all trees, and under every handling of missing answers."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import LEFT, press, settled, sides
from gorvel.core.compare.consensus import average_tree
from gorvel.desk.window.window import Window


def test_what_stands_whatever(compared: Window, qtbot: QtBot) -> None:
    compared.compare.put_beside("average")
    settled(compared, qtbot)
    card = compared.compare.stands
    qtbot.mouseClick(compared.compare.tabs[1], LEFT)
    settled(compared, qtbot)
    found, cut = compared.comparing.standing, compared.focus.cut
    assert found is not None
    assert cut is not None
    assert found.trees == 2
    assert card.view.rowCount() == 5
    shares = [card.view.item(row, 2).text() for row in range(5)]
    assert shares == [f"{share:.2f}" for share in found.clusters]
    assert len(card.loose.shown) == compared.focus.grown.tree.n
    told = [found.cases[case] for case in card.loose.shown]
    assert told == sorted(told)
    box = next(iter(card.boxes.values()))
    qtbot.mouseClick(box, LEFT, pos=QPoint(8, box.height() // 2))
    assert compared.comparing.standing is not None
    assert compared.comparing.standing.trees == 1
    table = card.take.table()
    assert table is not None
    assert [row[0] for row in table.rows] == [who.told for who in compared.focus.identities]


def test_missing_answers_handled_otherwise_and_filled(compared: Window, qtbot: QtBot) -> None:
    card = compared.compare.gaps
    qtbot.mouseClick(compared.compare.tabs[3], LEFT)
    assert card.handlings.isHidden()
    qtbot.mouseClick(card.ask, LEFT)
    settled(compared, qtbot)
    known, grown = compared.imputation.known, compared.focus.grown
    assert known is not None
    assert grown is not None
    names = [card.handlings.item(row, 0).text() for row in range(card.handlings.rowCount())]
    assert names[0] == "exclude the case (current)"
    assert card.handlings.item(0, 2).text() == "1.00"
    assert card.handlings.item(1, 4).text() != ""  # "are not allowed", and there are some
    assert names[-1] == "are imputed many times"
    assert (
        card.handlings.item(len(names) - 1, 2).text() == f"{np.mean(known.imputed.agreement):.2f}"
    )
    assert card.clusters.rowCount() == 5
    assert f"{known.imputed.gaps} missing answers" in card.says.text()
    compared.focus.set_count(4)
    QApplication.processEvents()
    assert compared.imputation.known is None
    assert card.handlings.isHidden()
    assert not card.ask.isHidden()


def test_how_surely_cases_stay_is_seen_on_the_desk_and_the_map(
    compared: Window, qtbot: QtBot
) -> None:
    desk, focus = compared.tree.desk, compared.focus
    stays = compared.comparing.standing
    assert stays is not None
    assert focus.stays is stays.cases
    press(compared, qtbot, "Alt+3")
    assert not desk.stays.isHidden()
    look = desk.axis.look()
    assert look is not None
    table = desk.stays.table(look)
    assert table is not None
    order = look.arrangement.order.tolist()
    assert [row[2] for row in table.rows] == [
        None if np.isnan(focus.stays[case]) else float(focus.stays[case]) for case in order
    ]
    qtbot.keyClick(desk.stays, Qt.Key.Key_Delete)
    assert desk.stays.isHidden()
    press(compared, qtbot, "Alt+5")
    compared.profiles.show_tab(2)
    settled(compared, qtbot)
    points = compared.profiles.map.view.points
    assert points is not None
    assert points.loose is not None
    assert points.loose.tolist() == (focus.stays < 0.5).tolist()
    assert "Hollow" in compared.profiles.map.says.text()
    other = next(e.id for e in focus.shelf.study.trees if e.id != focus.shelf.study.in_hand)
    compared.comparing.count_in(other, False)
    assert focus.stays is None
    assert not desk.is_possible("stays")


@pytest.mark.slow
def test_the_average_of_trees_is_laid_beside_the_one_in_hand(
    compared: Window, qtbot: QtBot
) -> None:
    compared.compare.put_beside("average")
    settled(compared, qtbot)
    qtbot.mouseClick(compared.compare.tabs[1], LEFT)
    settled(compared, qtbot)
    qtbot.mouseClick(compared.compare.stands.average, LEFT)
    settled(compared, qtbot)
    assert compared.compare.tabs[0].isChecked()
    met = compared.comparing.met
    assert met is not None
    found, _ = average_tree(compared.comparing.averaged, None, "readers.csv")
    assert met.faced.pair.other.tree.heights.tolist() == found.tree.heights.tolist()
    assert "the consensus of 3 trees" in compared.compare.reading.sentences()
    assert compared.comparing.titles[1] == "Consensus of 3 trees"
    assert compared.compare.reading.hand.isHidden()
    assert not compared.compare.faces.swap.isEnabled()
    qtbot.mouseClick(compared.shelf.cards[1], LEFT, pos=QPoint(20, 12))
    settled(compared, qtbot)
    assert sides(compared)[1] == compared.shelf.cards[1].entry.id
    assert compared.comparing.met is not None
