"""Cutting a tree into clusters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree.tree import Tree


@dataclass(frozen=True, eq=False)
class Cut:
    """A partition of the cases by the first joins of a tree, some branches cut lower.

    joins_kept : how many joins lie below the cut; roots : (k,) the node that is each cluster,
    clusters numbered by their earliest case; membership : (n,) cluster numbers from 1;
    split : joins (from 0) below the cut that are undone, with all that hold them.
    """

    joins_kept: int
    roots: NDArray[np.int64]
    membership: NDArray[np.int64]
    split: tuple[int, ...] = ()

    @property
    def clusters(self) -> int:
        return len(self.roots)

    @property
    def level(self) -> int:
        """The cluster count before branches are cut lower."""
        return len(self.membership) - self.joins_kept


def _after(tree: Tree, joins: int, split: Sequence[int] = ()) -> Cut:
    lower: set[int] = set()  # joins below the cut that are undone all the same
    for join in split:
        while 0 <= join < joins and join not in lower:
            lower.add(join)
            join = int(tree.used_at[tree.n + join])
    undone = np.concatenate([np.array(sorted(lower), np.int64), np.arange(joins, tree.joins)])
    roots = np.array([2 * tree.n - 2])
    if undone.size:
        apart = np.zeros(tree.n + tree.joins, dtype=bool)
        apart[tree.left[undone]] = apart[tree.right[undone]] = True
        apart[tree.n + undone] = False
        roots = np.flatnonzero(apart)
    roots = roots[np.argsort(tree.firsts[roots])]
    side_by_side = np.argsort(tree.starts[roots])
    membership = np.empty(tree.n, dtype=np.int64)
    membership[tree.order] = np.repeat(side_by_side + 1, tree.sizes[roots[side_by_side]])
    return Cut(joins, roots, membership, tuple(sorted(split)))


def cut_branches(tree: Tree, clusters: int, split: Sequence[int]) -> Cut:
    """The partition into a number of clusters, of which some branches are cut lower.

    split : joins (from 0) to be undone, and with them all joins that hold them.

    Raises
    ------
    ValueError : there are not that many cases, or joins.
    """
    if any(not 0 <= join < tree.joins for join in split):
        raise ValueError(f"joins {split} of {tree.joins}")
    if not 1 <= clusters <= tree.n:
        raise ValueError(f"{clusters} clusters of {tree.n} cases")
    below = tree.n - clusters
    return _after(tree, below, sorted({join for join in split if join < below}))


def cut_at_count(tree: Tree, clusters: int) -> Cut:
    """The partition into the given number of clusters, 1..n.

    Raises
    ------
    ValueError : there are not that many cases.
    """
    if not 1 <= clusters <= tree.n:
        raise ValueError(f"{clusters} clusters of {tree.n} cases")
    return _after(tree, tree.n - clusters)


def cut_at_height(tree: Tree, height: float) -> Cut:
    """The partition by all joins not above a height; with inversions, all up to the last such."""
    below = np.flatnonzero(tree.heights <= height)
    return _after(tree, int(below[-1]) + 1 if below.size else 0)
