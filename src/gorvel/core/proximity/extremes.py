"""The most and the least alike pairs, and where one pair stands among all."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.proximity.pairs import Proximities

Ints = NDArray[np.int64]
_CELLS = 1 << 21  # pairs between two reports


@dataclass(frozen=True)
class Pair:
    """Two cases (from 0), the earlier one first, and their proximity."""

    one: int
    other: int
    proximity: float


def extreme_pairs(
    pairs: Proximities, cases: int, wanted: int, progress: Progress = silent
) -> tuple[list[Pair], list[Pair]]:
    """The nearest pairs, nearest first, and the farthest, farthest first; ties in file order.

    progress : told "pairs"; may stop the work by raising.
    """
    nearest: list[tuple[float, int, int]] = []
    farthest: list[tuple[float, int, int]] = []
    step = max(_CELLS // max(cases, 1), 1)
    for begin in range(0, cases - 1, step):
        progress(Phase.PAIRS, begin / cases)
        rows = np.arange(begin, min(begin + step, cases - 1))
        columns = np.arange(begin + 1, cases)
        block = pairs.block(rows, columns)
        later = columns[None, :] > rows[:, None]
        for found, signed in ((nearest, block), (farthest, -block)):
            flat = np.where(later, signed, np.inf).ravel()
            kept = min(wanted, int(later.sum()))
            edge = np.partition(flat, kept - 1)[kept - 1]
            places = np.flatnonzero(flat <= edge)
            best = places[np.argsort(flat[places], kind="stable")[:kept]]
            i, j = np.divmod(best, len(columns))
            found += zip(flat[best].tolist(), rows[i].tolist(), columns[j].tolist(), strict=True)
            found.sort()
            del found[wanted:]
    return (
        [Pair(i, j, value) for value, i, j in nearest],
        [Pair(i, j, -value) for value, i, j in farthest],
    )


def rank_of_pair(
    pairs: Proximities, cases: int, one: int, other: int, progress: Progress = silent
) -> tuple[float, int]:
    """The proximity of two cases (from 0), and how many pairs are nearer."""
    own = float(pairs.block(np.array([one]), np.array([other]))[0, 0])
    step, nearer = max(_CELLS // max(cases, 1), 1), 0
    for begin in range(0, cases - 1, step):
        progress(Phase.PAIRS, begin / cases)
        rows = np.arange(begin, min(begin + step, cases - 1))
        columns = np.arange(begin + 1, cases)
        block = pairs.block(rows, columns)
        nearer += int(np.count_nonzero((block < own) & (columns[None, :] > rows[:, None])))
    return own, nearer
