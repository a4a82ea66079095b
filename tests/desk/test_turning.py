"""An export in words becomes variables and a tree in the window, by the mouse and by keys alone."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from gorvel.core.derive.making import completed
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.file import load_plan, save_plan
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.desk.editors.formula_editor import FormulaEditor
from gorvel.desk.editors.items_editor import ItemsEditor
from gorvel.desk.pages.cases.made_list import MadeEditor
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
from gorvel.main import DEMO

Opener = Callable[[Path], Window]
LEFT = Qt.MouseButton.LeftButton
STATEMENTS = (
    "I come for the people on board", "I like to sit down and read", "I tell others about the bus",
    "I am in and out within minutes",
)  # fmt: skip
ROWS = (
    'never,€10,"Saw; Drill"', "often,€20,Saw", 'always,€5,"Drill; Tape"', 'seldom,€1.5,"Tape; Saw"',
    "often,30,Drill", 'sometimes,n/a,"Drill; Saw"',
)  # fmt: skip
SLIPS = {8: 'always,a lot,"Drill; Tape"', 9: 'seldm,€1.5,"Tape; Saw"'}  # case 9 and 10
SMALL = ["id,how,paid,tools", *(f"a{k},{SLIPS.get(k, ROWS[k % 6])}" for k in range(60))]


def settle(window: Window, qtbot: QtBot) -> None:
    """Until the columns are looked at and what comes out is known."""
    turning = window.turning
    qtbot.waitUntil(lambda: turning.looking.job is None and turning.trying.job is None)
    QApplication.processEvents()


@pytest.fixture
def online(opened: Opener, qtbot: QtBot, tmp_path: Path) -> Window:
    path = tmp_path / "online.csv"
    shutil.copy(DEMO / "online.csv", path)
    window = opened(path)
    settle(window, qtbot)
    return window


@pytest.fixture
def small(opened: Opener, qtbot: QtBot, tmp_path: Path) -> Window:
    path = tmp_path / "small.csv"
    path.write_text("\n".join(SMALL))
    window = opened(path)
    settle(window, qtbot)
    window.turn_answers()
    return window


def plan_of(window: Window) -> Plan:
    plan = window.focus.shelf.plan
    assert plan is not None
    return plan


def column(window: Window, name: str) -> list[str | None]:
    """What the table of the page shows of a column."""
    table = window.cases.answers.cells.table
    assert isinstance(table.source, Table)
    at = table.source.names.index(name)
    return [str(table.data(table.index(row, at))) for row in range(table.rowCount())]


def keyed(qtbot: QtBot, *keys: Qt.Key, widget: QWidget | None = None) -> None:
    for key in keys:
        target = widget or QApplication.focusWidget()
        assert target is not None
        qtbot.keyClick(target, key)


def tab_to(qtbot: QtBot, wanted: QWidget) -> None:
    """Go on with Tab until something has the focus."""
    for _ in range(200):
        if QApplication.focusWidget() is wanted:
            return
        keyed(qtbot, Qt.Key.Key_Tab)
    raise AssertionError(f"Tab never comes to {wanted.accessibleName()}")


@pytest.mark.slow
def test_an_export_becomes_a_tree_by_keys_alone_and_the_plan_file_gives_the_same(
    online: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert plan_of(online).source.skip == 2  # the header was found below the title
    assert not plan_of(online).make
    assert online.cases.offer.isVisible()
    qtbot.keyClick(online, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    turn = online.cases.turn
    assert turn.isVisible()
    place = next(k for k, row in enumerate(turn.rows) if len(row.proposal.columns) == 4)
    while QApplication.focusWidget() is not turn.rows[place].box:
        keyed(qtbot, Qt.Key.Key_Down)
    assert turn.rows[place].detail.isVisible()
    settle(online, qtbot)
    turned = turn.rows[place].turned[STATEMENTS[3]]
    assert "correlates negatively with the others, r = −0.82" in turned.text()
    name = turn.rows[place].names[STATEMENTS[0]]
    tab_to(qtbot, name)
    qtbot.keyClicks(name, "people")
    tab_to(qtbot, turned)
    keyed(qtbot, Qt.Key.Key_Space)
    settle(online, qtbot)
    assert turned.text() == "Reverse-scored"  # they all run one way now
    tab_to(qtbot, turn.go)
    assert turn.go.text() == "Create 14 variables"
    keyed(qtbot, Qt.Key.Key_Return)
    assert not turn.isVisible()
    assert len(plan_of(online).variables.use) == 15
    qtbot.waitUntil(lambda: online.focus.prepared is not None)
    with qtbot.waitSignal(online.focus.tree_changed):
        qtbot.keyClick(online, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    grown = online.focus.grown
    assert grown is not None
    assert "people" in [v.name for v in grown.prepared.variables]

    path = tmp_path / "plan.toml"
    save_plan(plan_of(online), path)
    plan = load_plan(path)
    again = analyse(read_source(plan, tmp_path / "online.csv"), plan)
    assert again.tree.n == grown.tree.n
    for mine, its in ((grown.tree.left, again.tree.left), (grown.tree.heights, again.tree.heights)):
        np.testing.assert_array_equal(mine, its)

    online.focus.shelf.undo()  # one step
    assert not plan_of(online).make


def test_nothing_is_made_before_it_is_asked_for(online: Window, qtbot: QtBot) -> None:
    table = online.cases.answers.cells.table
    assert table.columnCount() == 13
    qtbot.mouseClick(online.cases.offer.go, LEFT)
    turn = online.cases.turn
    states = {row.proposal.columns[0]: row.state.text() for row in turn.rows}
    assert states["Finished on"] == "leave as is"
    assert states["Yearly household income"] == ""  # only exceptions are told
    income = next(r for r in turn.rows if r.proposal.columns == ("Yearly household income",))
    income.box.click()
    settle(online, qtbot)
    assert income.state.text() == "leave as is"
    assert turn.go.text() == "Create 13 variables"
    heads = [column.head for column in turn.outcome.table.columns]
    assert "Yearly household income (number)" not in heads
    qtbot.keyClick(turn, Qt.Key.Key_Escape)
    assert not turn.isVisible()
    assert not plan_of(online).make
    assert online.cases.offer.isVisible()


def test_words_are_put_in_an_order_by_keys_and_by_dragging(online: Window, qtbot: QtBot) -> None:
    online.turn_answers()
    turn = online.cases.turn
    row = next(r for r in turn.rows if r.proposal.columns == ("How often do you order ahead?",))
    row.box.setFocus()
    strip = row.strip
    assert strip is not None
    assert strip.words == ["Never", "Rarely", "Sometimes", "Often", "Always"]
    strip.setFocus()
    keyed(qtbot, Qt.Key.Key_Right, widget=strip)
    qtbot.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert strip.words[:2] == ["Rarely", "Never"]
    start, end = (strip.chip(k).center().toPoint() for k in (4, 0))
    qtbot.mousePress(strip, LEFT, pos=start)
    for k in range(1, 11):
        at = QPointF(start + (end - start) * k / 10).toPoint()
        qtbot.mouseMove(strip, at)
    qtbot.mouseMove(strip, end + QPoint(1, 0))
    qtbot.mouseRelease(strip, LEFT, pos=end)
    settle(online, qtbot)
    wanted = ["Always", "Rarely", "Never", "Sometimes", "Often"]
    assert strip.words == wanted
    assert list(row.proposal.words) == wanted
    qtbot.mouseClick(turn.go, LEFT)
    made = "How often do you order ahead? (1–5)"
    source = online.focus.shelf.study.source  # type: ignore[union-attr]
    assert isinstance(source, Table)
    answers = source.cells("How often do you order ahead?").values
    assert [int(c) for c in source.cells(made).values] == [wanted.index(a) + 1 for a in answers]
    assert column(online, made) == [str(a) for a in answers]  # shown in their words


def test_cells_that_cannot_be_turned_are_listed_and_mended(small: Window, qtbot: QtBot) -> None:
    turn = small.cases.turn
    assert turn.unturned.isVisible()
    assert set(turn.unturned.fields) == {("how", "seldm"), ("paid", "a lot")}
    assert not turn.go.isEnabled()
    assert "2 cells cannot be converted" in turn.why.text()
    field = turn.unturned.fields["how", "seldm"]
    assert isinstance(field, QComboBox)
    field.setCurrentIndex(field.findText("seldom"))
    field.activated.emit(field.currentIndex())
    settle(small, qtbot)
    assert set(turn.unturned.fields) == {("paid", "a lot")}
    field = turn.unturned.fields["paid", "a lot"]
    assert isinstance(field, QLineEdit)
    qtbot.keyClicks(field, "many")
    keyed(qtbot, Qt.Key.Key_Return, widget=field)
    settle(small, qtbot)
    assert set(turn.unturned.fields) == {("paid", "a lot")}  # that is no number either
    qtbot.mouseClick(turn.unturned.links["paid", "a lot"], LEFT)
    settle(small, qtbot)
    assert not turn.unturned.fields
    assert turn.go.isEnabled()
    # what was said stays in sight, can be said otherwise, and taken back
    assert set(turn.unturned.settled) == {("how", "seldm"), ("paid", "a lot")}
    qtbot.mouseClick(turn.unturned.undo["how", "seldm"], LEFT)
    settle(small, qtbot)
    assert set(turn.unturned.fields) == {("how", "seldm")}
    assert not turn.go.isEnabled()
    near = turn.unturned.near["how", "seldm"]
    assert isinstance(near, QPushButton)
    assert near.text() == "seldom?"
    qtbot.mouseClick(near, LEFT)
    settle(small, qtbot)
    box = turn.unturned.settled["how", "seldm"]
    assert isinstance(box, QComboBox)
    assert box.currentText() == "seldom"
    qtbot.mouseClick(turn.go, LEFT)
    source = small.focus.shelf.study.source  # type: ignore[union-attr]
    assert isinstance(source, Table)
    how, paid = (source.cells(name).values.tolist() for name in source.names[4:6])
    assert how == ["1", "4", "5", "2", "4", "3"] * 10
    whole = ["10", "20", "5", "1.5", "30", None] * 10
    assert paid == [*whole[:8], None, *whole[9:]]
    assert source.cells("tools: Saw").values.tolist() == ["1", "1", "0", "1", "0", "1"] * 10


def test_what_is_made_is_renamed_removed_and_made_more_of(small: Window, qtbot: QtBot) -> None:
    turn, shelf = small.cases.turn, small.focus.shelf
    for place, proposal in enumerate(small.turning.proposals):
        small.turning.take(place, proposal.columns == ("tools",))
    settle(small, qtbot)
    qtbot.mouseClick(turn.go, LEFT)
    small.turn_answers()
    made = turn.made
    made.by_formula()
    editor = small.findChild(FormulaEditor)
    assert editor is not None
    qtbot.keyClicks(editor.name, "both")
    editor.formula.setFocus()
    qtbot.keyClicks(editor.formula, "Sa")
    assert editor.words.item(0).text() == "tools: Saw"
    keyed(qtbot, Qt.Key.Key_Tab, widget=editor.formula)
    assert editor.formula.text() == "`tools: Saw`"
    qtbot.keyClicks(editor.formula, " / Dr")
    assert "no column" in editor.says.text()
    assert not editor.go.isEnabled()
    keyed(qtbot, Qt.Key.Key_Tab, widget=editor.formula)
    assert editor.says.text() == "a division by 0 at character 16: case 2, and 19 other cases"
    assert not editor.go.isEnabled()
    editor.formula.setText("`tools: Saw` * `tools: Drill` + 1")
    assert editor.says.text() == "1 to 2"
    shown = [editor.results.item(row, 2).text() for row in range(6)]
    assert shown == ["2", "1", "1", "1", "1", "2"]
    qtbot.mouseClick(editor.go, LEFT)
    assert "both" in plan_of(small).variables.use

    made.of_items()
    items = small.findChild(ItemsEditor)
    assert items is not None
    qtbot.keyClicks(items.name, "all")
    for name in ("both", "tools: Saw", "tools: Tape"):
        items.tick(name)
    wanted = ("tools: Saw", "tools: Tape", "both")  # in the order of the table
    assert items.says.text().startswith("Cronbach’s alpha")
    assert "“tools: Tape” correlates negatively with the rest" in items.says.text()
    items.least.setValue(2)
    qtbot.mouseClick(items.go, LEFT)
    entry = plan_of(small).make[-1]
    assert entry.mean == wanted
    assert entry.at_least == 2

    assert not turn.made.why.isVisible()
    qtbot.mouseClick(made.links["both", "remove"], LEFT)
    assert made.why.text() == "“both” is needed: “all” is created from it."
    field = made.names["both"]
    field.selectAll()
    qtbot.keyClicks(field, "tools: Saw")
    keyed(qtbot, Qt.Key.Key_Return, widget=field)
    assert made.why.text() == "Another column is already called “tools: Saw”."
    field.setText("either")
    field.editingFinished.emit()
    plan = plan_of(small)
    assert plan.make[-1].mean == ("tools: Saw", "tools: Tape", "either")
    assert "either" in plan.variables.use
    assert "both" not in plan.variables.use
    qtbot.mouseClick(made.links["all", "remove"], LEFT)
    qtbot.mouseClick(made.links["either", "remove"], LEFT)
    assert [make.name for make in plan_of(small).make] == ["tools"]
    for _ in range(3):
        shelf.undo()
    assert plan_of(small).make[1].name == "both"


def test_a_kept_tree_goes_on_with_what_it_was_made_of(small: Window, qtbot: QtBot) -> None:
    """Making another variable ages no tree that does not look at it."""
    shelf = small.focus.shelf
    for place, proposal in enumerate(small.turning.proposals):
        small.turning.take(place, proposal.columns == ("tools",))
    settle(small, qtbot)
    small.turning.make()
    qtbot.waitUntil(lambda: small.focus.prepared is not None)
    with qtbot.waitSignal(small.focus.tree_changed):
        small.acts.grow()
    shelf.keep()
    entry = plan_of(small).make[0]
    more = entry.model_copy(update={"name": "t", "empty": "missing"})
    shelf.change_by(lambda plan: plan.with_made([*plan.make, more]))
    assert not small.focus.out_of_date
    assert len(shelf.study.trees) == 1  # type: ignore[union-attr]
    shelf.change_by(lambda plan: plan.with_made([entry.model_copy(update={"name": "T"}), more])
                    .using(["T: Saw", "T: Drill"]))  # fmt: skip
    assert small.focus.out_of_date
    kept = shelf.study.kept[0]  # type: ignore[union-attr]
    table = completed(shelf.study.read, kept.plan)  # type: ignore[union-attr]
    assert isinstance(table, Table)
    assert "tools: Saw" in table.names


def test_looking_goes_on_when_looks_change_and_ends_with_the_study(
    small: Window, qtbot: QtBot
) -> None:
    small.other_theme()
    settle(small, qtbot)
    assert len(small.cases.turn.rows) == len(small.turning.proposals) == 3
    small.turn_answers()
    assert small.cases.turn.isVisible()
    with qtbot.waitSignal(small.acts.opened):
        small.acts.open(DEMO / "services.csv")
    qtbot.waitUntil(lambda: not small.acts.jobs.busy(JobKind.RECOGNISE))
    assert not small.turning.proposals
    assert not small.cases.turn.isVisible()
    assert not small.cases.offer.isVisible()
    small.turn_answers()  # a matrix has no answers
    assert not small.cases.turn.isVisible()


def test_cells_of_a_plan_that_cannot_be_turned_are_mended_where_they_are_told(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "small.csv").write_text("\n".join(SMALL))
    path = tmp_path / "p.toml"
    path.write_text(
        'gorvel = 1\n[source]\nfile = "small.csv"\n[[make]]\nname = "p"\nfrom = "paid"\n'
        'number = true\n[[make]]\nname = "h"\nfrom = "how"\n'
        'order = ["never", "seldom", "sometimes", "often", "always"]\n'
        '[variables]\nuse = ["p", "h"]\n'
    )
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(path)
    qtbot.waitUntil(lambda: bool(window.focus.problem))
    assert 'row 6, column "paid": "n/a" (for [[make]] "p")' in window.focus.problem
    assert window.cases.offer.says.text() == (
        "12 cells cannot be converted into what the plan creates."
    )
    qtbot.mouseClick(window.cases.offer.go, LEFT)
    turn = window.cases.turn
    settle(window, qtbot)
    assert [row.proposal.columns for row in turn.rows] == [("id",), ("tools",)]
    for row in turn.rows:
        row.box.setChecked(False)
    settle(window, qtbot)
    assert set(turn.unturned.fields) == {("paid", "n/a"), ("paid", "a lot"), ("how", "seldm")}
    qtbot.mouseClick(turn.unturned.links["paid", "n/a"], LEFT)
    assert plan_of(window).variables.missing == {"paid": ("n/a",)}
    field = turn.unturned.fields["paid", "a lot"]
    assert isinstance(field, QLineEdit)
    qtbot.keyClicks(field, "99")
    keyed(qtbot, Qt.Key.Key_Return, widget=field)
    box = turn.unturned.fields["how", "seldm"]
    assert isinstance(box, QComboBox)
    assert [box.itemData(k) for k in range(1, 3)] == ["never", "seldom"]
    box.setCurrentIndex(2)
    box.activated.emit(2)
    assert not turn.unturned.isVisible()
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    assert column(window, "p")[8] == "99"
    assert column(window, "h")[9] == "2"


def test_how_a_variable_is_made_can_be_changed_later(small: Window, qtbot: QtBot) -> None:
    for place, proposal in enumerate(small.turning.proposals):
        small.turning.take(place, proposal.columns == ("tools",))
    settle(small, qtbot)
    small.turning.make()
    order = ["never", "seldom", "sometimes", "often", "always"]
    keys = {"name": "h", "from": "how", "order": order, "correct": {"seldm": "seldom"}}
    more = MakePlan.model_validate(keys)
    small.focus.shelf.change_by(lambda plan: plan.with_made([*plan.make, more]))
    made = small.cases.turn.made
    small.turn_answers()
    qtbot.mouseClick(made.links["h", "change …"], LEFT)
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, MadeEditor)
    assert editor.row.names["how"].text() == "h"
    editor.row.turned["how"].click()
    strip = editor.row.strip
    assert strip is not None
    strip.setFocus()
    qtbot.keyClick(strip, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    qtbot.mouseClick(editor.go, LEFT)
    entry = plan_of(small).make[-1]
    assert entry.order == ("seldom", "never", "sometimes", "often", "always")
    assert entry.reverse is True
    assert entry.correct == {"seldm": "seldom"}
    assert entry.name == "h"
    small.focus.shelf.undo()
    assert plan_of(small).make[-1].reverse is False


@pytest.mark.slow
def test_one_answer_serves_all_columns_with_the_same_words_and_rows_that_are_out_are_not_asked(
    opened: Callable[[Path], Window], qtbot: QtBot, tmp_path: Path
) -> None:
    scale = ["Strongly disagree", "Disagree", "Neutral", "Agree", "Strongly agree"]
    lines = ["id,q1,q2,q3,rate,share"]
    ends = {0: "0 - Not at all likely", 10: "10 - Extremely likely"}
    for k in range(60):
        words = [scale[(k * step) % 5] for step in (1, 2, 3)]
        words = ["Stongly agree" if (k, j) in ((3, 0), (7, 1)) else w for j, w in enumerate(words)]
        words = ["What?" if k == 20 else word for word in words]
        share = "57.6 (e)" if k == 11 else f"{40 + k % 17}.5"
        lines.append(f"R{k},{','.join(words)},{ends.get(k % 11, k % 11)},{share}")
    path = tmp_path / "t.csv"
    path.write_text("\n".join(lines))
    window = opened(path)
    window.focus.shelf.set_aside({21})
    window.turn_answers()
    settle(window, qtbot)
    turn, shown = window.cases.turn, {}
    for row in turn.rows:
        shown[row.proposal.columns[0]] = row
    assert "id" not in shown  # it names the cases already
    assert shown["q1"].proposal.columns == ("q1", "q2", "q3")
    assert shown["share"].proposal.becomes == "number"  # one cell with a mark is enough
    assert shown["rate"].becomes.text() == "0 to 10, in this order"
    # one row for a cell of two columns, and none for the case that is set aside
    assert set(turn.unturned.fields) == {("q1", "Stongly agree")}
    near = turn.unturned.near["q1", "Stongly agree"]
    assert isinstance(near, QPushButton)
    assert near.text() == "Strongly agree?"
    qtbot.mouseClick(near, LEFT)
    settle(window, qtbot)
    assert not turn.unturned.fields
    # a click on the words of a row opens it
    for name in ("rate", "share", "q1"):
        qtbot.mouseClick(shown[name].name, LEFT)
        assert turn.opened == turn.rows.index(shown[name])
    qtbot.mouseClick(shown["share"].seen, LEFT)
    assert turn.opened == turn.rows.index(shown["share"])
    qtbot.mouseClick(turn.go, LEFT)
    settle(window, qtbot)
    source = window.focus.shelf.study.source  # type: ignore[union-attr]
    assert isinstance(source, Table)
    assert [source.numbers(f"q{j} (1–5)").values[k] for j, k in ((1, 3), (2, 7))] == [5, 5]
    rates = source.numbers("rate (0–10)").values
    assert rates.tolist() == [k % 11 for k in range(60)]
    assert source.numbers("share (number)").values[11] == 57.6
    levels = {
        model.summaries[row].name: model.level_of(row)
        for model in (window.cases.variables.view.table,)
        for row in range(model.rowCount())
    }
    assert levels["q1 (1–5)"] == levels["rate (0–10)"] == "ordinal"
    qtbot.waitUntil(lambda: window.focus.prepared is not None and not window.focus.problem)
