"""Agglomeration from the definition: at every step all pairs of clusters are measured afresh.

Arithmetic is exact when the proximities are fractions, so that ties are ties and nothing else.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

Number = Fraction | float
Matrix = Sequence[Sequence[Number]]
Cluster = tuple[int, ...]
Parts = dict[Cluster, tuple[Cluster, Cluster]]  # what each cluster was joined from, in order
Between = Callable[[Matrix, Sequence[Number], Cluster, Cluster], Number]


def _total(numbers: Sequence[Number]) -> Number:
    return sum(numbers, start=type(numbers[0])(0))


def _mean(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    above = _total([w[i] * w[j] * d[i][j] for i in a for j in b])
    return above / (_total([w[i] for i in a]) * _total([w[j] for j in b]))


def single(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    return min(d[i][j] for i in a for j in b)


def complete(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    return max(d[i][j] for i in a for j in b)


def centroid(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    """Squared distance of two means, from squared distances of their members (Torgerson 1958)."""
    return _mean(d, w, a, b) - _mean(d, w, a, a) / 2 - _mean(d, w, b, b) / 2


def ward(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    """Twice the growth of the within-cluster sum of squares."""
    left, right = _total([w[i] for i in a]), _total([w[j] for j in b])
    return 2 * left * right / (left + right) * centroid(d, w, a, b)


def within_average(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    pairs = list(itertools.combinations(a + b, 2))
    above = _total([w[i] * w[j] * d[i][j] for i, j in pairs])
    return above / _total([w[i] * w[j] for i, j in pairs])


def minimax(d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster) -> Number:
    both = a + b
    return min(max(d[i][j] for j in both if j != i) for i in both)


RULES: dict[str, Between] = {
    "single": single,
    "complete": complete,
    "average": _mean,
    "within-average": within_average,
    "minimax": minimax,
    "centroid": centroid,
    "ward": ward,
}


def _shares(a: Cluster, parts: Parts) -> dict[int, Number]:
    """The share of each case when both parts of every cluster count alike."""
    if len(a) == 1:
        return {a[0]: Fraction(1)}
    halves = [_shares(part, parts) for part in parts[a]]
    return {case: share / 2 for half in halves for case, share in half.items()}


def _weighted(d: Matrix, one: dict[int, Number], other: dict[int, Number]) -> Number:
    return sum(p * q * Fraction(d[i][j]) for i, p in one.items() for j, q in other.items())


def _with_history(
    rule: str, d: Matrix, w: Sequence[Number], a: Cluster, b: Cluster, parts: Parts, beta: Number
) -> Number:
    """Rules that depend on how the clusters came about."""
    if rule in ("weighted-average", "median"):
        one, other = _shares(a, parts), _shares(b, parts)
        value = _weighted(d, one, other)
        if rule == "median":  # squared distance of two points, from those of their components
            value -= _weighted(d, one, one) / 2 + _weighted(d, other, other) / 2
        return value
    if len(a) == len(b) == 1:
        return Fraction(d[a[0]][b[0]])
    order = list(parts)
    if len(b) > 1 and (len(a) == 1 or order.index(b) > order.index(a)):
        a, b = b, a  # a was joined last: Lance & Williams define it by its parts
    left, right = parts[a]
    to_left = _with_history(rule, d, w, left, b, parts, beta)
    to_right = _with_history(rule, d, w, right, b, parts, beta)
    apart = _with_history(rule, d, w, left, right, parts, beta)
    if rule == "flexible":
        return (1 - beta) / 2 * (to_left + to_right) + beta * apart
    p, q = (Fraction(_total([w[i] for i in part])) for part in (left, right))
    return (1 - beta) * (p * to_left + q * to_right) / (p + q) + beta * apart


@dataclass(frozen=True)
class Join:
    left: Cluster
    right: Cluster
    height: Number
    tied: bool
    matters: bool


def agglomerate(
    d: Matrix, weights: Sequence[Number], rule: str, beta: Number = Fraction(0)
) -> list[Join]:
    """d must be squared already for rules that want it. Clusters are sorted tuples of cases."""
    clusters: list[Cluster] = [(i,) for i in range(len(weights))]
    joins = []
    parts: Parts = {}

    def between(a: Cluster, b: Cluster) -> Number:
        if rule in RULES:
            return RULES[rule](d, weights, a, b)
        return _with_history(rule, d, weights, a, b, parts, beta)

    while len(clusters) > 1:
        found = [(between(a, b), a, b) for a, b in itertools.combinations(clusters, 2)]
        low = min(height for height, _, _ in found)
        near = [
            (a[0], b[0], height, a, b)
            for height, a, b in found
            if height <= low + abs(low) * type(low)(1e-12)
        ]
        _, _, height, a, b = min(near)
        others = [(p, q) for _, _, _, p, q in near if (p, q) != (a, b)]
        shares = any({p, q} & {a, b} for p, q in others)
        joins.append(Join(a, b, height, bool(others), shares))
        parts[tuple(sorted(a + b))] = (a, b)
        clusters = sorted(
            (*(c for c in clusters if c not in (a, b)), tuple(sorted(a + b))), key=lambda c: c[0]
        )
    return joins


def cut(joins: Sequence[Join], cases: int, kept: int) -> list[int]:
    """Cluster numbers from 1 by earliest case, after the first `kept` joins."""
    clusters = {(i,) for i in range(cases)}
    for join in joins[:kept]:
        clusters -= {join.left, join.right}
        clusters.add(tuple(sorted(join.left + join.right)))
    numbers = {c: k for k, c in enumerate(sorted(clusters), 1)}
    return [next(k for c, k in numbers.items() if i in c) for i in range(cases)]


def cophenetic(joins: Sequence[Join], heights: Sequence[float], cases: int) -> list[list[float]]:
    out = [[0.0] * cases for _ in range(cases)]
    for join, height in zip(joins, heights, strict=True):
        for i in join.left:
            for j in join.right:
                out[i][j] = out[j][i] = height
    return out


def pearson(x: Sequence[float], y: Sequence[float]) -> float:
    mx, my = math.fsum(x) / len(x), math.fsum(y) / len(y)
    top = math.fsum((a - mx) * (b - my) for a, b in zip(x, y, strict=True))
    return top / math.sqrt(
        math.fsum((a - mx) ** 2 for a in x) * math.fsum((b - my) ** 2 for b in y)
    )


def within_ss(
    clusters: Sequence[int], x: Sequence[Sequence[float]], v: Sequence[float], w: Sequence[float]
) -> float:
    """Total within-cluster sum of squares of a partition, with importances and weights."""
    total = 0.0
    for number in set(clusters):
        cases = [i for i, c in enumerate(clusters) if c == number]
        mass = math.fsum(w[i] for i in cases)
        for j, importance in enumerate(v):
            mean = math.fsum(w[i] * x[i][j] for i in cases) / mass
            total += importance * math.fsum(w[i] * (x[i][j] - mean) ** 2 for i in cases)
    return total
