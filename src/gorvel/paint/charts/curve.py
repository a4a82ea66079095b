"""Painting curves over the counts: of one rule with its bound and errors, and of groups."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.core.base.numbers import number
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.null.null_comparison import NullComparison
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.scene.axis import plain_axis
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

Floats = NDArray[np.float64]
Scale = Callable[[float], float]  # from a value to a pixel

_LEFT, _FOOT, _HEAD = 46.0, 24.0, 8.0
_TICK = 26.0  # pixels of height for a tick, at the least
_NINE_IN_TEN = (0.05, 0.95)


@dataclass(frozen=True, eq=False)
class OverCounts(Chart[int]):
    """A ground with the counts along its foot. count : in hand; hovered : 0 for none."""

    count: int
    hovered: int = field(default=0, kw_only=True)

    @property
    def counts(self) -> tuple[int, ...]:
        """Along the foot."""
        raise NotImplementedError

    @property
    def _step(self) -> float:
        return (self.width - _LEFT - 16) / max(len(self.counts), 1)

    def x(self, place: int) -> float:
        """Pixel of a count's place."""
        return _LEFT + (place + 0.5) * self._step

    def at(self, x: float, y: float) -> int | None:
        """The count at a pixel."""
        place = int((x - _LEFT) // self._step)
        return self.counts[place] if 0 <= place < len(self.counts) else None

    def _scale(self, low: float, high: float) -> Scale:
        bottom, top = self.height - _FOOT, _HEAD + 6
        return lambda value: bottom - 6 - (value - low) / (high - low) * (bottom - top - 6)

    def _axes(self, canvas: Canvas, low: float, high: float, y: Scale) -> None:
        theme = self.theme
        for tick in plain_axis(low, high).ticks(min(max(int(self.height / _TICK), 2), 6)):
            value, label = low + tick.share * (high - low), tick.label
            canvas.painter.setPen(QPen(QColor(theme.line), 1.0))
            canvas.painter.drawLine(QLineF(_LEFT, y(value), self.width - 8, y(value)))
            box = QRectF(0, y(value) - 8, _LEFT - 8, 16)
            canvas.write(box, label, theme.soft, font("note"), "right")
        for place, count in enumerate(self.counts):
            here, over = count == self.count, count == self.hovered
            if here or over:
                pen = QPen(QColor(theme.cut if here else theme.soft), 1.0, Qt.PenStyle.DotLine)
                canvas.painter.setPen(pen)
                x = self.x(place)
                canvas.painter.drawLine(QLineF(x, _HEAD, x, self.height - _FOOT))
            box = QRectF(self.x(place) - 16, self.height - _FOOT + 4, 32, 16)
            colour = theme.cut if here else theme.ink if over else theme.soft
            canvas.write(box, str(count), colour, font("note", 600 if here else 400), "centre")

    def _line(
        self, canvas: Canvas, values: Floats, y: Scale, colour: str, dashed: bool = False
    ) -> None:
        pen = QPen(QColor(colour), 1.3 if dashed else 2.0)
        if dashed:
            pen.setDashPattern([4, 3])
        canvas.painter.setPen(pen)
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        canvas.painter.save()
        wide, high = self.width - _LEFT - 8, self.height - _FOOT - _HEAD + 4
        canvas.clip(QRectF(_LEFT, _HEAD - 4, wide, high))
        run: list[QPointF] = []
        for place, value in [*enumerate(values.tolist()), (0, float("nan"))]:
            if np.isfinite(value):
                run.append(QPointF(self.x(place), y(value)))
                continue
            if run:
                canvas.painter.drawPolyline(QPolygonF(run))
            run = []
        canvas.painter.restore()

    def _points(
        self, canvas: Canvas, values: Floats, y: Scale, best: int | None, next_: int | None = None
    ) -> None:
        """A dot for each count, a ring around the best one, a dash below the next."""
        theme, painter = self.theme, canvas.painter
        for place, count in enumerate(self.counts):
            if not np.isfinite(values[place]):
                continue
            at, here = QPointF(self.x(place), y(float(values[place]))), count == self.count
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.cut if here else theme.focus))
            painter.drawEllipse(at, 5.0 if here else 3.4, 5.0 if here else 3.4)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(theme.focus), 1.5))
            if count == best:
                painter.drawEllipse(at, 8, 8)
            elif count == next_:
                painter.drawLine(QLineF(at.x() - 7, at.y() + 9, at.x() + 7, at.y() + 9))


@dataclass(frozen=True, eq=False)
class CurveChart(OverCounts):
    """One rule."""

    verdict: Verdict

    @property
    def counts(self) -> tuple[int, ...]:
        """Those of the rule."""
        return self.verdict.counts

    def _range(self) -> tuple[float, float]:
        found = [self.verdict.values]
        if self.verdict.error is not None:
            found += [self.verdict.values - self.verdict.error,
                      self.verdict.values + self.verdict.error]  # fmt: skip
        if self.verdict.lowest is not None:
            found.append(self.verdict.lowest)
        values = np.concatenate(found)
        low, high = float(np.nanmin(values)), float(np.nanmax(values))
        if self.verdict.bound is not None:
            near = self.verdict.bound[np.isfinite(self.verdict.bound)]
            if near.size:  # a bound far off would press the curve flat
                room = 0.8 * max(high - low, 1e-12)
                low = min(low, max(float(near.min()), low - room))
                high = max(high, min(float(near.max()), high + room))
        if high - low <= 1e-12 * max(abs(high), 1e-300):
            low, high = low - 0.5, high + 0.5
        return low, high

    def paint(self, canvas: Canvas) -> None:
        """Axes, bound, curve, and what counts are best, next, and in hand."""
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if not np.isfinite(self.verdict.values).any():
            return
        low, high = self._range()
        y = self._scale(low, high)
        self._axes(canvas, low, high, y)
        if self.verdict.bound is not None:
            self._line(canvas, self.verdict.bound, y, self.theme.ink, dashed=True)
        if self.verdict.lowest is not None:
            self._line(canvas, self.verdict.lowest, y, self.theme.bar, dashed=True)
        self._errors(canvas, y)
        self._line(canvas, self.verdict.values, y, self.theme.focus)
        verdict = self.verdict
        self._points(canvas, verdict.values, y, verdict.best, verdict.runner_up)

    def tip(self, place: int) -> str:
        value = self.verdict.at(place)
        name = COUNT_RULES[self.verdict.key].name
        return f"{name} at {place}: {number(value)}" if np.isfinite(value) else ""

    def _errors(self, canvas: Canvas, y: Scale) -> None:
        if self.verdict.error is None:
            return
        canvas.painter.setPen(QPen(QColor(self.theme.soft), 1.2))
        pairs = zip(self.verdict.values.tolist(), self.verdict.error.tolist(), strict=True)
        for place, (value, error) in enumerate(pairs):
            if np.isfinite(value) and np.isfinite(error):
                x, low, high = self.x(place), y(value - error), y(value + error)
                canvas.painter.drawLines([
                    QLineF(x, low, x, high), QLineF(x - 4, low, x + 4, low),
                    QLineF(x - 4, high, x + 4, high),
                ])  # fmt: skip


@dataclass(frozen=True, eq=False)
class EvidenceChart(OverCounts):
    """An index of the tree beside the band of data without groups. name : of the index."""

    evidence: NullComparison
    name: str = "Silhouette"

    @property
    def counts(self) -> tuple[int, ...]:
        """Those looked at."""
        return self.evidence.counts

    @cached_property
    def band(self) -> tuple[Floats, Floats] | None:
        """Ends of what nine in ten of the data without groups reach, None before there are two."""
        if not self.evidence.told:
            return None
        low, high = np.quantile(self.evidence.drawn, _NINE_IN_TEN, axis=0)
        return low, high

    def paint(self, canvas: Canvas) -> None:
        """Axes, band, its middle, curve and points."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        values = self.evidence.values
        if not np.isfinite(values).any():
            return
        found = np.concatenate([values, *(self.band or ())])
        low, high = float(np.nanmin(found)), float(np.nanmax(found))
        room = max(0.06 * (high - low), 1e-3)
        y = self._scale(low - room, high + room)
        self._band(canvas, y)
        self._axes(canvas, low - room, high + room, y)
        if self.band is not None:
            self._line(canvas, self.evidence.mean, y, self.theme.soft, dashed=True)
        self._line(canvas, values, y, self.theme.focus)
        self._points(canvas, values, y, self.evidence.highest)

    def _band(self, canvas: Canvas, y: Scale) -> None:
        if self.band is None:
            return
        low, high = self.band
        known = np.flatnonzero(np.isfinite(low + high)).tolist()
        upper = [QPointF(self.x(k), y(float(high[k]))) for k in known]
        lower = [QPointF(self.x(k), y(float(low[k]))) for k in known]
        ends = [
            QPointF(x, point.y())
            for x, point in (
                (upper[-1].x() + 9, upper[-1]), (upper[-1].x() + 9, lower[-1]),
                (lower[0].x() - 9, lower[0]), (lower[0].x() - 9, upper[0]),
            )
        ]  # fmt: skip
        canvas.painter.setPen(Qt.PenStyle.NoPen)
        canvas.painter.setBrush(QColor(self.theme.line))
        canvas.painter.drawPolygon(QPolygonF([*upper, *ends[:2], *lower[::-1], *ends[2:]]))

    def tip(self, place: int) -> str:
        if place not in self.counts:
            return ""
        at = self.counts.index(place)
        value = number(float(self.evidence.values[at]))
        words = f"{place} clusters: {self.name.lower()} {value}"
        if self.band is None or not np.isfinite(self.evidence.standing[at]):
            return words
        mean, low, high = (number(float(column[at])) for column in (self.evidence.mean, *self.band))
        return f"{words}; without groups {mean} on average, middle 90% from {low} to {high}"
