"""The agglomeration schedule as a table, last join first, linked to the tree."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    Qt,
)
from PySide6.QtGui import QColor, QKeyEvent, QKeySequence, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from gorvel.core.analysis import Grown
from gorvel.core.export.views import schedule_table
from gorvel.core.sentences import join_names, number
from gorvel.desk.state import Focus, Mark
from gorvel.desk.theme import current, font
from gorvel.desk.views.tables import copy_table, dress

__all__ = ["ScheduleModel", "ScheduleView"]

Index = QModelIndex | QPersistentModelIndex
_HEADS = ("join", "left part", "right part", "cases", "height", "jump", "clusters", "R²", "note")
_TIPS = (
    "The step, in order of joining",
    "The part that holds the earlier case: its first case, and how many more",
    "The other part",
    "Cases in the cluster that the join makes",
    "The height at which the parts meet",
    "Height minus the height of the join before; the longest bars are the clearest places to cut",
    "Clusters left after the join",
    "Share of the variance that lies between the clusters left",
    "Ties and inversions",
)
_JUMP = _HEADS.index("jump")


class ScheduleModel(QAbstractTableModel):
    """A row for each join, the last one first."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.grown: Grown | None = None
        self.most_jump = 1.0

    def show(self, grown: Grown | None) -> None:
        """Show the schedule of a tree."""
        self.beginResetModel()
        self.grown = grown
        if grown is not None and grown.tree.joins > 1:
            self.most_jump = max(float(np.nanmax(grown.schedule.jump)), 1e-300)
        self.endResetModel()

    def join_of(self, row: int) -> int:
        """The join (from 0) in a row; the same the other way round."""
        assert self.grown is not None
        return self.grown.tree.joins - 1 - row

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if self.grown is None else self.grown.tree.joins

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                return _HEADS[section]
            if role == Qt.ItemDataRole.ToolTipRole:
                return _TIPS[section]
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return _alignment(section)
            if role == Qt.ItemDataRole.FontRole:
                return font(0.86)
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        if self.grown is None or not index.isValid():
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text(self.join_of(index.row()), index.column())
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            if index.column() == len(_HEADS) - 1:
                return self._note(self.join_of(index.row()), long=True)
            return self.text(self.join_of(index.row()), index.column())
        return None

    def text(self, join: int, column: int) -> str:
        """What a cell says."""
        assert self.grown is not None
        rows = self.grown.schedule
        match _HEADS[column]:
            case "join":
                return str(join + 1)
            case "left part":
                return join_names(self.grown, [int(rows.left[join])])[0]
            case "right part":
                return join_names(self.grown, [int(rows.right[join])])[0]
            case "cases":
                return f"{rows.size[join]:,}"
            case "height":
                return number(float(rows.height[join]))
            case "jump":
                return "" if np.isnan(rows.jump[join]) else number(float(rows.jump[join]))
            case "clusters":
                return f"{rows.clusters[join]:,}"
            case "R²":
                spread = rows.spread
                return (
                    "" if spread is None or np.isnan(spread.r2[join]) else f"{spread.r2[join]:.2f}"
                )
        return self._note(join)

    def _note(self, join: int, long: bool = False) -> str:
        assert self.grown is not None
        rows = self.grown.schedule
        if rows.inverted[join]:
            return "An inversion: lower than the join before it" if long else "inversion"
        if rows.tie_matters[join]:
            told = "An equally near pair shared a part: the order of the file decided the tree"
            return told if long else "tie that matters"
        if rows.tied[join]:
            return "Another pair was equally near, elsewhere in the tree" if long else "tie"
        return ""


def _alignment(column: int) -> Qt.AlignmentFlag:
    numeric = _HEADS[column] in ("join", "cases", "height", "clusters", "R²")
    side = Qt.AlignmentFlag.AlignRight if numeric else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


class _JumpBar(QStyledItemDelegate):
    """A jump as a bar, long for large."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        model = index.model()
        assert isinstance(model, ScheduleModel)
        assert model.grown is not None
        rect = QRectF(option.rect)
        view = self.parent()
        assert isinstance(view, ScheduleView)
        join = model.join_of(index.row())
        theme = current()
        if view.selectionModel().isRowSelected(index.row()):
            painter.fillRect(rect, QColor(theme.tint))
        jump = float(model.grown.schedule.jump[join])
        if np.isnan(jump) or jump <= 0:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setPen(Qt.PenStyle.NoPen)
        cut = view.focus.cut
        crossed = cut is not None and join == cut.joins_kept
        painter.setBrush(QColor(theme.cut if crossed else theme.bar))
        long = max(2.0, (rect.width() - 16) * jump / model.most_jump)
        painter.drawRoundedRect(QRectF(rect.left() + 6, rect.center().y() - 4, long, 9), 3, 3)
        painter.restore()


class ScheduleView(QTableView):
    """Hover or select a row: the join is marked in every view."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.table = ScheduleModel(self)
        self.setModel(self.table)
        dress(self, "Agglomeration schedule", (60, 110, 110, 60, 70, 104, 66, 48, 60))
        self.setItemDelegateForColumn(_JUMP, _JumpBar(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.setMouseTracking(True)
        self._following = False
        focus.tree_changed.connect(self._new_tree)
        focus.cut_changed.connect(self._cut_moved)
        focus.mark_changed.connect(self._follow)
        self.selectionModel().currentRowChanged.connect(self._row_chosen)
        self._new_tree()
        self._follow()

    def _new_tree(self) -> None:
        if self.table.grown is not self.focus.grown:
            self._following = True
            self.table.show(self.focus.grown)
            self._following = False

    def _cut_moved(self) -> None:
        """Bring the joins on both sides of the cut into sight."""
        self.viewport().update()
        if self.focus.cut is None or self.focus.grown is None or self.focus.selected is not None:
            return
        row = self.focus.grown.tree.joins - 1 - self.focus.cut.joins_kept
        if 0 <= row < self.table.rowCount():
            self.scrollTo(self.table.index(row, 0))

    def _row_chosen(self, now: QModelIndex, before: QModelIndex) -> None:
        if not self._following and now.isValid():
            self.focus.select(Mark("join", self.table.join_of(now.row())))

    def _follow(self) -> None:
        """Select the row of the join that is marked anywhere."""
        mark = self.focus.mark
        self._following = True
        if mark is None or mark.kind != "join" or self.table.grown is None:
            self.clearSelection()
            self.selectionModel().clearCurrentIndex()
        else:
            index = self.table.index(self.table.join_of(mark.number), 0)
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect
            self.selectionModel().setCurrentIndex(
                index, flags | QItemSelectionModel.SelectionFlag.Rows
            )
            if not self.underMouse():
                self.scrollTo(index)
        self._following = False
        self.viewport().update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        pressed = event.buttons() & Qt.MouseButton.LeftButton
        if index.isValid() and not pressed:
            self.focus.hover(Mark("join", self.table.join_of(index.row())))
        else:
            super().mouseMoveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        super().mousePressEvent(event)
        if index.isValid():
            self.focus.select(Mark("join", self.table.join_of(index.row())))

    def leaveEvent(self, event: QEvent) -> None:
        self.focus.hover(None)
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.key() == Qt.Key.Key_Escape:
            self.focus.select(None)
        else:
            super().keyPressEvent(event)

    def copy(self) -> None:
        """The whole schedule in order of joining, with full figures, tab-separated."""
        if self.table.grown is None:
            return
        copy_table(schedule_table(self.table.grown))
