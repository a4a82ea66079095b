"""Joins one by one under rules that look at the members of clusters, on a square matrix.

As `linkage.agglomerate.grow`, to the last bit: a cluster lives in the row of its earliest case, and
for each row the nearest later row is kept and repaired after each join (Anderberg 1973).
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel
from gorvel.core.kernels.joins import place_of, smallest

WITHIN, MINIMAX = 0, 1  # which rule


@inner
def _look(work, row, near, at):
    """The nearest later row, and how far it is."""
    later = work[row, row + 1 :]
    near[row] = smallest(later)
    if len(later):
        at[row] = row + 1 + place_of(later, near[row])


@kernel
def look_at_later(work, near, at):
    """The nearest later row of each; near, at : (n,), infinity for the last."""
    for row in range(len(work)):
        _look(work, row, near, at)


@inner
def _within(work, i, j, across, inside, pairs, masses, new):
    """Proximities to i and j joined: means over all pairs inside, from sums. See `joining`."""
    n = len(new)
    inside[i] += inside[j] + across[i, j]
    pairs[i] += pairs[j] + masses[i] * masses[j]
    for k in range(n):
        across[i, k] += across[j, k]
    for k in range(n):
        across[k, i] = across[i, k]
    joined = masses[i] + masses[j]
    for k in range(n):
        new[k] = np.inf
        if work[i, k] < np.inf:
            total = inside[k] + inside[i] + across[i, k]
            new[k] = total / (pairs[k] + pairs[i] + masses[k] * joined)


@inner
def _minimax(work, i, j, reach, owner, own, new):
    """Proximities to i and j joined: to the member that lies best. See `joining`.

    own : (n,) to work in.
    """
    n, members = len(new), 0
    for c in range(n):
        reach[i, c] = max(reach[i, c], reach[j, c])
        if owner[c] == j:
            owner[c] = i
        if owner[c] == i:
            own[members] = c
            members += 1
        new[c] = np.inf
    for c in range(n):  # members of the other cluster in the middle
        new[owner[c]] = min(new[owner[c]], max(reach[owner[c], c], reach[i, c]))
    for k in range(n):  # members of the joined one
        if not work[i, k] < np.inf:
            new[k] = np.inf
            continue
        best = new[k]
        for q in range(members):
            c = own[q]
            best = min(best, max(reach[k, c], reach[i, c]))
        new[k] = best


@inner
def _first_below(row, begin, bound):
    """The first place from `begin` on that is not above the bound."""
    k = begin
    while row[k] > bound:
        k += 1
    return k


@inner
def _below(row, bound):
    count = 0
    for k in range(len(row)):
        count += row[k] <= bound
    return count


@inner
def _repair(work, near, at, i, j):
    """Rows i and j became row i: mend the rows that pointed at either, or are nearer now."""
    near[j] = np.inf
    for row in range(i):
        if not near[row] < np.inf:
            continue
        if work[row, i] <= near[row]:
            at[row], near[row] = i, work[row, i]
        elif at[row] == i or at[row] == j:
            _look(work, row, near, at)
    for row in range(i + 1, j):
        if near[row] < np.inf and at[row] == j:
            _look(work, row, near, at)
    _look(work, i, near, at)


@kernel
def join_members(
    rule, work, begin, end, tolerance, masses, node, near, at, sums, inside, pairs, owner, left,
    right, heights, tied, matters,
):  # fmt: skip
    """Carry out the joins begin..end-1.

    work : (n, n), infinity on the diagonal and in dead rows; sums : (n, n), across clusters, or the
    reach of each cluster; inside, pairs : (n,) of each cluster; owner : (n,) row of each case's
    cluster; left .. matters : (n-1,) results.
    """
    n = len(work)
    new, own = np.empty(n), np.empty(n, np.int64)
    for step in range(begin, end):
        low = smallest(near)
        bound = low + tolerance * abs(low)
        i = _first_below(near, np.int64(0), bound)
        j = _first_below(work[i], i + 1, bound)
        shared = _below(work[i], bound) > 1 or _below(work[j], bound) > 1
        matters[step] = shared
        tied[step] = shared or _below(near, bound) > 1
        left[step], right[step], heights[step] = node[i], node[j], work[i, j]
        if rule == WITHIN:
            _within(work, i, j, sums, inside, pairs, masses, new)
        else:
            _minimax(work, i, j, sums, owner, own, new)
        new[i] = new[j] = np.inf
        for k in range(n):
            work[i, k] = new[k]
            work[k, i] = new[k]
            work[j, k] = np.inf
            work[k, j] = np.inf
        masses[i] += masses[j]
        node[i] = n + step
        _repair(work, near, at, i, j)
