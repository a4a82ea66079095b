"""The proximities as a plain table, in the order of the tree or of the file."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
    Signal,
)
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QTableView, QWidget

from gorvel.core.base.numbers import number
from gorvel.core.grow.grown import Grown
from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.tables import copy_table, dress

Index = QModelIndex | QPersistentModelIndex
_ROWS = 400  # rows that are kept once they were measured
_MOST_COPIED = 4_000_000  # cells


class _MatrixModel(QAbstractTableModel):
    """Rows are measured when they come into sight."""

    def __init__(self, grown: Grown, order: NDArray[np.int64], parent: QWidget) -> None:
        super().__init__(parent)
        self.grown = grown
        self.arrange(order)

    def arrange(self, order: NDArray[np.int64]) -> None:
        """Show the cases in an order."""
        self.beginResetModel()
        grown = self.grown
        self.labels = [grown.prepared.labels[case] for case in order.tolist()]
        self.order = order
        self.row = lru_cache(_ROWS)(lambda row: grown.pairs.block(order[row : row + 1], order)[0])
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.labels)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(self.labels)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        return self.labels[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            return number(float(self.row(index.row())[index.column()]))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ToolTipRole:
            one, other = self.labels[index.row()], self.labels[index.column()]
            return as_tip(f"{one} and {other}: smaller = more similar")
        return None

    def values(self, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> ResultTable:
        """Some rows and columns with all figures."""
        body = [(self.labels[r], *self.row(r)[columns].tolist()) for r in rows.tolist()]
        return ResultTable(("", *(self.labels[c] for c in columns.tolist())), body)


class MatrixView(QTableView):
    """A cell that is selected marks its pair in every view; Ctrl+C copies what is selected.

    Signals: copied(sentence, refused), what became of a copy.
    """

    copied = Signal(str, bool)

    def __init__(self, axis: CaseAxis, grown: Grown, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        assert axis.arrangement is not None
        self.focus = axis.focus
        self._of_tree = axis.arrangement.order
        self.table = _MatrixModel(grown, self._of_tree, self)
        self.setModel(self.table)
        dress(self, "Proximities")
        self.horizontalHeader().setDefaultSectionSize(74)
        nothing = QItemSelectionModel.SelectionFlag.NoUpdate  # a table that opens chooses no pair
        self.selectionModel().setCurrentIndex(self.table.index(0, 0), nothing)
        self.selectionModel().currentChanged.connect(self._chosen)
        self.focus.labels_changed.connect(self._relabel)

    def set_file_order(self, of_file: bool) -> None:
        """Rows and columns as in the file, or as in the tree."""
        self.table.arrange(np.arange(len(self._of_tree)) if of_file else self._of_tree)

    def _relabel(self) -> None:
        if self.focus.grown is not None:
            self.table.grown = self.focus.grown
            self.table.arrange(self.table.order)

    def _chosen(self, now: QModelIndex, before: QModelIndex) -> None:
        if not now.isValid():
            return
        one, other = (int(self.table.order[k]) for k in (now.row(), now.column()))
        self.focus.select(Mark("case", one) if one == other else Mark("pair", one, other))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        else:
            super().keyPressEvent(event)

    def copy(self) -> None:
        """Copy the rectangle around what is selected, or all."""
        if self.selectionModel().selection().isEmpty():
            self.selectAll()
        selected = self.selectionModel().selection()
        found = [selected.at(k) for k in range(selected.count())]
        top = min(part.top() for part in found)
        bottom = max(part.bottom() for part in found)
        left, right = min(p.left() for p in found), max(p.right() for p in found)
        rows, columns = np.arange(top, bottom + 1), np.arange(left, right + 1)
        if len(rows) * len(columns) > _MOST_COPIED:
            most = f"{_MOST_COPIED:,} cells can be copied at once; select fewer"
            self.copied.emit(f"At most {most}.", True)
            return
        copy_table(self.table.values(rows, columns))
        self.copied.emit("Copied.", False)
