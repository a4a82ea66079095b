"""Painting the labels of cases beside the bars of their clusters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontMetricsF

from gorvel.core.base.numbers import unit
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.cluster_marks import LEAST_BAR
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

_WIDEST, _LEAST = 170.0, 88.0  # pixels of labels that are there whatever the room
STRIP = 28  # pixels of the cluster strip before the labels
_LOOKED_AT = 5000  # labels, at least, for the width of all
_LEAST_ROW = 10.0  # pixels a label needs
_THINNED_ROW = 3.0  # pixels a row needs for every so many labels to be told


def label_width(look: TreeLook, most: float) -> float:
    """Pixels for the labels: as wide as the widest, up to a limit."""
    measured = QFontMetricsF(font("note"))
    some = look.labels[:: max(1, len(look.labels) // _LOOKED_AT)]  # longer ones are shortened
    sizes = look.tree.sizes[look.cut.roots]
    longest = [*sorted(some, key=len)[-40:], unit(look.of, int(sizes.max()))]
    longest += [who.title for who in look.names]
    wide = max((measured.horizontalAdvance(label) for label in longest), default=0)
    return min(STRIP + wide + 20, most)


@dataclass(frozen=True, eq=False)
class LabelsPicture(ColumnPicture):
    """Cluster bars, then labels: all, every so many, or the sizes of the clusters."""

    look: TreeLook

    def heading(self) -> str:
        return unit(self.look.of).capitalize()

    def natural(self, share: float) -> float:
        room = max(label_width(self.look, max(share, _WIDEST)), _LEAST)
        return self.margin[0] + self.margin[1] + room

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """The caller has set the clip."""
        for cluster in range(1, self.look.cut.clusters + 1):
            self.look.bar(canvas, frame, cluster, frame.left, STRIP - 8)
        left = frame.left + STRIP
        if frame.row >= _THINNED_ROW or self.look.arrangement.folded:
            self._labels(canvas, frame, left)
        else:
            self._sizes(canvas, frame, left)

    def _labels(self, canvas: Canvas, frame: Frame, left: float) -> None:
        """Labels of the rows in sight, thinned out so that they do not overlap."""
        at = self.look.arrangement
        first, last = self.look.positions(frame)
        fitted = font("note")
        high = float(fitted.pixelSize())
        free_from, position = -np.inf, first
        while position < last:
            node = at.unit(position)
            top, bottom = self.look.extent(frame, node)
            position = int(at.starts[node] + self.look.tree.sizes[node])
            middle = (top + bottom) / 2
            if middle - high / 2 < free_from:
                continue
            free_from = middle + high / 2
            box = QRectF(left, middle - 12, frame.right - left, 24)
            words = canvas.shortened(self._words(node), fitted, box.width(), middle=True)
            soft = node >= self.look.tree.n
            ink = self.look.theme.soft if soft else self.look.theme.ink
            canvas.write(box, words, ink, fitted, turned=True)

    def _words(self, node: int) -> str:
        tree = self.look.tree
        first = self.look.labels[int(tree.firsts[node])]
        return first if node < tree.n else f"{first} +{tree.sizes[node] - 1:,}"

    def _sizes(self, canvas: Canvas, frame: Frame, left: float) -> None:
        at = font("note")
        high = QFontMetricsF(at).height()
        free_from = frame.top - high
        starts = self.look.arrangement.starts
        placed = sorted(enumerate(self.look.cut.roots.tolist(), 1), key=lambda k: int(starts[k[1]]))
        for number, root in placed:
            top, bottom = self.look.extent(frame, root)
            middle = (max(top, frame.top) + min(bottom, frame.bottom)) / 2
            if middle - high * 0.45 < free_from or bottom < frame.top:
                continue  # it would run into the one above
            if middle + high * 0.45 > frame.bottom:
                break
            seen = min(bottom, frame.bottom) - max(top, frame.top)
            lines = self._cluster_lines(number, bottom - top, seen >= 2 * high)
            free_from = middle + high * (0.45 if len(lines) == 1 else 0.95)
            for k, (words, ink) in enumerate(lines):
                y = middle + high * (k - (len(lines) - 1) / 2)
                box = QRectF(left, y - 12, frame.right - left, 24)
                canvas.write(box, canvas.shortened(words, at, box.width()), ink, at, turned=True)

    def _cluster_lines(self, number: int, tall: float, roomy: bool) -> list[tuple[str, str]]:
        """What a cluster (from 1) is called, where it is not seen, and how many it holds."""
        who, theme = self.look.names[number - 1], self.look.theme
        told = unit(self.look.of, int(self.look.tree.sizes[self.look.cut.roots[number - 1]]))
        if who.title and roomy:
            return [(who.title, theme.ink), (told, theme.soft)]
        if who.title:
            return [(f"{who.title}, {told}", theme.soft)]
        return [(told if tall - 2 >= LEAST_BAR else f"{who.name}  {told}", theme.soft)]
