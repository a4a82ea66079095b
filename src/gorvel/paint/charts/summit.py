"""Painting the top of a tree in small, with the cut in hand and the one looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.scene.tree_top import Summit
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.cluster_marks import paint_bar
from gorvel.paint.theme import font

_HEAD, _FOOT = 8.0, 19.0


@dataclass(frozen=True, eq=False)
class SummitChart(Chart[int]):
    """The top of a tree.

    count : of the cut in hand; shadow : a count looked at, 0 for none; clusters : of the count
    shown, in the order of the leaves, with where they begin and end.
    """

    summit: Summit
    count: int
    shadow: int
    clusters: Sequence[tuple[float, float, Identity]]
    tested: Mapping[int, bool] = field(default_factory=dict)  # joins, and whether the split holds

    def x(self, share: float) -> float:
        """Pixel along the cases."""
        return 6 + share * (self.width - 12)

    def y(self, share: float) -> float:
        """Pixel of a height."""
        return self.height - _FOOT - share * (self.height - _FOOT - _HEAD)

    def at(self, x: float, y: float) -> int | None:
        """The count whose line is nearest to a pixel."""
        lines = enumerate(self.summit.lines.tolist())
        near = [(abs(self.y(line) - y), count) for count, line in lines if count]
        return min(near)[1] if near else None

    def paint(self, canvas: Canvas) -> None:
        """Brackets over wedges, clusters as bars, the cut lines."""
        painter, theme = canvas.painter, self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for (begin, end), foot in zip(self.summit.leaves, self.summit.feet, strict=True):
            box = QRectF(self.x(begin), self.y(foot), max(self.x(end) - self.x(begin), 1.0), 0)
            box.setBottom(self.y(0))
            painter.setPen(Qt.PenStyle.NoPen)
            colour = QColor(theme.line)
            colour.setAlpha(120)
            painter.setBrush(colour)
            gap = 0.8 if box.width() > 3 else 0.0
            painter.drawRect(box.adjusted(gap, 0, -gap, 0))
        painter.setPen(QPen(QColor(theme.ink), 1.2))
        for a, b, left, right, top in self.summit.brackets.tolist():
            painter.drawLines([
                QLineF(self.x(a), self.y(left), self.x(a), self.y(top)),
                QLineF(self.x(a), self.y(top), self.x(b), self.y(top)),
                QLineF(self.x(b), self.y(top), self.x(b), self.y(right)),
            ])  # fmt: skip
        self._tests(painter)
        self._clusters(canvas)
        if self.shadow and self.shadow != self.count:
            self._line(canvas, self.shadow, theme.soft, dashed=True)
        self._line(canvas, self.count, theme.cut)

    def _tests(self, painter: QPainter) -> None:
        """A filled dot at splits that hold, a ring at those that do not."""
        painter.setPen(QPen(QColor(self.theme.focus), 1.4))
        brackets = zip(self.summit.joins.tolist(), self.summit.brackets.tolist(), strict=True)
        for join, (a, b, _, _, top) in brackets:
            if join in self.tested:
                holds = self.tested[join]
                painter.setBrush(QColor(self.theme.focus if holds else self.theme.panel))
                painter.drawEllipse(QPointF(self.x((a + b) / 2), self.y(top)), 3.4, 3.4)

    def _clusters(self, canvas: Canvas) -> None:
        for begin, end, who in self.clusters:
            left, right = self.x(begin), self.x(end)
            box = QRectF(left + 0.5, self.height - _FOOT + 3, max(right - left - 1, 1.0), 13)
            paint_bar(canvas, self.theme, box, who)

    def _line(self, canvas: Canvas, count: int, colour: str, dashed: bool = False) -> None:
        if not 0 < count < len(self.summit.lines):
            return
        y = self.y(float(self.summit.lines[count]))
        pen = QPen(QColor(colour), 1.6)
        if dashed:
            pen.setDashPattern([4, 3])
        canvas.painter.setPen(pen)
        canvas.painter.drawLine(QLineF(2, y, self.width - 2, y))
        at = font("note", 600)
        below = dashed and self.shadow > self.count  # lines that are near do not hide numbers
        box = QRectF(self.width - 26, y + 1 if below else y - 16, 22, 14)
        canvas.write(box, str(count), colour, at, "right")
