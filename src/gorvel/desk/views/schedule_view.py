"""The agglomeration schedule as a table, last join first, linked to the tree."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import (
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

from gorvel.core.results.tree import schedule_table
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.desk.views.schedule_model import COLUMNS, HEADS, JUMP, NUMBERED, ScheduleModel
from gorvel.desk.views.tables import copy_table, dress, widen
from gorvel.paint.theme import current

Index = QModelIndex | QPersistentModelIndex


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

    def __init__(self, focus: TreeFocus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.table = ScheduleModel(self)
        self.setModel(self.table)
        dress(self, "Agglomeration schedule", [column.width for column in COLUMNS])
        self.setItemDelegateForColumn(JUMP, _JumpBar(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.setMouseTracking(True)
        self._following = False
        self.horizontalHeader().setSortIndicatorShown(True)
        self.horizontalHeader().setSectionsClickable(True)
        self.horizontalHeader().setSortIndicator(0, Qt.SortOrder.DescendingOrder)
        self.horizontalHeader().sortIndicatorChanged.connect(self._sort)
        focus.tree_changed.connect(self._new_tree)
        focus.cut_changed.connect(self._cut_moved)
        focus.mark_changed.connect(self._follow)
        focus.support_changed.connect(self._show_support)
        focus.labels_changed.connect(self._relabel)
        self.selectionModel().currentRowChanged.connect(self._row_chosen)
        self._new_tree()
        self._follow()

    def _new_tree(self) -> None:
        if self.table.grown is not self.focus.grown:
            self._following = True
            self.table.show(self.focus.grown)
            self._following = False
            widen(self, NUMBERED, f"{self.table.rowCount():,}")
            self.order_of_joining()
        self._show_support()

    def _relabel(self) -> None:
        self.table.grown = self.focus.grown
        self.viewport().update()

    def _show_support(self) -> None:
        """The column is there once support was measured."""
        found = self.focus.support
        self.table.support = None if found is None or found.why else found.shown
        self.setColumnHidden(HEADS.index("support"), self.table.support is None)
        self.viewport().update()

    def _sort(self, column: int, order: Qt.SortOrder) -> None:
        self._following = True
        self.table.sort(column, order)
        self._following = False
        self._follow()

    def order_of_joining(self) -> None:
        """Back to the last join first."""
        self.horizontalHeader().setSortIndicator(0, Qt.SortOrder.DescendingOrder)

    def _cut_moved(self) -> None:
        """Bring the joins on both sides of the cut into sight."""
        self.viewport().update()
        if self.focus.cut is None or self.focus.grown is None or self.focus.selected is not None:
            return
        join = self.focus.cut.joins_kept
        if join < self.focus.grown.tree.joins:
            self.scrollTo(self.table.index(self.table.row_of(join), 0))

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
            index = self.table.index(self.table.row_of(mark.number), 0)
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
        elif event.key() == Qt.Key.Key_J:
            self.order_of_joining()
        else:
            super().keyPressEvent(event)

    def copy(self) -> None:
        """The whole schedule in order of joining, with full figures, tab-separated."""
        if self.table.grown is None:
            return
        copy_table(schedule_table(self.table.grown, self.table.support))
