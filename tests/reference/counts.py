"""Rules for the cluster count, slowly and straight from their definitions.

d : square matrix of distances; c : cluster of each case; x : answers; v : importances; w : weights.
None stands for a value that is not defined.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, product

Matrix = Sequence[Sequence[float]]
Clusters = Sequence[int]


def _split(d: Matrix, c: Clusters) -> tuple[list[float], list[float]]:
    """Distances within and between clusters."""
    pairs = list(combinations(range(len(c)), 2))
    return (
        [d[i][j] for i, j in pairs if c[i] == c[j]],
        [d[i][j] for i, j in pairs if c[i] != c[j]],
    )


def silhouettes(d: Matrix, c: Clusters) -> list[float]:
    out = []
    for i in range(len(c)):
        means = {}
        for cluster in set(c):
            others = [d[i][j] for j in range(len(c)) if j != i and c[j] == cluster]
            means[cluster] = math.fsum(others) / len(others) if others else None
        a = means.pop(c[i])
        b = min(m for m in means.values() if m is not None)
        out.append(0.0 if a is None or max(a, b) == 0 else (b - a) / max(a, b))
    return out


def silhouette(d: Matrix, c: Clusters) -> float:
    return math.fsum(silhouettes(d, c)) / len(c)


def dunn(d: Matrix, c: Clusters) -> float | None:
    within, between = _split(d, c)
    return min(between) / max(within) if within and max(within) > 0 else None


def c_index(d: Matrix, c: Clusters) -> float | None:
    within, between = _split(d, c)
    ordered = sorted(within + between)
    low = math.fsum(ordered[: len(within)])
    high = math.fsum(ordered[len(ordered) - len(within) :])
    return (math.fsum(within) - low) / (high - low) if high - low > 1e-9 * high else None


def gamma(d: Matrix, c: Clusters) -> float | None:
    within, between = _split(d, c)
    agree = against = 0
    for a, b in product(within, between):
        if abs(a - b) > 1e-12 * max(a, b):
            agree, against = agree + (a < b), against + (a > b)
    return (agree - against) / (agree + against) if agree + against else None


def point_biserial(d: Matrix, c: Clusters) -> float | None:
    within, between = _split(d, c)
    x, y = within + between, [0.0] * len(within) + [1.0] * len(between)
    if not within or not between or max(x) - min(x) <= 1e-9 * max(x):
        return None
    mx, my = math.fsum(x) / len(x), math.fsum(y) / len(y)
    both = math.fsum((a - mx) * (b - my) for a, b in zip(x, y, strict=True))
    return both / math.sqrt(
        math.fsum((a - mx) ** 2 for a in x) * math.fsum((b - my) ** 2 for b in y)
    )


def mcclain_rao(d: Matrix, c: Clusters) -> float | None:
    within, between = _split(d, c)
    if not within or math.fsum(between) == 0:
        return None
    return (math.fsum(within) / len(within)) / (math.fsum(between) / len(between))


def sum_of_squares(x: Matrix, v: Sequence[float], w: Sequence[float], cases: list[int]) -> float:
    mass = math.fsum(w[i] for i in cases)
    out = []
    for j, importance in enumerate(v):
        mean = math.fsum(w[i] * x[i][j] for i in cases) / mass
        out.append(importance * math.fsum(w[i] * (x[i][j] - mean) ** 2 for i in cases))
    return math.fsum(out)


def within(x: Matrix, v: Sequence[float], w: Sequence[float], c: Clusters) -> float:
    return math.fsum(
        sum_of_squares(x, v, w, [i for i in range(len(c)) if c[i] == cluster]) for cluster in set(c)
    )


def davies_bouldin(x: Matrix, v: Sequence[float], c: Clusters) -> float | None:
    clusters = sorted(set(c))
    centroid, width = {}, {}
    for cluster in clusters:
        cases = [i for i in range(len(c)) if c[i] == cluster]
        centroid[cluster] = [math.fsum(x[i][j] for i in cases) / len(cases) for j in range(len(v))]
        far = [_euclid(x[i], centroid[cluster], v) for i in cases]
        width[cluster] = math.fsum(far) / len(far)
    worst = []
    for a in clusters:
        ratios = []
        for b in clusters:
            apart = _euclid(centroid[a], centroid[b], v)
            if a != b and apart == 0:
                return None
            if a != b:
                ratios.append((width[a] + width[b]) / apart)
        worst.append(max(ratios))
    return math.fsum(worst) / len(worst)


def _euclid(a: Sequence[float], b: Sequence[float], v: Sequence[float]) -> float:
    return math.sqrt(math.fsum(k * (p - q) ** 2 for p, q, k in zip(a, b, v, strict=True)))


def ratkowsky_lance(x: Matrix, v: Sequence[float], w: Sequence[float], c: Clusters) -> float | None:
    shares = []
    everyone = list(range(len(c)))
    for j in range(len(v)):
        column = [[row[j]] for row in x]
        total = sum_of_squares(column, [1.0], w, everyone)
        if total > 0:
            shares.append(math.sqrt(max(1 - within(column, [1.0], w, c) / total, 0.0)))
    return math.fsum(shares) / len(shares) / math.sqrt(len(set(c))) if shares else None


def adjusted_rand(a: Clusters, b: Clusters) -> float | None:
    """From counts of pairs, as Hubert & Arabie 1985 define it."""
    pairs = list(combinations(range(len(a)), 2))
    both = sum(a[i] == a[j] and b[i] == b[j] for i, j in pairs)
    one, other = sum(a[i] == a[j] for i, j in pairs), sum(b[i] == b[j] for i, j in pairs)
    expected = one * other / len(pairs)
    most = (one + other) / 2
    return (both - expected) / (most - expected) if most != expected else None


def normalised_mutual_information(a: Clusters, b: Clusters) -> float | None:
    """Mutual information over the mean of the two entropies."""
    n = len(a)

    def entropy(labels: Sequence[object]) -> float:
        shares = [labels.count(label) / n for label in set(labels)]
        return -math.fsum(s * math.log(s) for s in shares)

    one, other = entropy(list(a)), entropy(list(b))
    both = entropy(list(zip(a, b, strict=True)))
    return (one + other - both) / ((one + other) / 2) if one + other > 0 else None
