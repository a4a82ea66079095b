"""How a file is read: every choice, with a preview that follows at once."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QSizePolicy,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gorvel.core.base.progress import Progress
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import asked_of, read_source
from gorvel.core.table.detect import DELIMITERS
from gorvel.core.table.file_kinds import kind_named
from gorvel.core.table.reading import names_in, preview_table
from gorvel.core.table.table import Table
from gorvel.core.table.text_files import raw_lines
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_field, add_foot, body
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, split_codes, text
from gorvel.desk.editors.other_files import OtherFiles
from gorvel.desk.editors.sheet_choice import SheetChoice
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.theme import SPACE, current, font

_FOUND = "Detected"
_DELIMITER_WORDS = {",": "comma", ";": "semicolon", "tab": "tab", "|": "bar", "space": "spaces"}
_DECIMAL_WORDS = {".": "point", ",": "comma"}
_ENCODINGS = ("utf-8", "cp1252", "latin-1", "utf-16", "mac-roman", "iso-8859-15")
_KINDS = {
    "table": "Table: one row per case", "proximities": "Proximity matrix",
    "counts": "Cross table of counts",
}  # fmt: skip
_HEADERS = {True: "holds the column names", False: "is a case"}
_MARKERS = ("file", "sheet")
_MOST_ABOVE = 1_000  # lines above a header
_LOOKED_AT = 400  # rows from which codes are counted
_ROWS, _COLUMNS = 40, 60  # shown in the preview


class ReadingEditor(QDialog):
    """Nothing is changed until it is taken. Esc leaves everything as it is.

    path : of the data, or of the plan that names them; source : how they are read now;
    why : what went wrong with that, if anything.
    """

    def __init__(
        self,
        actions: Actions,
        path: Path,
        source: SourcePlan,
        parent: QWidget | None = None,
        why: str = "",
    ) -> None:
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle(f"Opening options: {source.file}")
        self.acts, self.path, self.source = actions, path, source
        self.changes: dict[str, object] = {}
        self.fields: dict[str, QComboBox] = {}
        self.sheets: SheetChoice | None = None  # of a workbook
        self.shown: Table | None = None
        self.above = QSpinBox()
        self.above.setRange(0, _MOST_ABOVE)
        self.above.setValue(source.skip)
        self.above.valueChanged.connect(self._skipped)
        self.others = OtherFiles(path.parent / source.file, source)
        self.others.changed.connect(self._others_chosen)
        self.query = QLineEdit(source.query or "")
        self.preview = self._preview()
        self.said = text(why, weight=600)
        self.said.setProperty("alarm", True)
        self.effect = text(soft=True)
        self.take = button("Open with these settings", self._take, "main")
        self._open = True
        self.finished.connect(self._closed)
        layout = body(self, f"Opening options: {source.file}")
        layout.addWidget(self._form())
        layout.addWidget(self.others)
        layout.addWidget(self.said)
        layout.addWidget(self.preview, 1)
        layout.addWidget(self.effect)
        add_foot(self, layout, self.take)
        self.resize(860, 560)
        self._look()

    @property
    def _above_words(self) -> str:
        if "sheet" in self._options:
            return "Rows above the header"
        return "Lines above the header" if "header" in self._options else "Lines above the cases"

    @property
    def _options(self) -> Collection[str]:
        kind = kind_named(self.source.file)
        return () if kind is None else kind.options

    def _skipped(self, lines: int) -> None:
        self.changes["skip"] = lines
        self._look()

    @property
    def _data(self) -> Path:
        return self.path.parent / self.source.file

    def _preview(self) -> QTableWidget:
        table = QTableWidget()
        table.setFont(font("note"))
        table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        table.verticalHeader().setDefaultSectionSize(22)
        table.setShowGrid(False)
        table.setTabKeyNavigation(False)
        for head in (table.horizontalHeader(), table.verticalHeader()):
            head.setFont(font("note"))
        table.setAccessibleName("Preview")
        return table

    def _form(self) -> QWidget:
        """Two columns of choices: what the file holds, and how its text is cut."""
        box = QWidget()
        box.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        both = QHBoxLayout(box)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(4 * SPACE)
        self._left, self._right = QFormLayout(), QFormLayout()
        for form in (self._left, self._right):
            form.setHorizontalSpacing(2 * SPACE)
            form.setVerticalSpacing(SPACE)
            both.addLayout(form, 1)
        source = self.source
        self._choice(self._left, "kind", "File contains", _KINDS, source.kind)
        options = self._options
        if "sheet" in options:
            self.sheets = SheetChoice(source)
            self.sheets.changed.connect(self._sheets_chosen)
            add_field(self._right, "Sheet", self.sheets)
        if "table" in options:
            self._of_database()
        for key, words, choices, now in (
            ("delimiter", "Delimiter", _delimiters(), source.delimiter),
            ("decimal", "Decimal mark", _DECIMAL_WORDS, source.decimal),
            ("encoding", "Encoding", {e: e for e in _ENCODINGS}, source.encoding),
        ):
            if key in options:
                self._choice(self._right, key, words, {"auto": _FOUND} | choices, now)
        if "header" in options:
            self._choice(self._left, "header", "The first row", _HEADERS, source.header)
        if "skip" in options:
            add_field(self._left, self._above_words, self.above)
        self.codes = QLineEdit(", ".join(source.missing_codes))
        self.codes.setPlaceholderText("for example 98, 99")
        self.codes.textChanged.connect(self._codes_typed)
        add_field(self._left, "Missing-value codes", self.codes)
        return box

    def _of_database(self) -> None:
        """A table of the database, or a query in its place."""
        source = self.source
        now = source.table or ""
        names = {"": "By query"} | ({now: now} if now else {})
        self._choice(self._right, "table", "Table", names, now)
        self.query.setPlaceholderText("or: select … from … where …")
        self.query.setToolTip("One reading statement; the file is never changed (Return)")
        self.query.editingFinished.connect(self._query_typed)
        add_field(self._right, "Query", self.query)

    def _query_typed(self) -> None:
        words = self.query.text().strip() or None
        if words != self._now.query:
            self.changes["query"] = words
            if words is not None:
                self.changes["table"] = None
                self.fields["table"].setCurrentIndex(self.fields["table"].findData(""))
            self._look()

    def _others_chosen(self) -> None:
        self.changes["also"] = tuple(self.others.also)
        self.changes["join"] = tuple(self.others.join)
        self._look()

    def _choice(
        self, form: QFormLayout, key: str, words: str, choices: Mapping[Any, str], now: object
    ) -> None:
        box = QComboBox()
        for value, name in (choices if now in choices else {**choices, now: str(now)}).items():
            box.addItem(name, value)
        box.setCurrentIndex(box.findData(now))
        box.currentIndexChanged.connect(partial(self._chosen, key))
        add_field(form, words, box)
        self.fields[key] = box

    @property
    def _now(self) -> SourcePlan:
        return self.source.model_copy(update=self.changes)

    def _chosen(self, key: str, index: int) -> None:
        value = self.fields[key].itemData(index)
        self.changes[key] = None if value == "" else value
        if key == "table" and value:
            self.changes["query"] = None
            self.query.clear()
        self._look()

    def _sheets_chosen(self) -> None:
        chosen = self.sheets
        assert chosen is not None
        self.changes |= {"sheet": chosen.sheet, "sheets": chosen.sheets}
        if chosen.is_none:
            self._failed("No sheet is chosen: tick at least one.")
        else:
            self._look()

    def _codes_typed(self, words: str) -> None:
        self.changes["missing_codes"] = split_codes(words)
        self._show_cells()

    def _look(self) -> None:
        """Read the first rows as chosen, off the interface thread."""
        self.take.setEnabled(False)
        data, now = self._data, self._now
        self.others.setVisible(now.kind != "proximities")

        def read(progress: Progress) -> tuple[list[str], Table]:
            names = names_in(data)
            if now.also or now.join or now.sheets:
                whole = read_source(Plan(source=now), data, progress)
                assert isinstance(whole, Table)
                return names, replace(whole, frame=whole.frame.head(_LOOKED_AT))
            return names, preview_table(data, asked_of(now, data.parent), _LOOKED_AT)

        self.acts.jobs.start(JobKind.PREVIEW, read, self._looked, self._failed, asker=self)

    def _looked(self, found: tuple[list[str], Table]) -> None:
        if not self._open:
            return
        names, self.shown = found
        self.said.setVisible(bool(self.said.text()) and not self.changes)
        if self.sheets is not None:
            self.sheets.name_sheets(names)
        self._fill_tables(names)
        self.others.name_columns([name for name in self.shown.names if name not in _MARKERS])
        for key, words in (("delimiter", _DELIMITER_WORDS), ("decimal", _DECIMAL_WORDS)):
            self._name_found(key, words)
        self._name_found("encoding", {})
        self._show_cells()

    def _fill_tables(self, names: list[str]) -> None:
        """The tables of a database."""
        box = self.fields.get("table")
        filled = box is not None and names and box.findData(names[-1]) >= 0
        if box is None or not names or (filled and box.itemData(0) == names[0]):
            return
        now = box.currentData() or (self._now.query is None and names[0]) or ""
        box.blockSignals(True)
        box.clear()
        for name, words in [*zip(names, names, strict=True), ("", "By query")]:
            box.addItem(words, name)
        box.setCurrentIndex(max(box.findData(now), 0))
        box.blockSignals(False)

    def _name_found(self, key: str, words: dict[str, str]) -> None:
        """Say beside "found by itself" what was found."""
        if key in self.fields and self.shown is not None:
            box, found = self.fields[key], str(getattr(self.shown.reading, key))
            if box.currentData() == "auto":
                told = f"{_FOUND}: {words.get(found, found)}" if found else _FOUND
                box.setItemText(box.findData("auto"), told)

    def _failed(self, why: str) -> None:
        if not self._open:
            return
        self.shown = None
        self.said.setText(why)
        self.said.show()
        self.effect.setText("The lines as they are in the file.")
        lines = raw_lines(self._data, _ROWS)
        self.preview.setColumnCount(1)
        self.preview.setRowCount(len(lines))
        self.preview.setHorizontalHeaderLabels(["line"])
        for row, line in enumerate(lines):
            self.preview.setItem(row, 0, QTableWidgetItem(line))
        self.preview.resizeColumnsToContents()

    def _show_cells(self) -> None:
        table = self.shown
        if table is None:
            return
        codes = self._now.missing_codes
        names = table.names[:_COLUMNS]
        self.preview.setColumnCount(len(names))
        self.preview.setRowCount(min(table.n, _ROWS))
        heads = []
        for column, name in enumerate(names):
            numeric = table.numbers(name, codes).mostly
            heads.append(f"{name}\n{'numbers' if numeric else 'text'}")
            known = table.cells(name, codes).values[:_ROWS]
            for row, cell in enumerate(table.cells(name).values[:_ROWS].tolist()):
                self.preview.setItem(row, column, _item(cell, known[row] is None, numeric))
        self.preview.setHorizontalHeaderLabels(heads)
        self.preview.resizeColumnsToContents()
        told = " ".join(caution.text for caution in table.cautions)
        self.effect.setText(f"{_effect(table, codes)} {told}".strip())
        self.take.setEnabled(bool(self.changes) or bool(self.said.text()) or not self._is_open)

    @property
    def _is_open(self) -> bool:
        """Is this the file of the study at hand, to be read otherwise?"""
        study = self.acts.focus.shelf.study
        return study is not None and self.path in (study.data_file, study.plan_file)

    def _take(self) -> None:
        now = self._now
        if self._is_open and now.kind == self.source.kind:
            self.acts.read_again(**self.changes)
        else:
            path = self._data if now.kind != self.source.kind else self.path
            told = now.of_kind(now.kind)
            self.acts.open(path, told.model_copy(update={"file": self._data.name}))
        self.accept()

    def _closed(self) -> None:
        self._open = False


def _delimiters() -> dict[str, str]:
    return {key: _DELIMITER_WORDS[key] for key in DELIMITERS}


def _item(cell: str | None, missing: bool, numeric: bool) -> QTableWidgetItem:
    item = QTableWidgetItem("·" if cell is None else cell)
    if numeric:
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    if missing:
        item.setForeground(QColor(current().soft))
        struck = font("note")
        struck.setStrikeOut(cell is not None)
        item.setFont(struck)
        item.setToolTip("missing" if cell is None else as_tip(f"{cell} is read as missing"))
    return item


def _effect(table: Table, codes: tuple[str, ...]) -> str:
    """What the reading makes of the first rows, in words."""
    lines = "first " if table.n >= _LOOKED_AT else ""
    size = f"{len(table.names):,} columns, {lines}{table.n:,} rows"
    read = {}
    for name in table.names if codes else ():
        gone = table.series(name, codes).null_count() - table.series(name).null_count()
        if gone:
            read[name] = gone
    if not read:
        return size + ("; these codes do not occur there." if codes else ".")
    most = sorted(read, key=lambda name: -read[name])[:6]
    shown = ", ".join(f"{name} {read[name]}" for name in most)
    more = f" and {len(read) - 6} more columns" if len(read) > 6 else ""
    return f"{size}. Read as missing there: {shown}{more}."
