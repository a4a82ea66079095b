"""A variable made by a formula: names are completed, the first results stand beside it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import number
from gorvel.core.language.completing import Completion, completions
from gorvel.core.language.evaluating import Fault
from gorvel.core.language.formula import Formula, parse_formula
from gorvel.core.plan.changing_made import with_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.table.table import Table
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_field, add_foot, body
from gorvel.desk.controls.texts import button, counted, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE, font

_SHOWN = 30  # results
_WHOLE = 300_000  # cases up to which all results are looked at while typing
_FORMS = (
    "+  −  *  /  ^  ( ), comparisons (1 or 0), log log10 log1p exp sqrt abs round "
    "min max mean; names with spaces in `backquotes`."
)


class FormulaEditor(QDialog):
    """Nothing is made before it is taken. make : an entry to be changed, or None for a new one."""

    def __init__(
        self, focus: Focus, table: Table, make: MakePlan | None = None,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle("Create a variable by formula")
        self.focus, self.table, self.make = focus, table, make
        self.names = [name for name in table.names if make is None or not make.makes(name)]
        self.name = QLineEdit("" if make is None else make.name)
        self.formula = QLineEdit("" if make is None else make.formula or "")
        self.words = QListWidget()
        self.says, self.extent = text(), text(soft=True)
        self.results = QTableWidget(0, 0)
        self.go = button("Create" if make is None else "Change", self._take, "main")
        self._found: list[Completion] = []
        self._lay_out()
        self.formula.textChanged.connect(self._typed)
        self.formula.cursorPositionChanged.connect(lambda *_: self._complete())
        self.formula.installEventFilter(self)
        self.name.textChanged.connect(self._typed)
        self.words.itemActivated.connect(lambda item: self._put(self.words.row(item)))
        self._typed()
        self.name.setFocus()

    def _lay_out(self) -> None:
        self.name.setPlaceholderText("what it is called")
        self.formula.setPlaceholderText("for example log10(income) or (a + b) / 2")
        self.words.setFont(font("table"))
        self.words.setFixedHeight(110)
        self.words.setAccessibleName("Matching names")
        self.results.setFont(font("table"))
        self.results.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.results.setShowGrid(False)
        self.results.verticalHeader().setDefaultSectionSize(22)
        self.results.setTabKeyNavigation(False)
        self.results.horizontalHeader().setTextElideMode(Qt.TextElideMode.ElideRight)
        self.results.setAccessibleName("First results")
        for head in (self.results.horizontalHeader(), self.results.verticalHeader()):
            head.setFont(font("note"))
        form = QFormLayout()
        form.setVerticalSpacing(SPACE)
        for words, field in (("Name", self.name), ("Formula", self.formula)):
            add_field(form, words, field)
        layout = body(self, "Create a variable by formula")
        layout.addLayout(form)
        layout.addWidget(text(_FORMS, "note", soft=True))
        layout.addWidget(self.words)
        layout.addWidget(self.says)
        layout.addWidget(self.results, 1)
        add_foot(self, layout, self.go, self.extent)
        self.resize(640, 560)

    # names

    def _complete(self) -> None:
        self._found = completions(self.formula.text(), self.formula.cursorPosition(), self.names)
        self.words.clear()
        for one in self._found:
            self.words.addItem(QListWidgetItem(one.words))
        self.words.setCurrentRow(0 if self._found else -1)

    def _put(self, row: int) -> None:
        """Put a name in the place of the half that was typed."""
        if not 0 <= row < len(self._found):
            return
        one, now = self._found[row], self.formula.text()
        rest = now[self.formula.cursorPosition() :]
        self.formula.setText(now[: one.start] + one.text + rest)
        self.formula.setCursorPosition(one.start + len(one.text))
        self.formula.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Down and Up go through the names that fit, Tab takes one."""
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if watched is not self.formula or not pressed or not self._found:
            return super().eventFilter(watched, event)
        assert isinstance(event, QKeyEvent)
        return self._key(Qt.Key(event.key())) or super().eventFilter(watched, event)

    def _key(self, key: Qt.Key) -> bool:
        """Was it a key that goes through the names?"""
        row = self.words.currentRow()
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(key)
        if step is not None:
            self.words.setCurrentRow((row + step) % len(self._found))
            return True
        now = self.formula.text()[: self.formula.cursorPosition()]
        if key == Qt.Key.Key_Tab and row >= 0 and not now.endswith(self._found[row].text):
            self._put(row)
            return True
        return False

    # results

    def _typed(self) -> None:
        self._complete()
        self.go.setEnabled(False)
        words = self.formula.text().strip()
        if not words:
            self._say("", alarm=False)
            self._show([], [], [])
            return
        try:
            formula = parse_formula(words)
            part = self.table if self.table.n <= _WHOLE else _first(self.table)
            values, faults = formula.values(part, self._codes)
        except InputError as error:
            self._say(f"{error.found}; expected {error.expected}", alarm=True)
            self._show([], [], [])
            return
        self._results(formula, values, faults)

    def _codes(self, column: str) -> Sequence[str]:
        plan = self.focus.shelf.plan
        return () if plan is None else plan.codes(column)

    def _results(
        self, formula: Formula, values: np.ndarray, faults: Sequence[Fault]
    ) -> None:  # fmt: skip
        known = values[~np.isnan(values)]
        if faults:
            first = faults[0]
            rows = sum(len(fault.rows) for fault in faults)
            case = f"case {first.rows[0] + 1:,}"
            more = "" if rows == 1 else f", and {counted(rows - 1, 'other case')}"
            self._say(f"{first.found} at character {first.at + 1}: {case}{more}", alarm=True)
        else:
            gaps = len(values) - len(known)
            told = f", {counted(gaps, 'gap')}" if gaps else ""
            ends = f"{number(known.min())} to {number(known.max())}" if known.size else "no result"
            self._say(f"{ends}{told}", alarm=False)
        columns = [name for name in formula.columns if name in self.table.names][:5]
        heads = [*columns, self.name.text().strip() or "result"]
        cells = [self.table.frame[name].head(_SHOWN).to_list() for name in columns]
        shown = ["·" if np.isnan(x) else number(float(x)) for x in values[:_SHOWN]]
        self._show(heads, cells, shown)
        self.go.setEnabled(not faults and bool(self.name.text().strip()))
        self.extent.setText("" if self.name.text().strip() else "Enter a name.")

    def _say(self, words: str, alarm: bool) -> None:
        self.says.setText(words)
        self.says.setProperty("alarm", alarm)
        self.says.style().polish(self.says)
        self.extent.setText("")

    def _show(
        self, heads: Sequence[str], cells: Sequence[Sequence[str | None]], shown: Sequence[str]
    ) -> None:  # fmt: skip
        self.results.setColumnCount(len(heads))
        self.results.setRowCount(len(shown))
        self.results.setHorizontalHeaderLabels(list(heads))
        for column, answers in enumerate([*cells, shown]):
            for row, cell in enumerate(answers):
                item = QTableWidgetItem("·" if cell is None else str(cell))
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.results.setItem(row, column, item)

    def _take(self) -> None:
        name, words = self.name.text().strip(), self.formula.text().strip()
        new = MakePlan.model_validate({"name": name, "formula": words})
        shelf = self.focus.shelf
        why = shelf.attempt(lambda plan: with_entry(plan, self.make, new))
        if why:
            self._say(why, alarm=True)
            return
        self.accept()


def _first(table: Table) -> Table:
    return Table(table.name, table.frame.head(1_000), table.reading)
