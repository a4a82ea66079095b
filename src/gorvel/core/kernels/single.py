"""Single linkage from the answers themselves, by a minimum spanning tree (Prim 1957)."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange
from gorvel.core.kernels.joins import place_of, smallest
from gorvel.core.kernels.terms import BLOCK, add_terms

__all__ = ["near_pairs", "span"]

_WORTH = 6000  # cases outside from which a second thread pays


@kernel
def _pass(x, v, kind, last, taken, keys, parents, begin, end, far):
    """Bring the keys of begin..end-1 up to date with the case taken last; the smallest of them."""
    low = np.inf
    for first in range(begin, end, BLOCK):
        size = min(BLOCK, end - first)
        part = far[:size]
        add_terms(x, v, kind, last, first, first + size, part)
        key, parent = keys[first : first + size], parents[first : first + size]
        for k in range(size):
            nearer = part[k] < key[k]
            key[k] = part[k] if nearer else key[k]
            parent[k] = taken if nearer else parent[k]
        low = min(low, smallest(key))
    return low


@parallel
def _shared_pass(x, v, kind, last, taken, keys, parents, m, far, lows):
    """The same by two threads, each its half."""
    for hand in prange(2):
        begin, end = m * np.int64(hand) // 2, m * (np.int64(hand) + 1) // 2
        lows[hand] = _pass(x, v, kind, last, taken, keys, parents, begin, end, far[hand])


@kernel
def span(x, v, kind, keys, parents, cases, state, count, ends, starts, lengths):
    """Take `count` more cases into the tree.

    x : (p, n + 1), a column for each case outside, and in the last one the case taken last; keys :
    (n,) their distances to the tree; parents, cases : (n,) nearest case in the tree, own number;
    state : cases outside, number of the case taken last; ends, starts, lengths : (n - 1,) edges.
    """
    p = x.shape[0]
    last = x.shape[1] - 1
    far, lows = np.empty((2, BLOCK)), np.empty(2)
    for _ in range(count):
        m = state[0]
        if m > _WORTH:
            _shared_pass(x, v, kind, last, state[1], keys, parents, m, far, lows)
            low = min(lows[0], lows[1])
        else:
            low = _pass(x, v, kind, last, state[1], keys, parents, 0, m, far[0])
        at = place_of(keys[:m], low)
        edge = len(keys) - m
        ends[edge], starts[edge], lengths[edge] = cases[at], parents[at], low
        state[1] = cases[at]
        m -= 1
        for j in range(p):
            x[j, last] = x[j, at]
            x[j, at] = x[j, m]
        keys[at], parents[at], cases[at] = keys[m], parents[m], cases[m]
        state[0] = m


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
