"""Painting clusters side by side: lanes with letters at their means, and numbers beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.base.numbers import number
from gorvel.core.profile.lanes import Lane
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import Theme, font

__all__ = ["LanesPainter"]

HEAD, ROW, HEADING = 64.0, 27.0, 24.0
_NAME, _WIDE_NAME, _TELLS, _LEAST_LANE = 150.0, 210.0, 64.0, 130.0
_CELL, _LEAST_CELL = 62.0, 41.0
_BEYOND = 0.35  # of the range of the means: how far intervals widen a lane
_SHADED, _FULL = 0.25, 1.5  # standard deviations from the whole: first and fullest shade
_HEADINGS = {
    "active": "Active: the clusters were made from these, so a test only describes",
    "profile": "Profile only: not used to group, so these can test",
}


@dataclass(frozen=True, eq=False)
class LanesPainter:
    """lanes : in the order shown; order : cluster numbers (from 0) as columns; names : of clusters,

    by number; cases, shares : (k,); hovered : row and cluster under the pointer, -1 for none;
    selected : a cluster, -1 for none.
    """

    lanes: Sequence[Lane]
    order: Sequence[int]
    names: Sequence[Identity]
    cases: Sequence[int]
    shares: Sequence[float]
    theme: Theme
    width: float
    row: int = -1
    cluster: int = -1
    selected: int = -1

    # where things are

    @cached_property
    def tops(self) -> list[float]:
        """Where each row begins; a heading stands above the first of each part."""
        out, y, part = [], HEAD, ""
        for lane in self.lanes:
            if lane.role != part:
                y, part = y + HEADING, lane.role
            out.append(y)
            y += ROW
        return out

    @property
    def height(self) -> float:
        """Of all rows."""
        return (self.tops[-1] if self.tops else HEAD) + ROW + 6

    @property
    def least_width(self) -> float:
        """Pixels below which columns would be too narrow."""
        return _NAME + _TELLS + _LEAST_LANE + _LEAST_CELL * len(self.order) + 8

    @cached_property
    def _cell_wide(self) -> float:
        room = self.width - _NAME - _TELLS - _LEAST_LANE - 8
        return min(max(room / max(len(self.order), 1), _LEAST_CELL), _CELL)

    @cached_property
    def _name(self) -> float:
        """Pixels of names: wider where lanes have room."""
        room = self.width - _TELLS - 2 * _LEAST_LANE - self._cell_wide * len(self.order)
        return min(max(room, _NAME), _WIDE_NAME)

    @property
    def _numbers(self) -> float:
        """Where the numbers begin."""
        wide = self.width - self._cell_wide * len(self.order) - 8
        return max(wide, self._name + _TELLS + _LEAST_LANE)

    def row_at(self, y: float) -> int:
        """The row at a pixel, -1 for none."""
        for place, top in enumerate(self.tops):
            if top <= y < top + ROW:
                return place
        return -1

    def cluster_at(self, x: float) -> int:
        """The cluster whose column is at a pixel, -1 for none."""
        place = int((x - self._numbers) // self._cell_wide)
        return self.order[place] if 0 <= place < len(self.order) and x >= self._numbers else -1

    def near(self, row: int, x: float) -> int:
        """The cluster whose letter is at a pixel of a lane, -1 for none."""
        lane = self.lanes[row]
        best = [
            (abs(self.x(lane, float(lane.values[k])) - x), k)
            for k in self.order
            if np.isfinite(lane.values[k])
        ]
        return min(best)[1] if best and min(best)[0] <= 10 else -1

    def x(self, lane: Lane, value: float) -> float:
        """Pixel of a value in its lane."""
        low, high = self._ends(lane)
        left, right = self._name + _TELLS + 16, self._numbers - 22
        return left + (value - low) / (high - low) * (right - left)

    @staticmethod
    def _ends(lane: Lane) -> tuple[float, float]:
        """Of a lane: all means are in it, and intervals as far as that leaves these room."""
        means = np.append(lane.values, lane.whole)
        means = means[np.isfinite(means)]
        if not means.size:
            return 0.0, 1.0
        low, high = float(means.min()), float(means.max())
        if high - low <= 1e-12 * max(abs(high), 1.0):
            return low - 1.0, high + 1.0
        room = _BEYOND * (high - low)
        ends = [lane.lower[np.isfinite(lane.lower)], lane.upper[np.isfinite(lane.upper)]]
        least = max(float(ends[0].min(initial=low)), low - room)
        most = min(float(ends[1].max(initial=high)), high + room)
        room = 0.03 * (high - low)
        return least - room, most + room

    # painting

    def paint(self, canvas: Canvas) -> None:
        """The head, and every row."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._head(canvas)
        part = ""
        for place, lane in enumerate(self.lanes):
            top = self.tops[place]
            if lane.role != part:
                part = lane.role
                box = QRectF(4, top - HEADING + 5, self.width - 8, HEADING - 4)
                words = canvas.shortened(_HEADINGS[part].upper(), font(0.78, 600), box.width())
                canvas.write(box, words, self.theme.soft, font(0.78, 600))
            self._row(canvas, place, lane, top)

    def _head(self, canvas: Canvas) -> None:
        soft, small = self.theme.soft, font(0.86)
        left = self._name + _TELLS + 16
        canvas.write(QRectF(4, 18, self._name, 18), "question", soft, small)
        canvas.write(QRectF(self._name, 18, _TELLS + 10, 18), "tells apart", soft, small)
        canvas.write(QRectF(left, 18, 60, 18), "low", soft, small)
        canvas.write(QRectF(left, 18, self._numbers - 22 - left, 18), "high", soft, small, "right")
        for place, cluster in enumerate(self.order):
            middle = self._numbers + (place + 0.5) * self._cell_wide
            self._badge(canvas, QPointF(middle, 18), cluster, 12.5, 0.86)
            words = f"{self.cases[cluster]:,} · {self.shares[cluster]:.0%}"
            box = QRectF(middle - self._cell_wide / 2, 35, self._cell_wide, 16)
            canvas.write(box, words, soft, font(0.78), "centre")

    def _badge(self, canvas: Canvas, at: QPointF, cluster: int, radius: float, size: float) -> None:
        painter, colour = canvas.painter, self.theme.identity(self.names[cluster])
        marked = cluster in (self.selected, self.cluster)
        painter.setPen(QPen(QColor(self.theme.ink if marked else self.theme.panel), 1.4))
        painter.setBrush(colour)
        painter.drawEllipse(at, radius, radius)
        box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
        name = self.names[cluster].name
        shape = font(size if len(name) < 4 else 0.78 * size, 600)
        canvas.write(box, canvas.shortened(name, shape, 2 * radius), ink_on(colour, self.theme),
                     shape, "centre")  # fmt: skip

    def _row(self, canvas: Canvas, place: int, lane: Lane, top: float) -> None:
        theme, painter = self.theme, canvas.painter
        if place == self.row:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.tint))
            painter.drawRoundedRect(QRectF(0, top, self.width, ROW - 1), 4, 4)
        name = _middle_cut(canvas, lane.title, self._name - 14)
        canvas.write(QRectF(4, top, self._name - 8, ROW), name, theme.ink, font(0.93, 600))
        self._tells(canvas, lane, top)
        self._lane(canvas, lane, top + ROW / 2)
        for column, cluster in enumerate(self.order):
            self._cell(canvas, lane, cluster, QRectF(
                self._numbers + column * self._cell_wide + 2, top + 2, self._cell_wide - 4, ROW - 5
            ))  # fmt: skip

    def _tells(self, canvas: Canvas, lane: Lane, top: float) -> None:
        bar = QRectF(self._name, top + ROW / 2 - 4, _TELLS - 8, 7)
        painter = canvas.painter
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.line))
        painter.drawRoundedRect(bar, 3, 3)
        if np.isfinite(lane.effect) and lane.effect > 0:
            bar.setWidth(max(bar.width() * min(lane.effect, 1.0), 4))
            painter.setBrush(QColor(self.theme.ink))
            painter.drawRoundedRect(bar, 3, 3)

    def _lane(self, canvas: Canvas, lane: Lane, y: float) -> None:
        theme, painter = self.theme, canvas.painter
        left, right = self._name + _TELLS + 16, self._numbers - 22
        painter.setPen(QPen(QColor(theme.line), 1.2))
        painter.drawLine(QLineF(left, y, right, y))
        if np.isfinite(lane.whole):
            at = self.x(lane, lane.whole)
            painter.setPen(QPen(QColor(theme.soft), 1.6))
            painter.drawLine(QLineF(at, y - 9, at, y + 9))
        for cluster in self.order:
            low, high = float(lane.lower[cluster]), float(lane.upper[cluster])
            if np.isfinite(low) and np.isfinite(high):
                ends = [min(max(self.x(lane, v), left - 8), right + 8) for v in (low, high)]
                colour = self.theme.identity(self.names[cluster])
                colour.setAlphaF(0.32)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour)
                painter.drawRoundedRect(QRectF(ends[0], y - 3, ends[1] - ends[0], 6), 3, 3)
        last = max(self.selected, self.cluster)
        for cluster in sorted(self.order, key=lambda k: k in (self.selected, last)):
            value = float(lane.values[cluster])
            if np.isfinite(value):
                self._badge(canvas, QPointF(self.x(lane, value), y), cluster, 8.5, 0.72)

    def _cell(self, canvas: Canvas, lane: Lane, cluster: int, box: QRectF) -> None:
        value, away = float(lane.values[cluster]), float(lane.away[cluster])
        size = abs(away)
        theme = self.theme
        if np.isfinite(value) and size >= _SHADED:
            colour = QColor(theme.above if away > 0 else theme.below)
            colour.setAlphaF(0.15 + 0.45 * min((size - _SHADED) / (_FULL - _SHADED), 1.0))
            canvas.painter.setPen(Qt.PenStyle.NoPen)
            canvas.painter.setBrush(colour)
            canvas.painter.drawRoundedRect(box, 4, 4)
        strong = size >= 1.0
        shape = font(0.9 if self._cell_wide > 50 else 0.8, 600 if strong else 400)
        canvas.write(box, told(lane, value), theme.ink, shape, "centre")

    def words(self, row: int, cluster: int) -> str:
        """What stands at a row, of one cluster or of all, as a sentence."""
        lane = self.lanes[row]
        if cluster < 0:
            tells = "" if np.isnan(lane.effect) else f"; clusters explain {lane.effect:.0%} of it"
            return f"{lane.title}: {told(lane, lane.whole)} in all cases{tells}."
        name, value = self.names[cluster].told, float(lane.values[cluster])
        if np.isnan(value):
            return f"{lane.title}: nobody in {name} answered."
        words = f"{lane.title}: {name} {told(lane, value)}, all cases {told(lane, lane.whole)}"
        low, high = float(lane.lower[cluster]), float(lane.upper[cluster])
        if np.isfinite(low):
            words += f"; 95 % interval {told(lane, low)} to {told(lane, high)}"
        if not lane.share and np.isfinite(lane.sd[cluster]):
            words += f"; sd {number(float(lane.sd[cluster]))}"
        return f"{words}; {lane.n[cluster]:,} answered."


def told(lane: Lane, value: float) -> str:
    """A mean, or a share in per cent."""
    if np.isnan(value):
        return "–"
    return f"{100 * value:.0f} %" if lane.share else number(value).replace("-", "−")


def _middle_cut(canvas: Canvas, words: str, room: float) -> str:
    """Words that keep their beginning and their end where they are too long."""
    shape = font(0.93, 600)
    if canvas.wide(words, shape) <= room:
        return words
    end = canvas.shortened(words[::-1], shape, 0.45 * room)[::-1].lstrip("…").lstrip()
    return canvas.shortened(words, shape, room - canvas.wide(end, shape)) + end
