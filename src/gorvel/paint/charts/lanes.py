"""Painting clusters side by side: lanes with letters at their means, and numbers beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.grow.grown import Grown
from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import Beside, Profiles
from gorvel.core.tree.cluster_names import Identity, by_letter
from gorvel.core.tree.cuts import Cut
from gorvel.core.words.portrait import cell_words, ends_words, lane_words
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.lanes_layout import GAP, HEADING, LINE, ROW, TELLS, LanesLayout, LanesPlace
from gorvel.paint.charts.spreads import paint_spread, spread_words
from gorvel.paint.cluster_marks import paint_disc
from gorvel.paint.theme import Theme, font

_SHADED, _FULL = 0.25, 1.5  # standard deviations from the whole: first and fullest shade
_HEADINGS = {
    "active": "Active: clusters were formed from these, so tests are only descriptive",
    "profile": "Profile only: not used to form clusters, so these can be tested",
}


@dataclass(frozen=True, eq=False)
class LanesChart(LanesLayout):
    """As painted."""

    @classmethod
    def of(
        cls, theme: Theme, width: float, height: float, shown: Profiles, grown: Grown, cut: Cut,
        names: Sequence[Identity],
    ) -> LanesChart:  # fmt: skip
        """Of the clusters of a cut, by their letters."""
        sizes, masses = grown.tree.sizes[cut.roots].tolist(), grown.prepared.weights
        shares = [size / grown.tree.n for size in sizes]
        if masses is not None:
            mine = [float(masses[cut.membership == k + 1].sum()) for k in range(cut.clusters)]
            shares = [mass / sum(mine) for mass in mine]
        return cls(
            theme, width, height, shown.lanes, by_letter(names), names, sizes, shares,
            figure=shown.figure, kind=shown.kind, spreads=shown.spreads, beside=shown.beside,
            common=shown.common,
        )  # fmt: skip

    # painting

    def paint(self, canvas: Canvas, span: tuple[float, float] | None = None) -> None:
        """The head, and every row. span : the pixels from top to bottom that are in sight."""
        low, high = span or (0.0, self.foot)
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._head(canvas)
        if self.beside is not None:
            canvas.painter.setPen(QPen(QColor(self.theme.line), 1.2))
            at = self._others - GAP / 2
            canvas.painter.drawLine(QLineF(at, 8, at, self.foot - 4))
        part = ""
        for place, lane in enumerate(self.lanes):
            top = self.tops[place]
            if top + self.tall < low or top - HEADING > high:
                part = lane.role
                continue
            if lane.role != part:
                part = lane.role
                box = QRectF(4, top - HEADING + 5, self.width - 8, HEADING - 4)
                words = canvas.shortened(_HEADINGS[part].upper(), font("note", 600), box.width())
                canvas.write(box, words, self.theme.soft, font("note", 600))
            self._row(canvas, place, lane, top)
        if self.above:
            self.paint_head(canvas, self.above)

    def paint_head(self, canvas: Canvas, top: float) -> None:
        """The head alone, over the rows below it. top : where it stands."""
        painter = canvas.painter
        painter.save()
        painter.translate(0, top)
        painter.fillRect(QRectF(0, 0, self.width, self.head - 8), QColor(self.theme.panel))
        painter.setPen(QPen(QColor(self.theme.line), 1.0))
        painter.drawLine(QLineF(0, self.head - 8, self.width, self.head - 8))
        self._head(canvas)
        painter.restore()

    def _head(self, canvas: Canvas) -> None:
        soft, small = self.theme.soft, font("note")
        left = self._name + TELLS + 16
        canvas.write(QRectF(4, 18, self._name, 18), "question", soft, small)
        canvas.write(QRectF(self._name, 18, TELLS + 10, 18), "effect", soft, small)
        ends = ("low", "high") if self.kind != "stacked" else ("first answer", "last")
        canvas.write(QRectF(left, 18, 90, 18), ends[0], soft, small)
        canvas.write(QRectF(left, 18, self._numbers - 22 - left, 18), ends[1], soft, small, "right")
        if 0 <= self.row < len(self.lanes) and not self.kind:
            for words, side in zip(
                ends_words(self.lanes[self.row]), ("left", "right"), strict=True
            ):
                box = QRectF(left, 33, self._numbers - 22 - left, 16)
                canvas.write(box, words, soft, small, side)
        for place, cluster in enumerate(self.order):
            middle = self._numbers + (place + 0.5) * self._cell_wide
            self._badge(canvas, QPointF(middle, 18), cluster, 12.5)
            box = QRectF(middle - self._cell_wide / 2, 33, self._cell_wide, 16)
            for line in self.titles.get(cluster, ()):
                canvas.write(box, line, self.theme.ink, font("note", 600), "centre")
                box.translate(0, LINE)
            words = f"{self.cases[cluster]:,} · {self.shares[cluster]:.0%}"
            canvas.write(box, words, soft, font("note"), "centre")
        if self.beside is not None:
            self._other_head(canvas, self.beside)

    def _other_head(self, canvas: Canvas, beside: Beside) -> None:
        soft, wide = self.theme.soft, self._cell_wide
        for place, group in enumerate(beside.order):
            left, who = self._others + place * wide, beside.groups[group]
            box = QRectF(left + 1, 8, wide - 2, 20)
            if isinstance(who, str):
                words = canvas.shortened(who, font("note", 600), wide - 4)
                canvas.write(box, words, self.theme.ink, font("note", 600), "centre")
            else:
                paint_disc(canvas, self.theme, QPointF(left + wide / 2, 18), 11.0, who)
            words = f"{beside.cases[group]:,} · {beside.shares[group]:.0%}"
            canvas.write(QRectF(left, 35, wide, 16), words, soft, font("note"), "centre")

    def _badge(self, canvas: Canvas, at: QPointF, cluster: int, radius: float) -> None:
        marked = cluster in (self.selected, self.cluster)
        paint_disc(canvas, self.theme, at, radius, self.names[cluster], marked)

    def _row(self, canvas: Canvas, place: int, lane: Lane, top: float) -> None:
        theme, painter = self.theme, canvas.painter
        if place == self.row:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.tint))
            painter.drawRoundedRect(QRectF(0, top, self.width, self.tall - 1), 4, 4)
        name = _middle_cut(canvas, lane.title, self._name - 14)
        canvas.write(QRectF(4, top, self._name - 8, self.tall), name, theme.ink, font("table", 600))
        self._tells(canvas, lane, top)
        middle = top + (self.tall - ROW) / 2
        spread = self.spreads.get(lane.name) if self.kind else None
        if spread is not None and self.kind:
            left = self._name + TELLS + 16
            box = QRectF(left, top + 3, self._numbers - 22 - left, self.tall - 6)
            paint_spread(canvas, box, spread, self.kind, self.order, self.names, self.theme)
        elif not self.kind:
            self._lane(canvas, lane, top + ROW / 2)
        wide = self._cell_wide
        for column, cluster in enumerate(self.order):
            box = QRectF(self._numbers + column * wide + 2, middle + 2, wide - 4, ROW - 5)
            self._cell(canvas, lane, cluster, box)
        other = self.beside.lanes.get(lane.title) if self.beside is not None else None
        if self.beside is not None and other is not None:
            for column, group in enumerate(self.beside.order):
                box = QRectF(self._others + column * wide + 2, middle + 2, wide - 4, ROW - 5)
                self._cell(canvas, other, group, box)

    def _tells(self, canvas: Canvas, lane: Lane, top: float) -> None:
        bar = QRectF(self._name, top + self.tall / 2 - 4, TELLS - 8, 7)
        painter = canvas.painter
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.line))
        painter.drawRoundedRect(bar, 3, 3)
        if np.isfinite(lane.effect) and lane.effect > 0:
            bar.setWidth(max(bar.width() * min(lane.effect, 1.0), 4))
            painter.setBrush(QColor(self.theme.ink))
            painter.drawRoundedRect(bar, 3, 3)

    def _lane(self, canvas: Canvas, lane: Lane, y: float) -> None:
        theme, painter = self.theme, canvas.painter
        left, right = self._name + TELLS + 16, self._numbers - 22
        painter.setPen(QPen(QColor(theme.line), 1.2))
        painter.drawLine(QLineF(left, y, right, y))
        if np.isfinite(lane.whole):
            at = self.x(lane, lane.whole)
            painter.setPen(QPen(QColor(theme.soft), 1.6))
            painter.drawLine(QLineF(at, y - 9, at, y + 9))
        for cluster in self.order:
            low, high = float(lane.lower[cluster]), float(lane.upper[cluster])
            if np.isfinite(low) and np.isfinite(high):
                ends = [min(max(self.x(lane, v), left - 8), right + 8) for v in (low, high)]
                colour = self.theme.identity(self.names[cluster])
                colour.setAlphaF(0.6)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour)
                painter.drawRoundedRect(QRectF(ends[0], y - 3, ends[1] - ends[0], 6), 3, 3)
        self._others_on(canvas, lane, y)
        letters = self.letters(lane)
        for cluster, at in letters.items():
            mean = self.x(lane, float(lane.values[cluster]))
            if abs(mean - at) >= 1:  # the letter gave way: where the mean is
                painter.setPen(QPen(theme.identity(self.names[cluster]), 2.0))
                painter.drawLine(QLineF(mean, y - 11, mean, y + 11))
        last = max(self.selected, self.cluster)
        for cluster in sorted(letters, key=lambda k: k in (self.selected, last)):
            self._badge(canvas, QPointF(letters[cluster], y), cluster, 8.5)

    def _others_on(self, canvas: Canvas, lane: Lane, y: float) -> None:
        """Rings where the other groups stand."""
        other = self.beside.lanes.get(lane.title) if self.beside is not None else None
        if other is None:
            return
        left, right = self._name + TELLS + 16, self._numbers - 22
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        canvas.painter.setPen(QPen(QColor(self.theme.ink), 1.3))
        for value in other.values[np.isfinite(other.values)].tolist():
            at = min(max(self.x(lane, value), left - 8), right + 8)
            canvas.painter.drawEllipse(QPointF(at, y), 4.0, 4.0)

    def _cell(self, canvas: Canvas, lane: Lane, cluster: int, box: QRectF) -> None:
        value, away = float(lane.values[cluster]), float(lane.away[cluster])
        size = abs(away)
        theme = self.theme
        if np.isfinite(value) and size >= _SHADED:
            colour = QColor(theme.above if away > 0 else theme.below)
            colour.setAlphaF(0.15 + 0.45 * min((size - _SHADED) / (_FULL - _SHADED), 1.0))
            canvas.painter.setPen(Qt.PenStyle.NoPen)
            canvas.painter.setBrush(colour)
            canvas.painter.drawRoundedRect(box, 4, 4)
        strong = size >= 1.0
        shape = font("note", 600 if strong else 400)
        canvas.write(box, cell_words(lane, cluster, self.figure), theme.ink, shape, "centre")

    def _of_column(self, cluster: int, other: int) -> str:
        """A cluster, or a group of the other grouping, by itself."""
        if other >= 0 and self.beside is not None:
            name, cases = self.beside.called(other), self.beside.cases[other]
            return (
                f"{name}, of {self.beside.name}: {cases:,} cases, {self.beside.shares[other]:.0%}."
            )
        if cluster < 0:
            return ""
        return (f"{self.names[cluster].told}: {self.cases[cluster]:,} cases,"
                f" {self.shares[cluster]:.0%}.")  # fmt: skip

    def tip(self, place: LanesPlace) -> str:
        row, cluster, other = place
        if row < 0:
            return self._of_column(cluster, other)
        lane = self.lanes[row]
        spread = self.spreads.get(lane.name) if self.kind else None
        if spread is not None and self.kind and other < 0:
            name = self.names[cluster].told if cluster >= 0 else ""
            return spread_words(spread, self.kind, cluster, name)
        name = self.names[cluster].told if cluster >= 0 else ""
        if other >= 0 and self.beside is not None and lane.title in self.beside.lanes:
            lane, cluster = self.beside.lanes[lane.title], other
            name = self.beside.called(other)
        return lane_words(lane, cluster, name)


def _middle_cut(canvas: Canvas, words: str, room: float) -> str:
    """Words that keep their beginning and their end where they are too long."""
    shape = font("table", 600)
    if canvas.wide(words, shape) <= room:
        return words
    end = canvas.shortened(words[::-1], shape, 0.45 * room)[::-1].lstrip("…").lstrip()
    return canvas.shortened(words, shape, room - canvas.wide(end, shape)) + end
