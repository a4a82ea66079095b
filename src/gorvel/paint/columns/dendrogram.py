"""The dendrogram, its folded branches, the cut line, and the height chart at its foot."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.core.base.numbers import counted
from gorvel.core.scene.axis import SCALES
from gorvel.core.scene.dendrogram import (
    DendrogramScene,
    Drawn,
    cut_share,
    drawn,
    lower_cuts,
    owners,
)
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.columns.heights import HeightsPainter
from gorvel.paint.theme import Theme, font
from gorvel.paint.tree_style import TreeLook

_STRONG_FROM = (
    7.0  # pixels a bracket spans before it is drawn strong: lower ones would run together
)
_THIN = 1.5  # pixels below which a branch is one line
_NOTABLE = 4.0  # pixels a bracket spans before its tie or inversion is marked

_SIZE_ROOM = 30.0  # pixels of a wedge that tells its size
_ROOM = 16.0  # pixels a bracket spans before its support is told
_STRONG = 0.95
_ABOVE = 2.0  # pixels of branches above the cut, which all that is said of clusters hangs on
_DASHES = [4.0, 2.0]  # of a cluster whose colour an earlier one has

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class DendrogramPicture(ColumnPicture):
    """A tree at a cut, with the height chart at its foot.

    framed : counts whose clusters have frames, 0 for the cut; line : where on the height axis (a
    share of it) the line of the cut stands, None for halfway between two joins; unit : what heights
    are, in a word or two.
    """

    scene: DendrogramScene
    look: TreeLook
    framed: frozenset[int] = frozenset()
    line: float | None = None
    unit: str = "height"
    title = "Dendrogram"
    margin = (14.0, 8.0)

    def heading(self) -> str:
        told = ", support in %" if self.look.support is not None else ""
        scale = SCALES[self.scene.axis.scale].replace("height", self.unit, 1)
        return f"{self.title} · {scale}{told}"

    def headings(self) -> list[str]:
        """A second line would lie below the handle of the cut."""
        whole = self.heading()
        scale = whole.removeprefix(f"{self.title} · ")
        return [whole, f"{scale[:1].upper()}{scale[1:]}", self.title]

    @property
    def cut_at(self) -> float:
        """Where the line of the cut stands, as a share of the height axis."""
        return cut_share(self.scene, self.look.cut) if self.line is None else self.line

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """Brackets, thin branches, wedges, and frames around clusters."""
        self._tree(canvas, frame)
        for count in sorted(self.framed):
            if count <= self.look.tree.n:
                cut = cut_at_count(self.look.tree, count) if count else self.look.cut
                self._frames(canvas, frame, cut, bool(count))

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        chart = Frame(frame.left, frame.right, frame.bottom, frame.bottom, 1.0)
        HeightsPainter(self.scene, self.look.cut.level, self.look.theme).paint(canvas, chart)

    def paint_cut(self, canvas: Canvas, frame: Frame) -> None:
        x, theme = frame.x(self.cut_at), self.look.theme
        text = counted(self.look.cut.clusters, "cluster")
        if self.look.cut.split:
            text += ", by branch"
            self._lower_cuts(canvas, frame)
        paint_cut_line(canvas, x, frame.top - 4, frame.bottom, theme, text)
        below = frame.bottom + 21  # leaves the count in the height chart to be read
        paint_cut_line(canvas, x, below, below + 17, theme)

    def paint_dot(self, canvas: Canvas, frame: Frame, node: int) -> None:
        """A node that is pointed at."""
        x, y = frame.x(float(self.scene.share[node])), frame.y(float(self.scene.place[node]))
        canvas.painter.setPen(Qt.PenStyle.NoPen)
        canvas.painter.setBrush(QColor(self.look.theme.focus))
        canvas.painter.drawEllipse(QPointF(x, y), 4, 4)

    def _tree(self, canvas: Canvas, frame: Frame) -> None:
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, not canvas.crisp)
        begin, end = frame.place(frame.top), frame.place(frame.bottom)
        seen = drawn(self.scene, begin, end, _THIN / frame.row)
        self._thin(canvas.painter, frame, seen.thin)
        self._brackets(canvas.painter, frame, seen.joins, 1.0)
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._wedges(canvas, frame, seen)
        self._notable(canvas.painter, frame, seen.joins)
        if self.look.support is not None:
            self._support(canvas, frame, seen.joins, self.look.support)

    def paint_subtree(self, painter: QPainter, frame: Frame, join: int) -> None:
        """The joins inside one cluster once more, strong."""
        at, tree = self.scene.arrangement, self.scene.tree
        top, bottom = at.span(tree.n + join)
        low, high = max(top, frame.place(frame.top)), min(bottom, frame.place(frame.bottom))
        joins = drawn(self.scene, low, high, _STRONG_FROM / frame.row).joins
        starts = at.starts[tree.n + joins]
        start, size = int(at.starts[tree.n + join]), int(tree.sizes[tree.n + join])
        inside = (starts >= start) & (starts < start + size) & (joins <= join)
        self._brackets(painter, frame, joins[inside], 2.4)

    def _lower_cuts(self, canvas: Canvas, frame: Frame) -> None:
        """Where branches are cut lower: a line across each cluster that this makes."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        canvas.painter.setPen(QPen(QColor(self.look.theme.cut), 1.6))
        for node, share in lower_cuts(self.scene, self.look.cut):
            top, bottom = self.look.extent(frame, node)
            top, bottom = max(top, frame.top), min(bottom, frame.bottom)
            if bottom > top:
                canvas.painter.drawLine(QLineF(frame.x(share), top, frame.x(share), bottom))

    def _frames(self, canvas: Canvas, frame: Frame, cut: Cut, plain: bool) -> None:
        """A frame around each cluster of a cut; plain : not in the colours of the clusters."""
        x = frame.x(cut_share(self.scene, cut))
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        for cluster, root in enumerate(cut.roots.tolist(), 1):
            top, bottom = self.look.extent(frame, root)
            top, bottom = max(top, frame.top - 2), min(bottom, frame.bottom + 2)
            if bottom - top < 3:
                continue
            colour = QColor(self.look.theme.soft) if plain else self.look.colour(cluster)
            canvas.painter.setPen(QPen(colour, 1.0 if plain else 1.6))
            box = QRectF(x, top + 1, frame.right + 4 - x, bottom - top - 2)
            canvas.painter.drawRoundedRect(box, 4, 4)

    def _owners(self, nodes: Ints) -> Ints:
        return owners(self.scene.tree, self.look.cut, nodes)

    def _brackets(self, painter: QPainter, frame: Frame, joins: Ints, width: float) -> None:
        tree, share, place = self.scene.tree, self.scene.share, self.scene.place
        left, right, own = tree.left[joins], tree.right[joins], tree.n + joins
        owner = self._owners(own)
        corners = np.stack(
            [
                *(frame.right - part * (frame.right - frame.left)
                  for part in (share[own], share[left], share[right])),
                *(frame.top + part * frame.row - frame.scrolled
                  for part in (place[left], place[right])),
            ]
        )  # fmt: skip
        for cluster in np.unique(owner).tolist():
            self._pen(painter, cluster, width if cluster else max(width, _ABOVE))
            painter.drawLines(_arms(corners[:, owner == cluster], frame))

    def _pen(self, painter: QPainter, cluster: int, width: float) -> None:
        pen = QPen(self.look.colour(cluster), width)
        if cluster and self.look.theme.striped(self.look.names[cluster - 1]):
            pen.setDashPattern(_DASHES)
        pen.setCapStyle(Qt.PenCapStyle.SquareCap)
        painter.setPen(pen)

    def _thin(self, painter: QPainter, frame: Frame, nodes: Ints) -> None:
        """Branches without room for brackets: a line from their top down to the cases."""
        share, place = self.scene.share, self.scene.place
        owner = self._owners(nodes)
        for cluster in np.unique(owner).tolist():
            mine = nodes[owner == cluster]
            self._pen(painter, cluster, 1.0)
            painter.drawLines(
                [
                    QLineF(frame.x(s), frame.y(p), frame.right, frame.y(p))
                    for s, p in zip(share[mine].tolist(), place[mine].tolist(), strict=True)
                ]
            )

    def _wedges(self, canvas: Canvas, frame: Frame, seen: Drawn) -> None:
        """Folded branches: a wedge as high as the branch, with its size."""
        tree, painter = self.scene.tree, canvas.painter
        owner = self._owners(seen.folded).tolist()
        for node, cluster in zip(seen.folded.tolist(), owner, strict=True):
            top, bottom = self.look.extent(frame, node)
            apex = frame.x(float(self.scene.share[node]))
            colour = self.look.colour(cluster)
            painter.setPen(QPen(colour, 1.0))
            colour.setAlpha(70)
            painter.setBrush(colour)
            room = min((bottom - top) * 0.12, 2.0)
            corners = [
                QPointF(apex, (top + bottom) / 2),
                QPointF(frame.right, top + room),
                QPointF(frame.right, bottom - room),
            ]
            painter.drawPolygon(QPolygonF(corners))
            if bottom - top >= 11 and abs(apex - frame.right) >= _SIZE_ROOM:
                words = f"{tree.sizes[node]:,}"
                mirrored = frame.left > frame.right
                box = QRectF(frame.right + (6 if mirrored else -60), top, 54, bottom - top)
                side = "left" if mirrored else "right"
                canvas.write(box, words, self.look.theme.ink, font("note", 600), side)

    def _support(self, canvas: Canvas, frame: Frame, joins: Ints, support: Floats) -> None:
        """Percentages beside the brackets that have room for them, strong from 95 on."""
        tree, places, share = self.scene.tree, self.scene.place, self.scene.share
        wide = np.abs(places[tree.left[joins]] - places[tree.right[joins]]) * frame.row
        at = font("note", 600)
        room = canvas.wide("100", at) + 6
        for join in joins[(wide >= _ROOM) & ~np.isnan(support[joins])].tolist():
            node, strong = tree.n + join, support[join] >= _STRONG
            above = tree.n + int(tree.used_at[node])
            x, y = frame.x(float(share[node])), frame.y(float(places[node]))
            if x - frame.x(float(share[above])) < room:
                continue
            colour = self.look.theme.ink if strong else self.look.theme.soft
            box = QRectF(x - room, y - 14, room - 4, 13)
            if canvas.upright:
                box = QRectF(x - 15, y + 3, 13, room)
            canvas.write(box, f"{100 * support[join]:.0f}", colour, at, "right")

    def _notable(self, painter: QPainter, frame: Frame, joins: Ints) -> None:
        """A ring at ties that matter, a filled dot at inversions."""
        tree = self.scene.tree
        marked = joins[tree.tie_matters[joins] | tree.inversions[joins]]
        places, theme = self.scene.place, self.look.theme
        wide = np.abs(places[tree.left[marked]] - places[tree.right[marked]]) * frame.row
        painter.setPen(QPen(QColor(theme.warn), 1.2))
        for join in marked[wide >= _NOTABLE].tolist():
            node = tree.n + join
            inverted = bool(tree.inversions[join])
            painter.setBrush(QColor(theme.warn if inverted else theme.panel))
            middle = QPointF(frame.x(float(self.scene.share[node])), frame.y(float(places[node])))
            painter.drawEllipse(middle, 2.6, 2.6)


def _arms(corners: NDArray[np.float64], frame: Frame) -> list[QLineF]:
    """The lines of brackets, cut off where the cases in sight end: not all papers clip."""
    top, bottom = frame.top - 1, frame.bottom + 1
    lines = []
    for x, xa, xb, ya, yb in corners.T.tolist():
        if min(ya, yb) <= bottom and max(ya, yb) >= top:
            lines.append(QLineF(x, min(max(ya, top), bottom), x, min(max(yb, top), bottom)))
        if top <= ya <= bottom:
            lines.append(QLineF(xa, ya, x, ya))
        if top <= yb <= bottom:
            lines.append(QLineF(xb, yb, x, yb))
    return lines


def paint_cut_line(
    canvas: Canvas, x: float, top: float, bottom: float, theme: Theme, text: str = ""
) -> QRectF:
    """The cut line, with a handle that says the count; returns the handle's place."""
    painter = canvas.painter
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setPen(QPen(QColor(theme.cut), 1.6))
    painter.drawLine(QLineF(x, top, x, bottom))
    if not text:
        return QRectF()
    return canvas.pill(QPointF(x, top - 10), text, theme.cut, theme.on_cut, font("table", 600))
