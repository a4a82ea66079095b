"""A mean or sum of items, with how they hang together beside each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gorvel.core.base.numbers import counted, fixed
from gorvel.core.inspect.items import Items, analyse_items
from gorvel.core.plan.changing_made import with_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.table.table import Table
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_field, add_foot, body
from gorvel.desk.controls.texts import button, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE, font

_HEADS = ("item", "item–rest correlation", "alpha if deleted")
_TICKED = Qt.CheckState.Checked
_KINDS = {"mean": "their mean", "sum": "their sum"}


class ItemsEditor(QDialog):
    """Columns of numbers are ticked; alpha follows. make : an entry to be changed, or None."""

    def __init__(
        self, focus: Focus, table: Table, make: MakePlan | None = None,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle("A mean or sum of items")
        self.focus, self.table, self.make = focus, table, make
        plan = focus.shelf.plan
        self.columns = [
            name for name in table.names
            if (make is None or not make.makes(name))
            and table.numbers(name, () if plan is None else plan.codes(name)).mostly
        ]  # fmt: skip
        self.name = QLineEdit("" if make is None else make.name)
        self.kind, self.least = QComboBox(), QSpinBox()
        self.items = QTableWidget(len(self.columns), len(_HEADS))
        self.says, self.why = text(), text(soft=True)
        self.go = button("Create" if make is None else "Change", self._take, "main")
        self._lay_out()
        self._fill(() if make is None else make.mean or make.sum or ())
        self.items.itemChanged.connect(self._changed)
        self.name.textChanged.connect(self._tell)
        self._changed()
        if make is not None and make.at_least:
            self.least.setValue(make.at_least)

    def _lay_out(self) -> None:
        for key, words in _KINDS.items():
            self.kind.addItem(words, key)
        if self.make is not None and self.make.sum:
            self.kind.setCurrentIndex(1)
        self.name.setPlaceholderText("name")
        form = QFormLayout()
        form.setVerticalSpacing(SPACE)
        for words, field in (
            ("Name", self.name), ("Becomes", self.kind), ("Answers needed", self.least),
        ):  # fmt: skip
            add_field(form, words, field)
        self.items.setFont(font("table"))
        self.items.setShowGrid(False)
        self.items.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.items.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.items.setTabKeyNavigation(False)
        self.items.verticalHeader().hide()
        self.items.verticalHeader().setDefaultSectionSize(24)
        self.items.horizontalHeader().setFont(font("note"))
        self.items.setHorizontalHeaderLabels(list(_HEADS))
        self.items.horizontalHeader().setDefaultAlignment(
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        )
        self.items.setAccessibleName("Items")
        layout = body(self, "A mean or sum of items")
        layout.addLayout(form)
        layout.addWidget(self.items, 1)
        layout.addWidget(self.says)
        add_foot(self, layout, self.go, self.why)
        self.resize(640, 560)

    def _fill(self, chosen: Sequence[str]) -> None:
        for row, name in enumerate(self.columns):
            item = QTableWidgetItem(name)
            item.setFlags(Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEnabled
                          | Qt.ItemFlag.ItemIsSelectable)  # fmt: skip
            item.setCheckState(_TICKED if name in chosen else Qt.CheckState.Unchecked)
            self.items.setItem(row, 0, item)
            for column in (1, 2):
                cell = QTableWidgetItem("")
                self.items.setItem(row, column, cell)
        self.items.setColumnWidth(0, 300)
        self.items.setColumnWidth(1, 170)
        self.items.horizontalHeader().setStretchLastSection(True)

    def tick(self, name: str, on: bool = True) -> None:
        """Take a column among the items, or out."""
        item = self.items.item(self.columns.index(name), 0)
        assert item is not None
        item.setCheckState(_TICKED if on else Qt.CheckState.Unchecked)

    @property
    def chosen(self) -> list[str]:
        """The columns that are ticked."""
        out = []
        for row, name in enumerate(self.columns):
            item = self.items.item(row, 0)
            if item is not None and item.checkState() == _TICKED:
                out.append(name)
        return out

    def _changed(self, item: QTableWidgetItem | None = None) -> None:
        """Other items: alpha and the rest are worked out anew."""
        if item is not None and item.column() != 0:
            return
        chosen, before = self.chosen, self.least.value() == self.least.maximum()
        self.least.setRange(1, max(len(chosen), 1))
        if before:
            self.least.setValue(len(chosen))
        plan = self.focus.shelf.plan
        found = None
        if len(chosen) > 1 and plan is not None:
            answers = [self.table.numbers(name, plan.codes(name)).values for name in chosen]
            found = analyse_items(answers)
        self._show(chosen, found)
        self._tell()

    def _show(self, chosen: Sequence[str], found: Items | None) -> None:
        for row, name in enumerate(self.columns):
            place = chosen.index(name) if found is not None and name in chosen else -1
            told = ("", "")
            if found is not None and place >= 0:
                told = _number(found.rest[place]), _number(found.without[place])
            for column, words in enumerate(told, 1):
                cell = self.items.item(row, column)
                assert cell is not None
                cell.setText(words)
        self.says.setText(_words(chosen, found))
        against = found is not None and bool(found.against)
        self.says.setProperty("alarm", against)
        self.says.style().polish(self.says)

    def _tell(self) -> None:
        name, chosen = self.name.text().strip(), self.chosen
        why = "Tick the items." if not chosen else "" if name else "Enter a name."
        self.why.setText(why)
        self.go.setEnabled(not why)

    def _take(self) -> None:
        chosen = self.chosen
        entry: dict[str, Any] = {
            "name": self.name.text().strip(), str(self.kind.currentData()): chosen,
        }  # fmt: skip
        if self.least.value() < len(chosen):
            entry["at_least"] = self.least.value()
        new = MakePlan.model_validate(entry)
        why = self.focus.shelf.attempt(lambda plan: with_entry(plan, self.make, new))
        if why:
            self.why.setText(why)
            return
        self.accept()


def _number(x: float) -> str:
    return "" if np.isnan(x) else fixed(x, 2)


def _words(chosen: Sequence[str], found: Items | None) -> str:
    """What is said of the items together."""
    if found is None:
        return "Tick two or more items to see their internal consistency."
    cases = counted(found.n, "case")
    if np.isnan(found.alpha):
        return f"{cases} answered all of them: too few, or too similar, for alpha."
    alpha = _number(found.alpha)
    words = f"Cronbach’s alpha {alpha} over {cases} that answered all of them."
    if found.against:
        names = ", ".join(f"“{chosen[k]}”" for k in found.against)
        run = "correlates" if len(found.against) == 1 else "correlate"
        words += f" {names} {run} negatively with the rest: reverse-score first what is asked"
        words += " the other way round."
    return words
