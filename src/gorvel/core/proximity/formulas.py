"""The arithmetic of the measures: a block of cases against all cases.

Every formula works on direct differences of two cases, so that equal cases are at exactly 0 and
d(x, y) equals d(y, x) to the last bit.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.table.levels import NUMERIC, Level

__all__ = ["Answers", "city_block", "euclidean", "gower", "squared_euclidean"]

Matrix = NDArray[np.float64]
Term = Callable[[Matrix], Matrix]


@dataclass(frozen=True)
class Answers:
    """What a measure works on.

    values : (n, p), scaled, NaN where missing; importance : (p,) > 0;
    levels : p measurement levels; asymmetric : p flags; ranges : (p,), max - min of each column.
    """

    values: Matrix
    importance: NDArray[np.float64]
    levels: Sequence[Level]
    asymmetric: Sequence[bool]
    ranges: NDArray[np.float64]

    @classmethod
    def of(
        cls,
        values: Matrix,
        importance: NDArray[np.float64],
        levels: Sequence[Level],
        asymmetric: Sequence[bool],
    ) -> Answers:
        """Work out the ranges of the known values."""
        ranges = np.zeros(values.shape[1])
        for j in range(values.shape[1]):
            known = values[~np.isnan(values[:, j]), j]
            ranges[j] = known.max() - known.min() if known.size else 0.0
        return cls(values, importance, levels, asymmetric, ranges)


def _importance_sum(answers: Answers, rows: slice, term: Term) -> Matrix:
    """sum_j v_j term(x_j - y_j) over the variables both have, times total / used importance."""
    x = answers.values
    block = x[rows]
    out = np.zeros((block.shape[0], x.shape[0]))
    gaps = np.isnan(x).any()
    used = np.zeros_like(out) if gaps else out
    for j, v in enumerate(answers.importance):
        difference = block[:, j, None] - x[None, :, j]
        if gaps:
            gap: NDArray[np.bool_] = np.asarray(np.isnan(difference))
            difference[gap] = 0.0
            used += v * ~gap
        part = term(difference)
        part *= v
        out += part
    if gaps:
        # the scale is exactly 1 for complete pairs, and NaN (0/0) for a pair with nothing in common
        complete = np.sum(answers.importance)
        full = _all_known(block, x)
        with np.errstate(invalid="ignore", divide="ignore"):
            out *= np.where(full, 1.0, complete / used)
        out[np.asarray(used == 0)] = np.nan
    return out


def _all_known(block: Matrix, x: Matrix) -> NDArray[np.bool_]:
    rows: NDArray[np.bool_] = np.asarray(~np.isnan(block).any(axis=1))
    columns: NDArray[np.bool_] = np.asarray(~np.isnan(x).any(axis=1))
    return np.asarray(rows[:, None] & columns[None, :])


def squared_euclidean(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j (x_j - y_j)^2"""
    return _importance_sum(answers, rows, np.square)


def euclidean(answers: Answers, rows: slice) -> Matrix:
    """sqrt(sum_j v_j (x_j - y_j)^2)"""
    return np.asarray(np.sqrt(squared_euclidean(answers, rows)))


def city_block(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j |x_j - y_j|"""
    return _importance_sum(answers, rows, np.abs)


def gower(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j (1 - s_j) / sum_j v_j over the variables that count for the pair."""
    x = answers.values
    block = x[rows]
    out = np.zeros((block.shape[0], x.shape[0]))
    used = np.zeros_like(out)
    for j, v in enumerate(answers.importance):
        a, b = block[:, j, None], x[None, :, j]
        difference = a - b
        counts = ~np.isnan(difference)
        if answers.levels[j] in NUMERIC:
            spread = answers.ranges[j]
            unlike = np.abs(difference) / spread if spread > 0 else np.zeros_like(difference)
        else:
            unlike = (difference != 0).astype(np.float64)
        if answers.asymmetric[j]:
            counts &= ~((a == 0) & (b == 0))
        out += np.where(counts, v * unlike, 0.0)
        used += v * counts
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(used > 0, out / used, np.nan))
