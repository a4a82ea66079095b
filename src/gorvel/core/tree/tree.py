"""The tree: which parts were joined, in which order, at what height."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels import upward

TIE_TOLERANCE = 1e-12  # relative: proximities this close are equal

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Tree:
    """A binary hierarchy of n cases, as n - 1 joins in order of joining.

    Nodes are numbered: 0..n-1 are the cases in file order, n + k is what join k (from 0) made.

    Parameters
    ----------
    n : number of cases, at least 1.
    left, right : (n-1,) the nodes joined; left holds the earlier first case.
    heights : (n-1,) in the order of joining; may step back (an inversion) where the rule allows.
    tied : (n-1,) more than one pair was at the smallest proximity.
    tie_matters : (n-1,) one of those other pairs shares a cluster with the pair joined.
    """

    n: int
    left: Ints
    right: Ints
    heights: Floats
    tied: Flags
    tie_matters: Flags

    @property
    def joins(self) -> int:
        return self.n - 1

    @cached_property
    def sizes(self) -> Ints:
        """(2n-1,) number of cases below each node."""
        return np.asarray(upward.sizes(self.left, self.right))

    @cached_property
    def firsts(self) -> Ints:
        """(2n-1,) the earliest case below each node."""
        return np.asarray(upward.firsts(self.left, self.right))

    @cached_property
    def used_at(self) -> Ints:
        """(2n-1,) the join (from 0) that takes each node up; -1 for the root."""
        used = np.full(2 * self.n - 1, -1, dtype=np.int64)
        used[self.left] = np.arange(self.joins)
        used[self.right] = np.arange(self.joins)
        return used

    @cached_property
    def starts(self) -> Ints:
        """(2n-1,) the position of each node's first leaf in leaf order."""
        return np.asarray(upward.starts(self.left, self.right, self.sizes))

    @cached_property
    def order(self) -> Ints:
        """(n,) the cases as drawn: left part before right part, everywhere."""
        order = np.empty(self.n, dtype=np.int64)
        order[self.starts[: self.n]] = np.arange(self.n)
        return order

    def members(self, node: int) -> Ints:
        """The cases below a node, in leaf order."""
        start = self.starts[node]
        return self.order[start : start + self.sizes[node]]

    @cached_property
    def inversions(self) -> Flags:
        """(n-1,) joins lower than the one before (beyond relative rounding of 1e-12)."""
        before, now = self.heights[:-1], self.heights[1:]
        lower = now < before - 1e-12 * np.abs(before)
        return np.concatenate([np.zeros(min(1, self.joins), dtype=bool), lower])

    def meeting(self, a: int, b: int) -> int:
        """The join (from 0) at which two different nodes first share a cluster."""
        while a != b:
            a, b = max(a, b), min(a, b)
            b = self.n + int(self.used_at[b])  # the lower-numbered node is taken up first or equal
        return a - self.n


def correlation_of_sums(
    both: float, spread: float, spread_heights: float, pairs: float, mean: float, level: float
) -> float | None:
    """Pearson's r from sums of products and squares about the means.

    None where a side is constant but for rounding; mean, level : of the two sides.
    """
    flat = spread <= pairs * (1e-13 * mean) ** 2 or spread_heights <= pairs * (1e-13 * level) ** 2
    if flat:
        return None
    return float(np.clip(both / np.sqrt(spread * spread_heights), -1.0, 1.0))


def agglomerative_coefficient(tree: Tree) -> float | None:
    """1 - mean over cases of (height of the case's first join / last height); None if that is 0.

    References
    ----------
    Kaufman & Rousseeuw 1990, Finding Groups in Data, chapter 5.
    """
    if tree.joins < 1 or tree.heights[-1] == 0:
        return None
    first_joins = tree.heights[tree.used_at[: tree.n]]
    return float(1.0 - np.mean(first_joins) / tree.heights[-1])
