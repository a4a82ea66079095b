"""Painting how surely each case stays with its cluster in other trees: a bar for each case."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

Floats = NDArray[np.float64]

_LOOSE = 0.5  # a case that stays less often is loose


@dataclass(frozen=True, eq=False)
class StaysPicture(ColumnPicture):
    """stays : (n,) share of the other trees, NaN where it is not known."""

    look: TreeLook
    stays: Floats
    title = "Pairs kept"

    def natural(self, share: float) -> float:
        return 92.0

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """A bar for each line of pixels, of the mean of the cases on it."""
        at, theme, painter = self.look.arrangement, self.look.theme, canvas.painter
        top, bottom = frame.top, min(frame.bottom, frame.y(at.length))
        high = int(np.ceil(bottom - top))
        if high < 1:
            return
        edges = (np.arange(high + 1) + frame.scrolled) / frame.row
        first = np.clip(np.searchsorted(at.edges, edges[:-1], side="right") - 1, 0, at.tree.n - 1)
        past = np.maximum(np.searchsorted(at.edges, edges[1:], side="left"), first + 1)
        ordered = self.stays[at.order]
        known = ~np.isnan(ordered)
        sums = np.concatenate([[0.0], np.cumsum(np.where(known, ordered, 0.0))])
        many = np.concatenate([[0], np.cumsum(known)])
        past = np.minimum(past, at.tree.n)
        counts = many[past] - many[first]
        means = np.where(counts > 0, (sums[past] - sums[first]) / np.maximum(counts, 1), np.nan)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(Qt.PenStyle.NoPen)
        wide = frame.right - frame.left
        alike = (means[1:] == means[:-1]) | (np.isnan(means[1:]) & np.isnan(means[:-1]))
        begin = 0
        for k in range(1, high + 1):  # lines of one length are one box
            if k < high and alike[k - 1]:
                continue
            if not np.isnan(means[begin]):
                share = float(means[begin])
                gap = 1.0 if k - begin > 3 else 0.0
                box = QRectF(frame.left, top + begin, max(wide * share, 1.0), k - begin - gap)
                painter.fillRect(box, QColor(theme.warn if share < _LOOSE else theme.bar))
            begin = k
        painter.setPen(QPen(QColor(theme.line), 1.0, Qt.PenStyle.DotLine))
        middle = frame.left + _LOOSE * wide
        painter.drawLine(QLineF(middle, top, middle, top + high))

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        """Shares below the bars."""
        at, soft = font("note"), self.look.theme.soft
        for share, words, side in ((0.0, "0", "left"), (0.5, "½", "centre"), (1.0, "1", "right")):
            x = frame.left + share * (frame.right - frame.left)
            left = {"left": x, "centre": x - 12, "right": x - 24}[side]
            canvas.write(QRectF(left, frame.bottom + 3, 24, 16), words, soft, at, side)
