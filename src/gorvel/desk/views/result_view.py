"""A table of a result on the screen: read, never written in."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence

import numpy as np
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import (
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gorvel.core.base.numbers import fixed
from gorvel.core.results.table import Cell, ResultTable
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.views.tables import dress
from gorvel.paint.theme import current, font

_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter

_WORDS = 42.0  # pixels of the number


class ShareBars(QStyledItemDelegate):
    """The number stands in the user role; words without one are written as they are."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:  # fmt: skip
        value = index.data(Qt.ItemDataRole.UserRole)
        if not isinstance(value, float) or value != value:
            super().paint(painter, option, index)
            return
        theme, box = current(), QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setFont(font("table"))
        painter.setPen(QColor(theme.ink))
        words = QRectF(box.left() + 4, box.top(), _WORDS, box.height())
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(words, flags, str(index.data()).replace("-", "−"))
        bar = QRectF(words.right(), box.center().y() - 4, box.right() - words.right() - 10, 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.line))
        painter.drawRoundedRect(bar, 4, 4)
        if value > 0:
            bar.setWidth(max(bar.width() * min(value, 1.0), 4.0))
            painter.setBrush(QColor(theme.bar))
            painter.drawRoundedRect(bar, 4, 4)
        painter.restore()


def cell_words(cell: Cell) -> str:
    """Two decimals, thousands apart, a dash for what is not known; words as they are."""
    if cell is None or (isinstance(cell, float) and np.isnan(cell)):
        return "–"
    if isinstance(cell, float):
        return fixed(cell, 2)
    return cell if isinstance(cell, str) else f"{cell:,}"


class ResultView(QTableWidget):
    """A table of a result.

    heads : of the columns, none where they change; name, widths, row : see `dress`; bars, right :
    columns with a bar behind the number, and those written to the right.
    """

    def __init__(
        self, heads: Sequence[str], name: str, widths: Sequence[int] = (), row: int = 24,
        bars: Collection[int] = (), right: Collection[int] = (), parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(0, len(heads), parent)
        self._bars, self._right = bars, right
        if heads:
            self.setHorizontalHeaderLabels(list(heads))
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        dress(self, name, widths, row)
        for column in bars:
            self.setItemDelegateForColumn(column, ShareBars(self))

    def show_table(self, table: ResultTable | None) -> None:
        """Show the rows of a result; none where nothing is known."""
        self.show_rows(() if table is None else table.rows)

    def show_rows(
        self, rows: Sequence[Sequence[Cell]], strong: Callable[[int, int], bool] | None = None
    ) -> None:
        """Show these. strong : is a cell, by row and column, bold? Without it the first column."""
        self.setRowCount(len(rows))
        for place, row in enumerate(rows):
            for column, cell in enumerate(row):
                item = QTableWidgetItem(cell_words(cell))
                if column == 0 if strong is None else strong(place, column):
                    item.setFont(font("table", 600))
                if column in self._bars:
                    item.setData(Qt.ItemDataRole.UserRole, cell)
                if column in self._right:
                    item.setTextAlignment(_RIGHT)
                self.setItem(place, column, item)

    def cell(self, row: int, column: int) -> QTableWidgetItem:
        """A cell that is there."""
        item = self.item(row, column)
        assert item is not None
        return item

    def soften(self, row: int, columns: Iterable[int], why: str) -> None:
        """Have cells stand back, for a reason."""
        for column in columns:
            item = self.cell(row, column)
            item.setForeground(QColor(current().soft))
            item.setToolTip(as_tip(why))

    def show_cross(
        self, sides: Sequence[str], heads: Sequence[str], cells: Sequence[Sequence[str]],
        strong: Callable[[int, int], bool],
    ) -> None:  # fmt: skip
        """Show a table with heads on two sides, its cells in the middle."""
        self.setColumnCount(len(heads))
        self.setHorizontalHeaderLabels(list(heads))
        self.show_rows(cells, strong)
        self.setVerticalHeaderLabels(list(sides))
        for place in range(len(cells)):
            for column in range(len(heads)):
                self.cell(place, column).setTextAlignment(Qt.AlignmentFlag.AlignCenter)
        self.resizeColumnsToContents()
