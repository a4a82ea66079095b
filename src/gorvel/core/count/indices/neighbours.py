"""Do cases share a cluster with their nearest cases."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.nested import Nested
from gorvel.core.count.indices.pairsums import Distances, PairSums

Floats = NDArray[np.float64]
NEAREST = 10  # cases that are looked at
_EQUAL = 1e-12  # relative: distances this close are equal
_BLOCK = 1 << 22  # cells


def neighbour_values(
    sums: PairSums,
    distances: Distances,
    counts: Sequence[int],
    nearest: int = NEAREST,
    progress: Progress = silent,
) -> Floats:
    """(counts,) the index of nearest neighbours, NaN for one cluster.

    The largest mean share of the nearest cases of a cluster that are outside it, and the sum over
    clusters of the mean distance within, each divided by its largest value over the counts. NaN for
    one cluster.

    nearest : cases, at most all others; equal ones at the edge count in part; progress : told
    "density"; may stop the work by raising.

    References
    ----------
    Liu, Li, Xiong, Gao, Wu & Wu 2013, Understanding and enhancement of internal clustering
    validation measures.
    """
    nested = sums.nested
    nearest = min(nearest, len(nested.order) - 1)
    near = _near(nested, distances, nearest, progress)
    outside, within = np.full((2, len(counts)), np.nan)
    for place, count in enumerate(counts):
        if count < 2:
            continue
        sizes, starts = nested.cluster_sizes(count), nested.starts(count)
        own = np.repeat(np.arange(count), sizes)
        rows, begins = np.arange(len(own)), np.append(0, np.cumsum(sizes)[:-1])
        inside = np.add.reduceat(near, starts, axis=1)[rows, own]
        shares = 1 - np.add.reduceat(inside, begins) / (sizes * nearest)
        totals = np.add.reduceat(sums.to_clusters(count)[rows, own], begins)
        outside[place] = max(float(shares.max()), 0.0)
        within[place] = (totals / np.maximum(sizes * (sizes - 1), 1)).sum()
    return _of_largest(outside) + _of_largest(within)


def _of_largest(values: Floats) -> Floats:
    known = values[np.isfinite(values)]
    largest = known.max() if known.size else 0.0
    return values / largest if largest > 0 else values


def _near(nested: Nested, distances: Distances, nearest: int, progress: Progress) -> Floats:
    """(n, pieces) how many of the nearest cases of each are in each piece, rows in leaf order."""
    order, n = nested.order, len(nested.order)
    out, step = np.zeros((n, nested.finest)), max(1, _BLOCK // n)
    for begin in range(0, n, step):
        progress(Phase.DENSITY, begin / n)
        rows = np.arange(begin, min(begin + step, n))
        far = distances.block(order[rows], order)
        far[np.arange(len(rows)), rows] = np.inf
        edge = np.partition(far, nearest - 1, axis=1)[:, nearest - 1, None]
        sure = far < edge * (1 - _EQUAL)
        level = ~sure & (far <= edge * (1 + _EQUAL))
        part = (nearest - sure.sum(axis=1, keepdims=True)) / level.sum(axis=1, keepdims=True)
        out[rows] = np.add.reduceat(sure + part * level, nested.bounds[:-1], axis=1)
    return out
