"""Two trees of the same cases: do pairs meet at like heights, and which branches do both have."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.loading import worth_compiling
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_CELLS = 1 << 23  # of the counts below all nodes that are held at a time
_EQUAL = 1e-12  # relative: heights this close are one


@dataclass(frozen=True)
class Comparison:
    """How two trees of the same cases compare.

    cases : in both trees; pearson, spearman : correlations of the heights at which pairs meet;
    gamma : Baker's, of the numbers of clusters up to which they are together; all None where
    undefined; branches : of each tree, sets of 2 or more but not all cases; shared : in both.
    """

    cases: int
    pearson: float | None
    spearman: float | None
    gamma: float | None
    branches: tuple[int, int]
    shared: int


def compare_trees(
    one: Tree, other: Tree, cases: Ints, its_cases: Ints, progress: Progress = silent
) -> Comparison:
    """Compare two trees by the cases that are in both.

    Everything comes from the counts of pairs that meet at one join in the one tree and at one in
    the other, which are passed over row by row; no pairs of pairs are formed.

    Parameters
    ----------
    cases, its_cases : (m,) places of the same cases in the one and in the other tree.

    References
    ----------
    Sokal & Rohlf 1962, The comparison of dendrograms by objective methods; Baker 1974, Stability of
    two hierarchical grouping techniques; Robinson & Foulds 1981, Comparison of phylogenetic trees;
    Day 1985, Optimal algorithms for comparing trees with labeled leaves.
    """
    m = len(cases)
    branches, shared = _branches(one, other, cases, its_cases)
    if m < 3:
        return Comparison(m, None, None, None, branches, shared)
    mine, its = _pairs_at(one, cases), _pairs_at(other, its_cases)
    heights = _moments(one.heights, mine), _moments(other.heights, its)
    ranks = tuple(_moments(_ranks(tree.heights, at), at)
                  for tree, at in ((one, mine), (other, its)))  # fmt: skip
    its_values = np.column_stack([heights[1].values, ranks[1].values])
    by_height = by_rank = 0.0
    concordant = discordant = 0
    before = np.zeros(other.joins, dtype=np.int64)  # pairs met so far, by where they meet there
    for rows, met in _meetings(one, other, cases, its_cases, progress):
        along = met @ its_values
        by_height += float(heights[0].values[rows] @ along[:, 0])
        by_rank += float(ranks[0].values[rows] @ along[:, 1])
        same, turned = _ordered(met, before)
        concordant, discordant = concordant + same, discordant + turned
    both = concordant + discordant
    return Comparison(
        m, _correlation(by_height, *heights), _correlation(by_rank, *ranks),
        (concordant - discordant) / both if both else None, branches, shared,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Moments:
    """Of a value of each join over the pairs that meet there, about their mean.

    norm : root of the sum of squares, 0 where all are equal.
    """

    values: Floats
    norm: float


def _moments(values: Floats, pairs: Ints) -> _Moments:
    mean = float(values @ pairs) / float(pairs.sum())
    off = values - mean
    known = values[pairs > 0]
    level = np.ptp(known) <= 1e-13 * max(float(np.abs(known).max()), 1e-300)
    return _Moments(off, 0.0 if level else float(np.sqrt((off * off) @ pairs)))


def _correlation(products: float, one: _Moments, other: _Moments) -> float | None:
    if not one.norm or not other.norm:
        return None
    return min(max(products / (one.norm * other.norm), -1.0), 1.0)


def _pairs_at(tree: Tree, cases: Ints) -> Ints:
    """(joins,) pairs of some cases that meet at each join."""
    below = np.zeros(tree.n + tree.joins, dtype=np.int64)
    below[cases] = 1
    for join in range(tree.joins):
        below[tree.n + join] = below[tree.left[join]] + below[tree.right[join]]
    return np.asarray(below[tree.left] * below[tree.right])


def _ranks(heights: Floats, pairs: Ints) -> Floats:
    """(joins,) average rank of the pairs that meet at each join, by height."""
    order = np.argsort(heights, kind="stable")
    ordered = heights[order]
    new = np.append(True, np.diff(ordered) > _EQUAL * np.abs(ordered[1:]))
    level = np.cumsum(new) - 1
    counts = np.bincount(level, pairs[order])
    ends = np.cumsum(counts)
    out = np.empty(len(heights))
    out[order] = (ends - counts + (counts + 1) / 2)[level]
    return out


def _meetings(
    one: Tree, other: Tree, cases: Ints, its_cases: Ints, progress: Progress
) -> Iterator[tuple[slice, Floats]]:
    """Counts of the pairs that meet at a join in both trees.

    Some joins of the one tree after the other, and (joins, joins of the other) counts of the pairs
    that meet there in both, as floats, which hold them exactly.
    """
    place = np.full(one.n, -1)
    place[cases] = its_cases
    step = max(1, _CELLS // (other.n + other.joins))
    for begin in range(0, one.joins, step):
        progress(Phase.COMPARE, begin / one.joins)
        rows = slice(begin, min(begin + step, one.joins))
        yield rows, (_compiled if worth_compiling(one.n) else _counted)(one, other, place, rows)


def _compiled(one: Tree, other: Tree, place: Ints, rows: slice) -> Floats:
    """(rows, joins of the other) counts of pairs."""
    from gorvel.core.kernels.meetings import count_meetings

    met = np.empty((rows.stop - rows.start, other.joins))
    starts = one.starts[one.n :]
    middles = starts + one.sizes[one.left]
    first = one.starts[one.left] == starts  # else the right part lies before the left one
    middles = np.where(first, middles, starts + one.sizes[one.right])
    with ONE_AT_A_TIME:
        count_meetings(
            rows.start, place[one.order], starts, middles, starts + one.sizes[one.n :],
            other.left, other.right, met,
        )  # fmt: skip
    return met


def _counted(one: Tree, other: Tree, place: Ints, rows: slice) -> Floats:
    """The same, without a compiled loop."""
    count = rows.stop - rows.start
    sides = np.zeros((2, other.n + other.joins, count), dtype=np.int64)
    for join in range(rows.start, rows.stop):
        for side, node in enumerate((one.left[join], one.right[join])):
            held = place[one.members(int(node))]
            sides[side, held[held >= 0], join - rows.start] = 1
    met, (first, second) = np.empty((other.joins, count)), sides
    for k in range(other.joins):
        a, b, node = int(other.left[k]), int(other.right[k]), other.n + k
        np.add(first[a], first[b], out=first[node])
        np.add(second[a], second[b], out=second[node])
        met[k] = first[a] * second[b] + first[b] * second[a]
    return np.ascontiguousarray(met.T)


def _ordered(met: Floats, before: Ints) -> tuple[int, int]:
    """Pairs of pairs in the same order and in the other; those of `met` are added to `before`."""
    if worth_compiling(len(before) + 1):
        from gorvel.core.kernels.meetings import order_pairs

        with ONE_AT_A_TIME:
            same, turned = order_pairs(met, before)
        return int(same), int(turned)
    whole = met.astype(np.int64)
    up_to = before + np.cumsum(whole, axis=0)
    below = np.cumsum(np.vstack([before, up_to[:-1]]), axis=1)
    before[:] = up_to[-1]
    same = int((whole[:, 1:] * below[:, :-1]).sum())
    return same, int((whole * (below[:, -1:] - below)).sum())


def _branches(one: Tree, other: Tree, cases: Ints, its_cases: Ints) -> tuple[tuple[int, int], int]:
    """How many different sets of cases stand below the joins of each tree, and in both.

    A set is one of the first tree’s just when its cases stand side by side in its leaf order, from
    the first to the last of one of its branches.
    """
    m, place = len(cases), _in_order(one, cases)
    mine = {(low, high) for low, high, size in _spans(one, cases, place) if 2 <= size < m}
    its_own = _spans(other, its_cases, _in_order(other, its_cases))
    its = {(low, high) for low, high, size in its_own if 2 <= size < m}
    both = {
        (low, high)
        for low, high, size in _spans(other, its_cases, place)
        if 2 <= size < m and high - low + 1 == size and (low, high) in mine
    }
    return (len(mine), len(its)), len(both)


def _in_order(tree: Tree, cases: Ints) -> Ints:
    """(m,) where each of some cases stands among them in the leaf order."""
    out = np.empty(len(cases), dtype=np.int64)
    out[np.argsort(np.argsort(tree.order, kind="stable")[cases], kind="stable")] = np.arange(
        len(cases)
    )
    return out


def _spans(tree: Tree, cases: Ints, place: Ints) -> list[tuple[int, int, int]]:
    """For each join the first and the last place of the cases below it, and how many these are."""
    m, n = len(cases), tree.n
    low, high, size = [m] * (n + tree.joins), [-1] * (n + tree.joins), [0] * (n + tree.joins)
    for case, at in zip(cases.tolist(), place.tolist(), strict=True):
        low[case], high[case], size[case] = at, at, 1
    for join, (a, b) in enumerate(zip(tree.left.tolist(), tree.right.tolist(), strict=True), n):
        low[join], high[join] = min(low[a], low[b]), max(high[a], high[b])
        size[join] = size[a] + size[b]
    return list(zip(low[n:], high[n:], size[n:], strict=True))
