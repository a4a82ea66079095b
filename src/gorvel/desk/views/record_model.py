"""Records as rows of a table, a column for each thing that is told of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.theme import font

Index = QModelIndex | QPersistentModelIndex
R = TypeVar("R")


def alignment(right: bool) -> Qt.AlignmentFlag:
    """Of a cell with words, or with numbers that stand below each other."""
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class Column(Generic[R]):
    """What is told of each record.

    text : in a cell; tip : of the column; right : are they numbers, below each other?; key : what
    it is sorted by, else the text; cell_tip : more of a cell; colour : of a cell that stands out.
    """

    head: str
    text: Callable[[R], str]
    tip: str = ""
    right: bool = False
    key: Callable[[R], Any] | None = None
    cell_tip: Callable[[R], str] | None = None
    colour: Callable[[R], str | None] | None = None


class RecordModel(QAbstractTableModel, Generic[R]):
    """Of records that are read only. numbered : are rows numbered from 1?"""

    def __init__(
        self, columns: Sequence[Column[R]] = (), parent: QObject | None = None, *,
        numbered: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.columns, self.numbered = tuple(columns), numbered
        self.records: Sequence[R] = ()

    def show(self, records: Sequence[R], columns: Sequence[Column[R]] | None = None) -> None:
        """Show other records. columns : the same as before without them."""
        self.beginResetModel()
        self.records = records
        if columns is not None:
            self.columns = tuple(columns)
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.records)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(self.columns)

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if way != Qt.Orientation.Horizontal:
            numbers = self.numbered and role == Qt.ItemDataRole.DisplayRole
            return str(section + 1) if numbers else None
        if section >= len(self.columns):
            return None
        column = self.columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.head
        if role == Qt.ItemDataRole.ToolTipRole:
            return as_tip(column.tip) if column.tip else None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return alignment(column.right)
        return font("note") if role == Qt.ItemDataRole.FontRole else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        record, column = self.records[index.row()], self.columns[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(record)
        if role == Qt.ItemDataRole.UserRole:  # what is sorted by
            return column.text(record) if column.key is None else column.key(record)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return alignment(column.right)
        if role == Qt.ItemDataRole.ToolTipRole and column.cell_tip is not None:
            return as_tip(column.cell_tip(record))
        if role == Qt.ItemDataRole.ForegroundRole and column.colour is not None:
            colour = column.colour(record)
            return None if colour is None else QColor(colour)
        return None
