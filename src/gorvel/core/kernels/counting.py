"""Passes over all pairs for the rules of the cluster count, and the ranking of sorted pairs."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange, summing
from gorvel.core.kernels.terms import BLOCK, measure


@summing
def _sum(values):
    total = 0.0
    for k in range(len(values)):
        total += values[k]
    return total


@summing
def _sum_squares(values):
    total = 0.0
    for k in range(len(values)):
        total += values[k] * values[k]
    return total


@inner
def _ends(bits, low, high):
    """The smallest and the largest of floats that are not negative, by their bits."""
    for k in range(len(bits)):
        low = min(low, bits[k])
    for k in range(len(bits)):
        high = max(high, bits[k])
    return low, high


@parallel
def sum_pieces(recipe, bounds, begin, end, sums, lows, highs, squares):
    """Sum, smallest and largest of the distances to each piece.

    For cases begin..end-1: of the distances to each piece the sum, smallest and largest, and the
    sum of squares over all.

    recipe : of cases in leaf order; bounds : (K + 1,); sums : (n, K); lows, highs : (n, K) bits of
    floats; squares : (n,).
    """
    n, pieces = len(sums), len(bounds) - 1
    for r in prange(begin, end):
        i = np.int64(r)
        far = np.empty(BLOCK)
        total = 0.0
        piece = 0
        for first in range(0, n, BLOCK):
            last = min(first + BLOCK, n)
            part = far[: last - first]
            measure(recipe, i, first, last, part)
            total += _sum_squares(part)
            bits = part.view(np.int64)
            at = first
            while at < last:
                until = min(bounds[piece + 1], last)
                sums[i, piece] += _sum(part[at - first : until - first])
                lows[i, piece], highs[i, piece] = _ends(
                    bits[at - first : until - first], lows[i, piece], highs[i, piece]
                )
                at = until
                if at == bounds[piece + 1] and piece < pieces - 1:
                    piece += 1
        squares[i] = total


@parallel
def fill_levels(recipe, bounds, piece_of, together, mask, begin, end, out):
    """Distances to all later cases, with the level of the pair in the lowest bits.

    For cases begin..end-1 the distances to all later ones, the level of the pair in the lowest
    bits. recipe : of cases in leaf order; out : condensed from case `begin` on, as integers; level
    : `together` of the two pieces.
    """
    n = len(piece_of)
    skipped = begin * n - begin * (begin + 1) // 2
    for r in prange(begin, end):
        i = np.int64(r)
        far = np.empty(BLOCK)
        bits = far.view(np.int64)
        own = piece_of[i]
        to = i * n - i * (i + 1) // 2 - skipped
        for first in range(i + 1, n, BLOCK):
            last = min(first + BLOCK, n)
            part = far[: last - first]
            measure(recipe, i, first, last, part)
            at = first
            while at < last:
                piece = piece_of[at]
                until = min(bounds[piece + 1], last)
                level = together[own, piece]
                source, target = bits[at - first : until - first], out[to : to + until - at]
                for k in range(until - at):
                    target[k] = (source[k] & ~mask) | level
                to += until - at
                at = until


@inner
def _edge_below(value, slack):
    """The bits of a float, given by its bits, made a little smaller."""
    number = np.int64(value).view(np.float64)
    return np.float64(number * (1.0 - slack)).view(np.int64)


@inner
def _first_not_below(coded, mask, edge):
    """The first place of sorted codes whose value is not below an edge."""
    low, high = 0, len(coded)
    while low < high:
        middle = (low + high) // 2
        if (coded[middle] & ~mask) < edge:
            low = middle + 1
        else:
            high = middle
    return low


@kernel
def keep_between(coded, low, high, out):
    """Those from `low` on and below `high`, one after the other; returns how many there are."""
    kept = 0
    for k in range(len(coded)):
        out[kept] = coded[k]
        kept += (coded[k] >= low) & (coded[k] < high)
    return kept


@inner
def _count(coded, mask, first, last, out):
    """Add how many of each level there are, in two tallies, so that neither waits for the other."""
    other = np.zeros_like(out)
    even = first + (last - first) // 2 * 2
    for k in range(first, even, 2):
        out[coded[k] & mask] += 1
        other[coded[k + 1] & mask] += 1
    if even < last:
        out[coded[even] & mask] += 1
    for k in range(len(out)):
        out[k] += other[k]


@parallel
def count_levels(coded, mask, chunk, out):
    """How many of each level stand before each chunk of so many. out : (chunks, levels)."""
    for c in prange(len(out)):
        _count(coded, mask, c * chunk, min((c + 1) * chunk, len(coded)), out[c])
    for c in range(1, len(out)):
        out[c] += out[c - 1]
    for c in range(len(out) - 1, 0, -1):
        out[c] = out[c - 1]
    out[0] = 0


@parallel
def compare_levels(coded, mask, chunk, offset, before, begin, slack, base, pairs):
    """How many truly lesser elements of each level there are.

    For the sorted elements from `begin` on, by level, how many truly lesser ones of each level
    there are.

    coded : codes of floats that are not negative; chunk : elements of each, of which those from
    number `offset` on are looked at; before : of `count_levels`; slack : relative
    difference up to which two are equal; base : (levels,) lesser ones that are not held;
    pairs : (chunks, levels, levels) of the element, and of the lesser ones.
    """
    for r in prange(len(pairs)):
        c = offset + np.int64(r)
        first, last = max(c * chunk, begin), min((c + 1) * chunk, len(coded))
        if first >= last:
            continue
        found = pairs[r]
        value = coded[first] & ~mask
        edge = _edge_below(value, slack)
        here = _first_not_below(coded, mask, edge)
        less = base.copy()
        piece = here // chunk
        for level in range(len(less)):
            less[level] += before[piece, level]
        _count(coded, mask, piece * chunk, here, less)
        for q in range(first, last):
            if (coded[q] & ~mask) != value:
                value = coded[q] & ~mask
                edge = _edge_below(value, slack)
                while (coded[here] & ~mask) < edge:
                    level = coded[here] & mask
                    for k in range(len(less)):  # all, so that they can be read together
                        less[k] += k == level
                    here += 1
            own = found[coded[q] & mask]
            for k in range(len(own)):
                own[k] += less[k]
