"""How many cases a short form gives right, by its number of questions."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.core.profile.short_form import ShortForm
from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import Theme, font

_LEFT, _FOOT, _HEAD = 44.0, 22.0, 10.0


def question_at(form: ShortForm, x: float, width: float) -> int:
    """The number of questions at a pixel of the width; 0 for none."""
    place = int((x - _LEFT) // ((width - _LEFT - 12) / len(form.accuracy)))
    return place + 1 if 0 <= place < len(form.accuracy) else 0


def paint_accuracy(
    canvas: Canvas, form: ShortForm, chance: float, count: int, theme: Theme, width: float,
    height: float,
) -> None:  # fmt: skip
    """A line through the accuracies; dashed: by chance."""
    painter, many = canvas.painter, len(form.accuracy)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    step = (width - _LEFT - 12) / many
    bottom = height - _FOOT

    def at(place: int, share: float) -> QPointF:
        return QPointF(_LEFT + (place + 0.5) * step, bottom - share * (bottom - _HEAD))

    for tenth in (0, 25, 50, 75, 100):
        y = at(0, tenth / 100).y()
        painter.setPen(QPen(QColor(theme.line), 1.0))
        painter.drawLine(QLineF(_LEFT, y, width - 8, y))
        canvas.write(QRectF(0, y - 8, _LEFT - 6, 16), f"{tenth}%", theme.soft, font(0.8), "right")
    pen = QPen(QColor(theme.soft), 1.2)
    pen.setDashPattern([4, 3])
    painter.setPen(pen)
    y = at(0, chance).y()
    painter.drawLine(QLineF(_LEFT, y, width - 8, y))
    points = [at(place, share) for place, share in enumerate(form.accuracy)]
    painter.setPen(QPen(QColor(theme.focus), 2.0))
    painter.drawPolyline(QPolygonF(points))
    for place, point in enumerate(points):
        here = place + 1 == count
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.cut if here else theme.focus))
        painter.drawEllipse(point, 5.0 if here else 3.4, 5.0 if here else 3.4)
        box = QRectF(point.x() - 16, bottom + 3, 32, 16)
        colour = theme.cut if here else theme.soft
        canvas.write(box, str(place + 1), colour, font(0.86, 600 if here else 400), "centre")
