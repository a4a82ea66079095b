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
from gorvel.core.tree import Tree

__all__ = ["Folded", "fold", "unfold"]

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
    plain = np.ascontiguousarray(values + 0.0)  # no -0.0, whose bits differ
    rows = plain.view(np.dtype((np.void, plain.dtype.itemsize * plain.shape[1])))[:, 0]
    _, found, groups = np.unique(rows, return_index=True, return_inverse=True)
    if len(found) == n:
        return None
    order = np.argsort(found)
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    groups = rank[groups]
    masses = np.bincount(groups, weights=weights, minlength=len(found)).astype(np.float64)
    return Folded(groups, found[order], masses)


def unfold(tree: Tree, folded: Folded) -> Tree:
    """The tree of all cases, from that of the groups.

    At height 0 the earliest cluster that has an equal one left is joined with the earliest of
    these, until none is left.
    """
    n, m = len(folded.groups), tree.n
    extra = n - m
    members = np.split(
        np.argsort(folded.groups, kind="stable"), np.cumsum(np.bincount(folded.groups))[:-1]
    )
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    tied, matters = np.zeros((2, n - 1), dtype=bool)
    node_of = np.empty(m, dtype=np.int64)
    k = 0
    for group, cases in enumerate(members):
        node = int(cases[0])
        for place, case in enumerate(cases[1:].tolist(), 1):
            left[k], right[k] = node, case
            matters[k] = place < len(cases) - 1
            node = n + k
            k += 1
        node_of[group] = node
    tied[: extra - 1] = True  # another pair at 0 is left until the last of these joins

    def renamed(nodes: Ints) -> Ints:
        own = nodes < m
        return np.where(own, node_of[np.where(own, nodes, 0)], n + extra + nodes - m)

    left[extra:], right[extra:] = renamed(tree.left), renamed(tree.right)
    tied[extra:], matters[extra:] = tree.tied, tree.tie_matters
    heights = np.concatenate([np.zeros(extra), tree.heights])
    return Tree(n, left, right, heights, tied, matters)
