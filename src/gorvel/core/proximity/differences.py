"""Measures of differences, variable by variable: a block of cases against all cases.

Every formula works on direct differences of two cases, so that equal cases are at exactly 0 and
d(x, y) equals d(y, x) to the last bit.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from gorvel.core.proximity.answers import Answers, Matrix
from gorvel.core.table.levels import NUMERIC

Term = Callable[[Matrix, Matrix], Matrix]


def _columns(answers: Answers, rows: slice) -> Iterator[tuple[float, Matrix, Matrix]]:
    """The importance of each variable, and its values in the block as a column, in all as a row."""
    x = answers.values
    for j, v in enumerate(answers.importance):
        yield float(v), x[rows][:, j, None], x[None, :, j]


def _sum(answers: Answers, rows: slice, term: Term, scale_up: bool = True) -> Matrix:
    """sum_j v_j term(x_j, y_j) over the variables both have, NaN where there is none.

    scale_up : times total / used importance.
    """
    x = answers.values
    block = x[rows]
    out = np.zeros((block.shape[0], x.shape[0]))
    gaps = np.isnan(x).any()
    used = np.zeros_like(out) if gaps else out
    for v, a, b in _columns(answers, rows):
        part = term(a, b)
        if gaps:
            gap: NDArray[np.bool_] = np.isnan(a) | np.isnan(b)
            part[gap] = 0.0
            used += v * ~gap
        part *= v
        out += part
    if not gaps:
        return out
    if scale_up:
        # the scale is exactly 1 for complete pairs
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


def _most(answers: Answers, rows: slice, weighted: bool) -> Matrix:
    """max_j v_j |x_j - y_j| over the variables both have, NaN where there is none."""
    out = np.full((answers.values[rows].shape[0], answers.values.shape[0]), np.nan)
    for v, a, b in _columns(answers, rows):
        out = np.fmax(out, (v if weighted else 1.0) * np.abs(a - b))
    return out


def squared_euclidean(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j (x_j - y_j)^2."""
    return _sum(answers, rows, lambda a, b: np.square(a - b))


def euclidean(answers: Answers, rows: slice) -> Matrix:
    """sqrt(sum_j v_j (x_j - y_j)^2)."""
    return np.asarray(np.sqrt(squared_euclidean(answers, rows)))


def city_block(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j |x_j - y_j|."""
    return _sum(answers, rows, lambda a, b: np.abs(a - b))


def chebyshev(answers: Answers, rows: slice) -> Matrix:
    """max_j v_j |x_j - y_j|."""
    return _most(answers, rows, weighted=True)


def minkowski(answers: Answers, rows: slice) -> Matrix:
    """(sum_j v_j |x_j - y_j|^p)^(1/p), the largest difference taken out before it is raised."""
    p, most = answers.power, _most(answers, rows, weighted=False)
    unit = np.where(most > 0, most, 1.0)
    total = _sum(answers, rows, lambda a, b: np.asarray((np.abs(a - b) / unit) ** p))
    with np.errstate(under="ignore"):
        return np.asarray(unit * total ** (1.0 / p))


def power(answers: Answers, rows: slice) -> Matrix:
    """(sum_j v_j |x_j - y_j|^p)^(1/r)."""
    p = answers.power
    total = _sum(answers, rows, lambda a, b: np.asarray(np.abs(a - b) ** p))
    return np.asarray(total ** (1.0 / answers.root))


def canberra(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j |x_j - y_j| / (|x_j| + |y_j|), 0/0 being 0."""

    def term(a: Matrix, b: Matrix) -> Matrix:
        below = np.abs(a) + np.abs(b)
        return np.asarray(np.abs(a - b) / np.where(below > 0, below, 1.0))

    return _sum(answers, rows, term)


def bray_curtis(answers: Answers, rows: slice) -> Matrix:
    """sum_j v_j |x_j - y_j| / sum_j v_j |x_j + y_j|."""
    above = _sum(answers, rows, lambda a, b: np.abs(a - b), scale_up=False)
    below = _sum(answers, rows, lambda a, b: np.abs(a + b), scale_up=False)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(above / below)


def mahalanobis(answers: Answers, rows: slice) -> Matrix:
    """sqrt((x - y)' S^-1 (x - y)), as the Euclidean distance of whitened answers."""
    turned = whitened(answers)
    out = np.zeros((turned[rows].shape[0], turned.shape[0]))
    for k in range(turned.shape[1]):
        out += np.square(turned[rows, k, None] - turned[None, :, k])
    return np.asarray(np.sqrt(out))


def whitened(answers: Answers) -> Matrix:
    """(n, p) answers as uncorrelated variables of variance 1."""
    x = answers.values
    p = x.shape[1]
    turn = np.eye(p) if answers.whitening is None else answers.whitening
    out = np.zeros(x.shape)
    for k in range(p):
        # added up column by column, so that equal cases come out equal to the last bit
        for j in range(p):
            out[:, k] += x[:, j] * turn[j, k]
    return out


def gower(answers: Answers, rows: slice, within: bool = False) -> Matrix:
    """sum_j v_j (1 - s_j) / sum_j v_j over the variables that count for the pair.

    within : no s below 0, for cases beyond the range of those that gave it.
    """
    shape = (answers.values[rows].shape[0], answers.values.shape[0])
    out, used = np.zeros(shape), np.zeros(shape)
    for j, (v, a, b) in enumerate(_columns(answers, rows)):
        difference = a - b
        counts = ~np.isnan(difference)
        if answers.levels[j] in NUMERIC:
            spread = answers.ranges[j]
            unlike = np.abs(difference) * (v / spread if spread > 0 else 0.0)
            unlike = np.minimum(unlike, v) if within else unlike
        else:
            unlike = v * (difference != 0)
        if answers.asymmetric[j]:
            counts &= ~((a == 0) & (b == 0))
        out += np.where(counts, unlike, 0.0)
        used += v * counts
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(used > 0, out / used, np.nan))
