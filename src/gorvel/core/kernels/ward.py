"""Ward's rule from the answers themselves: reciprocal nearest neighbours among centroids.

Without equal distances every pair of clusters that are each other's nearest is joined sooner or
later, as no join brings two others nearer (Bruynooghe 1977; Murtagh 1983); so all such pairs can be
joined at once. Nearest clusters are found in a median tree of boxes (Bentley 1975): a box at
distance D whose lightest cluster weighs w holds nothing nearer than 2 s w / (s + w) D^2.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange
from gorvel.core.kernels.joins import place_of, smallest

__all__ = ["build", "join_pairs", "nearest", "refit"]

_TASK = 64  # searches handed to a thread at a time


@kernel
def _select(values, perm, first, last, middle):
    """Arrange perm[first:last] so that the smaller values come before the middle."""
    lo, hi = first, last - 1
    while lo < hi:
        pivot = values[perm[(lo + hi) // 2]]
        i, j = lo, hi
        while i <= j:
            while values[perm[i]] < pivot:
                i += 1
            while values[perm[j]] > pivot:
                j -= 1
            if i <= j:
                perm[i], perm[j] = perm[j], perm[i]
                i += 1
                j -= 1
        if middle <= j:
            hi = j
        elif middle >= i:
            lo = i
        else:
            return


@kernel
def build(centres, perm, begins, ends, depth):
    """A complete tree of 2^depth leaves; node k has children 2k + 1 and 2k + 2.

    centres : (p, slots); perm : the slots, put in the order of the leaves; begins, ends : (nodes,)
    ranges of that order.
    """
    p = centres.shape[0]
    begins[0], ends[0] = 0, len(perm)
    column = np.empty(centres.shape[1])
    for node in range((1 << depth) - 1):
        first, last = begins[node], ends[node]
        middle = (first + last) // 2
        widest, spread = 0, -1.0
        for j in range(p):
            low, high = np.inf, -np.inf
            for k in range(first, last):
                value = centres[j, perm[k]]
                low, high = min(low, value), max(high, value)
            if high - low > spread:
                widest, spread = j, high - low
        if last - first > 1:
            for k in range(first, last):
                column[perm[k]] = centres[widest, perm[k]]
            _select(column, perm, first, last, middle)
        begins[2 * node + 1], ends[2 * node + 1] = first, middle
        begins[2 * node + 2], ends[2 * node + 2] = middle, last


@kernel
def refit(centres, masses, begins, ends, lows, highs, lightest, depth):
    """Boxes round the clusters alive, and the lightest of each. lows, highs : (nodes, p)."""
    p = centres.shape[0]
    inner = (1 << depth) - 1
    for node in range(2 * inner, -1, -1):
        lightest[node] = np.inf
        for j in range(p):
            lows[node, j], highs[node, j] = np.inf, -np.inf
        if node < inner:
            for child in range(2 * node + 1, 2 * node + 3):
                lightest[node] = min(lightest[node], lightest[child])
                for j in range(p):
                    lows[node, j] = min(lows[node, j], lows[child, j])
                    highs[node, j] = max(highs[node, j], highs[child, j])
            continue
        for slot in range(begins[node], ends[node]):
            if masses[slot] > 0.0:
                lightest[node] = min(lightest[node], masses[slot])
                for j in range(p):
                    lows[node, j] = min(lows[node, j], centres[j, slot])
                    highs[node, j] = max(highs[node, j], centres[j, slot])


@kernel
def _bound(own, mass, low, high, light):
    """No cluster of a box is nearer than this."""
    if light == np.inf:
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
    return 2.0 * mass * light / (mass + light) * (a + b)


@kernel
def _measure_leaf(own, mass, centres, masses, first, last, far):
    """far[k] : the distance to the cluster at first + k; infinity for dead ones."""
    m = last - first
    weights = masses[first:last]
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
    for k in range(m):
        w = weights[k]
        value = 2.0 * mass * w / (mass + w) * far[k]
        far[k] = value if w > 0.0 else np.inf


@kernel
def _search(slot, guess, centres, masses, begins, ends, lows, highs, lightest, depth, slack, own,
            far, stack, bounds, found):  # fmt: skip
    """The nearest cluster of one; found[0] its distance, found[1] the next one's.

    guess : a cluster that may be near, or -1; slack : boxes are searched as far as this above.
    """
    mass = masses[slot]
    for j in range(len(own)):
        own[j] = centres[j, slot]
    best, second, at = np.inf, np.inf, -1
    reach = np.inf
    if guess >= 0:  # only how far to look; it is found again on the way
        _measure_leaf(own, mass, centres, masses, guess, guess + 1, far)
        reach = far[0] * slack
    inner = (1 << depth) - 1
    stack[0], bounds[0], top = 0, 0.0, 1
    while top:
        top -= 1
        node = stack[top]
        if bounds[top] > reach:
            continue
        if node < inner:
            one, other = 2 * node + 1, 2 * node + 2
            to_one = _bound(own, mass, lows[one], highs[one], lightest[one])
            to_other = _bound(own, mass, lows[other], highs[other], lightest[other])
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
        _measure_leaf(own, mass, centres, masses, first, last, far)
        if first <= slot < last:
            far[slot - first] = np.inf
        part = far[: last - first]
        low = smallest(part)
        if low < best:
            place = place_of(part, low)
            part[place] = np.inf
            second = min(best, smallest(part))
            best, at = low, first + place
            reach = min(reach, best * slack)
        elif low < second:
            second = low
    found[0], found[1] = best, second
    return at


@parallel
def nearest(stale, near, how_far, next_far, centres, masses, begins, ends, lows, highs, lightest,
            depth, slack, largest):  # fmt: skip
    """Look for the nearest of the stale clusters; near holds guesses, and then what was found.

    largest : clusters in the largest leaf.
    """
    parts = (len(stale) + _TASK - 1) // _TASK
    for part in prange(parts):
        found, own, far = np.empty(2), np.empty(centres.shape[0]), np.empty(largest + 1)
        stack, bounds = np.empty(2 * depth + 4, np.int64), np.empty(2 * depth + 4)
        begin = np.int64(part) * _TASK
        for k in range(begin, min(begin + _TASK, len(stale))):
            slot = stale[k]
            near[slot] = _search(
                slot, near[slot], centres, masses, begins, ends, lows, highs, lightest, depth,
                slack, own, far, stack, bounds, found,
            )  # fmt: skip
            how_far[slot], next_far[slot] = found[0], found[1]


@kernel
def join_pairs(cases, alive, near, how_far, centres, masses, node, first, made, left, right,
               heights, succeeded):  # fmt: skip
    """Join all pairs that are nearest to each other; returns how many joins there are now.

    alive : slots; first : earliest case of each slot; node, made : numbers of what lives there and
    of the joins so far; succeeded : the slot that took the place of each, itself when untouched.
    """
    for a in range(len(alive)):
        succeeded[alive[a]] = alive[a]
    for a in range(len(alive)):
        i = alive[a]
        j = near[i]
        if masses[i] == 0.0 or j < i or near[j] != i:
            continue
        total = masses[i] + masses[j]
        one, other = (i, j) if first[i] < first[j] else (j, i)
        left[made], right[made], heights[made] = node[one], node[other], how_far[i]
        share = masses[j] / total
        for k in range(centres.shape[0]):
            centres[k, i] += (centres[k, j] - centres[k, i]) * share
        masses[i], masses[j] = total, 0.0
        first[i] = first[one]
        node[i] = cases + made
        succeeded[j], succeeded[i] = i, i
        near[i] = -2  # what it was nearest to is gone
        made += 1
    return made
