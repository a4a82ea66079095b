"""Whether cases stay where the tree has put them, as the Count and the Compare page tell it."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import LEFT
from gorvel.core.compare.relocation import Best, Relocation, k_means, reassigned
from gorvel.core.words.comparison import moving_words
from gorvel.desk.views.moving_strip import MovedList
from gorvel.desk.window.window import Window
from gorvel.desk.work.moving import STARTS


def settled(window: Window, qtbot: QtBot) -> None:
    QApplication.processEvents()
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    QApplication.processEvents()


@pytest.mark.slow
def test_the_strip_tells_what_the_core_finds(grown: Window, qtbot: QtBot) -> None:
    grown.go_to(3)
    grown.focus.set_count(4)
    grown.count.show_tab(3)
    settled(grown, qtbot)
    strip, tree = grown.count.checks.moving, grown.focus.grown
    assert tree is not None
    moved, best = reassigned(tree, 4), k_means(tree, [4], STARTS, 1)[0]
    assert strip.says.text() == moving_words(moved, best)
    assert strip.ask.isHidden()
    assert strip.list.isHidden() == (moved.moved == 0)
    grown.focus.set_count(9)
    settled(grown, qtbot)
    moved = reassigned(tree, 9)
    assert moved.moved > 0
    qtbot.mouseClick(strip.list, LEFT)
    dialog = next(
        w for w in QApplication.topLevelWidgets() if w.windowTitle() == "Cases that change cluster"
    )
    cases = dialog.findChild(MovedList)
    assert sorted(cases.shown) == np.flatnonzero(moved.before != moved.after).tolist()
    names = [who.told for who in grown.focus.identities]
    for row in cases.table().rows:
        place = tree.prepared.numbers.tolist().index(row[0])
        assert row[2:] == (names[moved.before[place]], names[moved.after[place]])
    cases.view.setFocus()
    index = cases.view.model().index(0, 0)
    cases.view.clicked.emit(index)
    assert grown.focus.selected is not None
    assert grown.focus.selected.number == cases.shown[0]
    dialog.close()


def test_uneven_cuts_say_why_not(grown: Window, qtbot: QtBot) -> None:
    grown.go_to(3)
    grown.focus.set_count(4)
    grown.count.show_tab(3)
    grown.focus.split_cluster(1)
    settled(grown, qtbot)
    strip = grown.count.checks.moving
    assert "cut by number of clusters" in strip.says.text()
    assert strip.ask.isHidden()
    assert strip.list.isHidden()


def test_words_are_those_of_the_numbers() -> None:
    before, after = np.repeat([0, 1], 10), np.repeat([0, 1], [13, 7])
    words = moving_words(Relocation(before, after, 2, 40.0, 30.0, 0), Best(2, 30.0, 40.0, 0.5))
    assert "3 of 20 cases (15%) end" in words
    assert "in 2 rounds" in words
    assert "from 40 to 30" in words
    assert "That is many" in words
    assert "25% below the cut" in words
    same = moving_words(Relocation(before, before, 0, 40.0, 40.0, 0), Best(2, 40.0, 40.0, 1.0))
    assert same.startswith("Every case is nearest")
    assert same.endswith("with the same clusters.")
    empty = moving_words(Relocation(before, after, 1, 40.0, 39.0, 1), Best(2, 39.0, 40.0, 0.9))
    assert "1 cluster ends" in empty
