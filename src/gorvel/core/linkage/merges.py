"""From joins found in any order to a tree in order of joining."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels import upward
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]

# nearest neighbours as close together as this are taken for tied: wider than the rule itself, so
# that rounding cannot hide a tie
SLACK = 1.0 + 1e-11


def tree_of(n: int, left: Ints, right: Ints, heights: Floats) -> Tree:
    """The tree of joins that nowhere tie for a nearest neighbour, parts before the whole.

    left, right : (n-1,) cases, or n + k for what entry k made; heights : (n-1,), a whole above its
    parts. Only joins of different clusters can be equally high; the tie rule orders them, and each
    is marked as tied while another of that height is left.
    """
    order = np.argsort(heights, kind="stable")
    tied = np.zeros(n - 1, dtype=bool)
    ranked = heights[order]
    close = np.flatnonzero(ranked[1:] <= ranked[:-1] + TIE_TOLERANCE * np.abs(ranked[:-1]))
    if close.size:
        first = upward.firsts(left, right)
        ends = np.sort(np.stack([first[left], first[right]]), axis=0)
        _settle(order, heights, ends, close, tied)
    place = np.empty(n - 1, dtype=np.int64)
    place[order] = np.arange(n - 1)

    def renamed(nodes: Ints) -> Ints:
        made = nodes >= n
        return np.where(made, n + place[np.where(made, nodes - n, 0)], nodes)[order]

    one, other = renamed(left), renamed(right)
    draft = Tree(n, one, other, heights[order], tied, np.zeros(n - 1, dtype=bool))
    swap = draft.firsts[one] > draft.firsts[other]
    return Tree(
        n, np.where(swap, other, one), np.where(swap, one, other), draft.heights, tied,
        draft.tie_matters,
    )  # fmt: skip


def _settle(order: Ints, heights: Floats, ends: Ints, close: Ints, tied: NDArray[np.bool_]) -> None:
    """Put joins of one height into the order of the tie rule, in place.

    ends : (2, n-1) the earliest cases of the two parts of each join, the earlier one first.
    """
    done = -1
    for start in close.tolist():
        k = max(start, done)
        while k + 1 < len(order):
            low = heights[order[k]]
            end = k + 1
            while end < len(order) and heights[order[end]] <= low + TIE_TOLERANCE * abs(low):
                end += 1
            if end == k + 1:
                break
            chosen = k + int(np.lexsort((ends[1, order[k:end]], ends[0, order[k:end]]))[0])
            order[k : chosen + 1] = np.roll(order[k : chosen + 1], 1)
            tied[k] = True
            k += 1
        done = k
