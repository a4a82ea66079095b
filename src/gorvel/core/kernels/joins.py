"""Joins one by one, by the rule for equal proximities, on condensed proximities.

A cluster lives at the place of its earliest case. For each place the smallest proximity to a later
place is kept, and looked for anew when it may have grown (Anderberg 1973). Dead places hold
infinity.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange
from gorvel.core.kernels.pairs import row_start

__all__ = ["LARGEST", "LINEAR", "SMALLEST", "WARD", "compact", "join_some", "start"]

_INFINITY = np.int64(0x7FF0000000000000)
_ALL_BUT_SIGN = np.int64(0x7FFFFFFFFFFFFFFF)
_WORTH = 1500  # places from which a second thread pays
SMALLEST, LARGEST, LINEAR, WARD = range(4)


@kernel
def smallest(values):
    """The smallest value, infinity for none.

    Numbers are compared as the integers that their bits stand for, which is vectorised: those of
    negative numbers are turned round to keep the order.
    """
    bits = values.view(np.int64)
    best = _INFINITY
    for k in range(len(bits)):
        key = bits[k]
        key ^= (key >> 63) & _ALL_BUT_SIGN
        best = min(best, key)
    best ^= (best >> 63) & _ALL_BUT_SIGN
    out = np.empty(1, np.int64)
    out[0] = best
    return out.view(np.float64)[0]


@kernel
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


@kernel
def look(work, n, k, near, at):
    """Look for the nearest later place of k anew."""
    begin = row_start(n, k)
    later = work[begin + k + 1 : begin + n]
    low = smallest(later)
    near[k] = low
    at[k] = k + 1 + place_of(later, low) if low < np.inf else -1


@kernel
def start(work, n, near, at):
    """The nearest later place of all."""
    for k in range(n):
        look(work, n, k, near, at)


@kernel
def updated(mode, a, b, apart, mass, one, other, scale, shift):
    """The proximity to a joined cluster; a, b : to its parts, of masses one and other."""
    if mode == 0:
        return min(a, b)
    if mode == 1:
        return max(a, b)
    if mode == 2:
        return scale * ((one * a + other * b) / (one + other)) + shift * apart
    return ((mass + one) * a + (mass + other) * b - mass * apart) / (mass + (one + other))


@kernel
def update_row(to_one, to_other, masses, mode, apart, one, other, scale, shift):
    """Proximities of later places to a joined cluster, in place; dead ones stay at infinity."""
    n = len(to_one)
    if mode == 0:
        for k in range(n):
            to_one[k] = min(to_one[k], to_other[k])
    elif mode == 1:
        for k in range(n):
            to_one[k] = max(to_one[k], to_other[k])
    elif mode == 2:
        move = shift * apart
        for k in range(n):
            to_one[k] = scale * ((one * to_one[k] + other * to_other[k]) / (one + other)) + move
    else:
        for k in range(n):
            m = masses[k]
            above = (m + one) * to_one[k] + (m + other) * to_other[k] - m * apart
            to_one[k] = above / (m + (one + other))


@parallel
def update_earlier(
    work, n, i, j, mode, apart, masses, one, other, scale, shift, near, at, hands
):  # fmt: skip
    """Places before j: theirs to i and j stand in their own rows, one after the other far apart.

    hands : threads to share the way, which does not change the result.
    """
    at_i = row_start(n, i)
    for hand in prange(hands):
        first, last = j * np.int64(hand) // hands, j * (np.int64(hand) + 1) // hands
        row = row_start(n, first)
        for k in range(first, last):
            if near[k] < np.inf:
                if k < i:
                    new = updated(mode, work[row + i], work[row + j], apart, masses[k], one, other,
                                  scale, shift)  # fmt: skip
                    work[row + i] = new
                    work[row + j] = np.inf
                    if new <= near[k]:
                        near[k], at[k] = new, i
                    elif at[k] == i or at[k] == j:
                        look(work, n, k, near, at)
                elif k > i:
                    work[at_i + k] = updated(mode, work[at_i + k], work[row + j], apart, masses[k],
                                             one, other, scale, shift)  # fmt: skip
                    work[row + j] = np.inf
                    if at[k] == j:
                        look(work, n, k, near, at)
            row += n - k - 2


@kernel
def join_some(
    work, n, count, done, mode, scale, beta, centre, equal, tolerance,
    masses, node, near, at, left, right, heights, tied, matters, cases,
):  # fmt: skip
    """Carry out `count` joins.

    work : condensed over n places; done : joins made before; scale, beta : of flexible rules;
    centre : shift by the masses (centroid) or by a quarter (median); equal : parts count alike;
    masses, node, near, at : (n,) of places; left .. matters : (cases - 1,) results.
    """
    for step in range(done, done + count):
        low = smallest(near[:n])
        bound = low + tolerance * abs(low)
        i = 0
        while near[i] > bound:
            i += 1
        rows = 0
        for k in range(i, n):
            rows += near[k] <= bound
        at_i = row_start(n, i)
        j, close = -1, 0
        for k in range(at_i + i + 1, at_i + n):
            if work[k] <= bound:
                close += 1
                if j < 0:
                    j = k - at_i
        at_j = row_start(n, j)
        shared = close > 1
        if rows > 1 and not shared:
            for k in range(i + 1, j):
                if near[k] <= bound and work[row_start(n, k) + j] <= bound:
                    shared = True
            if near[j] <= bound:
                shared = True
        apart = work[at_i + j]
        left[step], right[step], heights[step] = node[i], node[j], apart
        tied[step] = rows > 1 or close > 1
        matters[step] = shared
        one, other = masses[i], masses[j]
        if equal:
            one, other = 1.0, 1.0
        total = one + other
        shift = beta
        if centre:
            shift = -(one / total) * (other / total)
        update_earlier(
            work, n, i, j, mode, apart, masses, one, other, scale, shift, near, at, 1 + (j > _WORTH)
        )  # fmt: skip
        work[at_i + j] = np.inf
        update_row(
            work[at_i + j + 1 : at_i + n], work[at_j + j + 1 : at_j + n], masses[j + 1 : n],
            mode, apart, one, other, scale, shift,
        )  # fmt: skip
        masses[i] += masses[j]
        near[j], at[j], masses[j] = np.inf, -1, 0.0
        node[i] = cases + step
        look(work, n, i, near, at)
    return 0


@kernel
def compact(work, n, alive, masses, node, near, at):
    """Close the gaps that dead places left; alive : places in order. Returns how many there are."""
    m = len(alive)
    where = np.full(n, -1, np.int64)
    for k in range(m):
        where[alive[k]] = k
    to = 0
    for k in range(m):
        begin = row_start(n, alive[k])
        for other in range(k + 1, m):
            work[to] = work[begin + alive[other]]
            to += 1
    for k in range(m):
        old = alive[k]
        masses[k], node[k], near[k] = masses[old], node[old], near[old]
        at[k] = where[at[old]] if at[old] >= 0 else -1
    return m
