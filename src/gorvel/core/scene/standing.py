"""How answers stand to those of all cases, for showing them side by side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.scene.arrangement import Arrangement

__all__ = ["Standing", "standing", "standing_of_rows"]

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
    known = ~np.isnan(values)
    counts = np.maximum(known.sum(axis=0), 1)
    filled = np.where(known, values, 0.0)
    mean = filled.sum(axis=0) / counts
    away = np.where(known, values - mean, 0.0)
    spread = np.sqrt((away**2).sum(axis=0) / counts)
    shown = np.clip(away / np.where(spread > 0, spread * _FURTHEST, 1.0), -1.0, 1.0)
    order, start = arrangement.order, np.zeros((1, values.shape[1]))
    return Standing(
        np.concatenate([start, np.cumsum(shown[order], axis=0)]),
        np.concatenate([start, np.cumsum(known[order], axis=0)]),
    )


def standing_of_rows(shown: Standing, first: NDArray[np.int64], past: NDArray[np.int64]) -> Floats:
    """(rows, p) the mean standing of the positions first..past-1 of each row; NaN without any."""
    known = shown.known[past] - shown.known[first]
    sums = shown.sums[past] - shown.sums[first]
    return np.asarray(np.where(known > 0, sums / np.maximum(known, 1.0), np.nan))
