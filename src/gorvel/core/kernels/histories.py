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

from gorvel.core.kernels.compiled import inner, kernel


class History(NamedTuple):
    """The joins inside each cluster, highest first.

    starts : (clusters + 1,) where those of each begin; levels, parts : (joins,) their heights and
    shares. Once more of all clusters together, highest first: falling_levels, falling_parts, and
    owners, the cluster of each.
    """

    starts: NDArray[np.int64]
    levels: NDArray[np.float64]
    parts: NDArray[np.float64]
    falling_levels: NDArray[np.float64]
    falling_parts: NDArray[np.float64]
    owners: NDArray[np.uint32]

    @classmethod
    def of(
        cls, starts: NDArray[np.int64], levels: NDArray[np.float64], parts: NDArray[np.float64]
    ) -> History:
        """The joins of each cluster, and in one order."""
        order = np.argsort(-levels)
        owners = np.repeat(np.arange(len(starts) - 1, dtype=np.uint32), np.diff(starts))
        return cls(starts, levels, parts, levels[order], parts[order], owners[order])


@inner
def mend_row(row, height, scale, before):
    """To a row joined at a height, add what is due to joins above it in the other clusters."""
    levels, parts, owners = before.falling_levels, before.falling_parts, before.owners
    for b in range(len(levels)):
        over = levels[b] - height
        if over <= 0.0:
            break
        row[owners[b]] += scale * parts[b] * over


@inner
def mend_columns(values, heights, lowest, scale, after, c):
    """To pairs joined at these heights, add what is due to joins above them in cluster c."""
    for b in range(after.starts[c], after.starts[c + 1]):
        level, share = after.levels[b], scale * after.parts[b]
        if level <= lowest:
            break
        for q in range(len(values)):
            values[q] += share * max(level - heights[q], 0.0)


@kernel
def merge(before, play, starts, levels, parts):
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
    starts[len(play.first_of)] = at
