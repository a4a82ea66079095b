"""Joins in rounds on a square matrix: all pairs that are nearest to each other at once.

Valid for rules under which no join brings two clusters nearer (Bruynooghe 1977), as long as no
nearest neighbours tie. A round touches each row once: it joins the two rows of a pair, joins the
columns of the pairs, and moves the last clusters into the gaps; rows keep their memory, found by a
table.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange
from gorvel.core.kernels.histories import mend_columns, mend_row
from gorvel.core.kernels.joins import INFINITY, of_bits, ordered_bits, place_of, smallest

_TASK = 8  # rows handed to a thread at a time
_BLOCK = 256  # places whose smallest is found together

Floats = NDArray[np.float64]
Places = NDArray[np.uint32]  # unsigned and short: gathered faster


class Round(NamedTuple):
    """A round laid out: which clusters are joined, and where all go.

    ones, others, places : (pairs,) old places of the parts, new place; one_share, other_share :
    (pairs,) of the parts in a mean; heights : (pairs,); sources, targets : (moves,) old places that
    move into gaps; first_of, pair_of : (clusters,) of each new place the old one, and its pair or
    -1.
    """

    ones: Places
    others: Places
    places: Places
    one_share: Floats
    other_share: Floats
    heights: Floats
    sources: Places
    targets: Places
    first_of: NDArray[np.int64]
    pair_of: NDArray[np.int64]


@inner
def _look(row, k, near, how_far, tie, slack):
    """The nearest cluster of row k, and whether another is as near."""
    n = len(row)
    bits = row.view(np.int64)
    low, second, at = INFINITY, INFINITY, 0
    for begin in range(0, n, _BLOCK):
        part = bits[begin : min(begin + _BLOCK, n)]
        best = INFINITY
        for q in range(len(part)):
            best = min(best, ordered_bits(part[q]))
        if best < low:
            low, second, at = best, low, begin
        elif best < second:
            second = best
    block = row[at : min(at + _BLOCK, n)]
    nearest = of_bits(low)
    place = place_of(block, nearest)
    block[place] = np.inf
    tie[k] = min(smallest(block), of_bits(second)) <= nearest * slack
    block[place] = nearest
    near[k], how_far[k] = at + place, nearest


@parallel
def look_all(work, rows, begin, end, m, near, how_far, tie, slack):
    """The nearest of clusters begin..end-1. rows : (m,) where the row of each cluster is."""
    for r in prange(begin, end):
        k = np.int64(r)
        _look(work[rows[k], :m], k, near, how_far, tie, slack)


@kernel
def pair_up(m, near, how_far, masses, scale, ones, others, places, one_share, other_share,
            heights, sources, targets, first_of, pair_of, new_near):  # fmt: skip
    """Lay out the next round, see `Round`; returns its pairs and moves.

    masses : (m,), what parts count for; scale : of means; new_near : what each was nearest to, or
    -1 where it must look.
    """
    where = np.arange(m)
    count = 0
    for k in range(m):
        other = near[k]
        if k < other and near[other] == k:
            ones[count], others[count], heights[count] = k, other, how_far[k]
            total = masses[k] + masses[other]
            one_share[count] = scale * (masses[k] / total)
            other_share[count] = scale * (masses[other] / total)
            where[other] = -2
            count += 1
    to, moves, last = m - count, 0, m - 1
    for c in range(to):
        first_of[c], pair_of[c] = c, -1
    for q in range(count):
        gap = np.int64(others[q])
        if gap < to:
            while where[last] < 0:
                last -= 1
            sources[moves], targets[moves], first_of[gap] = last, gap, last
            where[last] = gap
            moves += 1
            last -= 1
    for q in range(count):
        places[q] = where[np.int64(ones[q])]
        pair_of[np.int64(places[q])] = q
    for c in range(to):
        new_near[c] = -1
        if pair_of[c] < 0:
            at = where[near[first_of[c]]]
            if at >= 0 and pair_of[at] < 0:
                new_near[c] = at
    return count, moves


@inner
def _join_rows(mode, row, there, one, other, shift):
    """The proximities of all to a joined pair, in the row of its first part."""
    m = len(row)
    if mode == 0:
        for k in range(m):
            row[k] = min(row[k], there[k])
    elif mode == 1:
        for k in range(m):
            row[k] = max(row[k], there[k])
    else:
        for k in range(m):
            row[k] = (one * row[k] + other * there[k]) + shift


@inner
def _join_columns(mode, row, ones, others, one_share, other_share, heights, beta, values):
    """The proximities of a row to all joined pairs."""
    count = len(values)
    if mode == 0:
        for q in range(count):
            values[q] = min(row[ones[q]], row[others[q]])
    elif mode == 1:
        for q in range(count):
            values[q] = max(row[ones[q]], row[others[q]])
    else:
        for q in range(count):
            mean = one_share[q] * row[ones[q]] + other_share[q] * row[others[q]]
            values[q] = mean + beta * heights[q]


@inner
def _read_ahead(row):
    """Bring a row into the cache in order, before it is read here and there; any number."""
    bits = row.view(np.int64)
    total = np.int64(0)
    for k in range(0, len(row), 8):
        total |= bits[k]
    return total


@inner
def _close_gaps(row, sources, targets, places, values):
    """The last clusters move into the gaps of a row, and joined pairs to their places."""
    for k in range(len(sources)):
        row[targets[k]] = row[sources[k]]
    for k in range(len(places)):
        row[places[k]] = values[k]


@parallel
def play_round(work, m, rows, play, mode, beta, before, after, how_far, new_near, new_far, tie,
               slack, begin, end):  # fmt: skip
    """Carry a round out for new clusters begin..end-1.

    before, after : histories of the old and the new clusters (flexible rules); how_far : of the
    old places.
    """
    count, to = len(play.ones), len(play.first_of)
    lowest = smallest(play.heights)
    tasks = (end - begin + _TASK - 1) // _TASK
    for task in prange(tasks):
        values = np.empty(count)
        top = begin + np.int64(task) * _TASK
        for c in range(top, min(top + _TASK, end)):
            i, q = play.first_of[c], play.pair_of[c]
            row = work[rows[i], :m]
            if q >= 0:
                height = play.heights[q]
                there = work[rows[np.int64(play.others[q])], :m]
                one, other = play.one_share[q], play.other_share[q]
                _join_rows(mode, row, there, one, other, beta * height)
                if beta < 0.0:
                    mend_row(row, height, beta * beta, before)
            else:
                values[0] = _read_ahead(row)
            _join_columns(
                mode, row, play.ones, play.others, play.one_share, play.other_share, play.heights,
                beta, values,
            )  # fmt: skip
            if beta < 0.0:
                mend_columns(values, play.heights, lowest, beta * beta, after, c)
            _close_gaps(row, play.sources, play.targets, play.places, values)
            row[c] = np.inf
            if new_near[c] < 0:
                _look(row[:to], c, new_near, new_far, tie, slack)
            else:
                new_far[c] = how_far[i]
                tie[c] = False


@parallel
def put_in_order(work, rows, order):
    """Arrange the columns of all rows."""
    m = len(order)
    for r in prange(m):
        row = work[rows[r], :m]
        row[:] = row[order]
