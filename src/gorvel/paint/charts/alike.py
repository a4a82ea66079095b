"""Painting how two trees agree: over the counts, and cluster by cluster at one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.base.numbers import fixed
from gorvel.core.compare.partitions import Agreement
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.charts.curve import OverCounts
from gorvel.paint.cluster_marks import paint_bar
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import font

Ints = NDArray[np.int64]

_ROW, _DOT, _HEAD = 30.0, 12.0, 26.0
_LEFT, _CELL = 46.0, 62.0
_LEAST_ROW, _LEAST_CELL = 17.0, 32.0


def mixed(ground: str, ink: str, share: float) -> QColor:
    """A colour on the way from one to another."""
    one, other = QColor(ground), QColor(ink)
    parts = (a + (b - a) * share for a, b in (
        (one.redF(), other.redF()), (one.greenF(), other.greenF()), (one.blueF(), other.blueF())
    ))  # fmt: skip
    return QColor.fromRgbF(*parts)


@dataclass(frozen=True, eq=False)
class AgreementChart(OverCounts):
    """The adjusted Rand index of two trees at each count."""

    found: Mapping[int, Agreement]

    @property
    def counts(self) -> tuple[int, ...]:
        """Those at which both are cut."""
        return tuple(self.found)

    def paint(self, canvas: Canvas) -> None:
        """Axes, curve and points."""
        if not self.found:
            return
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        values = np.array([one.adjusted_rand for one in self.found.values()])
        y = self._scale(min(0.0, float(values.min())), 1.0)
        self._axes(canvas, min(0.0, float(values.min())), 1.0, y)
        self._line(canvas, values, y, self.theme.focus)
        best = self.counts[int(values.argmax())] if len(values) > 1 else None
        self._points(canvas, values, y, best)

    def tip(self, place: int) -> str:
        one = self.found.get(place)
        if one is None:
            return ""
        return (
            f"{place} clusters: adjusted Rand {fixed(one.adjusted_rand, 2)}, {one.moved:,} "
            f"moved; Rand {fixed(one.rand, 2)}, Fowlkes–Mallows "
            f"{fixed(one.fowlkes_mallows, 2)}, normalised mutual information "
            f"{fixed(one.normalised_mi, 2)}, variation of information "
            f"{fixed(one.variation_of_information, 2)}"
        )


@dataclass(frozen=True, eq=False)
class CrossTableChart(Chart[tuple[int, int]]):
    """Who is where: a row for each cluster of the left tree, a column for each of the right one.

    rows, columns : clusters from 0, in the order of the trees; chosen : the cell (row and column of
    `table`) whose cases are listed.
    """

    table: Ints
    rows: Sequence[int]
    columns: Sequence[int]
    names: Sequence[Identity]
    others: Sequence[Identity]
    partner: Ints
    chosen: tuple[int, int] | None = None
    hovered: tuple[int, int] | None = None

    @property
    def _least_cell(self) -> float:
        """Pixels across that the largest number needs."""
        largest = f"{int(self.table.max(initial=0)):,}"
        return max(Canvas.wide(largest, font("table", 600)) + 12, _LEAST_CELL)

    @property
    def cell(self) -> tuple[float, float]:
        """Pixels of a cell."""
        wide = min((self.width - _LEFT - 8) / max(len(self.columns), 1), _CELL)
        high = min((self.height - _HEAD - 4) / max(len(self.rows), 1), _ROW)
        return max(wide, self._least_cell), max(high, _LEAST_ROW)

    @property
    def least(self) -> tuple[float, float]:
        return (_LEFT + self._least_cell * len(self.columns) + 8,
                _HEAD + _LEAST_ROW * len(self.rows) + 4)  # fmt: skip

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """The clusters (left, right) whose cell is at a point."""
        wide, high = self.cell
        column, row = int((x - _LEFT) // wide), int((y - _HEAD) // high)
        if not (0 <= row < len(self.rows) and 0 <= column < len(self.columns)):
            return None
        return self.rows[row], self.columns[column]

    def paint(self, canvas: Canvas) -> None:
        """Names, and cells shaded by their share of the row."""
        wide, high = self.cell
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for place, cluster in enumerate(self.columns):
            box = QRectF(_LEFT + place * wide, 2, wide, _HEAD - 4)
            self._head(canvas, self.others[cluster], box.center(), wide - 4)
        for place, cluster in enumerate(self.rows):
            middle = QPointF(_LEFT / 2 - 4, _HEAD + (place + 0.5) * high)
            self._head(canvas, self.names[cluster], middle, _LEFT - 8)
            mass = max(int(self.table[cluster].sum()), 1)
            for column, other in enumerate(self.columns):
                box = QRectF(_LEFT + column * wide + 2, _HEAD + place * high + 2, wide - 4,
                             high - 4)  # fmt: skip
                self._cell(canvas, box, (cluster, other), mass)

    def _head(self, canvas: Canvas, who: Identity, middle: QPointF, room: float) -> None:
        size = min(_DOT, self.cell[1] / 2 - 1)
        wide = min(max(2 * size, canvas.wide(who.name, font("letter", 600)) + 10), room)
        box = QRectF(0, 0, wide, 2 * size)
        box.moveCenter(middle)
        paint_bar(canvas, self.theme, box, who, size)

    def _cell(self, canvas: Canvas, box: QRectF, at: tuple[int, int], mass: int) -> None:
        painter, theme, cases = canvas.painter, self.theme, int(self.table[at])
        ground = QColor(theme.panel)
        if cases:
            ground = mixed(theme.panel, theme.focus, theme.shade(cases / mass))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ground)
            painter.drawRoundedRect(box, 3, 3)
        if at in (self.chosen, self.hovered):
            pen = QPen(QColor(theme.focus if at == self.chosen else theme.soft), 2.0)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 4, 4)
        if not cases:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.line))
            painter.drawEllipse(QPointF(box.center()), 1.6, 1.6)
            return
        partner = self.partner[at[0]] == at[1]
        canvas.write(box, f"{cases:,}", ink_on(ground, theme),
                     font("table", 600 if partner else 400), "centre")  # fmt: skip
