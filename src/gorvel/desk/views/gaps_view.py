"""The map of gaps: each combination of missing answers as a row, as long as there are many."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.gaps import Gaps
from gorvel.paint.theme import current, font

__all__ = ["GapsView"]

_ROW = 20.0
_MOST = 60  # patterns shown
_HEAD_ANGLE = -52.0
_LEAST_NAMED = 11.0  # pixels a variable needs for its name
_COUNT = 56.0  # pixels for the number of cases
_BAR = 90.0


class GapsView(QWidget):
    """Rows are patterns, columns the variables in use; filled is answered, a ring is missing."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.gaps: Gaps | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Patterns of missing answers")

    def show_gaps(self, gaps: Gaps | None) -> None:
        """Show the patterns of a study."""
        self.gaps = gaps
        rows = min(len(gaps.patterns), _MOST) + 2 if gaps else 0
        self.setMinimumSize(QSize(0, round(self._head() + rows * _ROW)))
        self.update()

    def _head(self) -> float:
        if self.gaps is None or self._step_beside(0.0) < _LEAST_NAMED:
            return 8.0
        metrics = QFontMetricsF(font(0.86))
        longest = max(metrics.horizontalAdvance(name) for name in self.gaps.variables)
        return float(min(longest, 150.0) * 0.8 + 22)

    def _step(self) -> float:
        """Pixels a variable has: what is left beside counts and bars, and the slant of the last."""
        return self._step_beside(self._head() * 0.7)

    def _step_beside(self, slant: float) -> float:
        count = len(self.gaps.variables) if self.gaps else 1
        room = self.width() - _COUNT - _BAR - slant
        return float(min(max(room / count, 5.0), 34.0))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.gaps is not None:
            place = int((event.position().x() - _COUNT) // self._step())
            inside = 0 <= place < len(self.gaps.variables)
            self.setToolTip(self.gaps.variables[place] if inside else "")

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.gaps is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._names(painter)
        most = max((p.cases for p in self.gaps.patterns if not all(p.answered)), default=0)
        for row, pattern in enumerate(self.gaps.patterns[:_MOST]):
            self._row(painter, self._head() + row * _ROW, pattern.answered, pattern.cases, most)
        self._totals(painter)
        painter.end()

    def _names(self, painter: QPainter) -> None:
        assert self.gaps is not None
        painter.setFont(font(0.86))
        painter.setPen(QColor(current().ink))
        metrics, step = QFontMetricsF(painter.font()), self._step()
        if step < _LEAST_NAMED:
            return  # no room for names: the pointer tells which is which
        for k, name in enumerate(self.gaps.variables):
            painter.save()
            painter.translate(_COUNT + (k + 0.5) * step + 4, self._head() - 6)
            painter.rotate(_HEAD_ANGLE)
            painter.drawText(
                QPointF(0, 0), metrics.elidedText(name, Qt.TextElideMode.ElideRight, 150)
            )
            painter.restore()

    def _row(
        self, painter: QPainter, top: float, answered: tuple[bool, ...], cases: int, most: int
    ) -> None:
        theme, step = current(), self._step()
        painter.setFont(font(0.93))
        painter.setPen(QColor(theme.ink))
        count = QRectF(0, top, _COUNT - 10, _ROW)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(count, side, f"{cases:,}")
        radius = min(5.0, step * 0.38)
        for k, there in enumerate(answered):
            painter.setPen(QColor(theme.bar if there else theme.cut))
            painter.setBrush(QColor(theme.bar) if there else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(_COUNT + (k + 0.5) * step, top + _ROW / 2), radius, radius)
        if all(answered):
            return  # bars compare the gaps with each other; whole cases would dwarf them
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.cut))
        left = _COUNT + len(answered) * step + 10
        long = max(2.0, (_BAR - 20) * cases / most)
        painter.drawRoundedRect(QRectF(left, top + 6, long, _ROW - 12), 3, 3)

    def _totals(self, painter: QPainter) -> None:
        assert self.gaps is not None
        theme, step = current(), self._step()
        shown = min(len(self.gaps.patterns), _MOST)
        top = self._head() + shown * _ROW + 4
        painter.setFont(font(0.8))
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
