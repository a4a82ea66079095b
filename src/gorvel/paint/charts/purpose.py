"""Painting how the counts stand by what clusters are for: bars above and below random groupings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from gorvel.core.base.numbers import fixed
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.curve import OverCounts

_WIDEST = 30.0  # pixels of a bar
_FAINT = 0.45  # of bars that are not the highest


@dataclass(frozen=True, eq=False)
class PurposeChart(OverCounts):
    """ranked : (counts,) the weighted mean of standings, NaN where one is not known."""

    along: tuple[int, ...]
    ranked: NDArray[np.float64]

    @property
    def counts(self) -> tuple[int, ...]:
        """Those looked at."""
        return self.along

    @property
    def highest(self) -> int | None:
        """The count that stands first."""
        if not np.isfinite(self.ranked).any():
            return None
        return self.along[int(np.nanargmax(self.ranked))]

    def paint(self, canvas: Canvas) -> None:
        """Axes and bars."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if self.highest is None:
            return
        low, high = min(float(np.nanmin(self.ranked)), 0.0), max(float(np.nanmax(self.ranked)), 0.0)
        room = max(0.08 * (high - low), 1e-3)
        y = self._scale(low - room * (low < 0), high + room)
        self._axes(canvas, low - room * (low < 0), high + room, y)
        wide = min(_WIDEST, 0.6 * self._step)
        canvas.painter.setPen(Qt.PenStyle.NoPen)
        for place, value in enumerate(self.ranked.tolist()):
            if not np.isfinite(value):
                continue
            here = self.along[place] == self.count
            colour = QColor(self.theme.cut if here else self.theme.focus)
            colour.setAlphaF(1.0 if self.along[place] == self.highest else _FAINT)
            canvas.painter.setBrush(colour)
            top, foot = sorted((y(value), y(0.0)))
            canvas.painter.drawRect(QRectF(self.x(place) - wide / 2, top, wide, foot - top))

    def tip(self, place: int) -> str:
        if place not in self.along:
            return ""
        value = float(self.ranked[self.along.index(place)])
        if not np.isfinite(value):
            return f"{place} clusters: not known"
        return f"{place} clusters: {fixed(value, 2)} SD above random groupings"
