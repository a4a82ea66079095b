"""How many cases a short form gives right, by its number of questions."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.core.profile.short_form import ShortForm
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

_LEFT, _FOOT, _HEAD = 44.0, 22.0, 10.0


@dataclass(frozen=True, eq=False)
class AccuracyChart(Chart[int]):
    """A line through the accuracies.

    chance : share given right by naming the largest cluster; count : questions in hand.
    """

    form: ShortForm
    chance: float
    count: int

    @property
    def _step(self) -> float:
        return (self.width - _LEFT - 12) / len(self.form.accuracy)

    def _point(self, place: int, share: float) -> QPointF:
        bottom = self.height - _FOOT
        return QPointF(_LEFT + (place + 0.5) * self._step, bottom - share * (bottom - _HEAD))

    def at(self, x: float, y: float) -> int | None:
        """The number of questions at a pixel."""
        place = int((x - _LEFT) // self._step)
        return place + 1 if 0 <= place < len(self.form.accuracy) else None

    def paint(self, canvas: Canvas) -> None:
        """The scale, chance as a dashed line, the accuracies."""
        painter, theme = canvas.painter, self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for share in (0, 25, 50, 75, 100):
            y = self._point(0, share / 100).y()
            painter.setPen(QPen(QColor(theme.line), 1.0))
            painter.drawLine(QLineF(_LEFT, y, self.width - 8, y))
            box = QRectF(0, y - 8, _LEFT - 6, 16)
            canvas.write(box, f"{share}%", theme.soft, font("note"), "right")
        pen = QPen(QColor(theme.soft), 1.2)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        y = self._point(0, self.chance).y()
        painter.drawLine(QLineF(_LEFT, y, self.width - 8, y))
        points = [self._point(place, share) for place, share in enumerate(self.form.accuracy)]
        painter.setPen(QPen(QColor(theme.focus), 2.0))
        painter.drawPolyline(QPolygonF(points))
        for place, point in enumerate(points):
            here = place + 1 == self.count
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.ink if here else theme.focus))
            painter.drawEllipse(point, 5.0 if here else 3.4, 5.0 if here else 3.4)
            box = QRectF(point.x() - 16, self.height - _FOOT + 3, 32, 16)
            colour = theme.ink if here else theme.soft
            canvas.write(box, str(place + 1), colour, font("note", 600 if here else 400), "centre")
