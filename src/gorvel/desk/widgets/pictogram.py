"""Small pictures that show what a linkage, a measure or a scaling looks at."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gorvel.desk.theme import Theme, current

__all__ = ["Pictogram"]

_LEFT = [QPointF(34, 26), QPointF(62, 44), QPointF(28, 62), QPointF(72, 70)]
_RIGHT = [QPointF(168, 34), QPointF(206, 24), QPointF(190, 62), QPointF(214, 72)]


def _mean(points: list[QPointF]) -> QPointF:
    total = QPointF(0, 0)
    for point in points:
        total += point
    return total / len(points)


def _dots(painter: QPainter, theme: Theme) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    for points, number in ((_LEFT, 1), (_RIGHT, 2)):
        painter.setBrush(theme.cluster(number))
        for point in points:
            painter.drawEllipse(point, 4, 4)


def _line(painter: QPainter, theme: Theme, a: QPointF, b: QPointF, width: float = 2.2) -> None:
    painter.setPen(QPen(QColor(theme.cut), width))
    painter.drawLine(QLineF(a, b))


def _cross(painter: QPainter, theme: Theme, at: QPointF) -> None:
    painter.setPen(QPen(QColor(theme.ink), 2))
    painter.drawLine(QLineF(at.x() - 5, at.y(), at.x() + 5, at.y()))
    painter.drawLine(QLineF(at.x(), at.y() - 5, at.x(), at.y() + 5))


def _single(painter: QPainter, theme: Theme) -> None:
    _line(painter, theme, *min(_pairs(), key=lambda p: QLineF(*p).length()))
    _dots(painter, theme)


def _complete(painter: QPainter, theme: Theme) -> None:
    _line(painter, theme, *max(_pairs(), key=lambda p: QLineF(*p).length()))
    _dots(painter, theme)


def _average(painter: QPainter, theme: Theme) -> None:
    for a, b in _pairs():
        _line(painter, theme, a, b, 0.8)
    _dots(painter, theme)


def _pairs() -> list[tuple[QPointF, QPointF]]:
    return [(a, b) for a in _LEFT for b in _RIGHT]


def _centroid(painter: QPainter, theme: Theme) -> None:
    a, b = _mean(_LEFT), _mean(_RIGHT)
    _line(painter, theme, a, b)
    _dots(painter, theme)
    _cross(painter, theme, a)
    _cross(painter, theme, b)


def _ward(painter: QPainter, theme: Theme) -> None:
    middle = _mean(_LEFT + _RIGHT)
    for point in _LEFT + _RIGHT:
        _line(painter, theme, middle, point, 1.0)
    _dots(painter, theme)
    _cross(painter, theme, middle)


_A, _B = QPointF(60, 72), QPointF(180, 24)


def _ends(painter: QPainter, theme: Theme) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.ink))
    for point in (_A, _B):
        painter.drawEllipse(point, 5, 5)


def _euclidean(painter: QPainter, theme: Theme) -> None:
    _line(painter, theme, _A, _B)
    _ends(painter, theme)


def _squared(painter: QPainter, theme: Theme) -> None:
    a, b = QPointF(90, 72), QPointF(140, 60)
    step = b - a
    up = QPointF(step.y(), -step.x())
    fill = QColor(theme.cut)
    fill.setAlpha(60)
    painter.setBrush(fill)
    painter.setPen(QPen(QColor(theme.cut), 2))
    painter.drawPolygon([a, b, b + up, a + up])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.ink))
    painter.drawEllipse(a, 5, 5)
    painter.drawEllipse(b, 5, 5)


def _city_block(painter: QPainter, theme: Theme) -> None:
    corner = QPointF(_B.x(), _A.y())
    _line(painter, theme, _A, corner)
    _line(painter, theme, corner, _B)
    _ends(painter, theme)


def _gower(painter: QPainter, theme: Theme) -> None:
    for k, likeness in enumerate((1.0, 0.35, 0.0, 0.8)):
        box = QRectF(40, 14 + 18 * k, 160, 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.line))
        painter.drawRoundedRect(box, 3, 3)
        painter.setBrush(QColor(theme.cut))
        painter.drawRoundedRect(QRectF(box.left(), box.top(), box.width() * likeness, 10), 3, 3)


def _spread(painter: QPainter, theme: Theme, wide: tuple[float, float], ends: bool) -> None:
    for k, (length, colour) in enumerate(zip(wide, (1, 2), strict=True)):
        y = 32.0 + 32 * k
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.drawLine(QLineF(20, y, 220, y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.cluster(colour))
        for part in (-1.0, -0.55, -0.2, 0.1, 0.35, 1.0):
            painter.drawEllipse(QPointF(120 + part * length, y), 4, 4)
        if ends:
            _line(painter, theme, QPointF(120 - length, y - 9), QPointF(120 - length, y + 9), 1.6)
            _line(painter, theme, QPointF(120 + length, y - 9), QPointF(120 + length, y + 9), 1.6)


_PICTURES: dict[tuple[str, str], Callable[[QPainter, Theme], None]] = {
    ("linkage", "single"): _single,
    ("linkage", "complete"): _complete,
    ("linkage", "average"): _average,
    ("linkage", "centroid"): _centroid,
    ("linkage", "ward"): _ward,
    ("measure", "euclidean"): _euclidean,
    ("measure", "squared-euclidean"): _squared,
    ("measure", "city-block"): _city_block,
    ("measure", "gower"): _gower,
    ("scale", "none"): lambda p, t: _spread(p, t, (96, 22), False),
    ("scale", "zscore"): lambda p, t: _spread(p, t, (60, 60), False),
    ("scale", "range01"): lambda p, t: _spread(p, t, (80, 80), True),
}


class Pictogram(QWidget):
    """Shows the picture of one choice; says nothing that the words beside it do not."""

    def __init__(self, scale: float = 1.0, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._key = ("", "")
        self._scale = scale
        self.setFixedSize(round(244 * scale), round(96 * scale))

    def show_choice(self, part: str, key: str) -> None:
        """Show the picture of a choice, if there is one."""
        self._key = (part, key)
        self.update()

    @property
    def known(self) -> bool:
        return self._key in _PICTURES

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.known:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(self._scale, self._scale)
            _PICTURES[self._key](painter, current())
            painter.end()
