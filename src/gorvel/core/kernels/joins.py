"""Joins one by one, by the rule for equal proximities, on a square matrix.

A cluster lives at the place of its earliest case. Its row is written when it is made, and nobody
else's is: of two clusters, the row of the one made later holds their proximity. Each cluster keeps
the smallest proximity to those made before it (a single case: to later single cases), which only
changes when the cluster at that proximity is joined (after Anderberg 1973). Rows keep their memory,
found by a table, while the columns of what is gone are closed up now and then.

A join takes less time than a second thread takes to wake, so only what passes over all rows is
shared.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange

_BLOCK = 128  # clusters whose smallest is known
_TOGETHER = 16  # rows brought up to date by one thread at a time

INFINITY = np.int64(0x7FF0000000000000)
_ALL_BUT_SIGN = np.int64(0x7FFFFFFFFFFFFFFF)
GONE = np.int64(1) << 60  # the stamp of places whose cluster was joined with an earlier one


@inner
def ordered_bits(bits):
    """An integer in the order of the floats whose bits are given; comparing it is vectorised."""
    return bits ^ ((bits >> 63) & _ALL_BUT_SIGN)


@inner
def of_bits(key):
    """The float of an ordered integer."""
    out = np.empty(1, np.int64)
    out[0] = key ^ ((key >> 63) & _ALL_BUT_SIGN)
    return out.view(np.float64)[0]


@inner
def smallest(values):
    """The smallest value, infinity for none."""
    bits = values.view(np.int64)
    best = INFINITY
    for k in range(len(bits)):
        best = min(best, ordered_bits(bits[k]))
    return of_bits(best)


@inner
def place_of(values, value):
    """The first place of a value that is there; looked for in blocks, which is vectorised."""
    n, begin = len(values), 0
    while begin + 64 <= n:
        found = 0
        for k in range(64):
            found += values[begin + k] == value
        if found:
            break
        begin += 64
    k = begin
    while k < n - 1 and values[k] != value:
        k += 1
    return k


@inner
def _smallest_before(values, stamps, limit):
    """The smallest value of those stamped before the limit."""
    bits = values.view(np.int64)
    best = INFINITY
    for k in range(len(bits)):
        key = ordered_bits(bits[k])
        key = key if stamps[k] < limit else INFINITY
        best = min(best, key)
    return of_bits(best)


@inner
def _first_below(values, stamps, limit, bound):
    """The first place stamped before the limit and not above the bound; the length if none."""
    n, begin = len(values), 0
    while begin + 64 <= n:
        found = 0
        for k in range(64):
            found += (values[begin + k] <= bound) & (stamps[begin + k] < limit)
        if found:
            break
        begin += 64
    k = begin
    while k < n and not (values[k] <= bound and stamps[k] < limit):
        k += 1
    return k


@inner
def _below(values, stamps, limit, bound):
    """How many are stamped before the limit and not above the bound."""
    count = 0
    for k in range(len(values)):
        count += (values[k] <= bound) & (stamps[k] < limit)
    return count


@inner
def _look(row, k, m, stamps, near, at, tolerance):
    """The nearest of those that cluster k answers for, and the first place as near as that."""
    begin, limit = 0, stamps[k]
    if limit == 0:
        begin, limit = k + 1, np.int64(1)
    own, others = row[begin:m], stamps[begin:m]
    low = _smallest_before(own, others, limit)
    near[k], at[k] = low, -1
    if low < np.inf:
        at[k] = begin + _first_below(own, others, limit, low + tolerance * abs(low))


@parallel
def look_all(work, rows, m, stamps, near, at, tolerance):
    """The nearest of all."""
    for r in prange(m):
        k = np.int64(r)
        _look(work[rows[k]], k, m, stamps, near, at, tolerance)


@inner
def _look_again(row, k, m, stamps, near, at, tolerance):
    """The same for one whose nearest is gone: nothing before that was as near; new ones have -1."""
    if at[k] < 0:
        _look(row, k, m, stamps, near, at, tolerance)
        return
    limit = max(stamps[k], np.int64(1))
    begin, low = at[k] + 1, near[k]
    bound = low + tolerance * abs(low)
    place = begin + _first_below(row[begin:m], stamps[begin:m], limit, bound)
    if place < m and row[place] == low:
        at[k] = place
    else:
        _look(row, k, m, stamps, near, at, tolerance)


@inner
def _refresh(work, rows, k, stamps, made, made_count):
    """Fetch into row k what clusters made later, and since rows were last brought up, hold."""
    row = work[rows[k]]
    for q in range(made_count):
        other = made[q]
        if stamps[other] > stamps[k]:
            row[other] = work[rows[other], k]


@inner
def _update(mode, to_one, to_other, masses, apart, one, other, scale, shift):
    """The proximities of all places to a joined cluster, in the row of its first part."""
    m = len(to_one)
    if mode == 0:
        for k in range(m):
            to_one[k] = min(to_one[k], to_other[k])
    elif mode == 1:
        for k in range(m):
            to_one[k] = max(to_one[k], to_other[k])
    elif mode == 2:
        move, total = shift * apart, one + other
        for k in range(m):
            to_one[k] = scale * ((one * to_one[k] + other * to_other[k]) / total) + move
    else:
        for k in range(m):
            w = masses[k]
            above = (w + one) * to_one[k] + (w + other) * to_other[k] - w * apart
            to_one[k] = above / (w + (one + other))


@inner
def _find_low(values, block, lows):
    """The smallest of a block of values, anew."""
    lows[block] = smallest(values[block * _BLOCK : (block + 1) * _BLOCK])


@inner
def _not_above(values, lows, bound, places):
    """The places not above a bound into `places`; returns how many. lows : of each block."""
    count, n = 0, len(values)
    for block in range(len(lows)):
        if lows[block] <= bound:
            for k in range(block * _BLOCK, min((block + 1) * _BLOCK, n)):
                if values[k] <= bound:
                    places[count] = k
                    count += 1
    return count


@inner
def _pointing(at, i, j, flags, places):
    """The clusters nearest to i or j, but i, into `places` behind the first; returns the next free.

    flags : (8 q,) bytes to work in, which is vectorised, at least as many as clusters.
    """
    one, other = np.int32(i), np.int32(j)
    for k in range(len(at)):
        flags[k] = (at[k] == one) | (at[k] == other)
    eights, count = flags.view(np.uint64), 1
    for q in range((len(at) + 7) // 8):
        if eights[q]:
            for k in range(8 * q, min(8 * q + 8, len(at))):
                if flags[k] and k != i:
                    places[count] = k
                    count += 1
    return count


@inner
def _first_pair(work, rows, m, stamps, close, near, at, bound):
    """Of the pairs not above the bound the one that comes first; close : who has such pairs."""
    i = m
    for q in range(len(close)):
        k = close[q]
        i = min(i, min(k, at[k]))
    # the partner that comes first: in the row of i, or one whose row has i
    j = m
    if near[i] <= bound:
        begin, limit = 0, stamps[i]
        if limit == 0:
            begin, limit = i + 1, np.int64(1)
        j = begin + _first_below(work[rows[i], begin:m], stamps[begin:m], limit, bound)
    for q in range(len(close)):
        k = close[q]
        if at[k] == i and k < j:
            j = k
    return i, j


@kernel
def join_some(
    work, rows, m, count, done, cases, mode, scale, beta, centre, equal, tolerance, masses, stamps,
    node, near, at, made, made_count, left, right, heights, tied, matters,
):  # fmt: skip
    """Carry out `count` joins; returns how many clusters were made since rows were brought up.

    work : square, row rows[k] for place k of m; done : joins made before; cases : of the study;
    scale, beta : of flexible rules; centre : shift by the masses (centroid) or by a quarter
    (median); equal : parts count alike; stamps : 0 for a case, else when the cluster was made;
    made : places of clusters made since rows were brought up; left .. matters : results, each
    (cases - 1,).
    """
    astray, close = np.empty((2, m + 1), np.int64)
    flags = np.zeros((m + 7) // 8 * 8, np.uint8)
    lows = np.empty((m + _BLOCK - 1) // _BLOCK)
    for block in range(len(lows)):
        _find_low(near[:m], block, lows)
    for step in range(done, done + count):
        low = smallest(lows)
        bound = low + tolerance * abs(low)
        pairs = _not_above(near[:m], lows, bound, close)
        if pairs == 1:
            k = close[0]
            i, j = min(k, at[k]), max(k, at[k])
        else:
            i, j = _first_pair(work, rows, m, stamps, close[:pairs], near, at, bound)
        apart = work[rows[i], j]
        if stamps[j] > stamps[i] or (stamps[i] == 0 and stamps[j] == 0 and j < i):
            apart = work[rows[j], i]
        left[step], right[step], heights[step] = node[i], node[j], apart
        one, other = masses[i], masses[j]
        if equal:
            one, other = 1.0, 1.0
        shift = beta
        if centre:
            shift = -(one / (one + other)) * (other / (one + other))
        _refresh(work, rows, i, stamps, made, made_count)
        _refresh(work, rows, j, stamps, made, made_count)
        # both rows are complete now: is another pair of either as near?
        shared = (
            _below(work[rows[i], :m], stamps, GONE, bound) > 1
            or _below(work[rows[j], :m], stamps, GONE, bound) > 1
        )
        tied[step], matters[step] = pairs > 1 or shared, shared
        _update(mode, work[rows[i], :m], work[rows[j], :m], masses, apart, one, other, scale, shift)
        masses[i] += masses[j]
        node[i] = cases + step
        kept = 0
        for q in range(made_count):
            if made[q] != i and made[q] != j:
                made[kept] = made[q]
                kept += 1
        made[kept] = i
        made_count = kept + 1
        stamps[i], stamps[j] = step + 1, GONE
        work[rows[i], i] = np.inf
        near[j], at[j], at[i] = np.inf, -1, -1
        astray[0] = i
        strays = _pointing(at[:m], i, j, flags, astray)
        for q in range(strays):
            k = astray[q]
            _look_again(work[rows[k]], k, m, stamps, near, at, tolerance)
        _find_low(near[:m], j // _BLOCK, lows)
        for q in range(strays):
            _find_low(near[:m], astray[q] // _BLOCK, lows)
    return made_count


@inner
def _bring_up(task, work, rows, alive, stamps, sources):
    begin = task * _TOGETHER
    end = min(begin + _TOGETHER, len(alive))
    for q in range(len(sources)):
        other = sources[q]
        source, stamp = work[rows[other]], stamps[other]
        for c in range(begin, end):
            k = alive[c]
            if stamps[k] < stamp:
                work[rows[k], other] = source[k]


@parallel
def bring_up(work, rows, alive, stamps, made, made_count):
    """Fetch into all rows what clusters made since the last time hold.

    Some rows at a time, so that what lies side by side in the row of such a cluster is read
    together.
    """
    sources = np.sort(made[:made_count])  # in the order of what is written
    for task in prange((len(alive) + _TOGETHER - 1) // _TOGETHER):
        _bring_up(np.int64(task), work, rows, alive, stamps, sources)


@inner
def _close_up(task, work, rows, alive, short):
    m = len(alive)
    begin = task * _TOGETHER
    closed = np.empty(m)
    for k in range(begin, min(begin + _TOGETHER, m)):
        row = work[rows[alive[k]]]
        for other in range(m):
            closed[other] = row[short[other]]
        row[:m] = closed


@inner
def _move_up(rows, alive, masses, stamps, node, near, at):
    where = np.full(len(masses), -1, np.int64)
    for k in range(len(alive)):
        where[alive[k]] = k
    for k in range(len(alive)):
        old = alive[k]
        rows[k], masses[k], stamps[k], node[k] = rows[old], masses[old], stamps[old], node[old]
        near[k] = near[old]
        at[k] = where[at[old]] if at[old] >= 0 else -1


@parallel
def close_up(work, rows, alive, masses, stamps, node, near, at):
    """Close the gaps that joined clusters left in all rows; alive : places in order."""
    short = alive.astype(np.uint32)  # gathered faster
    for task in prange((len(alive) + _TOGETHER - 1) // _TOGETHER):
        _close_up(np.int64(task), work, rows, alive, short)
    _move_up(rows, alive, masses, stamps, node, near, at)


@kernel
def look_all_alone(work, rows, m, stamps, near, at, tolerance):
    """`look_all` on one thread, beside others."""
    for k in range(m):
        _look(work[rows[k]], k, m, stamps, near, at, tolerance)


@kernel
def bring_up_alone(work, rows, alive, stamps, made, made_count):
    """`bring_up` on one thread, beside others."""
    sources = np.sort(made[:made_count])
    for task in range((len(alive) + _TOGETHER - 1) // _TOGETHER):
        _bring_up(task, work, rows, alive, stamps, sources)


@kernel
def close_up_alone(work, rows, alive, masses, stamps, node, near, at):
    """`close_up` on one thread, beside others."""
    short = alive.astype(np.uint32)
    for task in range((len(alive) + _TOGETHER - 1) // _TOGETHER):
        _close_up(task, work, rows, alive, short)
    _move_up(rows, alive, masses, stamps, node, near, at)
