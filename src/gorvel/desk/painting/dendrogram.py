"""Painting a dendrogram, its cluster strip, its labels and the cut line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from gorvel.core.cuts import Cut, letters
from gorvel.core.scene.dendrogram import DendrogramScene, join_owners
from gorvel.core.tree import Tree
from gorvel.desk.painting.frame import Frame
from gorvel.desk.theme import Theme, font

__all__ = ["STRIP", "DendrogramPainter", "label_width", "paint_cut_line", "subtree_joins"]

STRIP = 26  # pixels of the cluster strip between tree and labels
_STRONG_FROM = (
    7.0  # pixels a bracket spans before it is drawn strong: lower ones would run together
)
_LEAST_LETTER = 9.0  # pixels of bar that a letter needs
_LEAST_ROW = 10.0  # pixels a label needs


def label_width(labels: Sequence[str], most: float) -> float:
    """Pixels for the label column: as wide as the widest label, up to a limit."""
    metrics = QFontMetricsF(font(0.86))
    longest = sorted(labels, key=len)[-40:]
    return min(max((metrics.horizontalAdvance(label) for label in longest), default=0) + 16, most)


def subtree_joins(tree: Tree, join: int) -> NDArray[np.int64]:
    """All joins (from 0) inside the cluster that a join makes, itself included."""
    node = tree.n + join
    start, end = tree.starts[node], tree.starts[node] + tree.sizes[node]
    starts = tree.starts[tree.n : node + 1]
    return np.flatnonzero((starts >= start) & (starts < end))


@dataclass(frozen=True, eq=False)
class DendrogramPainter:
    """Paints one tree at one cut; the same on screen, in a picture and in print."""

    scene: DendrogramScene
    labels: Sequence[str]
    cut: Cut
    theme: Theme

    def paint(self, painter: QPainter, frame: Frame) -> None:
        """Tree, cluster strip and labels; the caller has set the clip."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        self._brackets(painter, frame, self._in_sight(frame), 1.0)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._strip(painter, frame)
        self._labels(painter, frame)

    def paint_subtree(self, painter: QPainter, frame: Frame, join: int) -> None:
        """The joins inside one cluster once more, strong."""
        joins = subtree_joins(self.scene.tree, join)
        tree, place = self.scene.tree, self.scene.place
        wide = np.abs(place[tree.left[joins]] - place[tree.right[joins]]) * frame.row
        self._brackets(painter, frame, joins[wide >= _STRONG_FROM], 2.4)

    def _in_sight(self, frame: Frame) -> NDArray[np.int64]:
        tree = self.scene.tree
        first, last = frame.shown(tree.n)
        starts = tree.starts[tree.n :]
        return np.flatnonzero((starts < last) & (starts + tree.sizes[tree.n :] > first))

    def _brackets(
        self, painter: QPainter, frame: Frame, joins: NDArray[np.int64], width: float
    ) -> None:
        tree, share, place = self.scene.tree, self.scene.share, self.scene.place
        left, right, own = tree.left[joins], tree.right[joins], tree.n + joins
        owner = join_owners(tree, self.cut)[own]
        corners = np.stack(
            [
                *(frame.right - part * (frame.right - frame.left)
                  for part in (share[own], share[left], share[right])),
                *(frame.top + part * frame.row - frame.scrolled
                  for part in (place[left], place[right])),
            ]
        )  # fmt: skip
        lines: dict[int, list[QLineF]] = {}
        for cluster in np.unique(owner).tolist():
            lines[cluster] = [
                line
                for x, xa, xb, ya, yb in corners[:, owner == cluster].T.tolist()
                for line in (QLineF(x, ya, x, yb), QLineF(xa, ya, x, ya), QLineF(xb, yb, x, yb))
            ]
        for cluster, drawn in lines.items():
            pen = QPen(self.theme.cluster(cluster), width)
            pen.setCapStyle(Qt.PenCapStyle.SquareCap)
            painter.setPen(pen)
            painter.drawLines(drawn)

    def _strip(self, painter: QPainter, frame: Frame) -> None:
        """A bar for each cluster with its letter, so that colour is never alone."""
        tree = self.scene.tree
        for number, root in enumerate(self.cut.roots.tolist(), 1):
            top = frame.y(float(tree.starts[root]))
            bottom = frame.y(float(tree.starts[root] + tree.sizes[root]))
            if bottom < frame.top or top > frame.bottom:
                continue
            gap = 1.0 if bottom - top > 4 else 0.0
            bar = QRectF(frame.right + 6, top + gap, STRIP - 8, max(bottom - top - 2 * gap, 1.0))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.cluster(number))
            painter.drawRoundedRect(bar, 2, 2)
            seen = bar.intersected(
                QRectF(bar.left(), frame.top, bar.width(), frame.bottom - frame.top)
            )
            if seen.height() >= _LEAST_LETTER:
                painter.setFont(font(min(0.86, seen.height() / 15), 600))
                painter.setPen(QColor(self.theme.panel))
                painter.drawText(seen, Qt.AlignmentFlag.AlignCenter, letters(number))

    def _labels(self, painter: QPainter, frame: Frame) -> None:
        """Labels where there is room for each; else the size of each cluster."""
        left = frame.right + STRIP + 4
        if frame.row < _LEAST_ROW:
            self._cluster_sizes(painter, frame, left)
            return
        painter.setFont(font(min(0.86, frame.row / 14)))
        painter.setPen(QColor(self.theme.ink))
        metrics = QFontMetricsF(painter.font())
        room = painter.clipBoundingRect().right() - left
        first, last = frame.shown(self.scene.tree.n)
        for position in range(first, last):
            label = self.labels[int(self.scene.tree.order[position])].replace("\n", " ")
            text = metrics.elidedText(label, Qt.TextElideMode.ElideRight, room)
            middle = frame.y(position + 0.5) + metrics.capHeight() / 2
            painter.drawText(QPointF(left, middle), text)

    def _cluster_sizes(self, painter: QPainter, frame: Frame, left: float) -> None:
        tree = self.scene.tree
        painter.setFont(font(0.86))
        metrics = QFontMetricsF(painter.font())
        free_from = frame.top - metrics.height()
        placed = sorted(enumerate(self.cut.roots.tolist(), 1), key=lambda k: tree.starts[k[1]])
        for number, root in placed:
            size = int(tree.sizes[root])
            middle = frame.y(float(tree.starts[root]) + size / 2)
            if middle - metrics.height() * 0.45 < free_from:
                continue  # it would run into the one above
            free_from = middle + metrics.height() * 0.45
            letter = "" if size * frame.row - 2 >= _LEAST_LETTER else f"{letters(number)}  "
            painter.setPen(QColor(self.theme.soft))
            text = f"{letter}{size:,} case{'s' if size > 1 else ''}"
            painter.drawText(QPointF(left, middle + metrics.capHeight() / 2), text)


def paint_cut_line(
    painter: QPainter, x: float, top: float, bottom: float, theme: Theme, text: str = ""
) -> QRectF:
    """The cut line, with a handle that says the count; returns the handle's place."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setPen(QPen(QColor(theme.cut), 1.6))
    painter.drawLine(QLineF(x, top, x, bottom))
    if not text:
        return QRectF()
    painter.setFont(font(0.93, 600))
    metrics = QFontMetricsF(painter.font())
    handle = QRectF(0, 0, metrics.horizontalAdvance(text) + 22, metrics.height() + 4)
    handle.moveCenter(QPointF(x, top - handle.height() / 2 + 2))
    handle.moveLeft(max(handle.left(), 2.0))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.cut))
    painter.drawRoundedRect(handle, handle.height() / 2, handle.height() / 2)
    painter.setPen(QColor(theme.on_cut))
    painter.drawText(handle, Qt.AlignmentFlag.AlignCenter, text)
    return handle
