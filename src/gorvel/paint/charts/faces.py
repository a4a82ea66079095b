"""Painting two trees face to face, with a line from each case to itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from gorvel.core.scene.axis import axis_of
from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.dendrogram import DendrogramPicture
from gorvel.paint.frame import Frame
from gorvel.paint.look import TreeLook
from gorvel.paint.theme import Theme, font

__all__ = ["Face", "FacesPainter"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_TREE, _BAR, _GAP = 0.36, 18.0, 5.0  # of the width, and pixels
_HEAD, _FOOT = 26.0, 6.0
_CURVED = 900  # bundles up to which lines are curves
_BUNDLE = 1.5  # pixels within which lines begin and end as one
_FAINT, _STRONG = 70, 235  # alpha of lines between partners, and of the others
_NEAR = 5.0  # pixels


@dataclass(frozen=True, eq=False)
class Face:
    """One of the trees. name : of it; look : with the cut and the names of its clusters; scale : of

    the height axis.
    """

    name: str
    look: TreeLook

    @cached_property
    def scene(self) -> DendrogramScene:
        return DendrogramScene(self.look.arrangement, axis_of(self.look.tree, "root"))

    @cached_property
    def middles(self) -> Floats:
        """(n,) where each case is on the case axis, as a share of its length."""
        at = self.look.arrangement
        ends = (at.edges[:-1] + at.edges[1:]) / 2
        return np.asarray(ends[at.starts[: at.tree.n]] / max(at.length, 1e-12))


@dataclass(frozen=True, eq=False)
class FacesPainter:
    """cases, its_cases : (m,) places of the same cases in both trees; own : (m,) clusters from 0 of

    the left tree; moved : (m,) is a case with others than its cluster's partner; zoom : how many
    times as high as the picture the trees are; scrolled : share of them above it.
    """

    left: Face
    right: Face
    cases: Ints
    its_cases: Ints
    own: Ints
    moved: Flags
    theme: Theme
    width: float
    height: float
    zoom: float = 1.0
    scrolled: float = 0.0

    # where things are

    @property
    def body(self) -> float:
        """Pixels that cases in sight take."""
        return max(self.height - _HEAD - _FOOT, 1.0)

    @property
    def ends(self) -> tuple[float, float]:
        """Where lines begin and end."""
        wide = _TREE * self.width + _BAR + 2 * _GAP
        return wide, self.width - wide

    def frame(self, right: bool) -> Frame:
        """Of one of the trees; the right one's height axis runs to the right."""
        face = self.right if right else self.left
        high = self.body * self.zoom
        row = high / max(face.look.arrangement.length, 1e-12)
        root, cases = _GAP, _TREE * self.width
        if right:
            root, cases = self.width - root, self.width - cases
        return Frame(root, cases, _HEAD, _HEAD + self.body, row, self.scrolled * high)

    @cached_property
    def heights(self) -> tuple[Floats, Floats]:
        """(m,) pixels at which each line begins, and ends."""
        high = self.body * self.zoom
        above = _HEAD - self.scrolled * high
        return (above + self.left.middles[self.cases] * high,
                above + self.right.middles[self.its_cases] * high)  # fmt: skip

    def line_at(self, x: float, y: float) -> int:
        """The case (among the m) whose line is nearest to a point, -1 if none is near."""
        begin, end = self.ends
        if not begin <= x <= end or not len(self.cases):
            return -1
        first, last = self.heights
        there = (x - begin) / max(end - begin, 1.0)
        bend = there if self._straight else there * there * (3 - 2 * there)
        off = np.abs(first + (last - first) * bend - y)
        best = int(off.argmin())
        return best if off[best] <= _NEAR else -1

    def cluster_at(self, x: float, y: float) -> tuple[bool, int] | None:
        """The side (is it the right one?) and the cluster from 1 at a point of the trees."""
        begin, end = self.ends
        if begin <= x <= end or not _HEAD <= y <= _HEAD + self.body:
            return None
        right = x > end
        look = (self.right if right else self.left).look
        position = look.arrangement.position(self.frame(right).place(y))
        return right, int(look.cut.membership[look.arrangement.order[position]])

    # painting

    def paint(self, canvas: Canvas) -> None:
        """Names, trees, bars of the clusters, lines."""
        for right in (False, True):
            self._name(canvas, right)
        canvas.painter.save()
        canvas.clip(QRectF(0, _HEAD - 1, self.width, self.body + 2))
        self._lines(canvas)
        for right in (False, True):
            self._side(canvas, right)
        canvas.painter.restore()

    def _name(self, canvas: Canvas, right: bool) -> None:
        face, wide = self.right if right else self.left, self.width / 2 - 2 * _GAP
        box = QRectF(self.width / 2 + _GAP if right else _GAP, 0, wide, 20)
        at = font(0.93, 600)
        words = canvas.shortened(face.name, at, wide)
        canvas.write(box, words, self.theme.soft, at, "right" if right else "left")

    def _side(self, canvas: Canvas, right: bool) -> None:
        face, frame = self.right if right else self.left, self.frame(right)
        DendrogramPicture(face.scene, face.look).paint(canvas, frame)
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        begin, end = self.ends
        for cluster in range(1, face.look.cut.clusters + 1):
            face.look.bar(canvas, frame, cluster, end + _GAP if right else begin - _GAP - _BAR,
                          _BAR)  # fmt: skip

    @cached_property
    def _bundles(self) -> tuple[Floats, Floats, Ints, Flags, Ints]:
        """Lines that begin and end within a hair's breadth as one: (b,) begin, end, cluster of the

        left tree, moved, and how many lines each holds.
        """
        first, last = self.heights
        low, high = _HEAD, _HEAD + self.body
        seen = ~(((first < low) & (last < low)) | ((first > high) & (last > high)))
        ways = np.column_stack([
            np.rint(first[seen] / _BUNDLE), np.rint(last[seen] / _BUNDLE),
            self.own[seen], self.moved[seen],
        ]).astype(np.int64)  # fmt: skip
        if not len(ways):
            nothing, none = np.empty(0), np.empty(0, dtype=np.int64)
            return nothing, nothing, none, none.astype(bool), none
        found, at, many = np.unique(ways, axis=0, return_index=True, return_counts=True)
        return (first[seen][at], last[seen][at], found[:, 2], found[:, 3].astype(bool), many)

    @property
    def _straight(self) -> bool:
        return len(self._bundles[0]) > _CURVED

    def _path(self, first: Floats, last: Floats) -> QPainterPath:
        begin, end = self.ends
        third, straight, path = (end - begin) / 3, self._straight, QPainterPath()
        for a, b in zip(first.tolist(), last.tolist(), strict=True):
            path.moveTo(begin, a)
            if straight:
                path.lineTo(end, b)
            else:  # of one third each: runs level at both ends
                path.cubicTo(QPointF(begin + third, a), QPointF(end - third, b), QPointF(end, b))
        return path

    def _lines(self, canvas: Canvas) -> None:
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        first, last, cluster, moved, _ = self._bundles
        for strong in (False, True):
            for number in np.unique(cluster).tolist():
                mine = (cluster == number) & (moved == strong)
                if not mine.any():
                    continue
                colour = self.left.look.colour(number + 1)
                colour.setAlpha(_STRONG if strong else _FAINT)
                painter.setPen(QPen(colour, 1.4 if strong else 1.0))
                painter.drawPath(self._path(first[mine], last[mine]))

    def paint_marks(self, canvas: Canvas, marked: Sequence[int]) -> None:
        """Lines of what is marked, by their places among the m, over everything."""
        if not marked:
            return
        painter = canvas.painter
        painter.save()
        canvas.clip(QRectF(0, _HEAD - 1, self.width, self.body + 2))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.theme.focus), 2.2))
        at = np.array(marked, dtype=np.int64)
        first, last = self.heights
        painter.drawPath(self._path(first[at], last[at]))
        begin, end = self.ends
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.focus))
        for x, y in ((begin, first[at]), (end, last[at])):
            for one in y.tolist()[:200]:
                painter.drawEllipse(QPointF(x, one), 3, 3)
        painter.restore()
