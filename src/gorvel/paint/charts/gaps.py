"""The map of gaps: each combination of missing answers as a row, as long as there are many."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from gorvel.core.inspect.missing_patterns import Gaps
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

_ROW = 20.0
_MOST = 60  # patterns shown
_HEAD_ANGLE = -52.0
_SLANTED, _UPRIGHT = 17.0, 12.0  # pixels a variable needs for its name, on a slant and upright
_LONGEST = 150.0  # pixels of a name
_COUNT = 56.0  # pixels for the number of cases
_BAR = 90.0


@dataclass(frozen=True, eq=False)
class GapsChart(Chart[str]):
    """Rows are patterns, columns the variables in use; filled is answered, a ring is missing.

    Rows have their height whatever there is; places are names of variables.
    """

    gaps: Gaps

    @property
    def least(self) -> tuple[float, float]:
        return 0.0, self.head + (min(len(self.gaps.patterns), _MOST) + 2) * _ROW

    def at(self, x: float, y: float) -> str | None:
        """The variable at a pixel."""
        place = int((x - _COUNT) // self._step())
        return self.gaps.variables[place] if 0 <= place < len(self.gaps.variables) else None

    def tip(self, place: str) -> str:
        return place

    @property
    def head(self) -> float:
        """Pixels above the first row."""
        if self._slanted:
            return self._longest * 0.8 + 22
        return 8.0 if self._step() < _UPRIGHT else self._longest + 14

    @property
    def _longest(self) -> float:
        """Pixels that names take at most."""
        metrics = QFontMetricsF(font("note"))
        return min(max(metrics.horizontalAdvance(name) for name in self.gaps.variables), _LONGEST)

    @property
    def _slanted(self) -> bool:
        """Is there room for names on a slant, the last one with its head beyond the bars?"""
        return self._step_beside(self._longest * 0.56 + 16) >= _SLANTED

    def _step(self) -> float:
        """Pixels a variable has: what is left beside counts and bars, and the slant of the last."""
        return self._step_beside(self._longest * 0.56 + 16 if self._slanted else 0.0)

    def _step_beside(self, slant: float) -> float:
        count = len(self.gaps.variables)
        room = self.width - _COUNT - _BAR - slant
        return float(min(max(room / count, 5.0), 34.0))

    def paint(self, canvas: Canvas) -> None:
        """Names on top, a row for each pattern, then how many answers each variable lacks."""
        painter = canvas.painter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._names(painter)
        most = max((p.cases for p in self.gaps.patterns if not all(p.answered)), default=0)
        for row, pattern in enumerate(self.gaps.patterns[:_MOST]):
            self._row(painter, self.head + row * _ROW, pattern.answered, pattern.cases, most)
        self._totals(painter)

    def _names(self, painter: QPainter) -> None:
        slanted, step = self._slanted, self._step()
        if step < _UPRIGHT:
            return  # no room for names: the pointer tells which is which
        painter.setFont(font("note"))
        painter.setPen(QColor(self.theme.ink))
        metrics, middle = QFontMetricsF(painter.font()), Qt.TextElideMode.ElideMiddle
        for k, name in enumerate(self.gaps.variables):
            painter.save()
            painter.translate(_COUNT + (k + 0.5) * step + 4, self.head - 6)
            painter.rotate(_HEAD_ANGLE if slanted else -90.0)
            painter.drawText(QPointF(0, 0), metrics.elidedText(name, middle, self._longest))
            painter.restore()

    def _row(
        self, painter: QPainter, top: float, answered: tuple[bool, ...], cases: int, most: int
    ) -> None:
        theme, step = self.theme, self._step()
        painter.setFont(font("table"))
        painter.setPen(QColor(theme.ink))
        count = QRectF(0, top, _COUNT - 10, _ROW)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(count, side, f"{cases:,}")
        radius = min(5.0, step * 0.38)
        for k, there in enumerate(answered):
            painter.setPen(QColor(theme.bar if there else theme.warn))
            painter.setBrush(QColor(theme.bar) if there else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(_COUNT + (k + 0.5) * step, top + _ROW / 2), radius, radius)
        if all(answered):
            return  # bars compare the gaps with each other; whole cases would dwarf them
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.warn))
        left = _COUNT + len(answered) * step + 10
        long = max(2.0, (_BAR - 20) * cases / most)
        painter.drawRoundedRect(QRectF(left, top + 6, long, _ROW - 12), 3, 3)

    def _totals(self, painter: QPainter) -> None:
        theme, step = self.theme, self._step()
        shown = min(len(self.gaps.patterns), _MOST)
        top = self.head + shown * _ROW + 4
        painter.setFont(font("note"))
        painter.setPen(QColor(theme.soft))
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, top, _COUNT - 10, _ROW), side, "missing")
        if step >= 18:
            for k, missing in enumerate(self.gaps.missing):
                cell = QRectF(_COUNT + k * step, top, step, _ROW)
                painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, f"{missing:,}")
        if len(self.gaps.patterns) > _MOST:
            more = len(self.gaps.patterns) - _MOST
            painter.drawText(QPointF(_COUNT, top + 2 * _ROW - 6), f"and {more:,} rarer patterns")
