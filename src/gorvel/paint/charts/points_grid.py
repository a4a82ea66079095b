"""Painting a few questions, each against each, as small scatters."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPen

from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.charts.points import Points, PointsChart
from gorvel.paint.theme import font


@dataclass(frozen=True, eq=False)
class PointsGridChart(Chart[tuple[int, int]]):
    """names : of the questions; points : by names across and along. Places are row and column."""

    names: Sequence[str]
    points: Mapping[tuple[str, str], Points]

    def cell(self, row: int, column: int) -> QRectF:
        """Where a scatter lies."""
        count = max(len(self.names), 1)
        wide, high = self.width / count, self.height / count
        return QRectF(column * wide + 2, row * high + 2, wide - 4, high - 4)

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """Row and column of the scatter at a pixel."""
        count = max(len(self.names), 1)
        row = int(y / max(self.height / count, 1e-9))
        column = int(x / max(self.width / count, 1e-9))
        return (row, column) if 0 <= column < row < len(self.names) else None

    def paint(self, canvas: Canvas) -> None:
        """Scatters below the diagonal, names on it."""
        painter, theme, shape = canvas.painter, self.theme, font(0.93, 600)
        for row, along in enumerate(self.names):
            box = self.cell(row, row)
            words = canvas.shortened(along, shape, box.width() - 6)
            canvas.write(box, words, theme.ink, shape, "centre")
            for column, across in enumerate(self.names[:row]):
                box = self.cell(row, column)
                painter.setPen(QPen(QColor(theme.line), 1.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                points = self.points.get((across, along))
                if points is not None:
                    painter.save()
                    painter.translate(box.topLeft())
                    PointsChart(theme, box.width(), box.height(), points, small=True).paint(canvas)
                    painter.restore()
