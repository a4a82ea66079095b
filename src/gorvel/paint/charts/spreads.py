"""Painting how answers spread in each cluster: boxes, densities, or shares of each answer."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPen, QPolygonF

from gorvel.core.profile.shown import SpreadKind
from gorvel.core.profile.spread import Spread
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import Theme, font

_HIGH: dict[SpreadKind, float] = {"box": 11.0, "density": 17.0, "stacked": 14.0}
_OVER = 1.5  # a density may reach so far into the place of the next
_LEAST_WORDS = 26.0  # pixels of a segment that holds its share


def row_height(kind: SpreadKind, clusters: int) -> float:
    """Pixels that one question needs."""
    return _HIGH[kind] * clusters + 12


def _fitting(kind: SpreadKind, spread: Spread) -> SpreadKind | None:
    """What can be shown of it; None for nothing."""
    if kind == "stacked" and not spread.answers:
        kind = "box"  # too many different answers
    if kind != "stacked" and not spread.at.size:
        kind = "stacked"  # words
    return kind if kind != "stacked" or spread.answers else None


def paint_spread(
    canvas: Canvas, box: QRectF, spread: Spread, kind: SpreadKind, order: Sequence[int],
    names: Sequence[Identity], theme: Theme,
) -> None:  # fmt: skip
    """Clusters below each other, as columns run, inside a box."""
    shown = _fitting(kind, spread)
    if shown is None:
        return
    high = (box.height() - 6) / max(len(order), 1)
    for place, cluster in enumerate(order):
        line = QRectF(box.left(), box.top() + 3 + place * high, box.width(), high)
        colour = theme.identity(names[cluster])
        letter = QRectF(line.left() - 26, line.top(), 22, high)
        short = canvas.shortened(names[cluster].name, font("note", 600), 22)
        canvas.write(letter, short, theme.soft, font("note", 600), "right")
        if shown == "stacked":
            _stacked(canvas, line, spread, cluster, theme)
            continue
        low, high_end = float(spread.at[0]), float(spread.at[-1])
        wide = box.width() / (high_end - low if high_end > low else 1.0)
        x = _scale(box.left(), wide, low)
        if shown == "box":
            _box(canvas, line, spread, cluster, colour, theme, x)
        else:
            _density(canvas, line, spread, cluster, colour, x)
    if shown != "stacked" and np.isfinite(spread.five[-1, 2]):
        canvas.painter.setPen(QPen(QColor(theme.soft), 1.2, Qt.PenStyle.DashLine))
        at = x(float(spread.five[-1, 2]))
        canvas.painter.drawLine(QLineF(at, box.top() + 2, at, box.bottom() - 2))


def _scale(left: float, wide: float, low: float) -> Callable[[float], float]:
    return lambda value: left + wide * (value - low)


def _box(
    canvas: Canvas, line: QRectF, spread: Spread, cluster: int, colour: QColor, theme: Theme,
    x: Callable[[float], float],
) -> None:  # fmt: skip
    five = spread.five[cluster]
    if np.isnan(five).any():
        return
    ends = [x(float(value)) for value in five]
    y, painter = line.center().y(), canvas.painter
    painter.setPen(QPen(colour, 1.2))
    painter.drawLine(QLineF(ends[0], y, ends[4], y))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    half = line.height() / 2 - 1.5
    painter.drawRoundedRect(QRectF(ends[1], y - half, max(ends[3] - ends[1], 2), 2 * half), 2, 2)
    painter.setPen(QPen(QColor(theme.panel), 2.2))
    painter.drawLine(QLineF(ends[2], y - half, ends[2], y + half))


def _density(
    canvas: Canvas, line: QRectF, spread: Spread, cluster: int, colour: QColor,
    x: Callable[[float], float],
) -> None:  # fmt: skip
    curve = spread.density[cluster]
    if np.isnan(curve).any():
        return
    most = float(curve.max())
    tall = _OVER * line.height() / most if most > 0 else 0.0
    foot = line.bottom()
    points = [QPointF(x(float(at)), foot - tall * float(h))
              for at, h in zip(spread.at, curve, strict=True)]  # fmt: skip
    shape = QPolygonF([QPointF(points[0].x(), foot), *points, QPointF(points[-1].x(), foot)])
    fill = QColor(colour)
    fill.setAlphaF(0.45)
    canvas.painter.setPen(QPen(colour, 1.1))
    canvas.painter.setBrush(fill)
    canvas.painter.drawPolygon(shape)


def _stacked(canvas: Canvas, line: QRectF, spread: Spread, cluster: int, theme: Theme) -> None:
    painter, left = canvas.painter, line.left()
    for place, share in enumerate(spread.shares[cluster].tolist()):
        if not share > 0:
            continue
        colour = answer_shade(theme, place, len(spread.answers))
        part = QRectF(left, line.top() + 1, share * line.width(), line.height() - 2)
        painter.setPen(QPen(QColor(theme.panel), 1))
        painter.setBrush(colour)
        painter.drawRect(part)
        if part.width() >= _LEAST_WORDS:
            words = f"{share:.0%}"
            canvas.write(part, words, ink_on(colour, theme), font("note"), "centre")
        left += part.width()


def answer_shade(theme: Theme, place: int, answers: int) -> QColor:
    """From light to dark as answers run."""
    first, last = QColor(theme.middle), QColor(theme.bar)
    share = place / max(answers - 1, 1)
    parts = [(first.red(), last.red()), (first.green(), last.green()), (first.blue(), last.blue())]
    return QColor(*(round(a + share * (b - a)) for a, b in parts))


def spread_words(spread: Spread, kind: SpreadKind, cluster: int, name: str) -> str:
    """What a row shows of a cluster, or of all cases for -1, as a sentence."""
    shown = _fitting(kind, spread)
    if shown is None:
        return f"{spread.name}: too many different answers to show."
    who = name if cluster >= 0 else "all cases"
    if shown == "stacked":
        shares = spread.shares[cluster]
        if np.isnan(shares).any():
            return f"{spread.name}: nobody in {who} answered."
        pairs = zip(spread.answers, shares.tolist(), strict=True)
        told = ", ".join(f"{word} {share:.0%}" for word, share in pairs if share >= 0.005)
        return f"{spread.name}, {who}: {told}."
    five = spread.five[cluster]
    if np.isnan(five).any():
        return f"{spread.name}: nobody in {who} answered."
    least, low, middle, high, most = (f"{value:g}".replace("-", "−") for value in five.round(3))
    return (
        f"{spread.name}, {who}: median {middle}, quartiles {low} and {high}, range "
        f"{least} to {most}."
    )
