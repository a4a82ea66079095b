"""The cases that stand apart, ranked, with what makes each unusual."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
)
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QTableView, QWidget

from gorvel.core.base.numbers import fixed, number
from gorvel.core.inspect.outliers import Outlier
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.views.tables import dress
from gorvel.paint.theme import current, font

Index = QModelIndex | QPersistentModelIndex
_HEADS = ("case", "from neighbours", "from centroid", "unusual answers (robust z)")
_TIPS = (
    "Label of the case",
    "Mean distance to the five nearest cases, relative to its median over all cases",
    ("Robust Mahalanobis distance over the p interval variables; about 2.5% exceed √χ²(p; 0.975)"),
    "Variables in which the case is 2.5 or more robust SD from the median",
)
_FAR = 3.0  # times the usual, from which a number is marked


class OutliersModel(QAbstractTableModel):
    """A row for each case."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.outliers: list[Outlier] = []

    def show(self, outliers: Sequence[Outlier]) -> None:
        """Show a ranked list."""
        self.beginResetModel()
        self.outliers = list(outliers)
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.outliers)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return _HEADS[section]
        if role == Qt.ItemDataRole.ToolTipRole:
            return as_tip(_TIPS[section])
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(section)
        return font(0.86) if role == Qt.ItemDataRole.FontRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        if not index.isValid():
            return None
        outlier, column = self.outliers[index.row()], index.column()
        measures = (outlier.case, outlier.apart, outlier.cloud or 0.0, len(outlier.reasons))
        if role == Qt.ItemDataRole.UserRole:
            return measures[column]
        if role == Qt.ItemDataRole.DisplayRole:
            cloud = "" if outlier.cloud is None else fixed(outlier.cloud, 1)
            reasons = ", ".join(
                f"{reason.variable} {fixed(reason.z, 1, sign=True)}" for reason in outlier.reasons
            )
            reasons = reasons or "the combination"
            return (outlier.label, f"{fixed(outlier.apart, 1)} ×", cloud, reasons)[column]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        if role == Qt.ItemDataRole.ForegroundRole and column == 1 and outlier.apart >= _FAR:
            return QColor(current().cut)
        if role == Qt.ItemDataRole.ToolTipRole:
            told = "\n".join(
                (
                    f"{r.variable} is {number(r.answer)}: {fixed(abs(r.z), 1)} robust standard "
                    f"deviations {'above' if r.z > 0 else 'below'} the median"
                )
                for r in outlier.reasons
            )
            return as_tip(told) or "No single answer is unusual, but their combination is"
        return None


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column in (1, 2) else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


class OutliersView(QTableView):
    """Select cases to set them aside (S). Sorted by a click on a heading."""

    def __init__(self, set_aside: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._set_aside = set_aside
        self.table = OutliersModel(self)
        self._sorted = QSortFilterProxyModel(self)
        self._sorted.setSourceModel(self.table)
        self._sorted.setSortRole(Qt.ItemDataRole.UserRole)
        self.setModel(self._sorted)
        dress(self, "Cases that stand apart", (66, 130, 92))
        self.setSortingEnabled(True)
        self.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        self._why = ""

    def show_none(self, why: str) -> None:
        """An empty list. why : in words."""
        self._why = why
        self.table.show([])
        self.setAccessibleDescription(why)
        self.viewport().update()

    def show_found(self, outliers: Sequence[Outlier]) -> None:
        """The cases that stand apart, or that there are none."""
        if not outliers:
            self.show_none("No case stands apart from the others.")
            return
        self.show_none("")
        self.table.show(outliers)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._why and not self.table.rowCount():
            painter = QPainter(self.viewport())
            painter.setPen(QColor(current().soft))
            painter.setFont(font())
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.viewport().rect().adjusted(24, 24, -24, -24), flags, self._why)

    def chosen_cases(self) -> set[int]:
        """The numbers of the selected cases."""
        rows = (self._sorted.mapToSource(i).row() for i in self.selectionModel().selectedRows())
        return {self.table.outliers[row].case for row in rows}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_S:
            self._set_aside()
        else:
            super().keyPressEvent(event)
