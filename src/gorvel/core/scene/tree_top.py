"""The top of a tree in small: its last joins over the clusters they are made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Summit:
    """Shares of a small drawing, 0 to 1 each way; height 0 is the lowest, 1 the last join.

    joins : (joins,) the joins drawn, from 0, and for each
    brackets : (joins, 5) left, right, bottom of the left arm, bottom of the right arm, top;
    leaves : (k, 2) where each of the lowest clusters begins and ends; feet : (k,) its own height;
    lines : height at which a cut leaves each count, place k for k clusters.
    """

    joins: NDArray[np.int64]
    brackets: Floats
    leaves: Floats
    feet: Floats
    lines: Floats


def summit_of(tree: Tree, clusters: int, root: bool = False) -> Summit:
    """The joins that leave fewer than so many clusters.

    root : square roots of the heights, which are squares.
    """
    clusters = min(max(clusters, 1), tree.n)
    heights = np.sqrt(np.maximum(tree.heights, 0)) if root else tree.heights
    top = float(heights.max()) if heights.size and heights.max() > 0 else 1.0
    share = np.clip(heights / top, 0.0, 1.0)
    own = np.concatenate([np.zeros(tree.n), share])
    roots = cut_at_count(tree, clusters).roots
    roots = roots[np.argsort(tree.starts[roots])]
    edges = np.stack([tree.starts[roots], tree.starts[roots] + tree.sizes[roots]], axis=1)
    centres = edges.sum(axis=1) / 2 / tree.n
    middle = dict(zip(roots.tolist(), centres.tolist(), strict=True))
    brackets = []
    for join in range(tree.n - clusters, tree.joins):
        left, right = int(tree.left[join]), int(tree.right[join])
        a, b = middle[left], middle[right]
        middle[tree.n + join] = (a + b) / 2
        brackets.append((a, b, own[left], own[right], share[join]))
    lines = np.full(clusters + 1, np.nan)
    for k in range(1, clusters + 1):
        above = share[tree.n - k] if k > 1 else 1.04
        below = share[tree.n - k - 1] if k < tree.n else 0.0
        lines[k] = (above + below) / 2
    joins = np.arange(tree.n - clusters, tree.joins)
    return Summit(joins, np.array(brackets).reshape(-1, 5), edges / tree.n, own[roots], lines)
