"""The application icon, drawn: three joins and a cut line."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap

from gorvel.paint.theme import LIGHT

_BRACKETS = (  # on a ground of 64: parts' height a, b, join's height, places a, b; cluster
    (52, 52, 38, 12, 22, 1),
    (38, 52, 30, 17, 32, 1),
    (52, 52, 34, 42, 52, 2),
    (30, 34, 12, 24.5, 47, 0),
)


def application_icon() -> QIcon:
    """The icon in the usual sizes."""
    icon = QIcon()
    for size in (16, 32, 48, 64, 128, 256):
        icon.addPixmap(_drawn(size))
    return icon


def _drawn(size: int) -> QPixmap:
    pixmap = QPixmap(size, size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(size / 64, size / 64)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(LIGHT.paper))
    painter.drawRoundedRect(QRectF(1, 1, 62, 62), 13, 13)
    for a, b, join, ya, yb, cluster in _BRACKETS:
        painter.setPen(QPen(LIGHT.cluster(cluster), 3.4, c=Qt.PenCapStyle.RoundCap))
        painter.drawLines([QLineF(a, ya, join, ya), QLineF(b, yb, join, yb)])
        painter.drawLine(QLineF(join, ya, join, yb))
    painter.setPen(QPen(QColor(LIGHT.cut), 3))
    painter.drawLine(QLineF(22, 6, 22, 58))
    painter.end()
    return pixmap
