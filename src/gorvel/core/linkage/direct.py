"""Trees straight from the answers, without a matrix of proximities.

Both routines give the tree of the one-by-one routine, or nothing where equal proximities could
make the order of joining matter.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.linkage.merges import SLACK, tree_of
from gorvel.core.progress import Progress, silent
from gorvel.core.tree import TIE_TOLERANCE, Tree

__all__ = ["direct_bytes", "single_tree", "ward_tree"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_LEAF = 128  # clusters in the smallest box of the search tree, measured together
_REBUILT = 0.6  # share of clusters still alive at which the search tree is made anew
_SEARCHED = 1 << 24  # clusters that searches may have to look at between two reports
_WIDER = 4.0  # than the tolerance for ties, as roots of lengths lie closer together
_STEP = 1 << 24  # distances between two reports


def direct_bytes(n: int, p: int) -> float:
    """Peak memory of either routine."""
    return 8.0 * n * (10 * p + 40)


class _Clusters:
    """Centroids of the clusters alive, in the order of a tree of boxes."""

    def __init__(self, points: Floats, masses: Floats) -> None:
        n = len(points)
        self.n, self.p = points.shape
        self.centres, self.masses = points.T.copy(), masses.copy()
        self.near = np.full(n, -1, dtype=np.int64)
        self.how_far, self.next_far = np.zeros(n), np.zeros(n)
        self.node, self.first = np.arange(n), np.arange(n)
        self.succeeded = np.arange(n)
        self.alive = self.stale = np.arange(n)
        self.left, self.right = np.zeros((2, n - 1), dtype=np.int64)
        self.heights = np.zeros(n - 1)
        self.made = self._built = 0

    def arrange(self) -> None:
        """Boxes round what is alive; the tree is made anew when much of it has died."""
        from gorvel.core.kernels import ward

        if not self._built or len(self.alive) < _REBUILT * self._built:
            self._rebuild()
        ward.refit(
            self.centres, self.masses, self._begins, self._ends, self._lows, self._highs,
            self._lightest, self._depth,
        )  # fmt: skip

    def _rebuild(self) -> None:
        from gorvel.core.kernels import ward

        self._built = len(self.alive)
        self._depth = max(int(np.ceil(np.log2(max(self._built / _LEAF, 1)))), 0)
        nodes = (2 << self._depth) - 1
        self._begins, self._ends = np.zeros((2, nodes), dtype=np.int64)
        self._lows, self._highs = np.empty((2, nodes, self.p))
        self._lightest = np.empty(nodes)
        order = self.alive.copy()
        ward.build(self.centres, order, self._begins, self._ends, self._depth)
        self._largest = int((self._ends - self._begins)[nodes // 2 :].max())
        where = np.full(len(self.masses), -1, dtype=np.int64)
        where[order] = np.arange(self._built)
        was_stale = np.zeros(len(self.masses), dtype=bool)
        was_stale[self.stale] = True
        near = self.near[order]
        self.near = np.where(near >= 0, where[np.maximum(near, 0)], -1)
        self.centres, self.masses = self.centres[:, order].copy(), self.masses[order]
        self.how_far, self.next_far = self.how_far[order], self.next_far[order]
        self.node, self.first = self.node[order], self.first[order]
        self.stale = np.flatnonzero(was_stale[order])
        self.alive = self.succeeded = np.arange(self._built)
        self.succeeded = self.alive.copy()

    def look(self, stale: Ints) -> bool:
        """Look for the nearest of some; says whether none of them ties."""
        from gorvel.core.kernels import ward

        ward.nearest(
            stale, self.near, self.how_far, self.next_far, self.centres, self.masses,
            self._begins, self._ends, self._lows, self._highs, self._lightest, self._depth, SLACK,
            self._largest,
        )  # fmt: skip
        return bool(np.all(self.next_far[stale] > self.how_far[stale] * SLACK))

    def join(self) -> None:
        """Join all that are nearest to each other, and note who has to look again."""
        from gorvel.core.kernels import ward

        self.made = ward.join_pairs(
            self.n, self.alive, self.near, self.how_far, self.centres, self.masses, self.node,
            self.first, self.made, self.left, self.right, self.heights, self.succeeded,
        )  # fmt: skip
        self.alive = self.alive[self.masses[self.alive] > 0]
        at = self.near[self.alive]
        joined = at == -2
        known = np.maximum(at, 0)
        changed = joined | (self.succeeded[known] != at) | (self.near[known] == -2)
        self.stale = self.alive[changed]
        self.near[self.stale] = np.where(joined, -1, self.succeeded[known])[changed]


def ward_tree(points: Floats, masses: Floats, progress: Progress = silent) -> Tree | None:
    """Ward's rule on squared Euclidean distances; None where nearest clusters tie.

    Parameters
    ----------
    points : (n, p), n at least 2; masses : (n,). Two cases join at 2 w u / (w + u) times their
        squared distance.

    References
    ----------
    Bruynooghe 1977, New methods in automatic classification of numerous taxonomic data; Murtagh
    1983, A survey of recent advances in hierarchical clustering algorithms.
    """
    clusters = _Clusters(points, masses)
    while clusters.made < clusters.n - 1:
        clusters.arrange()
        step = max(_SEARCHED // len(clusters.alive), 64)
        for begin in range(0, len(clusters.stale), step):
            progress("joins", clusters.made / (clusters.n - 1))
            if not clusters.look(clusters.stale[begin : begin + step]):
                return None
        clusters.join()
    return tree_of(clusters.n, clusters.left, clusters.right, clusters.heights)


def single_tree(
    values: Floats, importance: Floats, kind: int, progress: Progress = silent
) -> Tree | None:
    """Single linkage; None where two edges of the spanning tree are equally long.

    Parameters
    ----------
    values : (n, p), n at least 2; importance : (p,); kind : 0 for squared, 1 for absolute
        differences, added up over the variables.

    References
    ----------
    Gower & Ross 1969, Minimum spanning trees and single linkage cluster analysis.
    """
    from gorvel.core.kernels import single

    n, p = values.shape
    columns = np.empty((p, n))
    columns[:, : n - 1], columns[:, n - 1] = values[1:].T, values[0]
    keys = np.full(n - 1, np.inf)
    parents, cases = np.zeros(n - 1, dtype=np.int64), np.arange(1, n)
    ends, starts = np.zeros((2, n - 1), dtype=np.int64)
    lengths = np.zeros(n - 1)
    state = np.array([n - 1, 0])
    taken, pairs = 0, n * (n - 1) / 2
    while taken < n - 1:
        count = min(max(_STEP // int(state[0]), 1), n - 1 - taken)
        progress("joins", 1 - int(state[0]) * (int(state[0]) + 1) / 2 / pairs)
        single.span(
            columns, importance, kind, keys, parents, cases, state, count, ends, starts, lengths
        )
        taken += count
    order = np.argsort(lengths, kind="stable")
    edges = lengths[order]
    if np.any(edges[1:] <= edges[:-1] * (1.0 + _WIDER * TIE_TOLERANCE)):
        return None
    left, right = _joined(n, ends[order].tolist(), starts[order].tolist())
    return tree_of(n, left, right, edges)


def _joined(n: int, ends: list[int], starts: list[int]) -> tuple[Ints, Ints]:
    """Edges from the shortest on, as joins of the clusters they connect."""
    parent = list(range(2 * n - 1))
    left, right = np.zeros((2, n - 1), dtype=np.int64)

    def root(node: int) -> int:
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for k, (a, b) in enumerate(zip(ends, starts, strict=True)):
        one, other = root(a), root(b)
        left[k], right[k] = one, other
        parent[one] = parent[other] = n + k
    return left, right
