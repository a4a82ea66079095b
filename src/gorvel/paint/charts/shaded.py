"""Painting a grid of numbers, each shaded by how much of the largest it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.base.numbers import fixed
from gorvel.core.study.groups import Replicated
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.charts.alike import mixed
from gorvel.paint.theme import font

_LEFT, _FLAT, _STEEP = 150.0, 26.0, 240.0  # pixels of heads
_ROW, _LEAST_ROW, _WIDE, _LEAST = 30.0, 19.0, 76.0, 33.0


@dataclass(frozen=True)
class Shade:
    """One cell. words : "" while it is not known; share : 0 to 1, None for one that cannot be."""

    words: str
    share: float | None = None


Cells = Mapping[tuple[int, int], Shade]


def agreement_of_groups(found: Replicated) -> tuple[list[str], list[str], Cells]:
    """Names of rows and columns, and the cells of how groups of a split agree."""

    def shade(one: str, other: str) -> Shade:
        again = found.found.get((one, other))
        if again is None or again.agreement != again.agreement:
            return Shade("–")
        return Shade(fixed(again.agreement, 2), max(again.agreement, 0.0))

    cells = {
        (row, column): shade(one, other)
        for row, one in enumerate(found.groups)
        for column, other in enumerate(found.groups)
    }
    heads = [name for name, _ in found.groups.values()]
    return [f"{name} ({cases:,})" for name, cases in found.groups.values()], heads, cells


_ALIKE = 0.8  # of agreement, from which two groupings tell much the same


@dataclass(frozen=True, eq=False)
class ShadedChart(Chart[tuple[int, int]]):
    """cells : by row and column, those that are known; own : the one in hand."""

    rows: Sequence[str]
    columns: Sequence[str]
    cells: Mapping[tuple[int, int], Shade]
    own: tuple[int, int] | None = None
    chosen: tuple[int, int] | None = None
    hovered: tuple[int, int] | None = None

    @property
    def cell(self) -> tuple[float, float]:
        """Pixels of a cell."""
        wide = min((self.width - _LEFT - 4) / max(len(self.columns), 1), _WIDE)
        high = min((self.height - self.head - 4) / max(len(self.rows), 1), _ROW)
        return max(wide, _LEAST), max(high, _LEAST_ROW)

    @property
    def steep(self) -> bool:
        """Do the names of the columns run down?"""
        at = font("note", 600)
        room = min((self.width - _LEFT - 4) / max(len(self.columns), 1), _WIDE)
        return any(Canvas.wide(name, at) > max(room, _LEAST) - 4 for name in self.columns)

    @property
    def head(self) -> float:
        """Pixels above the cells."""
        if not self.steep:
            return _FLAT
        at = font("note", 600)
        return min(max(Canvas.wide(name, at) for name in self.columns) + 14, _STEEP)

    @property
    def least(self) -> tuple[float, float]:
        return _LEFT + _LEAST * len(self.columns) + 4, self.head + _LEAST_ROW * len(self.rows) + 4

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """The row and column at a point."""
        wide, high = self.cell
        row, column = int((y - self.head) // high), int((x - _LEFT) // wide)
        if 0 <= row < len(self.rows) and 0 <= column < len(self.columns):
            return row, column
        return None

    def paint(self, canvas: Canvas) -> None:
        """Heads and cells."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        (wide, high), head, steep, at = self.cell, self.head, self.steep, font("note", 600)
        for column, name in enumerate(self.columns):
            box = QRectF(_LEFT + column * wide, 2, wide, head - 6)
            words = canvas.shortened(name, at, (head if steep else wide) - 8)
            canvas.write(box, words, self.theme.soft, at, "right" if steep else "centre",
                         steep=steep)  # fmt: skip
        for row, name in enumerate(self.rows):
            y = head + row * high
            words = canvas.shortened(name, font("table"), _LEFT - 12)
            canvas.write(QRectF(0, y, _LEFT - 10, high), words, self.theme.ink, font("table"))
            for column in range(len(self.columns)):
                box = QRectF(_LEFT + column * wide + 1.5, y + 1.5, wide - 3, high - 3)
                self._cell(canvas, box, (row, column))

    def _cell(self, canvas: Canvas, box: QRectF, at: tuple[int, int]) -> None:
        painter, theme, shade = canvas.painter, self.theme, self.cells.get(at)
        ground = QColor(theme.panel)
        if shade is not None and shade.share is not None:
            ground = mixed(theme.panel, theme.focus, theme.shade(min(max(shade.share, 0), 1)))
        painter.setPen(Qt.PenStyle.NoPen)
        if shade is None or shade.share is not None:
            painter.setBrush(ground if shade is not None else QColor(theme.paper))
            painter.drawRoundedRect(box, 3, 3)
        for where, colour in ((self.hovered, theme.soft), (self.chosen, theme.focus),
                              (self.own, theme.ink)):  # fmt: skip
            if at == where:
                painter.setPen(QPen(QColor(colour), 2.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(box, 3, 3)
        if shade is None:
            return
        if shade.share is None:
            painter.setPen(QPen(QColor(theme.soft), 1.2))
            middle = box.center()
            painter.drawLine(QPointF(middle.x() - 4, middle.y()),
                             QPointF(middle.x() + 4, middle.y()))  # fmt: skip
            return
        alike = shade.share >= _ALIKE
        if alike and at not in (self.hovered, self.chosen, self.own):
            painter.setPen(QPen(QColor(theme.ink), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        shape = font("note", 600 if alike else 400)
        words = canvas.shortened(shade.words, shape, box.width())
        canvas.write(box, words, theme.ink, shape, "centre")
