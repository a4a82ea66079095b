"""Clusters as discs and bars with their names: colour is never alone."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPen

from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import Theme, font

LEAST_BAR = 12.0  # pixels of height that a name in a bar needs
_STRIPE = 2.0  # pixels of ground in the colour of a cluster that an earlier one has, too


def paint_disc(
    canvas: Canvas, theme: Theme, at: QPointF, radius: float, who: Identity, marked: bool = False
) -> None:
    """A disc with the name of a cluster, which is left out where it is too small for it."""
    painter, colour = canvas.painter, theme.identity(who)
    painter.setPen(QPen(QColor(theme.ink if marked else theme.panel), 1.4))
    painter.setBrush(colour)
    painter.drawEllipse(at, radius, radius)
    if theme.striped(who):
        painter.setPen(QPen(QColor(theme.panel), _STRIPE / 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, radius - 2, radius - 2)
    shape = font("note" if radius > 11 and len(who.name) < 3 else "letter", 600)
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    canvas.write(box, canvas.shortened(who.name, shape, 2 * radius - 1), ink_on(colour, theme),
                 shape, "centre")  # fmt: skip


def paint_bar(
    canvas: Canvas, theme: Theme, box: QRectF, who: Identity, round_: float = 2.0
) -> None:
    """A bar with the name of a cluster, which is left out where there is no room for it."""
    painter, colour = canvas.painter, theme.identity(who)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawRoundedRect(box, round_, round_)
    if theme.striped(who):
        painter.setPen(QPen(QColor(theme.panel), _STRIPE))
        if box.height() > box.width():
            painter.drawLine(QLineF(box.left() + 3, box.top(), box.left() + 3, box.bottom()))
        else:
            painter.drawLine(QLineF(box.left(), box.bottom() - 2, box.right(), box.bottom() - 2))
    at = font("letter", 600)
    if box.height() >= LEAST_BAR and canvas.wide(who.name, at) + 1 <= box.width():
        canvas.write(box, who.name, ink_on(colour, theme), at, "centre")
