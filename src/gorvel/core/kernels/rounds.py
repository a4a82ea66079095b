"""Joins in rounds on a square matrix: all pairs that are nearest to each other at once.

Valid for rules under which no join brings two clusters nearer (Bruynooghe 1977), as long as no
nearest neighbours tie. A round touches each row once: it joins the two rows of a pair, joins the
columns of the pairs, and closes the gaps in place; rows keep their memory, found by a table.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange
from gorvel.core.kernels.joins import place_of, smallest

_TASK = 8  # rows handed to a thread at a time

__all__ = ["look_all", "pair_up", "play_round"]


@kernel
def _look(row, k, near, how_far, tie, slack):
    """The nearest cluster of row k, and whether another is as near."""
    low = smallest(row)
    place = place_of(row, low)
    row[place] = np.inf
    tie[k] = smallest(row) <= low * slack
    row[place] = low
    near[k], how_far[k] = place, low


@parallel
def look_all(work, rows, begin, end, m, near, how_far, tie, slack):
    """The nearest of clusters begin..end-1. rows : (m,) where the row of each cluster is."""
    for r in prange(begin, end):
        k = np.int64(r)
        _look(work[rows[k], :m], k, near, how_far, tie, slack)


@kernel
def pair_up(m, near, how_far, masses, node, rows, first_of, second_of, pairs, cases, made, left,
            right, heights, new_masses, new_node, new_rows, new_near):  # fmt: skip
    """Lay out the next round; returns the clusters and the pairs there will be.

    first_of, second_of : (m',) old places of each new cluster, the second -1 for one alone; pairs :
    new places of joined clusters; new_near : what each was nearest to, or -1 where it must look.
    """
    where = np.full(m, -1, np.int64)
    to, count = 0, 0
    for k in range(m):
        other = near[k]
        paired = near[other] == k
        if paired and other < k:
            continue
        first_of[to], new_rows[to] = k, rows[k]
        where[k] = to
        if paired:
            second_of[to] = other
            where[other] = -2
            left[made], right[made], heights[made] = node[k], node[other], how_far[k]
            new_masses[to], new_node[to] = masses[k] + masses[other], cases + made
            pairs[count] = to
            count += 1
            made += 1
        else:
            second_of[to] = -1
            new_masses[to], new_node[to] = masses[k], node[k]
        to += 1
    for c in range(to):
        k = first_of[c]
        new_near[c] = -1
        if second_of[c] < 0:
            at = where[near[k]]
            if at >= 0 and second_of[at] < 0:
                new_near[c] = at
    return to, count


@kernel
def _combined(mode, a, b, one, other):
    if mode == 0:
        return min(a, b)
    if mode == 1:
        return max(a, b)
    return (one * a + other * b) / (one + other)


@kernel
def _join_rows(mode, row, there, one, other, joined):
    """The proximities of all to a joined pair."""
    m = len(row)
    if mode == 0:
        for k in range(m):
            joined[k] = min(row[k], there[k])
    elif mode == 1:
        for k in range(m):
            joined[k] = max(row[k], there[k])
    else:
        total = one + other
        for k in range(m):
            joined[k] = (one * row[k] + other * there[k]) / total


@kernel
def _join_columns(mode, joined, masses, equal, ones, others, pairs, first, to, values, row):
    """The columns of pairs joined, and those that stay drawn together into row[:to].

    ones, others, pairs : (count,) parts of pairs and their new places; first : (to,) what stays.
    """
    count = len(pairs)
    if equal:
        for q in range(count):
            values[q] = _combined(mode, joined[ones[q]], joined[others[q]], 1.0, 1.0)
    else:
        for q in range(count):
            a, b = ones[q], others[q]
            values[q] = _combined(mode, joined[a], joined[b], masses[a], masses[b])
    for k in range(to):
        row[k] = joined[first[k]]
    for q in range(count):
        row[pairs[q]] = values[q]


@parallel
def play_round(work, m, rows, masses, equal, how_far, first_of, second_of, pairs, count, to, mode,
               new_near, new_far, tie, slack, begin, end):  # fmt: skip
    """Carry a round out for new clusters begin..end-1; how_far, masses : of the old places; to :

    clusters there will be.
    """
    first = first_of[:to].astype(np.uint32)  # unsigned and short: gathered faster
    places = pairs[:count].astype(np.uint32)
    ones, others = np.empty(count, np.uint32), np.empty(count, np.uint32)
    for q in range(count):
        ones[q], others[q] = first_of[pairs[q]], second_of[pairs[q]]
    tasks = (end - begin + _TASK - 1) // _TASK
    for task in prange(tasks):
        joined, values = np.empty(m), np.empty(count)
        top = begin + np.int64(task) * _TASK
        for c in range(top, min(top + _TASK, end)):
            i, j = first_of[c], second_of[c]
            row = work[rows[i], :m]
            if j >= 0:
                one, other = 1.0, 1.0
                if not equal:
                    one, other = masses[i], masses[j]
                _join_rows(mode, row, work[rows[j], :m], one, other, joined)
                _join_columns(mode, joined, masses, equal, ones, others, places, first, to, values,
                              row)  # fmt: skip
            else:
                _join_columns(
                    mode, row, masses, equal, ones, others, places, first, to, values, row
                )
            row[c] = np.inf
            if new_near[c] < 0:
                _look(row[:to], c, new_near, new_far, tie, slack)
            else:
                new_far[c] = how_far[i]
                tie[c] = False
