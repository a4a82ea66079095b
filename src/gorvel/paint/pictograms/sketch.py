"""What pictograms are drawn with."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gorvel.paint.theme import Theme, font

Point = tuple[float, float]


def middle(points: Sequence[Point]) -> Point:
    """The mean of some points."""
    return sum(x for x, _ in points) / len(points), sum(y for _, y in points) / len(points)


class Sketch:
    """Dots, lines and bars in the colours of the theme; places are (x, y) within 244 x 96.

    Colours are "cut" for what the choice looks at, "ink", "soft", "line", or the number of a
    cluster.
    """

    def __init__(self, painter: QPainter, theme: Theme) -> None:
        self._painter, self._theme = painter, theme

    def colour(self, name: str | int) -> QColor:
        """The colour of a name or of a cluster."""
        if isinstance(name, int):
            return self._theme.cluster(name)
        return QColor(getattr(self._theme, name))

    def dots(self, points: Sequence[Point], colour: str | int = "ink", radius: float = 4) -> None:
        """Cases."""
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(self.colour(colour))
        for point in points:
            self._painter.drawEllipse(QPointF(*point), radius, radius)

    def line(
        self,
        a: Point,
        b: Point,
        width: float = 2.2,
        colour: str | int = "cut",
        dashed: bool = False,
    ) -> None:
        """A straight line; dashed where it is only thought of."""
        style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
        self._painter.setPen(QPen(self.colour(colour), width, style))
        self._painter.drawLine(QLineF(QPointF(*a), QPointF(*b)))

    def path(self, points: Sequence[Point], width: float = 2.2, colour: str | int = "cut") -> None:
        """A line through some points."""
        self._painter.setPen(QPen(self.colour(colour), width))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.drawPolyline(QPolygonF([QPointF(*point) for point in points]))

    def filled(self, points: Sequence[Point], colour: str = "cut", opacity: float = 0.25) -> None:
        """An outlined shape."""
        fill = self.colour(colour)
        self._painter.setPen(QPen(fill, 2))
        fill = QColor(fill)
        fill.setAlphaF(opacity)
        self._painter.setBrush(fill)
        self._painter.drawPolygon(QPolygonF([QPointF(*point) for point in points]))

    def cross(self, at: Point) -> None:
        """A mean that is no case."""
        x, y = at
        self.line((x - 5, y), (x + 5, y), 2, "ink")
        self.line((x, y - 5), (x, y + 5), 2, "ink")

    def ring(
        self, at: Point, across: float, down: float, colour: str | int = "soft", turn: float = 0.0
    ) -> None:
        """What belongs together; turn : in degrees."""
        self._painter.save()
        self._painter.translate(QPointF(*at))
        self._painter.rotate(turn)
        self._painter.setPen(QPen(self.colour(colour), 1.2))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.drawEllipse(QPointF(0, 0), across, down)
        self._painter.restore()

    def bar(
        self, x: float, y: float, width: float, height: float, colour: str | int = "cut",
        opacity: float = 1.0,
    ) -> None:  # fmt: skip
        """An amount."""
        fill = QColor(self.colour(colour))
        fill.setAlphaF(opacity)
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(fill)
        self._painter.drawRect(QRectF(x, y, width, height))

    def frame(self, x: float, y: float, width: float, height: float, colour: str = "soft") -> None:
        """A border."""
        self._painter.setPen(QPen(self.colour(colour), 1.2))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.drawRect(QRectF(x, y, width, height))

    def word(
        self, x: float, y: float, words: str, colour: str = "ink", strong: bool = False
    ) -> None:
        """A letter or two about a point."""
        self._painter.setFont(font("text", 600 if strong else 400))
        self._painter.setPen(self.colour(colour))
        box = QRectF(x - 40, y - 12, 80, 24)
        self._painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
