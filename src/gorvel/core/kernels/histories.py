"""What flexible rules must know of joins made before their turn.

Under these rules d(X, Y) depends on the order of the joins inside X and inside Y. When X is made at
height h and Y already holds joins above h, the update formula gives the proximity of the wrong
order. What it lacks is beta^2 sum_b w_b (h_b - h) over the joins b of Y above h, where w_b is the
share of that join's cluster in Y, times 1 - beta for each level between them.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.compiled import kernel

__all__ = ["History", "above", "merge"]


class History(NamedTuple):
    """The joins inside each cluster, highest first.

    starts : (clusters + 1,) where those of each begin; levels, parts : (joins,) their heights and
    shares; tops : (clusters,) the highest of each, -inf for a single case.
    """

    starts: NDArray[np.int64]
    levels: NDArray[np.float64]
    parts: NDArray[np.float64]
    tops: NDArray[np.float64]


@kernel
def above(history, k, height):
    """The sum of w_b (h_b - height) over the joins of cluster k above a height."""
    total = 0.0
    for b in range(history.starts[k], history.starts[k + 1]):
        over = history.levels[b] - height
        if over <= 0.0:
            break
        total += history.parts[b] * over
    return total


@kernel
def merge(before, play, starts, levels, parts, tops):
    """The histories after a round, see `Round`, into empty arrays."""
    at = 0
    for c in range(len(play.first_of)):
        starts[c] = at
        i, q = play.first_of[c], play.pair_of[c]
        a, a_end = before.starts[i], before.starts[i + 1]
        b, b_end = 0, 0
        one, other = 1.0, 0.0
        if q >= 0:
            j = np.int64(play.others[q])
            b, b_end = before.starts[j], before.starts[j + 1]
            one, other = play.one_share[q], play.other_share[q]
            levels[at], parts[at] = play.heights[q], 1.0
            at += 1
        while a < a_end or b < b_end:
            if b == b_end or (a < a_end and before.levels[a] >= before.levels[b]):
                levels[at], parts[at] = before.levels[a], one * before.parts[a]
                a += 1
            else:
                levels[at], parts[at] = before.levels[b], other * before.parts[b]
                b += 1
            at += 1
        tops[c] = levels[starts[c]] if at > starts[c] else -np.inf
    starts[len(play.first_of)] = at
