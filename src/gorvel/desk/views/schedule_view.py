"""The agglomeration schedule as a table, last join first, linked to the tree."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
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

from gorvel.core.base.numbers import fixed, number
from gorvel.core.grow.grown import Grown
from gorvel.core.results.tree import schedule_table
from gorvel.core.words.tree import join_names
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.desk.views.tables import copy_table, dress, widen
from gorvel.paint.theme import current, font

Index = QModelIndex | QPersistentModelIndex
_COLUMNS = {
    "join": "The step, in order of joining",
    "left branch": "The branch with the earlier case: its first case, and how many more",
    "right branch": "The other branch",
    "cases": "Cases in the cluster that the join makes",
    "height": "The height at which the branches join",
    "jump": "Height minus that of the previous join; long bars suggest where to cut",
    "clusters": "Clusters left after the join",
    "R²": "Share of the variance (of a cross table: of its chi-square) that lies between the"
    " clusters left",
    "support": (
        "Support in per cent: recovery in resamples of the cases (Hennig 2007), or of "
        "the variables (approximately unbiased; Shimodaira 2004)"
    ),
    "note": "Ties and inversions",
    "semipartial R²": "Loss of R² at this join",
    "within": "Sum of squares within the clusters left",
    "left from": "The join that made the left branch; none for a case",
    "right from": "The join that made the right branch; none for a case",
    "next join": "The join that uses the new cluster next; none for the last",
    "weight": "Sum of the case weights in the cluster that the join makes",
}
_HEADS = tuple(_COLUMNS)
_WIDTHS = (60, 110, 110, 60, 70, 104, 66, 48, 62, 104, 66, 80, 70, 70, 70, 70)
_WORDS = ("left branch", "right branch", "jump", "note")
_SQUARES = ("R²", "semipartial R²", "within")
_NUMBERED = [_HEADS.index(head) for head in ("join", "cases", "clusters", "next join")]
_JUMP = _HEADS.index("jump")


class ScheduleModel(QAbstractTableModel):
    """A row for each join, the last one first until it is sorted otherwise."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.grown: Grown | None = None
        self.support: NDArray[np.float64] | None = None  # of each join, where it was measured
        self.most_jump = 1.0
        self._joins = np.empty(0, dtype=np.int64)  # of each row
        self._rows = np.empty(0, dtype=np.int64)  # of each join

    def show(self, grown: Grown | None) -> None:
        """Show the schedule of a tree."""
        self.beginResetModel()
        self.grown = grown
        if grown is not None and grown.tree.joins > 1:
            self.most_jump = max(float(np.nanmax(grown.schedule.jump)), 1e-300)
        self._arrange(np.arange(grown.tree.joins if grown is not None else 0)[::-1])
        self.endResetModel()

    def _arrange(self, joins: NDArray[np.int64]) -> None:
        self._joins, self._rows = joins, np.empty_like(joins)
        self._rows[joins] = np.arange(len(joins))

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Sort by a column; equal joins stay in order of joining."""
        if self.grown is None:
            return
        keys = self._keys(column)
        falling = order == Qt.SortOrder.DescendingOrder
        if keys.dtype.kind == "f":
            keys = np.where(np.isnan(keys), -np.inf if falling else np.inf, keys)
        joins = np.argsort(keys, kind="stable")
        self.layoutAboutToBeChanged.emit()
        self._arrange(joins[::-1] if falling else joins)
        self.layoutChanged.emit()

    def _keys(self, column: int) -> NDArray[Any]:
        assert self.grown is not None
        rows, tree = self.grown.schedule, self.grown.tree
        nothing = np.zeros(tree.joins)
        spread = rows.spread
        values = {
            "join": rows.join, "cases": rows.size, "height": rows.height, "jump": rows.jump,
            "clusters": rows.clusters, "left branch": tree.firsts[rows.left],
            "right branch": tree.firsts[rows.right], "left from": rows.left_made_at,
            "right from": rows.right_made_at, "next join": rows.used_at, "weight": rows.mass,
            "note": 4 * rows.inverted + 2 * rows.tie_matters + 1 * rows.tied,
            "support": nothing if self.support is None else self.support,
            "R²": nothing if spread is None else spread.r2,
            "semipartial R²": nothing if spread is None else spread.semipartial_r2,
            "within": nothing if spread is None else spread.within,
        }  # fmt: skip
        return np.asarray(values[_HEADS[column]])

    def join_of(self, row: int) -> int:
        """The join (from 0) in a row."""
        return int(self._joins[row])

    def row_of(self, join: int) -> int:
        """The row of a join (from 0)."""
        return int(self._rows[join])

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if self.grown is None else self.grown.tree.joins

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                head = _HEADS[section]
                return self.grown.of if self.grown and head == "cases" else head
            if role == Qt.ItemDataRole.ToolTipRole:
                return as_tip(self._tip(_HEADS[section]))
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
            if _HEADS[index.column()] == "note":
                return as_tip(self._note(self.join_of(index.row()), long=True))
            return as_tip(self.text(self.join_of(index.row()), index.column()))
        return None

    def text(self, join: int, column: int) -> str:
        """What a cell says."""
        assert self.grown is not None
        rows = self.grown.schedule
        match _HEADS[column]:
            case "join":
                return str(join + 1)
            case "left branch":
                return join_names(self.grown, [int(rows.left[join])])[0]
            case "right branch":
                return join_names(self.grown, [int(rows.right[join])])[0]
            case "cases":
                return f"{rows.size[join]:,}"
            case "height":
                return number(float(rows.height[join]))
            case "jump":
                return "" if np.isnan(rows.jump[join]) else number(float(rows.jump[join]))
            case "clusters":
                return f"{rows.clusters[join]:,}"
            case "note":
                return self._note(join)
            case "left from":
                return str(rows.left_made_at[join] or "")
            case "right from":
                return str(rows.right_made_at[join] or "")
            case "next join":
                return str(rows.used_at[join] or "")
            case "support":
                known = self.support is not None and not np.isnan(self.support[join])
                return f"{100 * self.support[join]:.0f}" if known else ""  # type: ignore[index]
            case "weight":
                return number(float(rows.mass[join]))
        return self._spread(join, _HEADS[column])

    def _tip(self, head: str) -> str:
        """What a column says, and why it is empty where it is."""
        words = _COLUMNS[head]
        if self.grown is None or head not in _SQUARES or self.grown.schedule.spread is not None:
            return words
        return f"{words}. Not available: {self.grown.prepared.no_spread}."

    def _spread(self, join: int, head: str) -> str:
        assert self.grown is not None
        spread = self.grown.schedule.spread
        if spread is None or np.isnan(spread.r2[join]):
            return "–"
        if head == "within":
            return number(float(spread.within[join]))
        return fixed((spread.r2 if head == "R²" else spread.semipartial_r2)[join], 3)

    def _note(self, join: int, long: bool = False) -> str:
        assert self.grown is not None
        rows = self.grown.schedule
        if rows.inverted[join]:
            return "An inversion: lower than the previous join" if long else "inversion"
        if rows.tie_matters[join]:
            told = "A tied pair shared a cluster: file order decided the tree"
            return told if long else "order-dependent tie"
        if rows.tied[join]:
            return "Another pair was tied, elsewhere in the tree" if long else "tie"
        return ""


def _alignment(column: int) -> Qt.AlignmentFlag:
    words = _HEADS[column] in _WORDS
    side = Qt.AlignmentFlag.AlignLeft if words else Qt.AlignmentFlag.AlignRight
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

    def __init__(self, focus: TreeFocus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.table = ScheduleModel(self)
        self.setModel(self.table)
        dress(self, "Agglomeration schedule", _WIDTHS)
        self.setItemDelegateForColumn(_JUMP, _JumpBar(self))
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
            widen(self, _NUMBERED, f"{self.table.rowCount():,}")
            self.order_of_joining()
        self._show_support()

    def _relabel(self) -> None:
        self.table.grown = self.focus.grown
        self.viewport().update()

    def _show_support(self) -> None:
        """The column is there once support was measured."""
        found = self.focus.support
        self.table.support = None if found is None or found.why else found.shown
        self.setColumnHidden(_HEADS.index("support"), self.table.support is None)
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
