"""Single linkage from the answers themselves, by a minimum spanning tree (Prim 1957)."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel
from gorvel.core.kernels.joins import place_of, smallest
from gorvel.core.kernels.pairs import BLOCK, add_terms

__all__ = ["span"]


@kernel
def span(x, v, kind, keys, parents, cases, state, count, ends, starts, lengths):
    """Take `count` more cases into the tree.

    x : (p, n + 1), a column for each case outside, and in the last one the case taken last; keys :
    (n,) their distances to the tree; parents, cases : (n,) nearest case in the tree, own number;
    state : cases outside, number of the case taken last; ends, starts, lengths : (n - 1,) edges.
    """
    p = x.shape[0]
    last = x.shape[1] - 1
    far = np.empty(BLOCK)
    for _ in range(count):
        m = state[0]
        low = np.inf
        for first in range(0, m, BLOCK):
            size = min(BLOCK, m - first)
            add_terms(x, v, kind, last, first, first + size, far[:size])
            key, parent = keys[first : first + size], parents[first : first + size]
            for k in range(size):
                nearer = far[k] < key[k]
                key[k] = far[k] if nearer else key[k]
                parent[k] = state[1] if nearer else parent[k]
            low = min(low, smallest(key))
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
