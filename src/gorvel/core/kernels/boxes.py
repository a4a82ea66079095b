"""A median tree of boxes round the centres of clusters (Bentley 1975).

Node k has children 2k + 1 and 2k + 2; a leaf holds neighbouring slots, of which some may have died.
A box keeps its corners and the least mass, or least spread, of the clusters in it.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel


@inner
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
def refit(centres, masses, light, begins, ends, lows, highs, least, depth):
    """Boxes round the clusters alive.

    centres : (p, slots); masses : (slots,), 0 for the dead; light : (slots,) of which the least is
    kept; lows, highs : (nodes, p); least : (nodes,).
    """
    p = centres.shape[0]
    inner = (1 << depth) - 1
    for node in range(2 * inner, -1, -1):
        least[node] = np.inf
        for j in range(p):
            lows[node, j], highs[node, j] = np.inf, -np.inf
        if node < inner:
            for child in range(2 * node + 1, 2 * node + 3):
                least[node] = min(least[node], least[child])
                for j in range(p):
                    lows[node, j] = min(lows[node, j], lows[child, j])
                    highs[node, j] = max(highs[node, j], highs[child, j])
            continue
        for slot in range(begins[node], ends[node]):
            if masses[slot] > 0.0:
                least[node] = min(least[node], light[slot])
                for j in range(p):
                    lows[node, j] = min(lows[node, j], centres[j, slot])
                    highs[node, j] = max(highs[node, j], centres[j, slot])


@inner
def widen(centres, slot, leaf, lows, highs):
    """Let the boxes from a leaf upward hold a cluster that has moved, and only grown."""
    node = leaf
    while True:
        for j in range(centres.shape[0]):
            lows[node, j] = min(lows[node, j], centres[j, slot])
            highs[node, j] = max(highs[node, j], centres[j, slot])
        if node == 0:
            return
        node = (node - 1) // 2


@kernel
def leaves_of(begins, ends, depth, leaves):
    """The leaf of each slot."""
    inner = (1 << depth) - 1
    for node in range(inner, 2 * inner + 1):
        for slot in range(begins[node], ends[node]):
            leaves[slot] = node
