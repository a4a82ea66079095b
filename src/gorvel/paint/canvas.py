"""A painter that can stand upright: cases run across instead of down, words stay level."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QTransform

_Align = Qt.AlignmentFlag
SIDE = {"left": _Align.AlignLeft, "centre": _Align.AlignHCenter, "right": _Align.AlignRight}
_UNCUT = Qt.TextFlag.TextSingleLine | Qt.TextFlag.TextDontClip
_SWAPPED = QTransform(0, 1, 1, 0, 0, 0)


class Canvas:
    """Shapes are drawn with `painter` as if cases ran down; words with `write`.

    upright : axes are exchanged on the way to the paper; outlines : letters are drawn as shapes, so
    that the paper needs no font.
    """

    def __init__(self, painter: QPainter, upright: bool = False, outlines: bool = False) -> None:
        self.painter, self.upright, self.outlines = painter, upright, outlines
        scale = abs(painter.worldTransform().determinant())
        self.crisp = abs(scale - 1.0) < 1e-6  # thin lines meet the pixels
        if upright:
            painter.setTransform(_SWAPPED, combine=True)

    def write(
        self, box: QRectF, words: str, colour: str, at: QFont, side: str = "left",
        turned: bool = False, steep: bool = False,
    ) -> None:  # fmt: skip
        """Words in a box, level on the paper, halfway between its long sides.

        side : "left", "centre" or "right" of the box as it is when cases run down; turned : run
        along the box when upright; steep : run down when not.
        """
        painter = self.painter
        painter.save()
        painter.setFont(at)
        painter.setPen(QColor(colour))
        flags = SIDE[side] | Qt.AlignmentFlag.AlignVCenter | _UNCUT
        if self.upright:
            painter.setTransform(_SWAPPED, combine=True)  # exchanged twice is level again
            box = QRectF(box.y(), box.x(), box.height(), box.width())
            if turned:
                painter.translate(box.center())
                painter.rotate(90)
                box = QRectF(-box.height() / 2, -box.width() / 2, box.height(), box.width())
            else:
                flags = Qt.AlignmentFlag.AlignCenter | _UNCUT
        elif steep:
            painter.translate(box.center())
            painter.rotate(90)
            box = QRectF(-box.height() / 2, -box.width() / 2, box.height(), box.width())
        if self.outlines:
            self._shape(box, flags, words, at)
        else:
            painter.drawText(box, flags, words)
        painter.restore()

    def _shape(self, box: QRectF, flags: int, words: str, at: QFont) -> None:
        metrics, wide = QFontMetricsF(at), self.wide(words, at)
        x = box.left()
        if flags & Qt.AlignmentFlag.AlignHCenter:
            x = box.center().x() - wide / 2
        elif flags & Qt.AlignmentFlag.AlignRight:
            x = box.right() - wide
        y = box.center().y() + (metrics.ascent() - metrics.descent()) / 2
        shape = QPainterPath()
        shape.setFillRule(Qt.FillRule.WindingFill)  # strokes of a letter lie over each other
        shape.addText(QPointF(x, y), at, words)
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self.painter.fillPath(shape, self.painter.pen().color())

    def shortened(self, words: str, at: QFont, room: float, middle: bool = False) -> str:
        """Words that fit into so many pixels. middle : the end stays: names often begin alike."""
        plain = words.replace("\n", " ")
        where = Qt.TextElideMode.ElideMiddle if middle else Qt.TextElideMode.ElideRight
        return QFontMetricsF(at).elidedText(plain, where, room)

    def clip(self, box: QRectF) -> None:
        """Draw inside a box only, until the painter's state is restored."""
        self.painter.setClipRect(box, Qt.ClipOperation.IntersectClip)

    @staticmethod
    def wide(words: str, at: QFont) -> float:
        """Pixels that words take."""
        return QFontMetricsF(at).horizontalAdvance(words)

    def pill(self, middle: QPointF, words: str, ground: str, ink: str, at: QFont) -> QRectF:
        """Words on a rounded ground, level on the paper; returns the box as cases run down."""
        wide, high = self.wide(words, at) + 22, QFontMetricsF(at).height() + 4
        box = QRectF(0, 0, *((high, wide) if self.upright else (wide, high)))
        box.moveCenter(middle)
        if not self.upright:
            box.moveLeft(max(box.left(), 2.0))
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(QColor(ground))
        self.painter.drawRoundedRect(box, high / 2, high / 2)
        self.write(box, words, ink, at, "centre")
        return box
