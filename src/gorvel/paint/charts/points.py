"""Painting cases as points in a plane, with their clusters, and small ones as a matrix."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.core.scene.axis import plain_axis
from gorvel.core.scene.points import Points
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.cluster_marks import paint_disc
from gorvel.paint.theme import font

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_LEFT, _FOOT, _TOP, _RIGHT = 52.0, 40.0, 14.0, 16.0
_NEAR = 12.0  # pixels within which a point is pointed at
_SHAPED = 1_000  # points up to which those of a cluster have a shape of their own
# corners, for a radius of 1; a disc has none
_SHAPES: tuple[tuple[tuple[float, float], ...], ...] = (
    (),
    ((-0.95, -0.95), (0.95, -0.95), (0.95, 0.95), (-0.95, 0.95)),
    ((0.0, -1.25), (1.2, 0.95), (-1.2, 0.95)),
    ((0.0, -1.35), (1.35, 0.0), (0.0, 1.35), (-1.35, 0.0)),
    ((-1.2, -0.95), (1.2, -0.95), (0.0, 1.25)),
)
_LETTER = 10.0  # pixels of radius


class PointsPlace(NamedTuple):
    """A case, or a cluster by its letter, from 0."""

    kind: Literal["case", "cluster"]
    number: int


@dataclass(frozen=True, eq=False)
class PointsChart(Chart[PointsPlace]):
    """selected, hovered : a case (from 0), -1 for none; cluster : one that is marked, from 0."""

    points: Points
    selected: int = -1
    hovered: int = -1
    cluster: int = -1
    small: bool = False  # one of many

    # where things are

    @property
    def _box(self) -> QRectF:
        if self.small:
            return QRectF(4, 4, max(self.width - 8, 8), max(self.height - 8, 8))
        named = bool(self.points.across)
        left, foot = (_LEFT, _FOOT) if named else (_RIGHT, _TOP)
        return QRectF(left, _TOP, max(self.width - left - _RIGHT, 20),
                      max(self.height - foot - _TOP, 20))  # fmt: skip

    @cached_property
    def _scale(self) -> tuple[float, float, float, float]:
        """Pixels a unit across and along, and the pixel of the origin."""
        low, high = self.points.ends
        box = self._box.adjusted(8, 8, -8, -8) if not self.small else self._box
        wide = box.width() / (high[0] - low[0])
        tall = box.height() / (high[1] - low[1])
        if self.points.square:
            wide = tall = min(wide, tall)
        middle = (low + high) / 2
        return (wide, tall, box.center().x() - wide * middle[0],
                box.center().y() + tall * middle[1])  # fmt: skip

    def pixels(self, places: Floats) -> Floats:
        """(m, 2) of places."""
        wide, tall, x, y = self._scale
        return np.column_stack([x + wide * places[:, 0], y - tall * places[:, 1]])

    @cached_property
    def _all(self) -> Floats:
        return self.pixels(self.points.places)

    def case_at(self, x: float, y: float) -> int:
        """The case nearest to a pixel, -1 where none is near."""
        far = np.hypot(self._all[:, 0] - x, self._all[:, 1] - y)
        far = np.where(np.isnan(far), np.inf, far)
        best = int(far.argmin()) if far.size else -1
        return best if best >= 0 and far[best] <= _NEAR else -1

    def letter_at(self, x: float, y: float) -> int:
        """The cluster whose letter is at a pixel, -1 for none."""
        middles = self.pixels(self.points.middles)
        far = np.hypot(middles[:, 0] - x, middles[:, 1] - y)
        far = np.where(np.isnan(far), np.inf, far)
        best = int(far.argmin()) if far.size else -1
        return best if best >= 0 and far[best] <= _LETTER else -1

    def at(self, x: float, y: float) -> PointsPlace | None:
        """The letter, or else the case, at a pixel."""
        letter, case = self.letter_at(x, y), self.case_at(x, y)
        if letter >= 0:
            return PointsPlace("cluster", letter)
        return PointsPlace("case", case) if case >= 0 else None

    def next_case(self, case: int, dx: int, dy: int) -> int:
        """The nearest case to the left, right, above or below of one; itself where there is none.

        The first of all where none is chosen yet.
        """
        known = np.flatnonzero(self.points.known)
        if not known.size:
            return -1
        if case < 0 or not self.points.known[case]:
            return int(known[0])
        off = self._all[known] - self._all[case]
        ahead = off[:, 0] * dx + off[:, 1] * dy
        beside = np.abs(off[:, 0] * dy) + np.abs(off[:, 1] * dx)
        cost = np.where((ahead > 0) & (beside <= 2 * ahead), ahead + beside, np.inf)
        best = int(cost.argmin())
        return int(known[best]) if np.isfinite(cost[best]) else case

    # painting

    def paint(self, canvas: Canvas) -> None:
        """All of it."""
        self.paint_ground(canvas)
        self.paint_marks(canvas)

    def paint_ground(self, canvas: Canvas) -> None:
        """Axes, outlines, points, letters: what stays while the pointer moves."""
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.save()
        if self.points.across and not self.small:
            self._axes(canvas)
        if self.points.outlined:
            self._outlines(canvas)
        self._dots(canvas)
        if not self.small:
            self._arrows(canvas)
            self._shadows(canvas)
            self._letters(canvas)
        painter.restore()

    def paint_marks(self, canvas: Canvas) -> None:
        """Rings around the cases that are marked."""
        painter = canvas.painter
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for case in {self.selected, self.hovered} - {-1}:
            if self.points.known[case]:
                at = QPointF(*self._all[case].tolist())
                painter.setBrush(Qt.BrushStyle.NoBrush)
                strong = case == self.selected
                colour = self.theme.focus if strong else self.theme.ink
                painter.setPen(QPen(QColor(colour), 2.2 if strong else 1.4))
                painter.drawEllipse(at, 7.5, 7.5)
        painter.restore()

    def _axes(self, canvas: Canvas) -> None:
        box, theme, painter = self._box, self.theme, canvas.painter
        wide, tall, x0, y0 = self._scale
        for vertical in (False, True):
            pixel = (box.top(), box.bottom()) if vertical else (box.left(), box.right())
            scale, zero = (-tall, y0) if vertical else (wide, x0)
            low, high = sorted((at - zero) / scale for at in pixel)
            room = box.height() / 40 if vertical else box.width() / 80
            for tick in plain_axis(low, high).ticks(min(max(int(room), 2), 7)):
                value = low + tick.share * (high - low)
                label = tick.label.replace("-", "−")
                at = zero + scale * value
                painter.setPen(QPen(QColor(theme.line), 1.0))
                if vertical:
                    painter.drawLine(QLineF(box.left(), at, box.right(), at))
                    room_of = QRectF(0, at - 8, box.left() - 6, 16)
                    canvas.write(room_of, label, theme.soft, font("note"), "right")
                else:
                    painter.drawLine(QLineF(at, box.top(), at, box.bottom()))
                    foot = QRectF(at - 40, box.bottom() + 3, 80, 16)
                    canvas.write(foot, label, theme.soft, font("note"), "centre")
        small = font("note", 600)
        words = canvas.shortened(self.points.across, small, box.width())
        foot = QRectF(box.left(), box.bottom() + 19, box.width(), 18)
        canvas.write(foot, words, theme.ink, small, "right")
        words = canvas.shortened(self.points.along, small, box.width())
        canvas.write(QRectF(box.left() + 4, 0, box.width(), 16), words, theme.ink, small)

    def _polygon(self, corners: Floats) -> QPolygonF:
        return QPolygonF([QPointF(x, y) for x, y in self.pixels(corners).tolist()])

    def _outlines(self, canvas: Canvas) -> None:
        painter = canvas.painter
        for cluster, corners in enumerate(self.points.outlines):
            if len(corners) < 2:
                continue
            colour = self.theme.identity(self.points.names[cluster])
            marked = cluster == self.cluster
            edge, fill = QColor(colour), QColor(colour)
            edge.setAlphaF(1.0 if marked else 0.65)
            fill.setAlphaF(0.2 if marked else 0.1)
            painter.setPen(QPen(edge, 2.2 if marked else 1.2))
            painter.setBrush(fill)
            painter.drawPolygon(self._polygon(corners))

    def _dots(self, canvas: Canvas) -> None:
        painter = canvas.painter
        many = int(self.points.known.sum())
        radius = 1.6 if self.small else 3.5 if many <= 600 else 2.4 if many <= 3_000 else 1.7
        for cluster, who in enumerate(self.points.names):
            shown = self._all[self.points.known & (self.points.own == cluster)]
            colour = self.theme.identity(who)
            colour.setAlphaF(0.85 if many <= 3_000 else 0.6)
            shape = _SHAPES[(who.hue - 1) % len(_SHAPES)] if many <= _SHAPED else ()
            if shape:
                corners = QPolygonF([QPointF(radius * x, radius * y) for x, y in shape])
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour)
                for x, y in shown.tolist():
                    painter.drawPolygon(corners.translated(x, y))
                continue
            pen = QPen(colour, 2 * radius)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in shown.tolist()]))
        if self.points.loose is None:
            return
        pen = QPen(QColor(self.theme.panel), max(2 * radius - 2.4, 1.0))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        hollow = self._all[self.points.known & self.points.loose]
        painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in hollow.tolist()]))

    def _shadows(self, canvas: Canvas) -> None:
        """What the next count would make of it."""
        painter = canvas.painter
        pen = QPen(QColor(self.theme.soft), 1.5)
        pen.setDashPattern([4, 3])
        for name, corners in self.points.shadows:
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if len(corners) > 1:
                painter.drawPolygon(self._polygon(corners))
            at = self.pixels(corners)
            top = at[at[:, 1].argmin()]
            wide = canvas.wide(name, font("note", 600))
            box = QRectF(top[0] - wide / 2 - 4, max(top[1] - 18, 0), wide + 8, 15)
            ground = QColor(self.theme.panel)
            ground.setAlphaF(0.8)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ground)
            painter.drawRoundedRect(box, 3, 3)
            canvas.write(box, name, self.theme.ink, font("note", 600), "centre")

    def _letters(self, canvas: Canvas) -> None:
        middles = self.pixels(self.points.middles)
        for cluster, who in enumerate(self.points.names):
            x, y = middles[cluster].tolist()
            if np.isnan(x):
                continue
            paint_disc(canvas, self.theme, QPointF(x, y), _LETTER, who)

    def _arrows(self, canvas: Canvas) -> None:
        """Variables as directions from the middle, with their names at the tips."""
        painter, theme = canvas.painter, self.theme
        start = QPointF(*self.pixels(np.zeros((1, 2)))[0].tolist())
        taken: list[QRectF] = []
        for name, x, y in self.points.arrows:
            tip = QPointF(*self.pixels(np.array([[x, y]]))[0].tolist())
            painter.setPen(QPen(QColor(theme.ink), 1.3))
            painter.drawLine(start, tip)
            line = QLineF(tip, start)
            if line.length() > 6:
                for turn in (22, -22):
                    side = QLineF(line)
                    side.setLength(7)
                    side.setAngle(line.angle() + turn)
                    painter.drawLine(side)
            shape = font("note", 600)
            words = canvas.shortened(name, shape, 120)
            wide = canvas.wide(words, shape)
            left = tip.x() + 5 if x >= 0 else tip.x() - wide - 5
            left = min(max(left, 2.0), self.width - wide - 2)
            box = QRectF(left, tip.y() - 8, wide, 16)
            while any(box.intersects(one) for one in taken):
                box.translate(0, 15 if y < 0 else -15)
            taken.append(box)
            ground = QColor(theme.panel)
            ground.setAlphaF(0.75)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ground)
            painter.drawRoundedRect(box.adjusted(-2, 0, 2, 0), 3, 3)
            canvas.write(box, words, theme.ink, shape)


@dataclass(frozen=True, eq=False)
class PointsGridChart(Chart[tuple[int, int]]):
    """names : of the questions; points : by names across and along. Places are row and column."""

    names: Sequence[str]
    points: Mapping[tuple[str, str], Points]

    def cell(self, row: int, column: int) -> QRectF:
        """Where a scatter lies."""
        count = max(len(self.names), 1)
        wide, high = self.width / count, self.height / count
        return QRectF(column * wide + 2, row * high + 2, wide - 4, high - 4)

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """Row and column of the scatter at a pixel."""
        count = max(len(self.names), 1)
        row = int(y / max(self.height / count, 1e-9))
        column = int(x / max(self.width / count, 1e-9))
        return (row, column) if 0 <= column < row < len(self.names) else None

    def paint(self, canvas: Canvas) -> None:
        """Scatters below the diagonal, names on it."""
        painter, theme, shape = canvas.painter, self.theme, font("table", 600)
        for row, along in enumerate(self.names):
            box = self.cell(row, row)
            words = canvas.shortened(along, shape, box.width() - 6)
            canvas.write(box, words, theme.ink, shape, "centre")
            for column, across in enumerate(self.names[:row]):
                box = self.cell(row, column)
                painter.setPen(QPen(QColor(theme.line), 1.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                points = self.points.get((across, along))
                if points is not None:
                    painter.save()
                    painter.translate(box.topLeft())
                    PointsChart(theme, box.width(), box.height(), points, small=True).paint(canvas)
                    painter.restore()
