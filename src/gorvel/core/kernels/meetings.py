"""Where pairs of cases meet in two trees, counted join by join."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange


@parallel
def count_meetings(begin, places, starts, middles, ends, left, right, met):
    """Count the pairs that meet at each join of one tree, by where they meet in the other.

    For joins of one tree, from `begin` on: the pairs that meet there, by where they meet in the
    other.

    places : places in the other tree of the cases in leaf order of the one, -1 for none; starts,
    middles, ends : where each join of the one begins, is divided, and ends in that order; left,
    right : parts of the joins of the other; met : (some joins, its joins) counts as floats.
    """
    joins = len(left)
    for r in prange(len(met)):
        row = np.int64(r)
        k = begin + row
        one, two = np.zeros(2 * joins + 1, np.int32), np.zeros(2 * joins + 1, np.int32)
        for at in range(starts[k], middles[k]):
            if places[at] >= 0:
                one[places[at]] = 1
        for at in range(middles[k], ends[k]):
            if places[at] >= 0:
                two[places[at]] = 1
        for j in range(joins):
            a, b = left[j], right[j]
            one[joins + 1 + j] = one[a] + one[b]
            two[joins + 1 + j] = two[a] + two[b]
            met[row, j] = np.float64(one[a]) * two[b] + np.float64(one[b]) * two[a]


@kernel
def order_pairs(met, before):
    """Pairs of pairs that both trees put in the same order, and in the other order.

    met : (some joins, joins of the other); before : (joins of the other,) pairs of earlier joins,
    to which these are added.
    """
    same, turned = np.int64(0), np.int64(0)
    total = np.int64(0)
    for j in range(len(before)):
        total += before[j]
    for row in range(len(met)):
        below, added = np.int64(0), np.int64(0)
        for j in range(len(before)):
            here = np.int64(met[row, j])
            if here:
                same += here * below
                turned += here * (total - below - before[j])
            below += before[j]
        for j in range(len(before)):
            here = np.int64(met[row, j])
            before[j] += here
            added += here
        total += added
    return same, turned
