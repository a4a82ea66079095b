"""Painting the clusters of a cut as one strip of bars, as wide as they are large."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.cluster_marks import paint_bar


@dataclass(frozen=True, eq=False)
class ClusterStripChart(Chart[int]):
    """Bars side by side.

    clusters : their numbers (from 0) in the order of the tree; names, cases : by number; of : what
    the tree is of; marked : a cluster, -1 for none.
    """

    clusters: Sequence[int]
    names: Sequence[Identity]
    cases: Sequence[int]
    of: str = "cases"
    marked: int = -1

    def box(self, place: int) -> QRectF:
        """Where the bar in a place is."""
        before = sum(self.cases[k] for k in self.clusters[:place])
        total, gap = max(sum(self.cases), 1), 1.0 if len(self.clusters) < self.width / 8 else 0.0
        left = self.width * before / total
        wide = self.width * self.cases[self.clusters[place]] / total
        return QRectF(left + gap, 1, max(wide - 2 * gap, 0.5), self.height - 2)

    def at(self, x: float, y: float) -> int | None:
        """The cluster (from 0) at a pixel."""
        for place, cluster in enumerate(self.clusters):
            box = self.box(place)
            if box.left() - 1 <= x < box.right() + 1:
                return cluster
        return None

    def tip(self, place: int) -> str:
        total = sum(self.cases)
        share = self.cases[place] / max(total, 1)
        return (
            f"{self.names[place].told}: {self.cases[place]:,} of {total:,} {self.of}, {share:.0%}"
        )

    def paint(self, canvas: Canvas) -> None:
        """Bars with names."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for place, cluster in enumerate(self.clusters):
            box = self.box(place)
            paint_bar(canvas, self.theme, box, self.names[cluster])
            if cluster == self.marked:
                canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
                canvas.painter.setPen(QPen(QColor(self.theme.ink), 2.0))
                canvas.painter.drawRoundedRect(box, 2, 2)
