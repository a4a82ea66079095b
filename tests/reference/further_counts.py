"""Further rules for the cluster count, slowly and straight from their definitions.

d : square matrix of distances; c : cluster of each case; x : answers. None stands for a value that
is not defined.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, product

import numpy as np

from reference.counts import _euclid, _split

Matrix = Sequence[Sequence[float]]
Clusters = Sequence[int]


def _members(c: Clusters) -> list[list[int]]:
    return [[i for i in range(len(c)) if c[i] == cluster] for cluster in sorted(set(c))]


def _comparisons(d: Matrix, c: Clusters) -> tuple[int, int, int, int]:
    """Agreeing and disagreeing comparisons, pairs within and between."""
    within, between = _split(d, c)
    agree = against = 0
    for a, b in product(within, between):
        if abs(a - b) > 1e-12 * max(a, b):
            agree, against = agree + (a < b), against + (a > b)
    return agree, against, len(within), len(between)


def tau(d: Matrix, c: Clusters) -> float | None:
    agree, against, inside, outside = _comparisons(d, c)
    pairs = inside + outside
    ties = inside * (inside - 1) / 2 + outside * (outside - 1) / 2
    every = pairs * (pairs - 1) / 2
    below = math.sqrt((every - ties) * every)
    return (agree - against) / below if below > 0 else None


def g_plus(d: Matrix, c: Clusters) -> float | None:
    _, against, inside, outside = _comparisons(d, c)
    pairs = inside + outside
    return 2 * against / (pairs * (pairs - 1)) if inside and outside else None


def cop(x: Matrix, c: Clusters) -> float | None:
    ones = [1.0] * len(x[0])
    total = 0.0
    for own in _members(c):
        centroid = [math.fsum(x[i][j] for i in own) / len(own) for j in range(len(ones))]
        wide = math.fsum(_euclid(x[i], centroid, ones) for i in own) / len(own)
        others = [i for i in range(len(c)) if i not in own]
        apart = min(max(_euclid(x[i], x[j], ones) for j in own) for i in others)
        if apart == 0:
            return None
        total += len(own) * wide / apart
    return total / len(c)


def outside_share(d: Matrix, c: Clusters, nearest: int) -> float:
    """The largest mean share, over clusters, of the nearest cases that lie outside."""
    shares = []
    for own in _members(c):
        out = []
        for i in own:
            far = sorted(d[i][j] for j in range(len(c)) if j != i)[nearest - 1]
            sure = [j for j in range(len(c)) if j != i and d[i][j] < far]
            level = [j for j in range(len(c)) if j != i and d[i][j] == far]
            part = (nearest - len(sure)) / len(level)  # equals count in part
            hit = sum(c[j] != c[i] for j in sure) + part * sum(c[j] != c[i] for j in level)
            out.append(hit / nearest)
        shares.append(math.fsum(out) / len(out))
    return max(shares)


def sum_of_mean_within(d: Matrix, c: Clusters) -> float:
    means = []
    for own in _members(c):
        inside = [d[i][j] for i, j in combinations(own, 2)]
        means.append(math.fsum(inside) / len(inside) if inside else 0.0)
    return math.fsum(means)


def density(d: Matrix, c: Clusters, p: int) -> float:
    """Moulavi et al. 2014. Where no case of a cluster is inner, all are, and so all edges."""
    members, core = _members(c), {}
    for own in members:
        for i in own:
            others = [d[i][j] for j in own if j != i]
            if others and min(others) > 0:
                core[i] = (math.fsum(e**-p for e in others) / len(others)) ** (-1 / p)
            else:
                core[i] = 0.0

    def reach(i: int, j: int) -> float:
        return max(core[i], core[j], d[i][j])

    inner, sparse = [], []
    for own in members:
        edges = _spanning_tree(own, reach)
        degree = {i: sum(i in edge[:2] for edge in edges) for i in own}
        inside = [i for i in own if degree[i] > 1] or list(own)
        kept = [e for i, j, e in edges if i in inside and j in inside] or [e for *_, e in edges]
        inner.append(inside)
        sparse.append(max(kept, default=0.0))
    total = 0.0
    for place, own in enumerate(members):
        if len(own) == 1:
            continue
        apart = min(
            reach(i, j)
            for other in range(len(members)) if other != place
            for i, j in product(inner[place], inner[other])
        )  # fmt: skip
        larger = max(apart, sparse[place])
        total += len(own) / len(c) * ((apart - sparse[place]) / larger if larger > 0 else 0.0)
    return total


def _spanning_tree(own: list[int], reach: object) -> list[tuple[int, int, float]]:
    """By Prim’s way from the first case; of equal edges the one found first."""
    assert callable(reach)
    near = {i: (reach(own[0], i), own[0]) for i in own[1:]}
    edges = []
    while near:
        i = min(near, key=lambda one: near[one][0])
        edges.append((near[i][1], i, near[i][0]))
        del near[i]
        for j in near:
            if reach(i, j) < near[j][0]:
                near[j] = (reach(i, j), i)
    return edges


def within_matrix(x: np.ndarray, w: np.ndarray, c: Clusters) -> np.ndarray:
    out = np.zeros((x.shape[1], x.shape[1]))
    for own in _members(c):
        mean = (x[own] * w[own, None]).sum(axis=0) / w[own].sum()
        for i in own:
            out += w[i] * np.outer(x[i] - mean, x[i] - mean)
    return out


def cubic_criterion(x: np.ndarray, c: Clusters) -> float:
    """Sarle 1983, along the principal axes."""
    n, p = x.shape
    k = len(set(c))
    total = within_matrix(x, np.ones(n), [0] * n)
    s = np.sqrt(np.maximum(np.sort(np.linalg.eigvalsh(total / (n - 1)))[::-1], 0))
    for star in range(min(k - 1, p), 0, -1):
        size = (np.prod(s[:star]) / k) ** (1 / star)
        u = s / size
        if u[star - 1] >= 1:
            break
    expected = 1 - (
        (sum(1 / (n + u[j]) for j in range(star))
         + sum(u[j] ** 2 / (n + u[j]) for j in range(star, p)))
        / (u**2).sum() * (n - k) ** 2 / n * (1 + 4 / n)
    )  # fmt: skip
    r2 = 1 - np.trace(within_matrix(x, np.ones(n), c)) / np.trace(total)
    return float(
        np.log((1 - expected) / (1 - r2)) * np.sqrt(n * star / 2) / (0.001 + expected) ** 1.2
    )


def normal_bic(x: np.ndarray, w: np.ndarray, c: Clusters) -> float:
    """Of normal groups of one covariance, with the shares and centroids of the cut."""
    n, p = x.shape
    w = w * n / w.sum()
    k = len(set(c))
    cov = within_matrix(x, w, c) / n
    density = np.zeros(n)
    for own in _members(c):
        mean = (x[own] * w[own, None]).sum(axis=0) / w[own].sum()
        for i in range(n):
            off = x[i] - mean
            q = off @ np.linalg.inv(cov) @ off
            height = np.exp(-q / 2) / np.sqrt((2 * np.pi) ** p * np.linalg.det(cov))
            density[i] += w[own].sum() / n * height
    parameters = k * p + k - 1 + p * (p + 1) / 2
    return float(2 * (w * np.log(density)).sum() - parameters * np.log(n))


def weighted_spread(x: Matrix, c: Clusters) -> float:
    """Sum over clusters of the squared distances of ordered pairs over 2 n (n - 1)."""
    ones, out = [1.0] * len(x[0]), []
    for own in _members(c):
        pairs = [_euclid(x[i], x[j], ones) ** 2 for i in own for j in own]
        if len(own) > 1:
            out.append(math.fsum(pairs) / (2 * len(own) * (len(own) - 1)))
    return math.fsum(out)
