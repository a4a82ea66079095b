"""A bar behind a number in a table: how much of 1 it is."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem

from gorvel.paint.theme import current, font

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
        painter.setFont(font(0.93))
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
