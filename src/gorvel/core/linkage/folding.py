"""Equal rows folded into one weighted case, and the tree of all cases unfolded from theirs.

Equal cases are at proximity 0 and so are joined before all others. For rules under which a cluster
of equal cases stands to every other as any one of them does, with the mass of all, the rest of the
tree is that of the folded cases.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.proximity.answers import Answers
from gorvel.core.tree.tree import Tree

_ODD = np.uint64(0x9E3779B97F4A7C15)

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Folded:
    """m groups of equal cases among n, in the order of their first cases.

    groups : (n,) group of each case; firsts : (m,); masses : (m,).
    """

    groups: Ints
    firsts: Ints
    masses: Floats

    def of(self, answers: Answers) -> Answers:
        """The answers of the first case of each group."""
        return replace(answers, values=answers.values[self.firsts])


def fold(values: Floats, weights: Floats | None) -> Folded | None:
    """Find equal rows; None when all rows differ, or some have gaps.

    values : (n, p); weights : (n,) or None.
    """
    n = len(values)
    if np.isnan(values).any():
        return None
    groups, found = _equal_rows(np.ascontiguousarray(values + 0.0))  # no -0.0, whose bits differ
    if len(found) == n:
        return None
    order = np.argsort(found)
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    groups = rank[groups]
    masses = np.bincount(groups, weights=weights, minlength=len(found)).astype(np.float64)
    return Folded(groups, found[order], masses)


def _equal_rows(values: Floats) -> tuple[Ints, Ints]:
    """(n,) the group of each row, and the first row of each group.

    Rows are put in order by a number made from their bits, and compared in full with their
    neighbours; should different rows have one number, they are put in order in full.
    """
    bits = values.view(np.uint64)
    mixed = np.zeros(len(values), dtype=np.uint64)
    for column in bits.T:
        mixed = (mixed ^ column) * _ODD
        mixed ^= mixed >> np.uint64(29)
    order = np.argsort(mixed, kind="stable")
    ranked = bits[order]
    other = (ranked[1:] != ranked[:-1]).any(axis=1)
    if (other & (mixed[order[1:]] == mixed[order[:-1]])).any():
        rows = values.view(np.dtype((np.void, values.dtype.itemsize * values.shape[1])))[:, 0]
        _, found, groups = np.unique(rows, return_index=True, return_inverse=True)
        return groups, found
    heads = np.concatenate([[True], other])
    groups = np.empty(len(values), dtype=np.int64)
    groups[order] = np.cumsum(heads) - 1
    return groups, order[heads]


def unfold(tree: Tree, folded: Folded) -> Tree:
    """The tree of all cases, from that of the groups.

    At height 0 the earliest cluster that has an equal one left is joined with the earliest of
    these, until none is left.
    """
    n, m = len(folded.groups), tree.n
    extra = n - m
    cases = np.argsort(folded.groups, kind="stable")
    counts = np.bincount(folded.groups)
    heads = np.cumsum(counts) - counts
    place = np.arange(n) - np.repeat(heads, counts)  # of each case in its group
    later = place > 0
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    tied, matters = np.zeros((2, n - 1), dtype=bool)
    made = n + np.arange(-1, extra - 1)  # by the join before
    left[:extra] = np.where(place[later] == 1, np.repeat(cases[heads], counts)[later], made)
    right[:extra] = cases[later]
    matters[:extra] = (place < np.repeat(counts, counts) - 1)[later]
    node_of = np.where(counts == 1, cases[heads], n - 1 + np.cumsum(counts - 1))
    tied[: extra - 1] = True  # another pair at 0 is left until the last of these joins

    def renamed(nodes: Ints) -> Ints:
        own = nodes < m
        return np.where(own, node_of[np.where(own, nodes, 0)], n + extra + nodes - m)

    left[extra:], right[extra:] = renamed(tree.left), renamed(tree.right)
    tied[extra:], matters[extra:] = tree.tied, tree.tie_matters
    heights = np.concatenate([np.zeros(extra), tree.heights])
    return Tree(n, left, right, heights, tied, matters)
