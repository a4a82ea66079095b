"""Single linkage from the answers themselves, by a minimum spanning tree (Prim 1957).

Most distances only have to be known to be too long, for which short numbers will do: half the
memory to pass over. A part of the cases is measured in full where one may be nearer than its key.
With u = 2^-24, each answer x of at most 1 is off by u x, each difference by 2 u, and the sum
of p terms by p u of itself. So of squares sqrt(short) <= (sqrt(d) + 2 u sqrt(p)) (1 + p u), of
absolute differences short <= (d + 2 u p) (1 + p u); limits leave twice that.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange, summing
from gorvel.core.kernels.joins import place_of, smallest
from gorvel.core.kernels.recipe import SQUARES
from gorvel.core.kernels.terms import BLOCK, add_terms

PART = 64  # cases outside whose smallest key is known
_WORTH = 200_000  # answers passed for one case, from which a second thread pays
_UNIT = 2.0**-24  # what a short number is off by


@summing
def _four_short(x, kind, j, last, first, out):
    m = len(out)
    a, b, c, d = x[j, last], x[j + 1, last], x[j + 2, last], x[j + 3, last]
    xa, xb = x[j, first : first + m], x[j + 1, first : first + m]
    xc, xd = x[j + 2, first : first + m], x[j + 3, first : first + m]
    if kind == SQUARES:
        for k in range(m):
            e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
            some = (e * e + f * f) + (g * g + h * h)
            out[k] = some if j == 0 else out[k] + some
    else:
        for k in range(m):
            e, f, g, h = abs(a - xa[k]), abs(b - xb[k]), abs(c - xc[k]), abs(d - xd[k])
            some = (e + f) + (g + h)
            out[k] = some if j == 0 else out[k] + some


@summing
def _short_terms(x, kind, last, first, out):
    """Distances of the case taken last to a run of others, in short numbers."""
    p, m = x.shape[0], len(out)
    for j in range(0, p - 3, 4):
        _four_short(x, kind, j, last, first, out)
    if p < 4:
        out[:] = 0.0
    for j in range(p // 4 * 4, p):
        a, xa = x[j, last], x[j, first : first + m]
        for k in range(m):
            e = a - xa[k]
            out[k] += e * e if kind == SQUARES else abs(e)


@inner
def _limit(kind, key, p, scale):
    """Above this a short distance is longer than the key."""
    slack = 1.0 + (2.0 * p + 8.0) * _UNIT
    if kind == SQUARES:
        root = (np.sqrt(key) / scale + 4.0 * _UNIT * np.sqrt(p)) * slack
        return np.float32(root * root * (1.0 + 2.0 * _UNIT))
    return np.float32((key / scale + 4.0 * _UNIT * p) * slack * (1.0 + 2.0 * _UNIT))


@inner
def _lower_part(x, v, kind, last, taken, scale, keys, parents, limits, top, bottom, far):
    """Measure some cases in full; returns their smallest key."""
    part, key = far[: bottom - top], keys[top:bottom]
    add_terms(x, v, kind, last, top, bottom, part)
    for k in range(len(key)):
        if part[k] < key[k]:
            key[k], parents[top + k] = part[k], taken
            limits[top + k] = _limit(kind, part[k], x.shape[0], scale)
    return smallest(key)


@inner
def _flag(distance, limit, flags):
    """Note who is not above the limit; what is left of the last part is not."""
    n = len(limit)
    for k in range(n):
        flags[k] = distance[k] <= limit[k]
    for k in range(n, (n + PART - 1) // PART * PART):
        flags[k] = 0


@inner
def _any_flag(eights, q):
    """Is any of 64 flags set? Written out, as a loop takes three times as long."""
    one = eights[q] | eights[q + 1] | eights[q + 2] | eights[q + 3]
    return (one | eights[q + 4] | eights[q + 5] | eights[q + 6] | eights[q + 7]) != 0


@inner
def _pass(outside, short, kind, last, taken, lows, begin, end, room):
    """Bring the keys of begin..end-1 up to date with the case taken last; the smallest of them.

    begin : a multiple of BLOCK; outside, lows : see `span`; room : to work in.
    """
    x, v, scale, keys, parents, limits = outside
    far, near, flags = room
    eights = flags.view(np.uint64)
    for first in range(begin, end, BLOCK):
        stop = min(first + BLOCK, end)
        distance, limit = near[: stop - first], limits[first:stop]
        _short_terms(short, kind, last, first, distance)
        _flag(distance, limit, flags)
        for part in range((len(limit) + PART - 1) // PART):
            if _any_flag(eights, 8 * part):
                top = first + PART * part
                lows[top // PART] = _lower_part(
                    x, v, kind, last, taken, scale, keys, parents, limits, top,
                    min(top + PART, stop), far,
                )  # fmt: skip
    return smallest(lows[begin // PART : (end + PART - 1) // PART])


@parallel
def _shared_pass(outside, short, kind, last, taken, lows, m, far, near, flags, low):
    """The same by two threads, each its half."""
    half = (m // BLOCK + 1) // 2 * BLOCK
    for hand in prange(2):
        begin, end = (0, half) if hand == 0 else (half, m)
        own = np.int64(hand)
        room = (far[own], near[own], flags[own])
        low[own] = _pass(outside, short, kind, last, taken, lows, begin, end, room)


@inner
def _take_out(outside, short, cases, lows, at, m):
    """The last of m cases outside takes the place of one that is taken, which goes to the end."""
    x, _, _, keys, parents, limits = outside
    last, end = m - 1, x.shape[1] - 1
    for j in range(x.shape[0]):
        x[j, end], short[j, end] = x[j, at], short[j, at]
        x[j, at], short[j, at] = x[j, last], short[j, last]
    keys[at], parents[at], limits[at] = keys[last], parents[last], limits[last]
    cases[at] = cases[last]
    for part in (at // PART, last // PART):
        lows[part] = smallest(keys[part * PART : min((part + 1) * PART, last)])


@kernel
def span(outside, short, kind, cases, lows, state, count, ends, starts, lengths):
    """Take `count` more cases into the tree.

    outside : x, a column for each case outside, and in the last one the case taken last, v, what
    distances are divided by in short numbers, the distances of cases to the tree, the nearest
    case in it, (n,) infinity; short : x in short numbers, of at most 1 after scaling and weighing;
    cases : (n,) own number; lows : (parts,) infinity; state : cases outside, number of the case
    taken last; ends, starts, lengths : (n - 1,) edges.
    """
    x, keys, parents = outside[0], outside[3], outside[4]
    p, last = x.shape[0], x.shape[1] - 1
    far, low = np.empty((2, PART)), np.empty(2)
    near, flags = np.empty((2, BLOCK), np.float32), np.empty((2, BLOCK), np.uint8)
    room = (far[0], near[0], flags[0])
    for _ in range(count):
        m = state[0]
        if m * (p + 2) > _WORTH:
            _shared_pass(outside, short, kind, last, state[1], lows, m, far, near, flags, low)
            nearest = min(low[0], low[1])
        else:
            nearest = _pass(outside, short, kind, last, state[1], lows, np.int64(0), m, room)
        part = place_of(lows, nearest) * PART
        at = part + place_of(keys[part : min(part + PART, m)], nearest)
        edge = len(keys) - m
        ends[edge], starts[edge], lengths[edge] = cases[at], parents[at], nearest
        state[1] = cases[at]
        _take_out(outside, short, cases, lows, at, m)
        state[0] = m - 1


@parallel
def near_pairs(x, v, kind, asking, cluster, bound, others, apart):
    """Cases of other clusters not further than a bound from some; returns how many each has.

    x : (p, n); asking : cases; cluster : (n,) of each case; others, apart : (asking, room) which,
    and how far, as many as there is room for.
    """
    n, room = x.shape[1], others.shape[1]
    counts = np.zeros(len(asking), np.int64)
    for r in prange(len(asking)):
        i = asking[r]
        own, far = cluster[i], np.empty(BLOCK)
        count = 0
        for first in range(0, n, BLOCK):
            size = min(BLOCK, n - first)
            part, owners = far[:size], cluster[first : first + size]
            add_terms(x, v, kind, i, first, first + size, part)
            here = 0
            for k in range(size):
                here += part[k] <= bound
            if here:
                for k in range(size):
                    if part[k] <= bound and owners[k] != own:
                        if count < room:
                            others[r, count], apart[r, count] = first + k, part[k]
                        count += 1
        counts[r] = count
    return counts
