"""How answers stand to those of all cases, for showing them side by side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.scene.arrangement import Arrangement

Floats = NDArray[np.float64]
_FURTHEST = 2.5  # standard deviations that are shown as the end of the colours


@dataclass(frozen=True, eq=False)
class Standing:
    """Answers from -1, far below the mean, to 1, far above it.

    sums, known : (n+1, p) running sums in tree order, and of how many answers.
    """

    sums: Floats
    known: Floats


def standing(values: Floats, arrangement: Arrangement) -> Standing:
    """Standardise each variable, and sum along the case axis.

    values : (n, p), NaN where missing.
    """
    n, p = values.shape
    sums, known = np.zeros((p, n + 1)), np.zeros((p, n + 1))
    for j in range(p):  # a variable at a time stays in the processor's cache
        own = values[arrangement.order, j]
        there = ~np.isnan(own)
        count = max(int(there.sum()), 1)
        own[~there] = 0.0
        own -= own.sum() / count
        own[~there] = 0.0
        spread = np.sqrt(own @ own / count)
        own /= spread * _FURTHEST if spread > 0 else 1.0
        np.cumsum(np.clip(own, -1.0, 1.0, out=own), out=sums[j, 1:])
        np.cumsum(there, out=known[j, 1:])
    return Standing(sums.T, known.T)


def standing_of_rows(shown: Standing, first: NDArray[np.int64], past: NDArray[np.int64]) -> Floats:
    """(rows, p) the mean standing of the positions first..past-1 of each row; NaN without any."""
    known = shown.known[past] - shown.known[first]
    sums = shown.sums[past] - shown.sums[first]
    return np.asarray(np.where(known > 0, sums / np.maximum(known, 1.0), np.nan))
