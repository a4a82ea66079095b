"""The height chart: over which span of heights each cluster count holds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.tree import Tree


@dataclass(frozen=True, eq=False)
class CountSpans:
    """For each cluster count that has any, the heights between which a cut line gives it.

    clusters, low, high : (m,), from 1 cluster up.
    """

    clusters: NDArray[np.int64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]

    def at(self, height: float) -> tuple[int, float, float] | None:
        """The count at a height, and the ends of its span."""
        found = np.flatnonzero((self.low <= height) & (height < self.high))
        if not found.size:
            return None
        k = int(found[0])
        return int(self.clusters[k]), float(self.low[k]), float(self.high[k])


def reached(heights: NDArray[np.float64]) -> NDArray[np.float64]:
    """(joins,) from which height on a cut line leaves each join made.

    It does so for all joins up to the last that is not above it. Their own heights, but for
    inversions.
    """
    return np.asarray(np.minimum.accumulate(heights[::-1])[::-1])


def count_spans(tree: Tree, top: float) -> CountSpans:
    """The span of each count from 1 up; counts between inverted joins have none.

    top : where the span of one cluster ends.
    """
    heights = np.concatenate([[0.0], reached(tree.heights), [top]])
    low, high = heights[:-1][::-1], heights[1:][::-1]
    clusters = np.arange(1, tree.n + 1)
    real = high > low
    return CountSpans(clusters[real], low[real], high[real])


def largest_jumps(tree: Tree, wanted: int = 3, most_clusters: int = 20) -> list[int]:
    """The cluster counts after which the height jumps most, the largest first."""
    if tree.joins < 2:
        return []
    first = max(0, tree.joins - most_clusters)
    jumps = np.diff(tree.heights[first:])
    best = np.argsort(-jumps, kind="stable")[:wanted]
    return [tree.n - 1 - first - int(k) for k in best if jumps[k] > 0]
