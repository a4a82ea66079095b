"""The table as it was read, with what is missing and who is left out shown in place."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from functools import partial
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSize, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractButton, QApplication, QHeaderView, QMenu, QTableView, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import number
from gorvel.core.language.condition import one_test
from gorvel.core.plan.plan import Plan
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table, parse_number
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.plain_text import as_item, as_tip
from gorvel.desk.state.focus import Focus
from gorvel.desk.views.tables import dress
from gorvel.paint.theme import current, font

Index = QModelIndex | QPersistentModelIndex
_MOST_COPIED = 200_000
_FITTED = 30  # cells to which the width of a column is fitted
_MEASURED = 200  # names whose widths are looked at


class CellsModel(QAbstractTableModel):
    """Rows are cases and columns variables, or both cases for a matrix."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        # what is shown; the focus may have moved on before this model is told
        self.source: Source | None = None
        self._dropped: dict[int, str] = {}
        self._numeric: dict[str, bool] = {}  # is a column mostly numbers, where that was asked
        self.in_words = True  # words of the codebook stand in for codes
        focus.shelf.columns_changed.connect(self._reset)
        focus.prepared_changed.connect(self._kept_changed)
        focus.shelf.plan_changed.connect(self._kept_changed)
        self._reset()
        self._kept_changed()

    def _reset(self) -> None:
        self.beginResetModel()
        self._dropped = {}
        self.source = self.focus.shelf.study.source if self.focus.shelf.study else None
        self._numeric = {}
        self.endResetModel()

    def _is_numeric(self, name: str) -> bool:
        """By the first rows: columns of large tables are numbers only once somebody needs them."""
        if name not in self._numeric and isinstance(self.source, Table):
            self._numeric[name] = self.source.looks_numeric(name)
        return self._numeric.get(name, False)

    def _kept_changed(self) -> None:
        prepared = self.focus.prepared
        self._dropped = {d.case - 1: d.reason for d in prepared.dropped} if prepared else {}
        rows, columns = self.rowCount(), self.columnCount()
        if rows and columns:
            self.dataChanged.emit(self.index(0, 0), self.index(rows - 1, columns - 1))

    def show_words(self, on: bool) -> None:
        """Show the words of the codebook, or the codes as they were read."""
        self.in_words = on
        self._kept_changed()

    def rowCount(self, parent: Index | None = None) -> int:
        return self.source.n if self.source else 0

    def columnCount(self, parent: Index | None = None) -> int:
        source = self.source
        if isinstance(source, ProximityTable):
            return source.n
        return len(source.names) if source else 0

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        source = self.source
        if source is None:
            return None
        across = way == Qt.Orientation.Horizontal
        if role == Qt.ItemDataRole.TextAlignmentRole and across and isinstance(source, Table):
            right = self._is_numeric(source.names[section])
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ToolTipRole and across and self.focus.shelf.plan is not None:
            if not isinstance(source, Table):
                return None
            return as_tip(self.focus.shelf.plan.variables.labels.get(source.names[section]))
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        if isinstance(source, ProximityTable):
            return source.labels[section]
        return source.names[section] if way == Qt.Orientation.Horizontal else str(section + 1)

    def data(self, index: Index, role: int = 0) -> Any:
        source = self.source
        if source is None or not index.isValid():
            return None
        row, column = index.row(), index.column()
        if isinstance(source, ProximityTable):
            if role == Qt.ItemDataRole.DisplayRole:
                return number(float(source.values[row, column]))
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            return None
        return self._cell(source, row, column, role)

    def first_words(self, column: int) -> set[str]:
        """The name of a column, and what its first cells show."""
        source = self.source
        if not isinstance(source, Table):
            rows = range(min(self.rowCount(), _FITTED))
            cells = {str(self.data(self.index(row, column))) for row in rows}
        else:
            words = self._words(source.names[column])
            some = source.frame[source.names[column]].head(_FITTED)
            cells = {self._shown(cell, words) for cell in some}
        return {str(self.headerData(column, Qt.Orientation.Horizontal)), *cells}

    def _words(self, name: str) -> Mapping[str, str]:
        """What the codes of a column stand for."""
        plan = self.focus.shelf.plan
        return plan.variables.values.get(name, {}) if plan is not None else {}

    def _shown(self, cell: str | None, words: Mapping[str, str]) -> str:
        if cell is None:
            return "·"
        return words.get(cell, cell) if self.in_words else cell

    def _cell(self, table: Table, row: int, column: int, role: int) -> Any:
        cell = table.frame.item(row, column)
        plan, name = self.focus.shelf.plan, table.names[column]
        words = self._words(name)
        if role == Qt.ItemDataRole.DisplayRole:
            return self._shown(cell, words)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            return right if self._is_numeric(name) and not (words and self.in_words) else None
        gap = cell is None or (plan is not None and cell in plan.codes(name))
        active = plan is not None and name in plan.variables.use
        if role == Qt.ItemDataRole.ForegroundRole:
            theme = current()
            if gap and active:
                return QColor(theme.warn)
            return QColor(theme.ink if active and row not in self._dropped else theme.soft)
        if role == Qt.ItemDataRole.FontRole and row in self._dropped:
            struck = font("table")
            struck.setStrikeOut(plan is not None and name == plan.cases.label)
            return struck
        if role == Qt.ItemDataRole.BackgroundRole and row in self._dropped:
            return QColor(current().paper)
        if role == Qt.ItemDataRole.ToolTipRole:
            if gap:
                return "missing" if cell is None else as_tip(f"{cell} is read as missing")
            if row in self._dropped:
                return as_tip(f"Excluded: {self._dropped[row]}")
            if cell in words:
                return as_tip(f"{cell}: {words[cell]}")
        return None


def _conditions_by(table: Table, plan: Plan, name: str, cell: str | None) -> list[str]:
    """Conditions that choose the cases with the same answer, and the others."""
    codes, values = plan.codes(name), []
    tests = ("is missing", "is answered")
    if cell is not None and cell not in codes:
        tests = ("is", "is not")
        numeric = table.numbers(name, codes).mostly
        values = [parse_number(cell, table.reading.decimal) if numeric else cell]
    out = []
    for test in tests:
        with suppress(InputError):  # a text that no condition can hold
            words = one_test(name, test, values)
            out.append(f"({plan.cases.keep}) and {words}" if plan.cases.keep else words)
    return out


class _RowHeads(QHeaderView):
    """As wide as the last number, or the widest name, needs.

    The usual one measures 200 of them at every turn, which makes a window wait when it opens.
    """

    def __init__(self, table: CellsModel, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Vertical, parent)
        self._table = table
        self.setSectionsClickable(True)

    def sizeHint(self) -> QSize:
        source = self._table.source
        if source is None or not source.n:
            return super().sizeHint()
        widest = source.n - 1  # figures are all of one width
        if isinstance(source, ProximityTable):
            wide = [
                self.fontMetrics().horizontalAdvance(name) for name in source.labels[:_MEASURED]
            ]
            widest = wide.index(max(wide))
        return self.sectionSizeFromContents(widest)


class CellsView(QTableView):
    """Copies a selection as tab-separated text."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.table = CellsModel(focus, self)
        self.setVerticalHeader(_RowHeads(self.table, self))
        self.setModel(self.table)
        dress(self, "Cells of the table")
        corner = self.findChild(QAbstractButton)
        if corner is not None:
            corner.setAccessibleName("Select all cells")
            corner.setToolTip("Select all cells")
        self.horizontalHeader().setDefaultSectionSize(92)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        focus.shelf.columns_changed.connect(self._fit_columns)
        self._fit_columns()

    def _fit_columns(self) -> None:
        metrics = self.horizontalHeader().fontMetrics()
        for column in range(min(self.table.columnCount(), _MEASURED)):
            wide = max(map(metrics.horizontalAdvance, self.table.first_words(column))) + 22
            self.setColumnWidth(column, min(max(wide, 48), 220))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.key() == Qt.Key.Key_S:
            self.set_aside()
        elif event.key() == Qt.Key.Key_B:
            self.bring_back()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = self.menu_at(self.indexAt(self.viewport().mapFromGlobal(event.globalPos())))
        if menu is not None:
            menu.popup(event.globalPos())

    def menu_at(self, index: Index) -> QMenu | None:
        """What can be done with a cell: choose cases by it, set its case aside, copy."""
        source, plan = self.table.source, self.focus.shelf.plan
        if not isinstance(source, Table) or plan is None or not index.isValid():
            return None
        name, cell = source.names[index.column()], source.frame.item(index.row(), index.column())
        menu = delete_on_close(QMenu(self))
        for words in _conditions_by(source, plan, name, cell):
            menu.addAction(
                as_item(f"Only cases where {words}"),
                partial(self.focus.shelf.change, "cases", keep=words),
            )
        menu.addSeparator()
        menu.addAction("Set the selected cases aside\tS", self.set_aside)
        menu.addAction("Restore the selected cases\tB", self.bring_back)
        menu.addAction("Copy\tCtrl+C", self.copy)
        return menu

    def chosen_cases(self) -> set[int]:
        """The numbers of the cases with a selected cell."""
        return {index.row() + 1 for index in self.selectionModel().selectedIndexes()}

    def set_aside(self) -> None:
        """Leave the selected cases out; they stay in the table and can be brought back."""
        self.focus.shelf.set_aside(self.chosen_cases())

    def bring_back(self) -> None:
        """Use the selected cases again."""
        self.focus.shelf.bring_back(self.chosen_cases())

    def copy(self) -> None:
        """The selected cells, with their column names, as tab-separated text."""
        chosen = self.selectionModel().selectedIndexes()[:_MOST_COPIED]
        if not chosen:
            return
        rows = sorted({index.row() for index in chosen})
        columns = sorted({index.column() for index in chosen})
        head = [str(self.table.headerData(c, Qt.Orientation.Horizontal)) for c in columns]
        lines = ["\t".join(head)]
        for row in rows:
            cells = (str(self.table.data(self.table.index(row, c))) for c in columns)
            lines.append("\t".join(cell.replace("·", "") for cell in cells))
        QApplication.clipboard().setText("\n".join(lines) + "\n")
