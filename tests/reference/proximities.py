"""Measures and scalings, one pair of numbers at a time, from the definitions."""

from __future__ import annotations

import math
import statistics
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


def chebyshev(x: Row, y: Row, v: Row) -> float:
    return max(v[j] * abs(x[j] - y[j]) for j in _common(x, y))


def _powers(x: Row, y: Row, v: Row, p: float) -> float:
    both = _common(x, y)
    raw = math.fsum(v[j] * abs(x[j] - y[j]) ** p for j in both)
    return raw if len(both) == len(x) else raw * math.fsum(v) / math.fsum(v[j] for j in both)


def minkowski(x: Row, y: Row, v: Row, p: float) -> float:
    return _powers(x, y, v, p) ** (1 / p)


def power(x: Row, y: Row, v: Row, p: float, r: float) -> float:
    return _powers(x, y, v, p) ** (1 / r)


def canberra(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    raw = math.fsum(v[j] * abs(x[j] - y[j]) / (abs(x[j]) + abs(y[j])) for j in both if x[j] != y[j])
    return raw if len(both) == len(x) else raw * math.fsum(v) / math.fsum(v[j] for j in both)


def bray_curtis(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    below = math.fsum(v[j] * abs(x[j] + y[j]) for j in both)
    return math.fsum(v[j] * abs(x[j] - y[j]) for j in both) / below


def cosine(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    sizes = math.sqrt(math.fsum(x[j] ** 2 for j in both)) * math.sqrt(
        math.fsum(y[j] ** 2 for j in both)
    )
    return 1 - math.fsum(x[j] * y[j] for j in both) / sizes


def correlation(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    a, b = [x[j] for j in both], [y[j] for j in both]
    if len(set(a)) < 2 or len(set(b)) < 2:
        raise ZeroDivisionError
    ma, mb = math.fsum(a) / len(a), math.fsum(b) / len(b)
    return cosine([value - ma for value in a], [value - mb for value in b], v)


def spearman(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    return correlation(ranks([x[j] for j in both]), ranks([y[j] for j in both]), v)


def chi_square(x: Row, y: Row, v: Row) -> float:
    both = _common(x, y)
    rows = [[x[j] for j in both], [y[j] for j in both]]
    sums = [math.fsum(row) for row in rows]
    total, value = math.fsum(sums), 0.0
    if min(sums) == 0:
        raise ZeroDivisionError
    for j in range(len(both)):
        column = rows[0][j] + rows[1][j]
        for row, size in zip(rows, sums, strict=True):
            if column > 0:
                value += (row[j] - size * column / total) ** 2 / (size * column / total)
    return math.sqrt(value)


def phi_square(x: Row, y: Row, v: Row) -> float:
    return chi_square(x, y, v) / math.sqrt(math.fsum(x[j] + y[j] for j in _common(x, y)))


MEASURES = {
    "squared-euclidean": squared_euclidean,
    "euclidean": euclidean,
    "city-block": city_block,
    "chebyshev": chebyshev,
    "minkowski": lambda x, y, v: minkowski(x, y, v, 3.5),
    "power": lambda x, y, v: power(x, y, v, 3.5, 1.5),
    "canberra": canberra,
    "bray-curtis": bray_curtis,
    "cosine": cosine,
    "correlation": correlation,
    "spearman": spearman,
    "chi-square": chi_square,
    "phi-square": phi_square,
}


def presence(key: str, x: Row, y: Row) -> float:
    """Distances of yes/no answers, by the formulas of the plan's contract."""
    both = _common(x, y)
    a = sum(x[j] == 1 and y[j] == 1 for j in both)
    b = sum(x[j] == 1 and y[j] == 0 for j in both)
    c = sum(x[j] == 0 and y[j] == 1 for j in both)
    d = sum(x[j] == 0 and y[j] == 0 for j in both)
    m = a + b + c + d

    def ratio(above: float, below: float) -> float:
        if below == 0:
            return 1.0 if b + c == 0 else 0.0
        return above / below

    margins = math.sqrt((a + b) * (a + c) * (b + d) * (c + d))
    if key in ("kulczynski-1", "sokal-sneath-3"):
        if b + c == 0:
            return 0.0
        return 1 / (1 + (a if key == "kulczynski-1" else a + d) / (b + c))
    return (
        1
        - {
            "simple-matching": lambda: ratio(a + d, m),
            "jaccard": lambda: ratio(a, a + b + c),
            "dice": lambda: ratio(2 * a, 2 * a + b + c),
            "russell-rao": lambda: ratio(a, m),
            "rogers-tanimoto": lambda: ratio(a + d, a + d + 2 * (b + c)),
            "sokal-sneath-1": lambda: ratio(2 * (a + d), 2 * (a + d) + b + c),
            "sokal-sneath-2": lambda: ratio(a, a + 2 * (b + c)),
            "sokal-sneath-4": lambda: (
                (ratio(a, a + b) + ratio(a, a + c) + ratio(d, b + d) + ratio(d, c + d)) / 4
            ),
            "sokal-sneath-5": lambda: ratio(a * d, margins),
            "kulczynski-2": lambda: (ratio(a, a + b) + ratio(a, a + c)) / 2,
            "ochiai": lambda: ratio(a, math.sqrt((a + b) * (a + c))),
            "hamann": lambda: ratio((a + d) - (b + c), m),
            "yule-q": lambda: ratio(a * d - b * c, a * d + b * c),
            "yule-y": lambda: ratio(
                math.sqrt(a * d) - math.sqrt(b * c), math.sqrt(a * d) + math.sqrt(b * c)
            ),
            "phi": lambda: ratio(a * d - b * c, margins),
        }[key]()
    )


def scaled(x: Row, method: str, weights: Row | None) -> list[float]:
    """One variable, scaled by its known values."""
    w = weights or [1.0] * len(x)
    known = [k for k in range(len(x)) if not math.isnan(x[k])]
    values = sorted(x[k] for k in known)
    if method == "none":
        return list(x)
    if method == "rank":
        return ranks(x)
    if method in ("range01", "range11"):
        shares = [(value - values[0]) / (values[-1] - values[0]) for value in x]
        return shares if method == "range01" else [2 * share - 1 for share in shares]
    if method == "max1":
        return [value / max(abs(values[0]), abs(values[-1])) for value in x]
    if method == "robust":
        middle = statistics.median(values)
        mad = statistics.median(abs(value - middle) for value in values)
        return [(value - middle) / (1.4826 * mad) for value in x]
    total = math.fsum(w[k] for k in known)
    mean = math.fsum(w[k] * x[k] for k in known) / total
    if method == "mean1":
        return [value / mean for value in x]
    sd = math.sqrt(math.fsum(w[k] * (x[k] - mean) ** 2 for k in known) / (total - 1))
    return [(value if method == "sd1" else value - mean) / sd for value in x]


def ranks(x: Row) -> list[float]:
    """Average ranks: half a place for every equal value."""
    return [
        math.nan
        if math.isnan(value)
        else sum(other < value for other in x) + (sum(other == value for other in x) + 1) / 2
        for value in x
    ]
