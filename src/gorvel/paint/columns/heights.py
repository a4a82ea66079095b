"""Painting the height chart: the span of each cluster count, a stroke for each join, the axis."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.core.scene.heights import largest_jumps
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import Theme, font

_SPANS, _RUG = 22.0, 30.0  # baselines below the top of the chart
_LEAST_LABEL = 3.0  # pixels between two numbers


@dataclass(frozen=True, eq=False)
class HeightsPainter:
    """The chart below a dendrogram, on the same height axis."""

    scene: DendrogramScene
    clusters: int
    theme: Theme

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """Spans with their counts on top, strokes for the joins, then the axis."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._spans(canvas, frame)
        self._rug(canvas.painter, frame)
        self._axis(canvas, frame)

    def _spans(self, canvas: Canvas, frame: Frame) -> None:
        wide = frame.right - frame.left
        jumps = set(largest_jumps(self.scene.tree))
        found = (part.tolist() for part in self.scene.wide_spans)
        for clusters, low, high in zip(*found, strict=True):
            left, right = frame.right - high * wide, frame.right - low * wide
            if right - left >= 1.0:
                self._span(canvas, frame, clusters, clusters in jumps, left, right)

    def _span(
        self, canvas: Canvas, frame: Frame, clusters: int, jump: bool, left: float, right: float
    ) -> None:
        here = clusters == self.clusters
        colour = self.theme.cut if here else self.theme.bar
        canvas.painter.setPen(QPen(QColor(colour), 3.0 if here or jump else 1.4))
        y = frame.top + _SPANS
        canvas.painter.drawLine(QLineF(left + 1, y, right - 1, y))
        at, text = font("note", 600 if here or jump else 400), str(clusters)
        wide = 14.0 if canvas.upright else canvas.wide(text, at)
        if right - left >= wide + _LEAST_LABEL or here:
            middle = (left + right) / 2
            box = QRectF(middle - wide, y - 20, 2 * wide, 16)
            if canvas.upright:
                box = QRectF(middle - 9, y - 22, 18, 20)
            canvas.write(box, text, colour, at, "centre")

    def _rug(self, painter: QPainter, frame: Frame) -> None:
        painter.setPen(QPen(QColor(self.theme.soft), 1.0))
        y = frame.top + _RUG
        wide = frame.right - frame.left
        places = np.unique(np.round(frame.right - self.scene.strokes * wide, 1))
        painter.drawLines([QLineF(x, y, x, y + 8) for x in places.tolist()])

    def _axis(self, canvas: Canvas, frame: Frame) -> None:
        theme, at = self.theme, font("note")
        y = frame.top + _RUG + 8
        canvas.painter.setPen(QPen(QColor(theme.line), 1.0))
        canvas.painter.drawLine(QLineF(frame.left, y, frame.right, y))
        taken: list[QRectF] = []
        for tick in self.scene.axis.ticks(10):
            long = 22.0 if canvas.upright else canvas.wide(tick.label, at) + 10
            deep = canvas.wide(tick.label, at) + 8 if canvas.upright else 14.0
            left = min(frame.x(tick.share) - long / 2, frame.right + 8 - long)
            box = QRectF(left, y + 2, long, deep)
            if any(box.intersects(other) for other in taken):
                continue
            taken.append(box)
            canvas.write(box, tick.label, theme.soft, at, "centre")
