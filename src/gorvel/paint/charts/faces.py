"""Painting two trees face to face, with a line from each case to itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.scene.arrangement import Arrangement, arrange, branches_of_cut
from gorvel.core.scene.axis import axis_of
from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.columns.dendrogram import DendrogramPicture
from gorvel.paint.theme import Theme, font
from gorvel.paint.tree_style import TreeLook

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_TREE, _BAR, _GAP = 0.36, 18.0, 5.0  # of the width, and pixels
_HEAD, _FOOT = 26.0, 6.0
_CURVED = 900  # bundles up to which lines are curves
_FINE, _COARSE = 1.5, 6.0  # pixels within which lines begin and end as one
_BENDS = 14  # points of a curve
_MANY = 400  # lines from which these are the coarse ones
_FAINT, _STRONG = 0.27, 0.92  # how far lines between partners, and others, cover the ground
_DENSE = 0.5  # how far many lines between partners do
_WIDE, _FEW = 1.6, 150  # pixels of lines that move, where these are not more
_NEAR = 5.0  # pixels


@dataclass(frozen=True, eq=False)
class Face:
    """One of the trees.

    name : of it; look : with the cut and the names of its clusters; scale : of the height axis.
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


class FacesPlace(NamedTuple):
    """A line, by the common case, -1 for none; or a cluster from 1, of the left or right tree."""

    line: int = -1
    cluster: int = 0
    right: bool = False


@dataclass(frozen=True, eq=False)
class FacesChart(Chart[FacesPlace]):
    """Two trees face to face.

    cases, its_cases : (m,) places of the same cases in both trees; own : (m,) clusters from 0 of
    the left tree; moved : (m,) is a case with others than its cluster's partner; zoom : how many
    times as high as the picture the trees are; scrolled : share of them above it.
    """

    left: Face
    right: Face
    cases: Ints
    its_cases: Ints
    own: Ints
    moved: Flags
    zoom: float = 1.0
    scrolled: float = 0.0

    @classmethod
    def of(
        cls, theme: Theme, width: float, height: float, met: PairAtCut, titles: tuple[str, str],
        folded: bool = False,
    ) -> FacesChart:  # fmt: skip
        """Two trees at their cuts. folded : clusters are wedges, not every case is shown."""
        facing, pair, found = met.faced.facing, met.faced.pair, met.crossed

        def face(title: str, at: Arrangement, cut: Cut, names: Sequence[Identity]) -> Face:
            shown = at
            if folded:
                shown = arrange(at.tree, at.flipped, branches_of_cut(at.tree, cut))
            return Face(title, TreeLook(shown, cut, names, (), theme, of=pair.one.of))

        return cls(
            theme, width, height, face(titles[0], facing.left, found.one, met.names),
            face(titles[1], facing.right, found.other, met.others), pair.mine, pair.its,
            found.own, found.moved,
        )  # fmt: skip

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

    def at(self, x: float, y: float) -> FacesPlace | None:
        """The line, or else the cluster, at a pixel."""
        line, found = self.line_at(x, y), self.cluster_at(x, y)
        if line >= 0:
            return FacesPlace(line)
        return None if found is None else FacesPlace(-1, found[1], found[0])

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
        at = font("table", 600)
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
        """Lines that begin and end close together as one.

        (b,) begin, end, cluster of the left tree, moved, and how dense: the whole part of log2 of
        how many lines it holds.
        """
        first, last = self.heights
        low, high = _HEAD, _HEAD + self.body
        seen = ~(((first < low) & (last < low)) | ((first > high) & (last > high)))
        near = np.where(self.moved[seen], *(
            _COARSE if int(some.sum()) > _MANY else _FINE
            for some in (self.moved[seen], ~self.moved[seen])
        ))  # fmt: skip
        ways = np.column_stack([
            np.rint(first[seen] / near), np.rint(last[seen] / near), self.own[seen],
            self.moved[seen],
        ]).astype(np.int64)  # fmt: skip
        if not len(ways):
            nothing, none = np.empty(0), np.empty(0, dtype=np.int64)
            return nothing, nothing, none, none.astype(bool), none
        found, at, many = np.unique(ways, axis=0, return_index=True, return_counts=True)
        dense = np.log2(many).astype(np.int64)
        return first[seen][at], last[seen][at], found[:, 2], found[:, 3].astype(bool), dense

    @property
    def _straight(self) -> bool:
        return len(self._bundles[0]) > _CURVED

    def _draw(self, painter: QPainter, first: Floats, last: Floats) -> None:
        """Lines that run level at both ends; each by itself, which is quicker than all as one."""
        begin, end = self.ends
        share = np.linspace(0, 1, 2 if self._straight else _BENDS)
        x = (begin + (end - begin) * share).tolist()
        bend = share * share * (3 - 2 * share)
        for y in (first[:, None] + (last - first)[:, None] * bend).tolist():
            painter.drawPolyline([QPointF(a, b) for a, b in zip(x, y, strict=True)])

    def _lines(self, canvas: Canvas) -> None:
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        first, last, cluster, moved, dense = self._bundles
        kinds = np.unique(np.column_stack([moved, cluster, dense]), axis=0)
        wide = _WIDE if int(moved.sum()) <= _FEW else 1.0  # wider ones take ten times as long
        for strong, number, doublings in kinds.tolist():  # those that stay below those that move
            mine = (moved == strong) & (cluster == number) & (dense == doublings)
            colour = self.left.look.colour(number + 1)
            seen = 1 - (1 - _FAINT) ** (1 << doublings)  # as many faint ones over each other
            colour.setAlphaF(_STRONG if strong else min(seen, _DENSE))
            painter.setPen(QPen(colour, wide if strong else 1.0))
            self._draw(painter, first[mine], last[mine])

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
        self._draw(painter, first[at], last[at])
        begin, end = self.ends
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.focus))
        for x, y in ((begin, first[at]), (end, last[at])):
            for one in y.tolist()[:200]:
                painter.drawEllipse(QPointF(x, one), 3, 3)
        painter.restore()
