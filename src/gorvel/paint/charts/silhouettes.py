"""Painting silhouettes: a bar for each case, by cluster, from the highest down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.base.numbers import fixed
from gorvel.core.count.indices.silhouettes import Silhouettes
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import Theme, font

_HEAD, _SIDE, _GAP, _WORDS = 20.0, 8.0, 5.0, 62.0


@dataclass(frozen=True, eq=False)
class SilhouettesPanel:
    """One count in a box. names : of the clusters; marked : rows of cases that are marked."""

    found: Silhouettes
    names: Sequence[Identity]
    theme: Theme
    box: QRectF
    marked: Sequence[int] = ()

    @property
    def zero(self) -> float:
        """Pixel of 0; the axis runs from the lowest value (or 0) to 1."""
        return self.box.left() + _SIDE + 18 + self._low * self._unit

    @property
    def _low(self) -> float:
        return max(-float(self.found.values.min(initial=0.0)), 0.0)

    @property
    def _high(self) -> float:
        return max(float(self.found.values.max(initial=0.1)), 0.1)

    @property
    def _unit(self) -> float:
        room = self.box.width() - 2 * _SIDE - 18 - _WORDS
        return room / (self._low + self._high)

    @property
    def _row(self) -> float:
        room = self.box.height() - _HEAD - _GAP * self.found.count - 4
        return max(room, 1.0) / max(len(self.found.cases), 1)

    def y(self, row: int) -> float:
        """Where a row begins; clusters stand apart."""
        before = int(np.searchsorted(self.found.ends, row, side="right"))
        return self.box.top() + _HEAD + row * self._row + before * _GAP

    def row_at(self, y: float) -> int:
        """The row at a pixel, -1 for none."""
        begin = 0
        for end in self.found.ends.tolist():
            top = self.y(begin)
            if top <= y < top + (end - begin) * self._row:
                return int(min(begin + (y - top) // self._row, end - 1))
            begin = end
        return -1

    @property
    def title(self) -> str:
        """The count and the mean."""
        mean = fixed(float(self.found.values.mean()), 2)
        return f"{self.found.count} clusters: mean {mean}"

    def paint(self, canvas: Canvas) -> None:
        """The title, the clusters with their means, bars, and what is marked."""
        painter, theme, found = canvas.painter, self.theme, self.found
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        head = QRectF(self.box.left() + _SIDE, self.box.top(), self.box.width(), 16)
        canvas.write(head, self.title, theme.ink, font("table", 600))
        begin = 0
        for cluster, end in enumerate(found.ends.tolist(), 1):
            self._cluster(canvas, cluster, begin, end)
            begin = end
        painter.setPen(QPen(QColor(theme.soft), 1.0))
        bottom = self.y(len(found.cases) - 1) + self._row
        painter.drawLine(QLineF(self.zero, self.box.top() + _HEAD - 2, self.zero, bottom + 2))
        painter.setPen(QPen(QColor(theme.focus), 2.0))
        for row in self.marked:
            y = self.y(row) + self._row / 2
            x = self.zero + float(found.values[row]) * self._unit
            painter.drawLine(QLineF(min(self.zero, x) - 4, y, max(self.zero, x) + 8, y))

    def _cluster(self, canvas: Canvas, cluster: int, begin: int, end: int) -> None:
        theme, found, painter = self.theme, self.found, canvas.painter
        colour = theme.identity(self.names[cluster - 1])
        top, high = self.y(begin), (end - begin) * self._row
        painter.setPen(Qt.PenStyle.NoPen)
        lines = max(round(high), 1)
        for line in range(lines):  # as many bars as there are pixels
            first = begin + int(line * (end - begin) / lines)
            last = max(begin + int((line + 1) * (end - begin) / lines), first + 1)
            values = found.values[first:last]
            value = float(values.min() if values.min() < 0 else values.mean())
            x = self.zero + value * self._unit
            y = top + line * high / lines
            wide = max(abs(x - self.zero), 0.5)
            bar = QRectF(min(self.zero, x), y, wide, max(high / lines, 1.0))
            painter.fillRect(bar, QColor(theme.warn) if value < 0 else colour)
        words = f"{end - begin:,} · {fixed(found.means[cluster - 1], 2)}"
        middle = QRectF(self.box.left(), top + high / 2 - 8, self.box.width() - 4, 16)
        name = self.names[cluster - 1].name
        at = font("note", 600)
        if high >= 8:
            canvas.write(middle.adjusted(4, 0, 0, 0), name, theme.ink, at)
        if high >= 11:
            canvas.write(middle, words, theme.soft, font("note"), "right")


class Bar(NamedTuple):
    """A bar: which of the counts shown, and its row."""

    panel: int
    row: int


@dataclass(frozen=True, eq=False)
class SilhouettesChart(Chart[Bar]):
    """Silhouettes at one count or two.

    shown : silhouettes at some counts, beside each other, with the names of their clusters; labels
    : of the cases; marked : a case, -1 for none.
    """

    shown: Sequence[tuple[Silhouettes, Sequence[Identity]]]
    labels: Sequence[str]
    marked: int = -1

    @cached_property
    def panels(self) -> list[SilhouettesPanel]:
        """One for each count."""
        wide = self.width / max(len(self.shown), 1)
        return [
            SilhouettesPanel(
                found, names, self.theme, QRectF(place * wide, 0, wide - 4, self.height),
                [found.row_of(self.marked)] if self.marked >= 0 else [],
            )
            for place, (found, names) in enumerate(self.shown)
        ]  # fmt: skip

    def at(self, x: float, y: float) -> Bar | None:
        """The bar at a pixel."""
        for place, panel in enumerate(self.panels):
            if panel.box.left() <= x < panel.box.right():
                row = panel.row_at(y)
                return Bar(place, row) if row >= 0 else None
        return None

    def case_of(self, place: Bar) -> int:
        """The case whose bar it is."""
        return int(self.shown[place.panel][0].cases[place.row])

    def tip(self, place: Bar) -> str:
        found, names = self.shown[place.panel]
        own, other = (names[int(of[place.row]) - 1].name for of in (found.own, found.leans))
        value = float(found.values[place.row])
        lean = f"closer to {other}" if value < 0 else f"next is {other}"
        label = self.labels[self.case_of(place)]
        return f"{label}: cluster {own}, silhouette {fixed(value, 2)}, {lean}"

    def tips_of(self, case: int) -> list[str]:
        """A case at each count shown."""
        return [self.tip(Bar(k, found.row_of(case))) for k, (found, _) in enumerate(self.shown)]

    def paint(self, canvas: Canvas) -> None:
        """All that are shown, each with its title."""
        for panel in self.panels:
            panel.paint(canvas)
