"""The correlation map: the stronger, the darker; groups that say the same are framed."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.associations import CorrelationMap
from gorvel.paint.theme import current, font

__all__ = ["CorrelationView"]

_TOP = 44.0
_MOST_CELL = 44.0
_LEAST_NUMBER = 30.0  # pixels of a cell that holds a figure
_LEAST_NAME = 11.0


class CorrelationView(QWidget):
    """Signals: pair_chosen(first, second), when a cell is clicked."""

    pair_chosen = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.map: CorrelationMap | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Correlations of the active variables")

    def show_map(self, found: CorrelationMap | None) -> None:
        """Show the correlations of a study."""
        self.map = found
        self.update()

    def _left(self) -> float:
        metrics = QFontMetricsF(font(0.86))
        names = self.map.names if self.map else ()
        widest = max((metrics.horizontalAdvance(name) for name in names), default=0.0)
        return float(min(widest, self.width() * 0.34) + 14)

    def cell(self) -> float:
        """Pixels a cell has."""
        count = max(len(self.map.names) if self.map else 0, 1)
        room = min(self.width() - self._left() - 8, self.height() - _TOP - 8)
        return float(min(max(room / count, 3.0), _MOST_CELL))

    def pair_at(self, point: QPointF) -> tuple[int, int] | None:
        """The row and column at a pixel."""
        if self.map is None:
            return None
        row = int((point.y() - _TOP) // self.cell())
        column = int((point.x() - self._left()) // self.cell())
        size = len(self.map.names)
        return (row, column) if 0 <= row < size and 0 <= column < size else None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setFont(font(1.0))
        painter.setPen(QColor(current().soft if self.map is None else current().ink))
        words = QRectF(4, 2, self.width() - 8, _TOP - 4)
        flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop)
        painter.drawText(words, flags, self.title())
        if self.map is not None and len(self.map.names) > 1:
            self._cells(painter, self.map)
            self._frames(painter, self.map)
        painter.end()

    def title(self) -> str:
        """What there is to see, in words."""
        if self.map is None or len(self.map.names) < 2:
            return "Two or more active variables are needed."
        if not self.map.groups:
            return "No variables say nearly the same. Rust is against each other, blue together."
        groups = "; ".join(", ".join(group) for group in self.map.groups)
        return f"These say nearly the same (0.7 or more on average): {groups}."

    def _cells(self, painter: QPainter, found: CorrelationMap) -> None:
        theme, size, left = current(), self.cell(), self._left()
        metrics = QFontMetricsF(font(0.86))
        for i, name in enumerate(found.names):
            if size >= _LEAST_NAME:
                painter.setFont(font(min(0.86, size / 15)))
                painter.setPen(QColor(theme.ink))
                text = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, left - 12)
                side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(QRectF(0, _TOP + i * size, left - 8, size), side, text)
            for j in range(len(found.names)):
                value = float(found.values[i, j])
                box = QRectF(left + j * size, _TOP + i * size, size - 1, size - 1)
                painter.fillRect(box, self.colour(value))
                if size >= _LEAST_NUMBER and i != j and not np.isnan(value):
                    painter.setFont(font(0.8))
                    painter.setPen(QColor(theme.panel if abs(value) > 0.55 else theme.ink))
                    figure = f"{value:.2f}".replace("0.", ".", 1).replace("-", "−")
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, figure)

    def colour(self, value: float) -> QColor:
        """Blue for together, rust for against each other, the ground for neither."""
        theme = current()
        if np.isnan(value):
            return QColor(theme.line)
        strong, ground = QColor(theme.focus if value > 0 else theme.cut), QColor(theme.paper)
        share = abs(value)

        def between(low: int, high: int) -> int:
            return round(low + share * (high - low))

        return QColor(
            between(ground.red(), strong.red()),
            between(ground.green(), strong.green()),
            between(ground.blue(), strong.blue()),
        )

    def _frames(self, painter: QPainter, found: CorrelationMap) -> None:
        size, left = self.cell(), self._left()
        painter.setPen(QPen(QColor(current().ink), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for group in found.groups:
            start = min(found.names.index(name) for name in group)
            wide = len(group) * size
            painter.drawRect(QRectF(left + start * size - 1, _TOP + start * size - 1, wide, wide))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pair = self.pair_at(event.position())
        if pair is None or self.map is None:
            self.setToolTip("")
            return
        value = float(self.map.values[pair])
        name = self.map.coefficients[pair[0]][pair[1]]
        words = f"{name} not defined" if np.isnan(value) else f"{name} = {value:.3f}"
        if pair[0] == pair[1]:
            self.setToolTip(self.map.names[pair[0]])
            return
        first, second = (self.map.names[k] for k in pair)
        self.setToolTip(f"{first} and {second}: {words}. Click to see them.")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        pair = self.pair_at(event.position())
        if pair is not None and self.map is not None and pair[0] != pair[1]:
            self.pair_chosen.emit(self.map.names[pair[0]], self.map.names[pair[1]])
