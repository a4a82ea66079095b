"""The Count page: rules side by side, the choice with its reasons, silhouettes, checks."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import LEFT, board, cell, click, moved, painter, settled, states
from gorvel.core.count.groups import check_of
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.plan.count_rules import COUNT_RULES, USUAL
from gorvel.core.plan.file import load_plan
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.state.marks import Mark
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO
from gorvel.paint.charts.board import BoardPlace
from gorvel.paint.theme import LIGHT

NO_BUTTON = Qt.MouseButton.NoButton


def test_the_board_holds_what_the_core_says_and_cuts_where_it_is_clicked(
    counted: Window, qtbot: QtBot
) -> None:
    grown = counted.focus.grown
    assert grown is not None
    core = compute_indices(grown)
    for key, verdict in core.verdicts.items():
        shown = board(counted).verdicts[key]
        assert (shown.best, shown.runner_up) == (verdict.best, verdict.runner_up)
        np.testing.assert_array_equal(shown.values, verdict.values)
    click(qtbot, counted.count.board, *cell(counted, "gamma", 6))
    assert counted.focus.cut is not None
    assert counted.focus.cut.clusters == 6
    assert counted.counting.rule == "gamma"
    assert counted.count.rule.name.text() == "Gamma"
    assert "Best at 7" in counted.count.rule.says.text()
    assert counted.tree.count.value() == 6  # the cut line is the one of the desk
    voices = [voice for voice in core.voices().values() if voice.votes]
    mine = sum(voice.answer == 6 for voice in voices)
    assert states(counted)["Count"] == f"6: {mine} of {len(voices)} votes"
    tip = painter(counted).tip(BoardPlace("hartigan", 6))
    assert "bound 10" in tip
    assert "the best" in tip
    at = painter(counted)
    x = at.left(0) + at.column / 2
    counted.count.board.mouseMoveEvent(moved(counted.count.board, x, at.foot + 20, NO_BUTTON))
    assert counted.counting.hovered == 2
    small = counted.count.choice.summit.chart()
    assert small is not None
    assert (small.count, small.shadow, len(small.clusters)) == (6, 2, 2)
    click(qtbot, counted.count.choice.summit, 60, small.y(float(small.summit.lines[3])))
    assert counted.focus.cut.clusters == 3


def test_rules_are_left_out_of_the_vote_alone_or_by_kind_and_come_back(
    counted: Window, qtbot: QtBot
) -> None:
    counting, view = counted.counting, counted.count.board
    box = painter(counted).box_of("dunn").center()
    click(qtbot, view, box.x(), box.y())
    assert counting.left_out == ("dunn",)
    before = board(counted).votes()
    assert board(counted).votes(counting.left_out)[7] == before[7] - 1
    click(qtbot, view, *cell(counted, "spread", 0))
    kind = {key for key in USUAL if COUNT_RULES[key].family == "spread"}
    assert set(counting.left_out) == kind | {"dunn"}
    heard = sum(board(counted).votes(counting.left_out).values())
    assert f"of {heard} votes" in states(counted)["Count"]
    assert heard < sum(before.values())
    click(qtbot, view, *cell(counted, "spread", 0))
    assert counting.left_out == ("dunn",)
    counted.focus.shelf.undo()
    counted.focus.shelf.undo()
    assert counting.left_out == ("dunn",)
    counted.focus.shelf.undo()
    assert counting.left_out == ()


def test_the_board_is_walked_through_with_the_keys(counted: Window, qtbot: QtBot) -> None:
    view = counted.count.board
    view.setFocus()
    counted.counting.select("silhouette")
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert counted.counting.rule == "davies-bouldin"
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert counted.focus.cut is not None
    assert counted.focus.cut.clusters == 5
    assert "Davies–Bouldin at 5" in view.accessibleDescription()
    qtbot.keyClick(view, Qt.Key.Key_Space)
    assert counted.counting.left_out == ("davies-bouldin",)
    qtbot.keyClick(view, Qt.Key.Key_Up)
    assert counted.counting.rule == "silhouette"
    assert counted.counting.left_out == ("davies-bouldin",)
    qtbot.keyClick(view, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(counted.count.silhouettes.sought, "R044\r")
    assert counted.focus.grown is not None
    case = counted.focus.grown.prepared.labels.index("R044")
    assert counted.focus.selected == Mark("case", case)
    qtbot.waitUntil(lambda: not counted.counting.undecided)
    qtbot.keyClick(view, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert "votes are for 5 (" in counted.count.choice.reasons.toPlainText()
    qtbot.keyClicks(counted.count.choice.reasons, "They last.")
    qtbot.keyClick(
        counted.count.choice.reasons, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier
    )
    assert states(counted)["Count"] == "5 chosen"


def test_a_choice_asks_for_reasons_and_goes_into_the_plan(
    counted: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    choice = counted.count.choice
    click(qtbot, counted.count.board, *cell(counted, "silhouette", 5))
    why = [b for b in choice.findChildren(QPushButton) if b.text() == "Why not 7?"]
    qtbot.mouseClick(why[0], LEFT)
    assert "smallest cluster has 2 cases" in choice.answer.text()
    assert counted.focus.shelf.plan is not None
    qtbot.waitUntil(lambda: not counted.counting.undecided)
    qtbot.mouseClick(choice.take, LEFT)  # nothing said yet: a draft stands there to be changed
    assert counted.focus.shelf.plan.counting.chosen is None
    assert "votes are for 5 (" in choice.reasons.toPlainText()
    qtbot.keyClicks(choice.reasons, "Types we know, and all stable.")
    qtbot.mouseClick(choice.take, LEFT)
    asked = counted.focus.shelf.plan.counting
    assert (asked.chosen, asked.reasons) == (5, "Types we know, and all stable.")
    assert states(counted)["Count"] == "5 chosen"
    assert choice.take.isHidden()
    choice.count.setValue(4)
    assert states(counted)["Count"] == "5 chosen, 4 shown"
    assert choice.taken.text() == "5 chosen"
    assert counted.acts.files.save_plan(tmp_path / "p.toml")
    assert counted.acts.files.written()
    saved = load_plan(tmp_path / "p.toml")
    assert saved.counting.chosen == 5
    assert saved.counting.reasons == "Types we know, and all stable."
    counted.focus.shelf.undo()
    assert counted.focus.shelf.plan.counting.chosen is None
    assert choice.reasons.toPlainText() == ""
    assert not counted.acts.jobs.busy(JobKind.PREPARE)  # no case has changed


def test_the_range_of_counts_is_changed_and_the_board_follows(
    counted: Window, qtbot: QtBot
) -> None:
    page = counted.count
    page.last.setValue(4)
    qtbot.waitUntil(lambda: counted.counting.board is not None and len(board(counted).counts) == 3)
    page.first.setValue(6)  # beyond the end: the end moves too
    qtbot.waitUntil(lambda: counted.counting.board is not None and board(counted).counts == (6,))
    assert page.last.value() == 6
    assert not counted.focus.out_of_date


def test_silhouettes_are_read_pointed_at_and_listed(counted: Window, qtbot: QtBot) -> None:
    page = counted.count
    qtbot.mouseClick(page.tabs[2], LEFT)
    card = page.silhouettes
    counted.focus.set_count(5)
    found = card.counting.silhouettes(5)
    grown = counted.focus.grown
    assert found is not None
    assert grown is not None
    rows = found.leaning
    assert card.leaning.rowCount() == len(rows) == 4
    label = grown.prepared.labels[int(found.cases[rows[0]])]
    item = card.leaning.item(0, 0)
    assert item is not None
    assert item.text() == label
    where = card.leaning.visualItemRect(item).center()
    qtbot.mouseClick(card.leaning.viewport(), LEFT, pos=where)
    assert counted.focus.selected == Mark("case", int(found.cases[rows[0]]))
    assert f"{label}: cluster A1, silhouette −0.14, closer to A2" in card.reading.text()
    card.beside.setCurrentIndex(card.beside.findData(4))
    assert [p.found.count for p in card.view.chart().panels] == [5, 4]
    assert card.reading.text().count(label) == 2
    drawing = card.view.chart().panels[0]
    row = 30
    click(qtbot, card.view, drawing.zero + 3, drawing.y(row) + 0.1)
    assert counted.focus.selected is not None
    assert abs(found.row_of(counted.focus.selected.number) - row) <= 2
    card.sought.setText("r12")
    qtbot.keyClick(card.sought, Qt.Key.Key_Return)
    assert counted.focus.selected.kind == "case"
    assert "R12" in grown.prepared.labels[counted.focus.selected.number]
    table = card.take.table()
    assert table is not None
    assert len(table.rows) == grown.tree.n


def test_known_groups_are_a_check_beside_the_rules(counted: Window, qtbot: QtBot) -> None:
    card, grown = counted.count.groups, counted.focus.grown
    qtbot.mouseClick(counted.count.tabs[4], LEFT)
    counted.focus.set_count(5)
    groups = card.counting.known_groups
    assert groups is not None
    assert grown is not None
    cut = cut_at_count(grown.tree, 5)
    wanted = check_of(groups, cut)
    shown = np.zeros_like(wanted.table)
    for i in range(card.cross.rowCount()):
        for j in range(card.cross.columnCount()):
            item = card.cross.item(i, j)
            assert item is not None
            shown[i, j] = int(item.text().replace("·", "0"))
    assert shown.tolist() == wanted.table.tolist()
    assert f"at 5 it is {wanted.rand:.2f}" in card.words.text()
    assert "not a rule" in card.words.text()
    row = card.by_count.visualItemRect(card.by_count.item(0, 0)).center()  # type: ignore[arg-type]
    click(qtbot, card.by_count.viewport(), row.x(), row.y())
    assert counted.focus.cut is not None
    assert counted.focus.cut.clusters == 2
    counted.focus.shelf.change("cases", groups=None)
    assert "No column has the role" in card.words.text()


@pytest.mark.slow
def test_checks_are_made_when_asked_and_support_stands_in_the_tree(
    counted: Window, qtbot: QtBot
) -> None:
    counted.count.resamples.setValue(8)
    qtbot.mouseClick(counted.count.tabs[3], LEFT)
    checks = counted.count.checks
    for what in ("structure", "splits", "support", "orders"):
        assert checks.found[what].text() == checks.sections[what].before
        qtbot.mouseClick(checks.sections[what].run, LEFT)
        qtbot.waitUntil(lambda what=what: not counted.counting.at_work(what))
        assert checks.found[what].text() != checks.sections[what].before
    assert "5 clusters" in checks.found["splits"].text()
    small, splits = counted.count.choice.summit.chart(), counted.counting.checks.splits
    assert small is not None
    assert splits is not None
    assert small.tested == {test.join: test.holds for test in splits.tests}
    assert "denser in places than uniform noise" in checks.found["structure"].text()
    assert checks.answers["orders"].text() == "100.0% of pairs stay together"
    assert "No tie affects the tree. At 4 clusters" in checks.found["orders"].text()
    support = counted.focus.support
    assert support is not None
    schedule = counted.tree.schedule
    column = [schedule.table.headerData(c, Qt.Orientation.Horizontal, 0)
              for c in range(schedule.table.columnCount())].index("support")  # fmt: skip
    assert not schedule.isColumnHidden(column)
    assert schedule.table.text(203, column) == f"{100 * support.shown[203]:.0f}"
    counted.focus.select(Mark("join", 203))
    counted.go_to(2)
    assert f"Support {100 * support.shown[203]:.0f}%:" in counted.tree.reading.words.text()
    assert counted.tree.dendrogram.printed(LIGHT).heading().endswith("support in %")
    counted.acts.grow()  # the same tree, of which all that was found stays
    settled(counted, qtbot)
    assert counted.focus.support is support
    counted.focus.shelf.change("tree", linkage="average")
    counted.acts.grow()
    qtbot.waitUntil(lambda: counted.focus.support is None and counted.counting.board is not None)
    assert schedule.isColumnHidden(column)


@pytest.mark.slow
def test_the_board_is_taken_away_as_table_and_figure(
    counted: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    table = counted.count.take_away.table()
    assert table is not None
    assert len(table.rows) == 9
    assert table.heads[0] == "clusters"
    column = table.heads.index("silhouette")
    told = [row[column] for row in table.rows]
    assert told == board(counted).verdicts["silhouette"].values.tolist()
    link = counted.count.take_away
    for name in ("b.svg", "b.png", "b.pdf"):
        link.save_to(tmp_path / name)
        assert counted.acts.files.written()
        assert (tmp_path / name).stat().st_size > 2000
    ElementTree.parse(tmp_path / "b.svg")
    link.copy_values()
    assert QApplication.clipboard().text().startswith("clusters\t")
    link.save_to(tmp_path / "none" / "b.svg")
    assert not counted.acts.files.written()
    assert "not saved" in counted.alarm_words.text()


def test_a_matrix_says_why_rules_abstain(window: Window, opened: object, qtbot: QtBot) -> None:
    own = opened(DEMO / "services.toml")  # type: ignore[operator]
    own.go_to(3)
    assert own.count._stack.currentIndex() == 0  # no tree yet: it says how to get one
    with qtbot.waitSignal(own.focus.tree_changed):
        own.acts.grow()
    own.go_to(3)
    qtbot.waitUntil(lambda: own.counting.board is not None)
    own.counting.select("hartigan")
    assert own.count.rule.says.text() == (
        "No number: it needs variables, and a proximity matrix has none."
    )
    assert not own.count.rule.curve.isVisible()
    assert own.counting.board.verdicts["silhouette"].best == 4
    qtbot.waitUntil(lambda: own.counting.checks.groups is not None)
    own.count.show_tab(0)
    assert own.count.evidence.more.text().startswith("Whether there are groups was not tested: a")
    assert own.count.verdict.head.text() == "The rules favour four; groups were not tested."
    own.count.show_tab(4)
    assert "No column has the role" in own.count.groups.words.text()
    own.count.board.grab()
