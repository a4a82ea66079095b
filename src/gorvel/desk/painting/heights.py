"""Painting the height chart: the span of each cluster count, a stroke for each join, the axis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from gorvel.core.scene.axis import ticks
from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.core.scene.heights import CountSpans, count_spans, largest_jumps
from gorvel.desk.painting.frame import Frame
from gorvel.desk.theme import Theme, font

__all__ = ["HeightsPainter"]

_SPANS, _RUG, _AXIS = 22.0, 30.0, 48.0  # baselines below the top of the chart
_LEAST_LABEL = 3.0  # pixels between two numbers


@dataclass(frozen=True, eq=False)
class HeightsPainter:
    """The chart below a dendrogram, on the same height axis."""

    scene: DendrogramScene
    clusters: int
    theme: Theme

    def spans(self) -> CountSpans:
        """The span of each count."""
        return count_spans(self.scene.tree, self.scene.axis.top)

    def paint(self, painter: QPainter, frame: Frame) -> None:
        """Spans with their counts on top, strokes for the joins, then the axis."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._spans(painter, frame)
        self._rug(painter, frame)
        self._axis(painter, frame)

    def _spans(self, painter: QPainter, frame: Frame) -> None:
        spans, axis = self.spans(), self.scene.axis
        wide = frame.right - frame.left
        left = frame.right - axis.share(spans.high) * wide
        right = frame.right - axis.share(spans.low) * wide
        jumps = set(largest_jumps(self.scene.tree))
        for k in np.flatnonzero(right - left >= 1.0).tolist():
            clusters = int(spans.clusters[k])
            self._span(painter, frame, clusters, clusters in jumps, float(left[k]), float(right[k]))

    def _span(
        self, painter: QPainter, frame: Frame, clusters: int, jump: bool, left: float, right: float
    ) -> None:
        here = clusters == self.clusters
        colour = QColor(self.theme.cut if here else self.theme.bar)
        painter.setPen(QPen(colour, 3.0 if here or jump else 1.4))
        y = frame.top + _SPANS
        painter.drawLine(QLineF(left + 1, y, right - 1, y))
        painter.setFont(font(0.86, 600 if here or jump else 400))
        text = str(clusters)
        wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
        if right - left >= wide + _LEAST_LABEL or here:
            painter.setPen(colour)
            painter.drawText(QPointF((left + right - wide) / 2, y - 5), text)

    def _rug(self, painter: QPainter, frame: Frame) -> None:
        tree = self.scene.tree
        painter.setPen(QPen(QColor(self.theme.soft), 1.0))
        y = frame.top + _RUG
        share = self.scene.share[tree.n :]
        places = np.unique(np.round(frame.right - share * (frame.right - frame.left), 1))
        painter.drawLines([QLineF(x, y, x, y + 8) for x in places.tolist()])

    def _axis(self, painter: QPainter, frame: Frame) -> None:
        theme = self.theme
        y = frame.top + _RUG + 8
        painter.setPen(QPen(QColor(theme.line), 1.0))
        painter.drawLine(QLineF(frame.left, y, frame.right, y))
        painter.setPen(QColor(theme.soft))
        painter.setFont(font(0.8))
        metrics = QFontMetricsF(painter.font())
        taken: list[QRectF] = []
        for tick in self._ticks():
            x, text = frame.x(float(self.scene.axis.share(tick))), f"{tick:,.10g}"
            box = QRectF(0, y + 2, metrics.horizontalAdvance(text) + 10, metrics.height())
            box.moveCenter(QPointF(x, box.center().y()))
            if any(box.intersects(other) for other in taken):
                continue
            taken.append(box)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _ticks(self) -> Sequence[float]:
        return ticks(self.scene.axis, 10)
