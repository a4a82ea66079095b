"""The selected variable as histogram with box plot, or as bars; two as a scatter plot."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from gorvel.core.inspect.close_up import Bars, Box, CloseUp, Histogram, Scatter
from gorvel.core.scene.axis import HeightAxis, plain_axis
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

_LEFT, _RIGHT = 46.0, 16.0
_BOX = 46.0  # pixels for the box plot
_AXIS = 44.0
_SIDE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True, eq=False)
class CloseUpChart(Chart[None]):
    """One or two variables, with words above them."""

    close_up: CloseUp

    def paint(self, canvas: Canvas) -> None:
        """The title in words, then the chart if there is one."""
        shown, painter = self.close_up.chart, canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font())
        painter.setPen(QColor(self.theme.ink if shown is not None else self.theme.soft))
        words = QRectF(4, 4, self.width - 8, 60)
        flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop)
        used = painter.boundingRect(words, flags, self.close_up.title)
        painter.drawText(words, flags, self.close_up.title)
        top = used.bottom() + 14
        area = QRectF(_LEFT, top, self.width - _LEFT - _RIGHT, self.height - top - _AXIS - 8)
        if isinstance(shown, Bars):
            self._bars(painter, shown, top)
        elif isinstance(shown, Scatter):
            self._scatter(painter, shown, area)
        elif shown is not None:
            area.setHeight(min(area.height(), 380))
            self._histogram(painter, *shown, area)

    def _axis(self, low: float, high: float) -> HeightAxis:
        return plain_axis(low, high if high > low else low + 1)

    def _across(self, painter: QPainter, axis: HeightAxis, area: QRectF, name: str) -> None:
        """The axis along the bottom, with its name at the right end."""
        theme = self.theme
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.drawLine(QLineF(area.left(), area.bottom(), area.right(), area.bottom()))
        painter.setFont(font("note"))
        painter.setPen(QColor(theme.soft))
        for tick in axis.ticks(6):
            x = area.left() + tick.share * area.width()
            box = QRectF(x - 40, area.bottom() + 3, 80, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, tick.label)
        painter.setPen(QColor(theme.ink))
        label = QRectF(area.left(), area.bottom() + 20, area.width(), 18)
        painter.drawText(label, _SIDE, _shortened(painter, name, area.width()))

    def _histogram(self, painter: QPainter, classes: Histogram, box: Box, area: QRectF) -> None:
        theme = self.theme
        axis = self._axis(float(classes.edges[0]), float(classes.edges[-1]))
        chart = area.adjusted(0, 0, 0, -_BOX)
        most = int(classes.counts.max())
        counts = self._axis(0.0, most * 1.05)
        painter.setFont(font("note"))
        for tick in counts.ticks(4):
            y = chart.bottom() - tick.share * chart.height()
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(QLineF(chart.left(), y, chart.right(), y))
            painter.setPen(QColor(theme.soft))
            painter.drawText(QRectF(0, y - 9, _LEFT - 6, 18), _SIDE, tick.label)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.bar))
        places = area.left() + axis.share(classes.edges) * area.width()
        for k, count in enumerate(classes.counts.tolist()):
            tall = float(counts.share(float(count))) * chart.height()
            wide = places[k + 1] - places[k]
            bar = QRectF(places[k] + 0.5, chart.bottom() - tall, max(wide - 1, 0.7), tall)
            painter.drawRect(bar)
        self._box(painter, box, axis, area)
        if self.close_up.bounded is not None and self.close_up.bounded.handling != "keep":
            painter.setPen(QPen(QColor(theme.ink), 1.4, Qt.PenStyle.DashLine))
            for end in self.close_up.bounded.ends:
                x = area.left() + float(axis.share(end)) * area.width()
                painter.drawLine(QLineF(x, chart.top(), x, area.bottom()))
        self._across(painter, axis, area, self.close_up.names[0])

    def _box(self, painter: QPainter, box: Box, axis: HeightAxis, area: QRectF) -> None:
        theme, middle = self.theme, area.bottom() - _BOX / 2

        def x(value: float) -> float:
            return float(area.left() + float(axis.share(value)) * area.width())

        q1, q2, q3 = box.quartiles
        painter.setPen(QPen(QColor(theme.ink), 1.4))
        painter.setBrush(QColor(theme.tint))
        painter.drawLine(QLineF(x(box.low), middle, x(box.high), middle))
        painter.drawRect(QRectF(x(q1), middle - 9, max(x(q3) - x(q1), 1.0), 18))
        painter.drawLine(QLineF(x(q2), middle - 9, x(q2), middle + 9))
        painter.setPen(QPen(QColor(theme.warn), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for value in np.unique(box.outside).tolist():
            painter.drawEllipse(QPointF(x(value), middle), 3.0, 3.0)

    def _bars(self, painter: QPainter, bars: Bars, top: float) -> None:
        theme = self.theme
        rows = [*zip(bars.names, bars.counts, [theme.bar] * len(bars.names), strict=True)]
        if bars.others:
            rows.append(("all others", bars.others, theme.line))
        if bars.missing:
            rows.append(("missing", bars.missing, theme.warn))
        painter.setFont(font("table"))
        metrics = QFontMetricsF(painter.font())
        wide = min(max((metrics.horizontalAdvance(name) for name, _, _ in rows), default=0), 170.0)
        most = max((count for _, count, _ in rows), default=1)
        room = self.width - wide - 90
        for k, (name, count, colour) in enumerate(rows):
            y = top + k * 24
            painter.setPen(QColor(theme.ink))
            text = metrics.elidedText(name, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(QRectF(4, y, wide, 20), _SIDE, text)
            long = max(room * count / most, 1.0)
            painter.fillRect(QRectF(wide + 12, y + 3, long, 14), QColor(colour))
            painter.setPen(QColor(theme.soft))
            painter.drawText(QPointF(wide + 18 + long, y + 15), f"{count:,}")

    def _scatter(self, painter: QPainter, scatter: Scatter, area: QRectF) -> None:
        if not scatter.cases:
            return
        theme = self.theme
        side = min(area.width(), area.height(), 520.0)
        area = QRectF(area.left(), area.top() + 10, side, side - 10)
        across = self._axis(float(scatter.x.min()), float(scatter.x.max()))
        up = self._axis(float(scatter.y.min()), float(scatter.y.max()))
        painter.setFont(font("note"))
        for tick in up.ticks(6):
            y = area.bottom() - tick.share * area.height()
            painter.setPen(QColor(theme.soft))
            painter.drawText(QRectF(0, y - 9, _LEFT - 6, 18), _SIDE, tick.label)
        painter.setPen(QColor(theme.ink))
        above = _shortened(painter, f"↑ {self.close_up.names[1]}", area.width())
        painter.drawText(QPointF(area.left(), area.top() - 8), above)
        self._across(painter, across, area, f"{self.close_up.names[0]} →")
        dot = QColor(theme.clusters[0])
        dot.setAlpha(int(np.clip(60_000 / max(len(scatter.x), 1), 40, 170)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(dot)
        xs = area.left() + across.share(scatter.x) * area.width()
        ys = area.bottom() - up.share(scatter.y) * area.height()
        for x, y in zip(xs.tolist(), ys.tolist(), strict=True):
            painter.drawEllipse(QPointF(x, y), 3.0, 3.0)


def _shortened(painter: QPainter, words: str, room: float) -> str:
    metrics = QFontMetricsF(painter.font())
    return metrics.elidedText(words, Qt.TextElideMode.ElideRight, room)
