"""The height chart: over which span of heights each cluster count holds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gorvel.core.tree import Tree

__all__ = ["CountSpan", "count_spans", "largest_jumps"]


@dataclass(frozen=True)
class CountSpan:
    """A cluster count and the heights between which a cut line gives it."""

    clusters: int
    low: float
    high: float


def count_spans(tree: Tree, top: float) -> list[CountSpan]:
    """A span for each count from 1 up, as far as there are joins; inverted joins have none.

    top : where the span of one cluster ends.
    """
    heights = [0.0, *tree.heights.tolist(), top]
    spans = []
    for clusters in range(1, tree.n + 1):
        kept = tree.n - clusters
        if heights[kept + 1] > heights[kept]:
            spans.append(CountSpan(clusters, heights[kept], heights[kept + 1]))
    return spans


def largest_jumps(tree: Tree, wanted: int = 3, most_clusters: int = 20) -> list[int]:
    """The cluster counts after which the height jumps most, the largest first."""
    if tree.joins < 2:
        return []
    jumps = np.diff(tree.heights)
    first = max(0, tree.joins - most_clusters)
    best = first + np.argsort(-jumps[first:], kind="stable")[:wanted]
    return [tree.n - 1 - int(k) for k in best if jumps[k] > 0]
