"""What several trees of the same cases have in common: an average tree, and shared branches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError, TooLargeError
from gorvel.core.base.limits import free_memory
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.prepared import Prepared
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_MATRICES = 4  # of all pairs that are held at a time, at the most


@dataclass(frozen=True, eq=False)
class Branch:
    """Cases that stand below one join in more than half of the trees.

    tree, node : where it stands in the first tree that has it; place : (n,) of that tree's cases
    among those that all trees have, -1 for others; size : of the branch, among these; share : of
    the trees that have it.
    """

    tree: Tree
    node: int
    place: Ints
    size: int
    share: float

    @property
    def cases(self) -> Ints:
        """Places among the cases that all trees have, rising."""
        inside = self.place[self.tree.members(self.node)]
        return np.sort(inside[inside >= 0])


def in_all(numbers: Sequence[Ints]) -> Ints:
    """The case numbers that all lists have, rising."""
    return np.asarray(reduce(np.intersect1d, numbers))


def cophenetic_matrix(tree: Tree, cases: Ints) -> Floats:
    """(m, m) heights at which some cases meet, 0 on the diagonal."""
    place = np.full(tree.n, -1)
    place[cases] = np.arange(len(cases))
    ordered = place[tree.order]
    kept = ordered[ordered >= 0]  # places of the cases, in leaf order
    before = np.concatenate([[0], np.cumsum(ordered >= 0)])

    def below(node: int) -> Ints:
        start = int(tree.starts[node])
        return np.asarray(kept[before[start] : before[start + int(tree.sizes[node])]])

    out = np.zeros((len(cases), len(cases)))
    for join, (left, right) in enumerate(zip(tree.left.tolist(), tree.right.tolist(), strict=True)):
        one, other = below(left), below(right)
        if len(one) and len(other):
            out[np.ix_(one, other)] = out[np.ix_(other, one)] = tree.heights[join]
    return out


def average_tree(trees: Sequence[Grown], counts: Sequence[int] | None, file: str,
                 progress: Progress = silent) -> tuple[Grown, Plan]:  # fmt: skip
    """The average consensus of trees, of the cases that all of them keep, and a plan that grows it.

    Heights at which cases meet are divided by the largest of each tree, averaged, and joined by
    average linkage; case weights are not used.

    Parameters
    ----------
    trees : two or more of the same source; counts : of its cuts, None for the usual ones; file :
    name of the source.

    Raises
    ------
    InputError : fewer than two cases are in all trees. TooLargeError : too many for the memory.

    References
    ----------
    Lapointe & Cucumel 1997, The average consensus procedure.
    """
    common = in_all([grown.prepared.numbers for grown in trees])
    m = len(common)
    if m < 2:
        found = f"{m} case{'' if m == 1 else 's'} that all trees keep"
        raise InputError(found, "at least 2", place="[consensus]", file=file)
    needed, free = 8.0 * _MATRICES * m * m, free_memory()
    if needed > free:
        raise TooLargeError(file, m, m, needed, free, [])
    total = np.zeros((m, m))
    for done, grown in enumerate(trees):
        progress(Phase.COMPARE, done / len(trees))
        heights = cophenetic_matrix(grown.tree, np.searchsorted(grown.prepared.numbers, common))
        top = float(grown.tree.heights.max(initial=0.0))
        total += heights / top if top > 0 else heights
    total /= len(trees)
    first = trees[0].prepared
    places = np.searchsorted(first.numbers, common)
    labels = tuple(first.labels[k] for k in places.tolist())
    prepared = Prepared(
        file, first.read, common, labels, None, (), None, None, total, first.of, (), ()
    )
    cut = {} if counts is None else {"counts": [count for count in counts if count <= m]}
    plan = validated(
        {"source": {"file": file, "kind": "proximities"}, "tree": {"linkage": "average"},
         "cut": cut}, file,
    )  # fmt: skip
    return grow_prepared(prepared, plan, {}, progress), plan


def shared_branches(trees: Sequence[tuple[Tree, Ints]]) -> list[Branch]:
    """Sets of cases below a join in more than half of the trees; those in all are the strict ones.

    They never contradict each other. The most shared first, then the largest.

    Parameters
    ----------
    trees : each with the places of the same cases, in the same order; sets of 2 to all but one of
    these count.

    References
    ----------
    Margush & McMorris 1981, Consensus n-trees.
    """
    if not trees:
        return []
    m = len(trees[0][1])
    keys = np.random.default_rng(0).integers(0, 2**64, (m, 2), dtype=np.uint64)
    told: dict[tuple[int, int, int], tuple[Branch, int]] = {}
    for tree, cases in trees:
        place = np.full(tree.n, -1)
        place[cases] = np.arange(m)
        sums, sizes = _summed(tree, cases, keys)
        seen: set[tuple[int, int, int]] = set()
        for node in np.flatnonzero((sizes >= 2) & (sizes < m)).tolist():
            key = int(sums[node, 0]), int(sums[node, 1]), int(sizes[node])
            if key not in seen:
                seen.add(key)
                known, many = told.get(key, (Branch(tree, node, place, key[2], 0.0), 0))
                told[key] = known, many + 1
    found = [replace(branch, share=many / len(trees)) for branch, many in told.values()
             if 2 * many > len(trees)]  # fmt: skip
    return sorted(found, key=lambda one: (-one.share, -one.size))


def _summed(tree: Tree, cases: Ints, keys: NDArray[np.uint64]) -> tuple[NDArray[np.uint64], Ints]:
    """(2n-1, 2) sums of the keys of the cases below each node, and (2n-1,) how many these are.

    Two sets are the same where both sums of 64 bits are, and the sizes.
    """
    n = tree.n
    sums, sizes = np.zeros((2 * n - 1, 2), dtype=np.uint64), np.zeros(2 * n - 1, dtype=np.int64)
    sums[cases], sizes[cases] = keys, 1
    for join in range(tree.joins):
        left, right = tree.left[join], tree.right[join]
        sums[n + join] = sums[left] + sums[right]
        sizes[n + join] = sizes[left] + sizes[right]
    sizes[:n] = 0  # a case is no branch
    return sums, sizes
