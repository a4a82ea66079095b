"""The cuts of one tree at many counts: each is the one before with two clusters joined."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree

Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Nested:
    """The clusters at every count from 1 to `finest`.

    In leaf order the cases of a cluster stand together, and so do those of the finest clusters,
    which are called pieces here.

    order : (n,) cases in leaf order; bounds : (finest + 1,) where pieces begin in it, and n;
    merges : (finest - 1, 3) from the finest count up: pieces [a, m) and [m, b) become one;
    joins : (finest - 1,) which joins (from 0) these are;
    together : (finest, finest) the largest count at which two pieces share a cluster.
    """

    order: Ints
    bounds: Ints
    merges: Ints
    joins: Ints
    together: Ints

    @property
    def finest(self) -> int:
        return len(self.bounds) - 1

    @property
    def sizes(self) -> Ints:
        """(finest,) cases of each piece."""
        return np.diff(self.bounds)

    def starts(self, count: int) -> Ints:
        """(count,) the first piece of each cluster, in leaf order."""
        return self._starts[count - 1]

    @cached_property
    def _starts(self) -> list[Ints]:
        alone, out = np.ones(self.finest, dtype=bool), [np.arange(self.finest)]
        for middle in self.merges[:, 1]:
            alone[middle] = False
            out.append(np.flatnonzero(alone))
        return out[::-1]

    def cluster_sizes(self, count: int) -> Ints:
        """(count,) cases of each cluster, in leaf order."""
        return np.asarray(np.add.reduceat(self.sizes, self.starts(count)))

    def pairs_within(self, count: int) -> int:
        """How many pairs of cases share a cluster."""
        sizes = self.cluster_sizes(count)
        return int((sizes * (sizes - 1) // 2).sum())

    def clusters(self, count: int) -> Ints:
        """(n,) the cluster of each case, numbered from 0 in leaf order."""
        first = np.zeros(self.finest, dtype=np.int64)
        first[self.starts(count)] = 1
        out = np.empty(len(self.order), dtype=np.int64)
        out[self.order] = np.repeat(np.cumsum(first) - 1, self.sizes)
        return out


def nested_cuts(tree: Tree, finest: int) -> Nested:
    """The cuts of a tree at 1 to `finest` clusters.

    Raises
    ------
    ValueError : there are not that many cases.
    """
    roots = cut_at_count(tree, finest).roots
    starts = np.sort(tree.starts[roots])
    place = {int(start): k for k, start in enumerate(starts)} | {tree.n: finest}
    joins = np.arange(tree.n - finest, tree.joins)
    merges = np.zeros((finest - 1, 3), dtype=np.int64)
    together = np.full((finest, finest), finest, dtype=np.int64)
    for row, join in enumerate(joins.tolist()):
        left, right = int(tree.left[join]), int(tree.right[join])
        a, m = place[int(tree.starts[left])], place[int(tree.starts[right])]
        b = place[int(tree.starts[right] + tree.sizes[right])]
        merges[row] = a, m, b
        together[a:m, m:b] = together[m:b, a:m] = tree.n - 1 - join
    return Nested(tree.order, np.append(starts, tree.n), merges, joins, together)
