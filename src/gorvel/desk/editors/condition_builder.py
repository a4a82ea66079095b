"""A condition put together by clicks, with the cases it leaves counted at once."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.language.condition import TESTS, one_test, parse_condition
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import guess_level
from gorvel.core.table.table import Table, parse_number
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_foot
from gorvel.desk.controls.plain_text import PlainTick
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE, font

_MOST_VALUES = 200  # of a column, to choose from
_TEXT_TESTS = ("is", "is not", "is one of", "is none of", "is missing", "is answered")
_LISTED, _TYPED, _TWO, _NOTHING = range(4)


class _TestRow(QWidget):
    """One test: a column, what it is asked, and the value or values."""

    def __init__(self, table: Table, plan: Plan, changed: Callable[[], None]) -> None:
        super().__init__()
        self.table, self.plan, self._told = table, plan, changed
        self.column, self.test = QComboBox(), QComboBox()
        self.typed, self.low, self.high = QLineEdit(), QLineEdit(), QLineEdit()
        self.listed = QListWidget()
        self.listed.setFixedHeight(112)
        two = QWidget()
        fill_row(two, self.low, text("and", wrap=False), self.high, space=None)
        self.values = QStackedWidget()
        for widget in (self.listed, self.typed, two, QWidget()):
            self.values.addWidget(widget)
        top = Qt.AlignmentFlag.AlignTop
        self.remove = button("Remove", lambda: None, "link")
        fill_row(
            self, (self.column, 3, top), (self.test, 2, top), (self.values, 4, top),
            (self.remove, 0, top), space=None,
        )  # fmt: skip
        for widget, name in (
            (self.column, "Column"), (self.test, "Test"), (self.typed, "Value"),
            (self.low, "From"), (self.high, "To"), (self.listed, "Values"),
        ):  # fmt: skip
            widget.setFont(font())
            widget.setAccessibleName(name)
        for name in table.names:
            question = plan.variables.labels.get(name, "")
            self.column.addItem(f"{name}: {question}" if question else name, name)
        self.column.currentIndexChanged.connect(self._column_chosen)
        self.test.currentIndexChanged.connect(self._test_chosen)
        for edit in (self.typed, self.low, self.high):
            edit.textChanged.connect(changed)
        self.listed.itemChanged.connect(changed)
        self._column_chosen()

    @property
    def _numeric(self) -> bool:
        name = self.column.currentData()
        return guess_level(self.table, name, self.plan.codes(name)) == "interval"

    def _column_chosen(self) -> None:
        tests = tuple(TESTS) if self._numeric else _TEXT_TESTS
        before = self.test.currentText()
        self.test.blockSignals(True)
        self.test.clear()
        self.test.addItems(list(tests))
        self.test.setCurrentText(before if before in tests else tests[0])
        self.test.blockSignals(False)
        self._fill_values()
        self._test_chosen()

    def _fill_values(self) -> None:
        """The answers there are, in words where a codebook has some."""
        name = self.column.currentData()
        found = self.table.series(name, self.plan.codes(name)).drop_nulls().unique().to_list()
        found.sort(key=lambda cell: (parse_number(cell), cell) if self._numeric else (0.0, cell))
        words = self.plan.variables.values.get(name, {})
        self.listed.blockSignals(True)
        self.listed.clear()
        for cell in found[:_MOST_VALUES]:
            item = QListWidgetItem(f"{cell}: {words[cell]}" if cell in words else cell)
            item.setData(Qt.ItemDataRole.UserRole, cell)
            item.setCheckState(Qt.CheckState.Unchecked)
            self.listed.addItem(item)
        self.listed.blockSignals(False)
        self.typed.setPlaceholderText("a number" if self._numeric else "a text, as in the table")

    def _test_chosen(self) -> None:
        wanted = TESTS[self.test.currentText()][1]
        page = {-1: _LISTED, 0: _NOTHING, 1: _TYPED, 2: _TWO}[wanted]
        if wanted == 1 and not self._numeric:
            page = _LISTED
        self.values.setCurrentIndex(page)
        self.values.setFixedHeight(self.listed.height() if page == _LISTED else 34)
        self._told()

    def words(self) -> str:
        """The test as text.

        Raises
        ------
        InputError : a value is wanting, or is no number.
        """
        test = self.test.currentText()
        wanted = TESTS[test][1]
        page = self.values.currentIndex()
        cells: list[str] = []
        if page == _LISTED:
            items = (self.listed.item(row) for row in range(self.listed.count()))
            checked = [item for item in items if item.checkState() == Qt.CheckState.Checked]
            cells = [item.data(Qt.ItemDataRole.UserRole) for item in checked]
        elif wanted:
            edits = (self.typed,) if wanted == 1 else (self.low, self.high)
            cells = [edit.text().strip() for edit in edits if edit.text().strip()]
        if wanted == 1 and len(cells) > 1:  # several were ticked of what is asked for one
            test = {"is": "is one of", "is not": "is none of"}[test]
        name = self.column.currentData()
        if not self._numeric:
            return one_test(name, test, cells)
        values = [parse_number(cell, self.table.reading.decimal) for cell in cells]
        for cell, value in zip(cells, values, strict=True):
            if np.isnan(value):
                raise InputError(f'"{cell}"', f"a number to compare {name} with")
        return one_test(name, test, values)


class ConditionBuilder(QDialog):
    """Tests joined by and, or by or; the condition in force can be kept beside them."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle("Use only cases where")
        assert focus.shelf.study is not None
        assert focus.shelf.plan is not None
        assert isinstance(focus.shelf.study.source, Table)
        self.focus, self.table, self.plan = focus, focus.shelf.study.source, focus.shelf.plan
        self.rows: list[_TestRow] = []
        self.how = QComboBox()
        self.how.setFont(font())
        self.how.addItem("all of these hold", "and")
        self.how.addItem("any of these holds", "or")
        self.how.setAccessibleName("How the tests are combined")
        self.how.currentIndexChanged.connect(self._tell)
        self.kept = PlainTick(f"and also, as before: {self.plan.cases.keep}")
        self.kept.setFont(font())
        self.kept.setChecked(True)
        self.kept.toggled.connect(self._tell)
        self.said = text()
        self.outcome = text(soft=True)
        self.take = button("Use only these cases", self._take, "main")
        self._tests = QVBoxLayout()
        head = in_row(heading("Use only cases where"), self.how, None)
        layout = fill(
            self, head, self._tests,
            (button("Add a test", self.add), 0, Qt.AlignmentFlag.AlignLeft), self.kept,
            self.said, self.outcome, None, space=SPACE,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        add_foot(self, layout, self.take)
        self.kept.setVisible(bool(self.plan.cases.keep))
        self.resize(720, 380)
        self.add()

    def add(self) -> None:
        """One more test."""
        row = _TestRow(self.table, self.plan, self._tell)
        row.remove.clicked.connect(partial(self._remove, row))
        self.rows.append(row)
        self._tests.addWidget(row)
        self._tell()

    def _remove(self, row: _TestRow) -> None:
        if len(self.rows) > 1:
            self.rows.remove(row)
            row.hide()
            row.deleteLater()
            self._tell()

    def condition(self) -> str:
        """The whole as text.

        Raises
        ------
        InputError : a value is wanting.
        """
        joined = f" {self.how.currentData()} ".join(row.words() for row in self.rows)
        if not (self.plan.cases.keep and self.kept.isChecked()):
            return joined
        tests = f"({joined})" if len(self.rows) > 1 and self.how.currentData() == "or" else joined
        return f"({self.plan.cases.keep}) and {tests}"

    def _tell(self) -> None:
        try:
            words = self.condition()
            chosen = parse_condition(words).rows(self.table, self.plan.codes)
        except InputError as error:
            self.said.setText("")
            self.outcome.setText(f"Still open: {error}")
            self.take.setEnabled(False)
            return
        self.said.setText(words)
        self.outcome.setText(f"{int(chosen.sum()):,} of {counted(self.table.n, 'case')}")
        self.take.setEnabled(bool(chosen.any()))

    def _take(self) -> None:
        self.focus.shelf.change("cases", keep=self.condition())
        self.accept()
