"""The spread of the variables within and between the clusters at every count."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.nested import Nested

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Spreads:
    """Sums of squares at the counts 1 to `finest`; place k stands for k clusters.

    within : (finest + 1,) total within clusters, W; between : (finest + 1,), B;
    by_variable : (finest + 1, p) between, of each variable; total : (p,) of each variable;
    one, two : (finest + 1,) of the cluster that k + 1 clusters split, whole and as two parts;
    split_size : (finest + 1,) its cases; variances : (finest + 1,) sum over clusters of their mean
    sum of squares, n / (n - 1) times, 0 for one case. NaN or 0 where there is none.
    """

    within: Floats
    between: Floats
    by_variable: Floats
    total: Floats
    one: Floats
    two: Floats
    split_size: NDArray[np.int64]
    variances: Floats


def spreads(nested: Nested, values: Floats, importance: Floats, masses: Floats) -> Spreads:
    """Work the sums of squares up from those of the finest clusters.

    Parameters
    ----------
    values : (n, p), complete; importance : (p,); masses : (n,).

    References
    ----------
    Ward 1963: joining masses a, b with means m, q adds a b / (a + b) sum_j v_j (m_j - q_j)^2.
    """
    finest, p = nested.finest, values.shape[1]
    x, w = values[nested.order], masses[nested.order]
    begins = nested.bounds[:-1]
    mass = np.add.reduceat(w, begins)
    first = x[begins]  # means about a case of the piece, so that equal cases have no spread
    off = x - np.repeat(first, nested.sizes, axis=0)
    mean = first + np.add.reduceat(off * w[:, None], begins, axis=0) / mass[:, None]
    away = (x - np.repeat(mean, nested.sizes, axis=0)) ** 2 * w[:, None] * importance
    own = np.add.reduceat(away, begins, axis=0)  # of each piece, and then of what it became
    sizes = nested.sizes.copy()
    growth = np.zeros((finest + 1, p))  # of the join that leaves k
    one, two = np.full((2, finest + 1), np.nan)
    split_size = np.zeros(finest + 1, dtype=np.int64)
    finest_within = own.sum(axis=0)
    variance = own.sum(axis=1) / mass * sizes / np.maximum(sizes - 1, 1)
    variances = np.full(finest + 1, np.nan)
    variances[finest] = variance.sum()
    for row, (a, m, _) in enumerate(nested.merges):
        left = finest - 1 - row
        share = mass[a] * mass[m] / (mass[a] + mass[m])
        added = share * importance * (mean[a] - mean[m]) ** 2
        two[left] = float(own[a].sum() + own[m].sum())
        one[left] = two[left] + float(added.sum())
        mean[a] += (mean[m] - mean[a]) * (mass[m] / (mass[a] + mass[m]))
        mass[a] += mass[m]
        own[a] += own[m] + added
        sizes[a] += sizes[m]
        growth[left], split_size[left] = added, sizes[a]
        variance[m], variance[a] = 0.0, float(own[a].sum()) / mass[a] * sizes[a] / (sizes[a] - 1)
        variances[left] = variance.sum()
    between = np.full((finest + 1, p), np.nan)
    between[1:] = np.cumsum(growth, axis=0)[:-1]  # at k: of the joins that leave 1 .. k - 1
    within = np.full((finest + 1, p), np.nan)
    within[1:] = finest_within + np.cumsum(growth[:0:-1], axis=0)[::-1]
    total = within[1].copy()
    return Spreads(
        within.sum(axis=1), between.sum(axis=1), between, total, one, two, split_size, variances
    )


def davies_bouldin(clusters: NDArray[np.int64], values: Floats, importance: Floats) -> float:
    """Mean over clusters of the largest (s + s') / m; NaN where two centroids are the same.

    clusters : (n,) from 0; values : (n, p), complete; importance : (p,). Weights play no part.

    References
    ----------
    Davies & Bouldin 1979, A cluster separation measure.
    """
    count = int(clusters.max()) + 1
    sizes = np.bincount(clusters, minlength=count)
    points = values * np.sqrt(importance)
    centroids = points[np.unique(clusters, return_index=True)[1]]
    off = points - centroids[clusters]  # about a case of each, so that equal ones have no spread
    for j in range(points.shape[1]):
        centroids[:, j] += np.bincount(clusters, off[:, j], count) / sizes
    far = np.sqrt(((points - centroids[clusters]) ** 2).sum(axis=1))
    width = np.bincount(clusters, far, count) / sizes
    apart = np.sqrt(((centroids[:, None] - centroids[None]) ** 2).sum(axis=2))
    np.fill_diagonal(apart, np.inf)
    if not apart.min() > 0:
        return float("nan")
    return float(np.mean(((width[:, None] + width[None]) / apart).max(axis=1)))
