"""Several files, databases and fixed widths are put together and seen in the window."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest
import xlsxwriter
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from gorvel.core.table.table import Table
from gorvel.desk.editors.reading_editor import ReadingEditor
from gorvel.desk.window.window import Window

Opener = Callable[[Path], Window]
LEFT = Qt.MouseButton.LeftButton


def editor_of(qtbot: QtBot) -> ReadingEditor:
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, ReadingEditor)
    qtbot.waitUntil(lambda: editor.shown is not None)
    return editor


def shown(editor: ReadingEditor, row: int) -> list[str]:
    items = (editor.preview.item(row, k) for k in range(editor.preview.columnCount()))
    return [item.text() for item in items if item is not None]


def test_files_dropped_together_are_stacked_and_others_joined(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    files = {
        "w1": "id,x,y\na,1,2\nb,3,4\n", "w2": "id,x,z\nc,5,6\n", "places": "key,id,place\n1,a,Elm\n"
    }  # fmt: skip
    for name, text in files.items():
        (tmp_path / f"{name}.csv").write_text(text)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / f"{name}.csv")) for name in ("w2", "w1")])
    drop = QDropEvent(
        QPointF(50, 50), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(drop)
    editor = editor_of(qtbot)
    qtbot.waitUntil(lambda: "2 columns are not in all 2 files" in editor.effect.text())
    assert shown(editor, 2) == ["c", "5", "·", "6", "w2.csv"]
    editor.others.add_beside("places.csv")
    qtbot.waitUntil(lambda: editor.preview.columnCount() == 7)
    assert "2 cases have no partner in places.csv (by id)" in editor.effect.text()
    key = editor.others.keys[0]
    assert [key.itemText(k) for k in range(3)] == ["id", "x", "y"]
    key.setCurrentText("x")
    key.activated.emit(key.currentIndex())
    qtbot.waitUntil(lambda: 'no column "x" in places.csv' in editor.said.text())
    assert not editor.take.isEnabled()
    key = editor.others.keys[0]
    key.setCurrentText("id")
    key.activated.emit(key.currentIndex())
    qtbot.waitUntil(editor.take.isEnabled)
    with qtbot.waitSignal(window.acts.opened):
        qtbot.mouseClick(editor.take, LEFT)
    plan, study = window.focus.shelf.plan, window.focus.shelf.study
    assert plan is not None
    assert study is not None
    assert plan.source.also == ("w2.csv",)
    assert window.cases.source.title.text() == "w1.csv and 2 more"
    assert isinstance(study.read, Table)
    assert study.read.names == ["id", "x", "y", "z", "file", "key", "place"]
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    codes = [caution.code for caution in window.focus.prepared.cautions]  # type: ignore[union-attr]
    assert {"stacked-gaps", "joined-gaps"} <= set(codes)


def test_a_database_is_opened_by_a_table_or_a_query(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "t.sqlite"
    connection = sqlite3.connect(path)
    connection.executescript(
        "create table one (x real, y real); insert into one values (1, 2), (3, 5), (4, 6);"
        "create table two (z real, w real); insert into two values (7, 1), (8, 1);"
    )
    connection.close()
    window = opened(path)
    assert window.focus.shelf.plan is not None
    assert window.focus.shelf.plan.source.table == "one"
    assert window.cases.source.how.text() == "Table one of a database"
    qtbot.mouseClick(window.cases.source.how, LEFT)
    editor = editor_of(qtbot)
    box = editor.fields["table"]
    assert [box.itemData(k) for k in range(box.count())] == ["one", "two", ""]
    box.setCurrentIndex(1)
    qtbot.waitUntil(lambda: shown(editor, 0) == ["7", "1"])
    qtbot.keyClicks(editor.query, "delete from one")
    editor.query.editingFinished.emit()
    qtbot.waitUntil(lambda: "a query that does more than read" in editor.said.text())
    editor.query.setText("select x + y as s, x from one where x > 1")
    editor.query.editingFinished.emit()
    qtbot.waitUntil(lambda: shown(editor, 0) == ["8", "3"])
    assert box.currentData() == ""
    qtbot.mouseClick(editor.take, LEFT)
    qtbot.waitUntil(lambda: window.focus.shelf.study.source.n == 2)  # type: ignore[union-attr]
    assert window.focus.shelf.plan.source.table is None
    assert window.focus.shelf.plan.variables.use == ("s", "x")


def test_a_fixed_width_file_is_opened_by_the_code_book_beside_it(
    opened: Opener, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "t.dat"
    path.write_text("1 23\n4 56\n7 88\n")
    window.acts.open(path)
    qtbot.waitUntil(window.alarm.isVisible)
    assert (
        "a fixed-width file; expected a codebook that gives the positions"
        in window.alarm_words.text()
    )
    places = (("x", 1, 1), ("y", 3, 4))
    variables = "".join(
        f'<var name="{n}"><location StartPos="{a}" EndPos="{b}"/></var>' for n, a, b in places
    )
    (tmp_path / "t.xml").write_text(f"<codeBook>{variables}</codeBook>")
    opened(path)
    study = window.focus.shelf.study
    assert study is not None
    assert isinstance(study.read, Table)
    assert study.read.frame.rows() == [("1", "23"), ("4", "56"), ("7", "88")]


@pytest.mark.slow
def test_some_sheets_of_a_workbook_are_put_below_each_other(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    book = xlsxwriter.Workbook(tmp_path / "t.xlsx")
    for name, rows in (
        ("2024", ["id,x", "a,1", "b,2"]), ("notes", ["who,when", "me,now"]),
        ("2026", ["id,x", "c,3"]),
    ):  # fmt: skip
        sheet = book.add_worksheet(name)
        for row, line in enumerate(rows):
            sheet.write_row(row, 0, line.split(","))
    book.close()
    window = opened(tmp_path / "t.xlsx")
    qtbot.mouseClick(window.cases.source.how, LEFT)
    editor = editor_of(qtbot)
    choice = editor.sheets
    assert choice is not None
    assert [choice.box.itemText(k) for k in range(choice.box.count())] == [
        "2024", "notes", "2026", "some, below each other", "all, stacked",
    ]  # fmt: skip
    choice.box.setFocus()
    qtbot.keyClicks(choice.box, "all")
    qtbot.waitUntil(lambda: "no column in common" in editor.said.text())
    qtbot.keyClick(choice.box, Qt.Key.Key_Up)
    assert [tick.text() for tick in choice.ticks] == ["2024", "notes", "2026"]
    for tick in choice.ticks:
        qtbot.keyClick(tick, Qt.Key.Key_Space)
    assert editor.said.text() == "No sheet is chosen: tick at least one."
    assert not editor.take.isEnabled()
    qtbot.keyClick(choice.ticks[2], Qt.Key.Key_Space)
    qtbot.keyClick(choice.ticks[0], Qt.Key.Key_Space)
    qtbot.waitUntil(editor.take.isEnabled)
    assert shown(editor, 2) == ["c", "3", "2026"]
    qtbot.mouseClick(editor.take, LEFT)
    qtbot.waitUntil(lambda: window.focus.shelf.study.source.n == 3)  # type: ignore[union-attr]
    assert window.focus.shelf.plan is not None
    assert window.focus.shelf.plan.source.sheets == ("2024", "2026")
    qtbot.mouseClick(window.cases.source.how, LEFT)
    again = editor_of(qtbot).sheets
    assert again is not None
    qtbot.waitUntil(lambda: len(again.ticks) == 3)
    assert [tick.isChecked() for tick in again.ticks] == [True, False, True]
    editor_of(qtbot).reject()
