"""Trees of the groups of a split, and whether they find the same clusters."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import LEFT, press, settled, states
from gorvel.core.cases.rows import split_rows
from gorvel.core.compare.cross_validation import found_again
from gorvel.core.grow.grown import analyse
from gorvel.core.table.table import Table
from gorvel.core.words.comparison import found_again_words
from gorvel.desk.window.window import Window


@pytest.fixture
def split(grown: Window, qtbot: QtBot) -> Window:
    """A tree of each of five groups, all cut into three."""
    grown.focus.shelf.change("cases", split="stop")
    with qtbot.waitSignal(grown.focus.tree_changed):
        grown.acts.grow()
    grown.focus.set_count(3)
    settled(grown, qtbot)
    press(grown, qtbot, "Alt+6")
    settled(grown, qtbot)
    return grown


def test_trees_of_groups_stand_on_either_side(split: Window, qtbot: QtBot) -> None:
    card = split.shelf.cards[0]
    names = [f"stop {k}" for k in range(5)]
    assert states(split)["Compare"] == "5 groups"
    assert [split.comparing.left[1], split.comparing.right[1]] == names[:2]
    assert card.side.text() == "left and right"
    assert [link.text() for link in card.groups.values()] == [
        "stop 0 (left)", "stop 1 (right)", *names[2:],
    ]  # fmt: skip
    assert "On the left stop 0, on the right stop 1." in split.compare.reading.sentences()
    assert "no cases in common" in split.compare.reading.sentences()
    qtbot.mouseClick(card.groups["stop 3"], LEFT)
    settled(split, qtbot)
    assert split.comparing.right == (1, "stop 3")
    met = split.comparing.met
    assert met is not None
    assert met.faced.pair.other.key.group == "stop 3"
    assert split.comparing.titles[1].endswith("stop 3")
    left = next(c for c in card.commands() if c.words == "Group on the left").inside
    next(c for c in left if c.words == "stop 3").act()  # the two change sides
    settled(split, qtbot)
    assert (split.comparing.left[1], split.comparing.right[1]) == ("stop 3", "stop 0")


def test_another_tree_of_the_same_group_is_compared(split: Window, qtbot: QtBot) -> None:
    focus = split.focus
    split.groups.step(2)
    settled(split, qtbot)
    assert focus.grown_group == "stop 2"
    split.compare.put_beside("complete")
    settled(split, qtbot)
    met = split.comparing.met
    assert met is not None
    pair = met.faced.pair
    assert [pair.one.key.group, pair.other.key.group] == ["stop 2", "stop 2"]
    assert pair.one is focus.grown
    assert pair.common == pair.one.tree.n == pair.other.tree.n
    # all groups of the other tree were grown for it, and it is beside the one in hand
    other = split.comparing.right[0]
    assert split.comparing.groups_of(other) == [f"stop {k}" for k in range(5)]
    assert split.comparing.beside[other].other.key.group == "stop 2"
    # a tree of all cases holds those of the group
    study = focus.shelf.study
    assert study is not None
    split.comparing.put_beside(study.plan.with_("cases", split=None))
    settled(split, qtbot)
    met = split.comparing.met
    assert met is not None
    assert met.faced.pair.other.key.group is None
    assert met.faced.pair.common == pair.one.tree.n < met.faced.pair.other.tree.n
    assert "On the left stop 2, on the right all cases." in split.compare.reading.sentences()


@pytest.mark.slow
def test_whether_groups_find_the_same_clusters(split: Window, qtbot: QtBot) -> None:
    card, focus = split.compare.groups, split.focus
    qtbot.mouseClick(split.compare.tabs[4], LEFT)
    settled(split, qtbot)
    known = split.replicating.known
    assert known is not None
    study, plan = focus.shelf.study, focus.plan_of_tree
    assert study is not None
    assert isinstance(study.source, Table)
    assert plan is not None
    groups = split_rows(study.source, plan)
    trees = {g: analyse(study.source, plan, rows=rows, group=g) for g, rows in groups.items()}
    wanted = found_again(study.source, plan, trees, 3)
    assert {pair: found.agreement for pair, found in known.found.items()} == {
        pair: found.agreement for pair, found in wanted.items()
    }
    assert card.says.text().startswith("At 3 clusters, the cases of each group")
    card.grid.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right):
        qtbot.keyClick(card.grid, key)
    assert card.grid.cell == (0, 2)
    assert card.told.text() == found_again_words(wanted["stop 0", "stop 2"], "stop 0", "stop 2")
    table = card.take.table()
    assert table is not None
    assert len(table.rows) == 20
    qtbot.mouseClick(card.face, LEFT)
    settled(split, qtbot)
    assert (split.comparing.left[1], split.comparing.right[1]) == ("stop 0", "stop 2")
    assert split.compare.tabs[0].isChecked()
    # at another count it is asked anew
    qtbot.mouseClick(split.compare.tabs[4], LEFT)
    focus.set_count(2)
    settled(split, qtbot)
    known = split.replicating.known
    assert known is not None
    assert known.count == 2
    # without a split it says what it is for
    focus.shelf.change("cases", split=None)
    with qtbot.waitSignal(focus.tree_changed):
        split.acts.grow()
    settled(split, qtbot)
    split.compare.put_beside("complete")
    split.compare.show_tab(4)
    settled(split, qtbot)
    assert split.replicating.known is None
    assert "With a split" in card.says.text()
