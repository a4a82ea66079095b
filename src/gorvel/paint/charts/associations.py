"""The correlation map: the stronger, the darker; groups that say the same are framed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from gorvel.core.base.numbers import fixed
from gorvel.core.inspect.associations import CorrelationMap
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

_TOP = 44.0
_MOST_CELL = 44.0
_LEAST_NUMBER = 30.0  # pixels of a cell that holds a figure
_LEAST_NAME = 11.0


@dataclass(frozen=True, eq=False)
class AssociationsChart(Chart[tuple[int, int]]):
    """found : None where there is nothing to show."""

    found: CorrelationMap | None

    @property
    def left(self) -> float:
        """Pixels before the first cell."""
        metrics = QFontMetricsF(font("note"))
        names = self.found.names if self.found else ()
        widest = max((metrics.horizontalAdvance(name) for name in names), default=0.0)
        return float(min(widest, self.width * 0.34) + 14)

    def cell(self) -> float:
        """Pixels a cell has."""
        count = max(len(self.found.names) if self.found else 0, 1)
        room = min(self.width - self.left - 8, self.height - _TOP - 8)
        return float(min(max(room / count, 3.0), _MOST_CELL))

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """The row and column at a pixel."""
        if self.found is None:
            return None
        row = int((y - _TOP) // self.cell())
        column = int((x - self.left) // self.cell())
        size = len(self.found.names)
        return (row, column) if 0 <= row < size and 0 <= column < size else None

    def tip(self, place: tuple[int, int]) -> str:
        found = self.found
        if found is None:
            return ""
        first, second = (found.names[k] for k in place)
        if first == second:
            return first
        value, name = float(found.values[place]), found.coefficients[place[0]][place[1]]
        words = f"{name} not defined" if np.isnan(value) else f"{name} = {fixed(value, 3)}"
        return f"{first} and {second}: {words}. Click to see them."

    def paint(self, canvas: Canvas) -> None:
        """The title, the cells, and frames around those that say the same."""
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setFont(font())
        painter.setPen(QColor(self.theme.soft if self.found is None else self.theme.ink))
        words = QRectF(4, 2, self.width - 8, _TOP - 4)
        flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop)
        painter.drawText(words, flags, self.title())
        if self.found is not None and len(self.found.names) > 1:
            self._cells(painter, self.found)
            self._frames(painter, self.found)

    def title(self) -> str:
        """What there is to see, in words."""
        if self.found is None or len(self.found.names) < 2:
            return "Two or more active variables are needed."
        if np.isnan(self.found.values[~np.eye(len(self.found.names), dtype=bool)]).all():
            return "No pair can be compared: too few cases, or no variation."
        if not self.found.groups:
            return "No redundant variables. Blue: positive association, rust: negative."
        groups = "; ".join(", ".join(group) for group in self.found.groups)
        return f"Redundant (0.7 or more on average): {groups}."

    def _cells(self, painter: QPainter, found: CorrelationMap) -> None:
        theme, size, left = self.theme, self.cell(), self.left
        metrics = QFontMetricsF(font("note"))
        for i, name in enumerate(found.names):
            if size >= _LEAST_NAME:
                painter.setFont(font("note"))
                painter.setPen(QColor(theme.ink))
                text = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, left - 12)
                side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(QRectF(0, _TOP + i * size, left - 8, size), side, text)
            for j in range(len(found.names)):
                if i == j:  # always 1
                    continue
                value = float(found.values[i, j])
                box = QRectF(left + j * size, _TOP + i * size, size - 1, size - 1)
                painter.fillRect(box, self.colour(value))
                if size >= _LEAST_NUMBER and not np.isnan(value):
                    painter.setFont(font("note"))
                    painter.setPen(QColor(theme.ink))
                    figure = f"{value:z.2f}".replace("0.", ".", 1).replace("-", "−")
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, figure)

    def colour(self, value: float) -> QColor:
        """Blue for together, rust for against each other, the ground for neither."""
        theme = self.theme
        if np.isnan(value):
            return QColor(theme.line)
        strong, ground = QColor(theme.focus if value > 0 else theme.above), QColor(theme.paper)
        share = abs(value) * theme.shade(1.0)

        def between(low: int, high: int) -> int:
            return round(low + share * (high - low))

        return QColor(
            between(ground.red(), strong.red()),
            between(ground.green(), strong.green()),
            between(ground.blue(), strong.blue()),
        )

    def _frames(self, painter: QPainter, found: CorrelationMap) -> None:
        size, left = self.cell(), self.left
        painter.setPen(QPen(QColor(self.theme.ink), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for group in found.groups:
            start = min(found.names.index(name) for name in group)
            wide = len(group) * size
            painter.drawRect(QRectF(left + start * size - 1, _TOP + start * size - 1, wide, wide))
