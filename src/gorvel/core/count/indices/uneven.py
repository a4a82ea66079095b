"""The best uneven cut: each branch taken where it is narrow for how far it is apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.pairsums import PairSums
from gorvel.core.grow.grown import Grown

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Uneven:
    """A cut into branches of several heights.

    value : COP of it; level : the count of which it is a refinement; split : joins (from 0) that
    are undone below that, rising; clusters : how many it has.
    """

    value: float
    level: int
    split: tuple[int, ...]
    clusters: int


def uneven_of(grown: Grown, board: IndexTable) -> Uneven | None:
    """The best uneven cut of a tree whose board has COP; None for none."""
    verdict, answers = board.verdicts.get("cop"), grown.prepared.answers
    if verdict is None or verdict.answer is None or board.sums is None or answers is None:
        return None
    return best_uneven(board.sums, answers.points)


def best_uneven(sums: PairSums, points: Floats) -> Uneven | None:
    """The branches with the smallest COP, among those of the finest clusters and above.

    Of equal ones the larger branch is taken. A case alone counts 1, as if it were as wide as it is
    apart, since it would else always be best. None where cases of different branches are equal.

    sums : over pairs of cases; points : (n, p) of which distances are straight.

    References
    ----------
    Gurrutxaga, Albisua, Arbelaitz, Martin, Muguerza, Perez & Perona 2010, SEP/COP: an efficient
    method to find the best partition in hierarchical clustering based on a new cluster validity
    index.
    """
    nested, n = sums.nested, len(sums.nested.order)
    x = points[nested.order]

    def cost(first: int, last: int) -> float:
        """Of the cluster of pieces first..last-1: its share of COP."""
        begin, end = int(nested.bounds[first]), int(nested.bounds[last])
        if end - begin == 1:
            return 1 / n
        if end - begin == n:
            return np.inf
        own = x[begin:end]
        wide = np.sqrt(((own - own.mean(axis=0)) ** 2).sum(axis=1)).mean()
        farthest = sums.highs[:, first:last].max(axis=1)
        apart = min(farthest[:begin].min(initial=np.inf), farthest[end:].min(initial=np.inf))
        return float((end - begin) / n * wide / apart) if apart > 0 else np.inf

    pieces = [(k, k + 1) for k in range(nested.finest)]
    best = {piece: cost(*piece) for piece in pieces}
    undone: dict[tuple[int, int], tuple[int, ...]] = dict.fromkeys(pieces, ())
    for (a, m, b), join in zip(nested.merges.tolist(), nested.joins.tolist(), strict=True):
        whole, parts = cost(a, b), best[a, m] + best[m, b]
        if whole <= parts * (1 + 1e-12):
            best[a, b], undone[a, b] = whole, ()
        else:
            best[a, b], undone[a, b] = parts, (*undone[a, m], *undone[m, b], join)
    root = (0, nested.finest)
    if not np.isfinite(best[root]):
        return None
    joins = sorted(undone[root])
    clusters, level = len(joins) + 1, 1
    last = int(nested.joins[-1]) if len(nested.joins) else -1
    while joins and joins[-1] == last - (level - 1):
        joins.pop()
        level += 1
    return Uneven(best[root], level, tuple(joins), clusters)
