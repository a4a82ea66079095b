"""Painting an icicle plot: a column for each cluster count, gaps between cases that are apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

_LINED = 5.0  # pixels of a column from which columns are told apart by lines
_PALE = 85  # of 255: how strong a cluster's colour is beside the cut


@dataclass(frozen=True, eq=False)
class IciclePicture(ColumnPicture):
    """Columns run from `first` to `last` clusters."""

    look: TreeLook
    first: int
    last: int
    title = "Icicle · clusters"

    def x(self, frame: Frame, clusters: float) -> float:
        """The pixel at which the column of a count begins."""
        part = (clusters - self.first) / (self.last - self.first + 1)
        return frame.left + part * (frame.right - frame.left)

    def count_at(self, frame: Frame, x: float) -> int:
        """The cluster count of the column at a pixel."""
        part = (x - frame.left) / max(frame.right - frame.left, 1.0)
        count = self.first + int(part * (self.last - self.first + 1))
        return min(max(count, self.first), self.last)

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """Fills, gaps, then the column of the cut; the caller has set the clip."""
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, not canvas.crisp)
        self._fills(painter, frame)
        self._gaps(painter, frame)
        cut = self.look.cut.level
        if self.first <= cut <= self.last:
            left, wide = self.x(frame, cut), self.x(frame, cut + 1) - self.x(frame, cut)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            for cluster in range(1, self.look.cut.clusters + 1):
                self.look.bar(canvas, frame, cluster, left + 1, wide - 2)
            painter.setPen(QPen(QColor(self.look.theme.cut), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            bottom = min(frame.bottom, frame.y(self.look.arrangement.length))
            painter.drawRect(QRectF(left, frame.top, wide, bottom - frame.top))

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        """The numbers below the columns, as many as there is room for."""
        step = (frame.right - frame.left) / (self.last - self.first + 1)
        cut = self.look.cut.level
        plain, strong = font("note"), font("note", 600)
        wide = 18.0 if canvas.upright else canvas.wide(f"{self.last:,}", plain) + 3
        every = max(int(np.ceil(wide / step)), 1)
        for count in sorted({cut, self.last, *range(self.first, self.last + 1, every)}):
            if not self.first <= count <= self.last:
                continue
            crowded = any(0 < abs(count - k) * step < wide for k in (cut, self.last))
            if crowded and count not in (cut, self.last):
                continue
            if count == self.last and 0 < (count - cut) * step < wide:
                continue
            box = QRectF(self.x(frame, count + 0.5) - 20, frame.bottom + 2, 40, 18)
            at, colour = (
                (strong, self.look.theme.cut) if count == cut else (plain, self.look.theme.soft)
            )
            canvas.write(box, f"{count:,}", colour, at, "centre")

    def _fills(self, painter: QPainter, frame: Frame) -> None:
        """Each cluster from the smallest count at which it stands by itself; grey before."""
        tree, theme, end = self.look.tree, self.look.theme, frame.right
        low = max(frame.top, frame.y(0.0))
        high = min(frame.bottom, frame.y(self.look.arrangement.length))
        whole = QColor(theme.bar)
        whole.setAlpha(80)
        painter.fillRect(QRectF(frame.left, low, end - frame.left, high - low), whole)
        for cluster, root in enumerate(self.look.cut.roots.tolist(), 1):
            top, bottom = self.look.extent(frame, root)
            if bottom < frame.top or top > frame.bottom:
                continue
            used = int(tree.used_at[root])
            alone = 1 if used < 0 else tree.n - used
            left = self.x(frame, max(alone, self.first))
            if left < end:
                top, bottom = max(top, low), min(bottom, high)
                box = QRectF(left, top, end - left, bottom - top)
                painter.fillRect(box, QColor(theme.panel))
                pale = self.look.colour(cluster)
                pale.setAlpha(_PALE)
                painter.fillRect(box, pale)

    def _gaps(self, painter: QPainter, frame: Frame) -> None:
        at, theme = self.look.arrangement, self.look.theme
        step = (frame.right - frame.left) / (self.last - self.first + 1)
        painter.setPen(QPen(QColor(theme.panel), 1.0))
        bottom = min(frame.bottom, frame.y(at.length))
        if step >= _LINED:
            painter.drawLines(
                [
                    QLineF(self.x(frame, c), frame.top, self.x(frame, c), bottom)
                    for c in range(self.first + 1, self.last + 1)
                ]
            )
        first, last = self.look.positions(frame)
        between = first + np.flatnonzero(at.apart_from[first:last] <= self.last)
        apart = at.apart_from[between]
        inside = at.edges[between + 1] - at.edges[between] >= 0.999  # not within a folded branch
        if at.folded:
            edge = np.zeros(len(at.edges), dtype=bool)
            for node in at.folded:
                start = int(at.starts[node])
                edge[[start, start + int(self.look.tree.sizes[node])]] = True
            inside |= edge[between + 1]
        between, apart = between[inside], apart[inside]
        y = np.round(at.edges[between + 1] * frame.row)
        order = np.lexsort((apart, y))  # of the gaps on one pixel the longest
        first_there = np.concatenate([[True], np.diff(y[order]) > 0]) if order.size else order
        painter.setPen(QPen(QColor(theme.panel), 1.5 if frame.row * 20 > 30 else 1.0))
        kept = order[np.asarray(first_there, dtype=bool)]
        lines = [
            QLineF(self.x(frame, max(c, self.first)), frame.y(p), frame.right, frame.y(p))
            for c, p in zip(apart[kept].tolist(), at.edges[between[kept] + 1].tolist(), strict=True)
        ]
        painter.drawLines(lines)
