"""Measures and scalings, one pair of numbers at a time, from the definitions."""

from __future__ import annotations

import math
from collections.abc import Sequence

Row = Sequence[float]


def _common(x: Row, y: Row) -> list[int]:
    return [j for j in range(len(x)) if not (math.isnan(x[j]) or math.isnan(y[j]))]


def _sum_scaled(x: Row, y: Row, v: Row, power: int) -> float:
    both = _common(x, y)
    raw = math.fsum(v[j] * abs(x[j] - y[j]) ** power for j in both)
    if len(both) == len(x):
        return raw
    return raw * math.fsum(v) / math.fsum(v[j] for j in both)


def squared_euclidean(x: Row, y: Row, v: Row) -> float:
    return _sum_scaled(x, y, v, 2)


def euclidean(x: Row, y: Row, v: Row) -> float:
    return math.sqrt(_sum_scaled(x, y, v, 2))


def city_block(x: Row, y: Row, v: Row) -> float:
    return _sum_scaled(x, y, v, 1)


def gower(
    x: Row, y: Row, v: Row, levels: Sequence[str], asymmetric: Sequence[bool], ranges: Row
) -> float:
    """Gower 1971: 1 - sum of importance x likeness over sum of importance."""
    above = below = 0.0
    for j in _common(x, y):
        if asymmetric[j] and x[j] == 0 and y[j] == 0:
            continue
        if levels[j] in ("interval", "ordinal"):
            likeness = 1.0 if ranges[j] == 0 else 1 - abs(x[j] - y[j]) / ranges[j]
        else:
            likeness = float(x[j] == y[j])
        above += v[j] * likeness
        below += v[j]
    return 1 - above / below


MEASURES = {
    "squared-euclidean": squared_euclidean,
    "euclidean": euclidean,
    "city-block": city_block,
}


def scaled(x: Row, method: str, weights: Row | None) -> list[float]:
    """One variable, scaled by its known values."""
    w = weights or [1.0] * len(x)
    known = [k for k in range(len(x)) if not math.isnan(x[k])]
    if method == "none":
        return list(x)
    if method == "range01":
        low, high = min(x[k] for k in known), max(x[k] for k in known)
        return [(value - low) / (high - low) for value in x]
    total = math.fsum(w[k] for k in known)
    mean = math.fsum(w[k] * x[k] for k in known) / total
    sd = math.sqrt(math.fsum(w[k] * (x[k] - mean) ** 2 for k in known) / (total - 1))
    return [(value - mean) / sd for value in x]


def ranks(x: Row) -> list[float]:
    """Average ranks: half a place for every equal value."""
    return [
        math.nan
        if math.isnan(value)
        else sum(other < value for other in x) + (sum(other == value for other in x) + 1) / 2
        for value in x
    ]
