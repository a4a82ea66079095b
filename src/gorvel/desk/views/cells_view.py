"""The table as it was read, with what is missing and who is left out shown in place."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QTableView, QWidget

from gorvel.core.matrix import ProximityTable
from gorvel.core.sentences import number
from gorvel.core.table.table import Table
from gorvel.desk.state import Focus
from gorvel.desk.theme import current
from gorvel.desk.views.tables import dress

__all__ = ["CellsModel", "CellsView"]

Index = QModelIndex | QPersistentModelIndex
_MOST_COPIED = 200_000


class CellsModel(QAbstractTableModel):
    """Rows are cases and columns variables, or both cases for a matrix."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self._dropped: dict[int, str] = {}
        self._numeric: set[str] = set()
        focus.study_changed.connect(self._reset)
        focus.prepared_changed.connect(self._kept_changed)
        focus.plan_changed.connect(self._kept_changed)

    def _reset(self) -> None:
        self.beginResetModel()
        self._dropped = {}
        source = self.source
        names = source.names if isinstance(source, Table) else []
        self._numeric = {name for name in names if source.numbers(name).mostly}  # type: ignore[union-attr]
        self.endResetModel()

    def _kept_changed(self) -> None:
        prepared = self.focus.prepared
        self._dropped = {d.case - 1: d.reason for d in prepared.dropped} if prepared else {}
        rows, columns = self.rowCount(), self.columnCount()
        if rows and columns:
            self.dataChanged.emit(self.index(0, 0), self.index(rows - 1, columns - 1))

    @property
    def source(self) -> Table | ProximityTable | None:
        return self.focus.study.source if self.focus.study else None

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
            right = source.names[section] in self._numeric
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
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

    def _cell(self, table: Table, row: int, column: int, role: int) -> Any:
        cell = table.frame.item(row, column)
        if role == Qt.ItemDataRole.DisplayRole:
            return "·" if cell is None else cell
        plan, name = self.focus.plan, table.names[column]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            return right if name in self._numeric else None
        gap = cell is None or (plan is not None and cell in plan.codes(name))
        active = plan is not None and name in plan.variables.use
        if role == Qt.ItemDataRole.ForegroundRole:
            theme = current()
            if gap and active:
                return QColor(theme.cut)
            return QColor(theme.ink if active and row not in self._dropped else theme.soft)
        if role == Qt.ItemDataRole.BackgroundRole and row in self._dropped:
            return QColor(current().paper)
        if role == Qt.ItemDataRole.ToolTipRole:
            if gap:
                return "missing" if cell is None else f"{cell} is read as missing"
            if row in self._dropped:
                return f"Left out: {self._dropped[row]}"
            if plan is not None and cell in plan.variables.values.get(name, {}):
                return f"{cell}: {plan.variables.values[name][cell]}"
        return None


class CellsView(QTableView):
    """Copies a selection as tab-separated text."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.table = CellsModel(focus, self)
        self.setModel(self.table)
        dress(self, "Cells of the table")
        self.horizontalHeader().setDefaultSectionSize(92)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        focus.study_changed.connect(self._fit_columns)

    def _fit_columns(self) -> None:
        metrics = self.horizontalHeader().fontMetrics()
        for column in range(min(self.table.columnCount(), 200)):
            words = [str(self.table.headerData(column, Qt.Orientation.Horizontal))]
            rows = range(min(self.table.rowCount(), 30))
            words += [str(self.table.data(self.table.index(row, column))) for row in rows]
            wide = max(metrics.horizontalAdvance(word) for word in words) + 22
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

    def chosen_cases(self) -> set[int]:
        """The numbers of the cases with a selected cell."""
        return {index.row() + 1 for index in self.selectionModel().selectedIndexes()}

    def set_aside(self) -> None:
        """Leave the selected cases out; they stay in the table and can be brought back."""
        self.focus.set_aside(self.chosen_cases())

    def bring_back(self) -> None:
        """Use the selected cases again."""
        self.focus.bring_back(self.chosen_cases())

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
