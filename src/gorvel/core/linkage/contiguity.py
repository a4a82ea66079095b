"""Growing a tree in which only clusters that stand next to each other in an order may join."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.agglomerate import join_rows
from gorvel.core.linkage.joining import joining_of
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

_REPORT_EVERY = 32  # joins

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def grow_in_sequence(
    work: Floats,
    key: str,
    sequence: Ints,
    masses: Floats | None = None,
    roots: bool = False,
    progress: Progress = silent,
    beta: float = 0.0,
) -> Tree:
    """Grow the tree of n cases that stand in an order.

    Of the pairs of clusters next to each other the one at the smallest proximity is joined, by the
    rule for equal proximities (see `agglomerate`), which looks at these pairs alone. Heights may
    step back under any linkage.

    Parameters
    ----------
    work, key, masses, roots, progress, beta : see `agglomerate.grow`; of rules with an update.
    sequence : (n,) the place of each case in the order, from 0.

    References
    ----------
    Gordon 1981, Classification, chapter 5 (constrained classification); Legendre & Legendre 2012,
    Numerical Ecology, section 12.6 (chronological clustering).
    """
    linkage, n = LINKAGES[key], work.shape[0]
    masses = np.ones(n) if masses is None or not linkage.masses else masses.astype(np.float64)
    joins = max(n - 1, 0)
    left, right = np.zeros((2, joins), dtype=np.int64)
    heights, tied, matters = np.zeros(joins), np.zeros(joins, bool), np.zeros(joins, bool)
    node = np.arange(n, dtype=np.int64)  # what now lives in each row
    order = np.argsort(sequence, kind="stable")
    before, after = np.full(n, -1, dtype=np.int64), np.full(n, -1, dtype=np.int64)
    before[order[1:]], after[order[:-1]] = order[:-1], order[1:]
    apart = np.full(n, np.inf)  # of each row to the one after it
    apart[order[:-1]] = work[order[:-1], order[1:]]
    np.fill_diagonal(work, np.inf)
    joining = joining_of(linkage, work, masses, beta)
    for k in range(joins):
        if k % _REPORT_EVERY == 0:
            progress(Phase.JOINS, k / joins)
        low = float(apart.min())
        near = np.flatnonzero(apart <= low + TIE_TOLERANCE * abs(low))
        ends = np.sort(np.stack([near, after[near]]), axis=0)
        first = int(near[np.lexsort((ends[1], ends[0]))[0]])
        second = int(after[first])
        i, j = min(first, second), max(first, second)
        tied[k] = near.size > 1
        matters[k] = before[first] in near or second in near
        left[k], right[k], heights[k] = node[i], node[j], work[i, j]
        join_rows(work, i, j, masses, joining)
        node[i] = n + k
        previous, next_ = int(before[first]), int(after[second])
        apart[j] = apart[i] = np.inf
        before[i], after[i] = previous, next_
        if previous >= 0:
            after[previous], apart[previous] = i, work[previous, i]
        if next_ >= 0:
            before[next_], apart[i] = i, work[i, next_]
    if roots:
        heights = np.sqrt(np.maximum(heights, 0.0))
    return Tree(n, left, right, heights, tied, matters)
