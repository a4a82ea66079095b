"""How files are read: seen, corrected, stopped, mended."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import xlsxwriter
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from gorvel.core.plan.file import load_plan
from gorvel.core.study.reading import first_source
from gorvel.core.table import file_kinds, text_files, workbooks
from gorvel.desk.controls.work_bars import BusyBar
from gorvel.desk.editors.reading_editor import ReadingEditor
from gorvel.desk.window.window import Window
from gorvel.main import DEMO

Opener = Callable[[Path], Window]


def choose(editor: ReadingEditor, key: str, value: str) -> None:
    box = editor.fields[key]
    box.setCurrentIndex(box.findData(value))


def test_how_a_file_is_read_is_seen_and_corrected(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "odd.csv"
    path.write_bytes("who;a;b\nJos\u00e9;1,5;2\nAnn;2,25;x\n".encode("cp1252"))
    window = opened(path)
    line = window.cases.source
    assert line.how.text() == "Semicolon-separated, decimal comma, CP1252"
    qtbot.mouseClick(line.how, Qt.MouseButton.LeftButton)
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, ReadingEditor)

    def shows(cell: str) -> None:
        qtbot.waitUntil(lambda: getattr(editor.preview.item(0, 0), "text", str)() == cell)

    shows("Jos\u00e9")
    assert not editor.take.isEnabled()
    choose(editor, "encoding", "mac-roman")
    shows("JosÈ")
    choose(editor, "encoding", "utf-8")
    qtbot.waitUntil(lambda: "bytes that are not utf-8" in editor.said.text())
    assert not editor.take.isEnabled()
    choose(editor, "encoding", "latin-1")
    choose(editor, "header", False)
    shows("who")
    assert editor.preview.horizontalHeaderItem(1).text() == "column_2\nnumbers"
    choose(editor, "header", True)
    shows("Jos\u00e9")
    qtbot.keyClicks(editor.codes, "x; 2")
    assert editor.effect.text() == "3 columns, 2 rows. Read as missing there: b 2."
    assert editor.preview.item(1, 2).font().strikeOut()
    editor.codes.clear()
    choose(editor, "decimal", ".")
    qtbot.waitUntil(editor.take.isEnabled)
    qtbot.mouseClick(editor.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: line.how.text() == "Semicolon-separated, decimal point, LATIN-1")
    assert window.focus.shelf.plan is not None
    assert window.focus.shelf.plan.source.encoding == "latin-1"
    qtbot.waitUntil(lambda: "nominal" in window.focus.problem)  # 1,5 is no number with a point

    window.acts.read_again(delimiter=",", decimal="auto")
    qtbot.waitUntil(window.alarm.isVisible)
    assert "cells; expected 1" in window.alarm_words.text()
    assert line.how.text() == "Semicolon-separated, decimal point, LATIN-1"
    window.focus.shelf.undo()  # the reading is taken back like any other change
    assert line.how.text() == "Semicolon-separated, decimal comma, CP1252"
    qtbot.waitUntil(lambda: window.focus.prepared is not None)


@pytest.mark.slow
def test_a_large_table_makes_way_for_a_small_one(opened: Opener, tmp_path: Path) -> None:
    path = tmp_path / "one.csv"
    path.write_text("x\n1\n")
    for place in (DEMO / "services.toml", path, DEMO / "readers.toml", path):
        cells = opened(place).cases.answers.cells
        small = place == path
        assert (cells.model().rowCount() == 1) == small
        cells.grab()


@pytest.mark.slow
def test_reading_a_file_can_be_stopped(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "long.csv"
    path.write_text("a,b\n" + "1,2\n" * 200_000)
    busy = window.findChild(BusyBar)
    told: list[str] = []
    window.acts.said.connect(lambda words, is_error: told.append(words))
    window.acts.open(path)
    busy.bar._patience.timeout.emit()  # reading takes its time
    assert busy.isVisible()
    qtbot.mouseClick(busy.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not busy.isVisible())
    assert told[-1] == "Stopped; nothing was opened."
    assert window.focus.shelf.study is None
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(path)
    assert window.focus.shelf.study is not None
    assert not busy.isVisible()


def test_a_file_that_cannot_be_read_is_mended_before_it_is_opened(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "ragged.csv").write_text("1 2;5,5\n1 3;6\n1 4;7\n2;8\n", encoding="utf-8")
    path = tmp_path / "plan.toml"
    path.write_text(
        'gorvel = 1\n[source]\nfile = "ragged.csv"\ndelimiter = ","\n'
        '[variables]\nuse = ["column_2"]\n'
    )
    window.acts.open(path)
    qtbot.waitUntil(window.alarm.mend.isVisible)
    assert "ragged.csv" in window.alarm_words.text()
    assert window.focus.shelf.study is None
    qtbot.mouseClick(window.alarm.mend, Qt.MouseButton.LeftButton)
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, ReadingEditor)
    qtbot.waitUntil(lambda: editor.preview.rowCount() == 4)
    assert editor.preview.item(0, 0).text() == "1 2;5,5"  # the line as it stands in the file
    choose(editor, "delimiter", ";")
    choose(editor, "header", False)
    qtbot.waitUntil(lambda: editor.preview.columnCount() == 2)
    qtbot.keyClicks(editor.codes, "1 2")
    qtbot.waitUntil(editor.take.isEnabled)
    with qtbot.waitSignal(window.acts.opened):
        qtbot.keyClick(editor.take, Qt.Key.Key_Space)
    assert not window.alarm.isVisible()
    plan = window.focus.shelf.plan
    assert plan is not None
    assert plan.source.delimiter == ";"
    assert plan.source.missing_codes == ("1 2",)
    assert plan.variables.use == ("column_2",)
    assert window.focus.shelf.study is not None
    assert window.focus.shelf.study.source.names == ["column_1", "column_2"]


@pytest.mark.parametrize("name", ["readers.csv", "services.csv"])
def test_a_file_is_read_once(opened: Opener, monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    read = []
    whole = text_files.contents

    def counted(path: Path, *others: Any) -> Any:
        read.append(path.name)
        return whole(path, *others)

    for module in (file_kinds, text_files, workbooks):
        monkeypatch.setattr(module, "contents", counted)
    window = opened(DEMO / name)
    assert window.focus.shelf.plan is not None
    assert (window.focus.shelf.plan.source.kind == "proximities") == (name == "services.csv")
    assert read == [name]


@pytest.mark.slow
def test_errors_in_a_workbook_are_told_where_the_cases_are(opened: Opener, tmp_path: Path) -> None:
    path = tmp_path / "t.xlsx"
    book = xlsxwriter.Workbook(path)
    sheet = book.add_worksheet()
    for row in range(6):
        sheet.write_row(row, 0, ["id", "x"] if row == 0 else [f"c{row}", row])
    sheet.write_formula(3, 1, "=1/0", None, "#DIV/0!")
    book.close()
    window = opened(path)
    told = [label.text() for label in window.cases.cautions.findChildren(QLabel)]
    assert told == ["1 cell holds an error and is read as no answer (B4: #DIV/0!)."]
    assert window.cases.cautions.isVisible()
    plain = opened(DEMO / "readers.toml")
    assert not plain.cases.cautions.isVisible()


def test_a_matrix_of_similarities_taken_for_a_table_has_a_plan_that_fits(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    window = opened(DEMO / "services.csv")
    with qtbot.waitSignal(window.focus.shelf.study_changed):
        qtbot.keyClick(window.cases.similarity, Qt.Key.Key_Space)
    qtbot.mouseClick(window.cases.source.how, Qt.MouseButton.LeftButton)
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, ReadingEditor)
    choose(editor, "kind", "table")
    qtbot.waitUntil(editor.take.isEnabled)
    with qtbot.waitSignal(window.acts.opened):
        qtbot.mouseClick(editor.take, Qt.MouseButton.LeftButton)
    plan = window.focus.shelf.plan
    assert plan is not None
    assert plan.source.kind == "table"
    assert window.acts.files.save_plan(tmp_path / "p.toml")
    assert window.acts.files.written()
    assert load_plan(tmp_path / "p.toml").source.file == str(DEMO / "services.csv")


@pytest.mark.slow
def test_columns_may_be_called_anything(opened: Opener, qtbot: QtBot, tmp_path: Path) -> None:
    names = ["*", "^.*$", "times", "^$", "literal", "a b"]
    rows = [[k % 5, k % 3, k % 7, "pq"[k % 2], k, ""] for k in range(30)]
    path = tmp_path / "odd.csv"
    path.write_text("\n".join(",".join(map(str, row)) for row in [names, *rows]), "utf-8")
    window = opened(path)
    focus = window.focus
    assert focus.problem == ""
    focus.shelf.change("variables", use=["*", "^.*$", "times", "^$"], profile=["literal"])
    focus.shelf.change("source", missing_codes=["4"])
    focus.shelf.change("proximity", measure="gower")
    focus.shelf.change("tree", linkage="average")
    with qtbot.waitSignal(focus.tree_changed):
        window.acts.grow()
    for page in range(6):
        window.go_to(page)
        qtbot.waitUntil(lambda: window.acts.jobs.idle)
        window.grab()
    assert focus.grown is not None
    assert [one.name for one in focus.grown.prepared.variables] == ["*", "^.*$", "times", "^$"]
    shown = window.cases.answers.cells.table
    assert [shown.headerData(k, Qt.Orientation.Horizontal) for k in range(6)] == names


def test_options_of_json_lines_and_fixed_widths(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "t.jsonl").write_text('{"a": 1, "b": 2}\n{"a": 3, "b": 4}\n', encoding="utf-8")
    (tmp_path / "t.dat").write_text("ab\n12\n34\n", encoding="utf-8")
    places = "".join(
        f'<var name="{name}"><location StartPos="{k}" EndPos="{k}"/></var>'
        for k, name in enumerate("ab", 1)
    )
    (tmp_path / "t.xml").write_text(
        f'<codeBook xmlns="ddi:codebook:2_5"><dataDscr>{places}</dataDscr></codeBook>',
        encoding="utf-8",
    )
    for name, fields in (("t.jsonl", {"kind", "encoding"}), ("t.dat", {"kind", "encoding"})):
        path = tmp_path / name
        editor = ReadingEditor(window.acts, path, first_source(path), window)
        editor.open()
        qtbot.waitUntil(lambda editor=editor: editor.shown is not None)
        assert set(editor.fields) == fields
        assert not editor.fields["encoding"].currentText().endswith(": ")
        assert editor.above.isVisible() == (name == "t.dat")
        if name == "t.dat":
            assert editor.shown.n == 3
            editor.above.setValue(1)
            qtbot.waitUntil(lambda editor=editor: editor.shown.n == 2)
            assert editor.take.isEnabled()
        editor.reject()
