"""Cutting a tree into clusters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.tree import Tree

__all__ = ["Cut", "cut_at_count", "cut_at_height", "letters"]


@dataclass(frozen=True, eq=False)
class Cut:
    """A partition of the cases by the first joins of a tree.

    joins_kept : how many joins lie below the cut;
    roots : (k,) the node that is each cluster, clusters numbered by their earliest case;
    membership : (n,) cluster numbers from 1.
    """

    joins_kept: int
    roots: NDArray[np.int64]
    membership: NDArray[np.int64]

    @property
    def clusters(self) -> int:
        return len(self.roots)


def _after(tree: Tree, joins: int) -> Cut:
    nodes = np.arange(tree.n + joins)
    used = tree.used_at[: tree.n + joins]
    roots = nodes[(used < 0) | (used >= joins)]
    roots = roots[np.argsort(tree.firsts[roots])]
    membership = np.empty(tree.n, dtype=np.int64)
    for number, root in enumerate(roots, 1):
        membership[tree.members(int(root))] = number
    return Cut(joins, roots, membership)


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


def letters(number: int) -> str:
    """A, B, .. Z, AA, AB, ..: the letter of a cluster number from 1."""
    out = ""
    while number:
        number, rest = divmod(number - 1, 26)
        out = chr(ord("A") + rest) + out
    return out
