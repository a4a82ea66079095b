"""Clusters as centres: the nearest of each, and joins of all that are nearest to each other.

A cluster is its centre, its mass and its spread. Ward's rule puts two of mass s and w, a distance D
between their centres, 2sw/(s+w) D^2 apart; the mean of the squared distances between their cases
puts them D^2 plus both spreads apart, the spread being the mean squared distance of the cases from
the centre. Nearest clusters are found in a tree of boxes: nothing in a box is nearer than a
cluster at its side with the least mass, or spread, in it.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange
from gorvel.core.kernels.joins import smallest

WARD, MEAN = 0, 1  # how far apart clusters are
_TASK = 64  # searches handed to a thread at a time


@inner
def _weighed(kind, squared, own, other):
    """How far apart; own, other : masses, or spreads."""
    if kind == WARD:
        return 2.0 * own * other / (own + other) * squared
    return squared + (own + other)


@inner
def apart(kind, centres, light, one, other):
    """How far apart two clusters are. light : masses, or spreads."""
    squared = 0.0
    for j in range(centres.shape[0]):
        e = centres[j, one] - centres[j, other]
        squared += e * e
    return _weighed(kind, squared, light[one], light[other])


@inner
def _bound(kind, own, lightness, low, high, least):
    """No cluster of a box is nearer than this."""
    if least == np.inf:
        return np.inf
    a, b = 0.0, 0.0
    p = len(own)
    j = 0
    while j + 2 <= p:
        e = max(max(low[j] - own[j], own[j] - high[j]), 0.0)
        f = max(max(low[j + 1] - own[j + 1], own[j + 1] - high[j + 1]), 0.0)
        a += e * e
        b += f * f
        j += 2
    if j < p:
        e = max(max(low[j] - own[j], own[j] - high[j]), 0.0)
        a += e * e
    return _weighed(kind, a + b, lightness, least)


@inner
def _measure_leaf(kind, own, lightness, centres, masses, light, first, last, far):
    """far[k] : how far the cluster at first + k is; infinity for dead ones."""
    m = last - first
    alive, others = masses[first:last], light[first:last]
    for j in range(0, len(own) - 3, 4):
        a, b, c, d = own[j], own[j + 1], own[j + 2], own[j + 3]
        xa, xb = centres[j, first:last], centres[j + 1, first:last]
        xc, xd = centres[j + 2, first:last], centres[j + 3, first:last]
        if j == 0:
            for k in range(m):
                e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
                far[k] = (e * e + f * f) + (g * g + h * h)
        else:
            for k in range(m):
                e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
                far[k] += (e * e + f * f) + (g * g + h * h)
    done = len(own) // 4 * 4
    if done == 0:
        for k in range(m):
            far[k] = 0.0
    for j in range(done, len(own)):
        a, xa = own[j], centres[j, first:last]
        for k in range(m):
            e = a - xa[k]
            far[k] += e * e
    if kind == WARD:
        for k in range(m):
            w = others[k]
            value = 2.0 * lightness * w / (lightness + w) * far[k]
            far[k] = value if alive[k] > 0.0 else np.inf
    else:
        for k in range(m):
            value = far[k] + (lightness + others[k])
            far[k] = value if alive[k] > 0.0 else np.inf


@inner
def _not_above(part, begin, bound):
    """The first place from `begin` on that is not above the bound; the length if none."""
    n = len(part)
    while begin + 16 <= n:
        found = 0
        for k in range(16):
            found += part[begin + k] <= bound
        if found:
            break
        begin += 16
    while begin < n and not part[begin] <= bound:
        begin += 1
    return begin


@inner
def search(kind, slot, guess, centres, masses, light, firsts, boxes, tolerance, slack, room):
    """The nearest cluster of one, the first in the file of those that tie; another that ties or -1.

    guess : a cluster that may be near, or -1; boxes : begins, ends, lows, highs, least, depth;
    slack : boxes are searched as far as this above; room : own, far, stack, bounds to work in, and
    the distances of the nearest and the next.
    """
    begins, ends, lows, highs, least, depth = boxes
    own, far, stack, bounds, found = room
    lightness = light[slot]
    for j in range(len(own)):
        own[j] = centres[j, slot]
    best, second, at, also = np.inf, np.inf, -1, -1
    reach = np.inf
    if guess >= 0:  # only how far to look; it is found again on the way
        reach = apart(kind, centres, light, slot, guess) * slack
    inner = (1 << depth) - 1
    stack[0], bounds[0], top = 0, 0.0, 1
    while top:
        top -= 1
        node = stack[top]
        if bounds[top] > reach:
            continue
        if node < inner:
            one, other = 2 * node + 1, 2 * node + 2
            to_one = _bound(kind, own, lightness, lows[one], highs[one], least[one])
            to_other = _bound(kind, own, lightness, lows[other], highs[other], least[other])
            if to_one < to_other:
                one, other, to_one, to_other = other, one, to_other, to_one
            if to_one <= reach and to_one < np.inf:
                stack[top], bounds[top] = one, to_one
                top += 1
            if to_other <= reach and to_other < np.inf:
                stack[top], bounds[top] = other, to_other
                top += 1
            continue
        first, last = begins[node], ends[node]
        _measure_leaf(kind, own, lightness, centres, masses, light, first, last, far)
        if first <= slot < last:
            far[slot - first] = np.inf
        part = far[: last - first]
        low = smallest(part)
        if low == np.inf or low > best + tolerance * best:
            second = min(second, low)
            continue
        if best > low + tolerance * low:
            second, at, also = best, -1, -1
        best = min(best, low)
        reach = min(reach, best * slack)
        bound = best + tolerance * best
        place = _not_above(part, np.int64(0), bound)
        while place < len(part):
            here = first + place
            part[place] = np.inf
            if at >= 0 and firsts[at] < firsts[here]:
                also = here
            else:
                at, also = here, at
            place = _not_above(part, place + 1, bound)
        second = best if also >= 0 else min(second, smallest(part))
    found[0], found[1] = best, second
    return at, also


@parallel
def nearest(kind, stale, near, also, how_far, next_far, centres, masses, light, firsts, boxes,
            tolerance, slack, largest):  # fmt: skip
    """Look for the nearest of the stale clusters; near holds guesses, and then what was found.

    largest : clusters in the largest leaf.
    """
    depth = boxes[5]
    parts = (len(stale) + _TASK - 1) // _TASK
    for part in prange(parts):
        found = np.empty(2)
        room = (
            np.empty(centres.shape[0]), np.empty(largest), np.empty(2 * depth + 4, np.int64),
            np.empty(2 * depth + 4), found,
        )  # fmt: skip
        begin = np.int64(part) * _TASK
        for k in range(begin, min(begin + _TASK, len(stale))):
            slot = stale[k]
            near[slot], also[slot] = search(
                kind, slot, near[slot], centres, masses, light, firsts, boxes, tolerance, slack,
                room,
            )  # fmt: skip
            how_far[slot], next_far[slot] = found[0], found[1]


@kernel
def merge(equal, centres, masses, spreads, i, j):
    """Cluster j becomes part of i. equal : parts count alike, whatever their mass."""
    total = masses[i] + masses[j]
    share = 0.5 if equal else masses[j] / total
    squared = 0.0
    for k in range(centres.shape[0]):
        e = centres[k, j] - centres[k, i]
        squared += e * e
        centres[k, i] += e * share
    spreads[i] += (spreads[j] - spreads[i]) * share + share * (1.0 - share) * squared
    masses[i], masses[j] = total, 0.0


@kernel
def join_pairs(cases, equal, alive, near, how_far, centres, masses, spreads, node, firsts, made,
               left, right, heights, succeeded):  # fmt: skip
    """Join all pairs that are nearest to each other; returns how many joins there are now.

    alive : slots; firsts : earliest case of each slot; node, made : numbers of what lives there and
    of the joins so far; succeeded : the slot that took the place of each, itself when untouched.
    """
    for a in range(len(alive)):
        succeeded[alive[a]] = alive[a]
    for a in range(len(alive)):
        i = alive[a]
        j = near[i]
        if masses[i] == 0.0 or j < i or near[j] != i:
            continue
        one, other = (i, j) if firsts[i] < firsts[j] else (j, i)
        left[made], right[made], heights[made] = node[one], node[other], how_far[i]
        firsts[i] = firsts[one]
        merge(equal, centres, masses, spreads, i, j)
        node[i] = cases + made
        succeeded[j], succeeded[i] = i, i
        near[i] = -2  # what it was nearest to is gone
        made += 1
    return made
