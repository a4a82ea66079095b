"""Measures of the shape of a case's answers: angles, correlations, compositions of counts.

A block of cases against all cases. Angles are taken as half the squared distance of unit vectors,
which is 1 - cos without the loss of figures near 0: equal cases are at exactly 0.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from gorvel.core.proximity.answers import Answers, Matrix

Flags = NDArray[np.bool_]
Ready = Callable[[Matrix], Matrix]


def zero_cases(x: Matrix) -> Flags:
    """(n,) no answer but 0. x : (n, p), NaN where missing."""
    return np.asarray(((x == 0) | np.isnan(x)).all(axis=1))


def constant_cases(x: Matrix) -> Flags:
    """(n,) all known answers are equal, or there is none."""
    high = np.fmax.reduce(x, axis=1)
    low = np.fmin.reduce(x, axis=1)
    return np.asarray(np.isnan(high) | (high == low))


def empty_cases(x: Matrix) -> Flags:
    """(n,) the counts sum to 0."""
    return np.asarray(np.nansum(x, axis=1) == 0)


def unit_rows(x: Matrix) -> Matrix:
    """Rows of length 1, NaN where all is 0."""
    most = np.fmax.reduce(np.abs(x), axis=1)[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        scaled = x / most
        return np.asarray(scaled / np.sqrt(np.nansum(scaled**2, axis=1))[:, None])


def centred_rows(x: Matrix) -> Matrix:
    """Rows about their mean, of length 1; NaN where they are constant."""
    known = ~np.isnan(x)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.nansum(x, axis=1) / known.sum(axis=1)
    out = unit_rows(x - mean[:, None])
    out[constant_cases(x)] = np.nan
    return out


def _row_ranks(x: Matrix) -> Matrix:
    """Average ranks within each row, NaN where missing."""
    out = np.empty_like(x)
    for j in range(x.shape[1]):
        own = x[:, j, None]
        out[:, j] = (x < own).sum(axis=1) + ((x == own).sum(axis=1) + 1) / 2
    return np.asarray(np.where(np.isnan(x), np.nan, out))


def ranked_rows(x: Matrix) -> Matrix:
    return centred_rows(_row_ranks(x))


def _half_squares(a: Matrix, b: Matrix) -> Matrix:
    """(m, n) half the squared distance of rows of a from rows of b."""
    out = np.zeros((a.shape[0], b.shape[0]))
    for j in range(a.shape[1]):
        out += np.square(a[:, j, None] - b[None, :, j])
    return out / 2.0


def _angle(answers: Answers, rows: slice, ready: Ready) -> Matrix:
    """1 - cos of rows made ready; with gaps each pair by the variables both have."""
    x = answers.values
    if not np.isnan(x).any():
        made = ready(x)
        return _half_squares(made[rows], made)
    out = np.full((x[rows].shape[0], x.shape[0]), np.nan)
    for k, own in enumerate(x[rows]):
        both = ~np.isnan(own) & ~np.isnan(x)
        some = both.any(axis=1)
        mine = ready(np.where(both, own, np.nan)[some])
        theirs = ready(np.where(both, x, np.nan)[some])
        undefined = np.isnan(mine).all(axis=1) | np.isnan(theirs).all(axis=1)
        halves = np.nansum(np.square(mine - theirs), axis=1) / 2.0
        out[k, some] = np.where(undefined, np.nan, halves)
    return out


def cosine(answers: Answers, rows: slice) -> Matrix:
    """1 - sum_j x_j y_j / (|x| |y|)."""
    return _angle(answers, rows, unit_rows)


def correlation(answers: Answers, rows: slice) -> Matrix:
    """1 - Pearson's r of two cases over the variables."""
    return _angle(answers, rows, centred_rows)


def spearman(answers: Answers, rows: slice) -> Matrix:
    """1 - Pearson's r of the ranks of two cases' answers."""
    return _angle(answers, rows, ranked_rows)


def chi_square(answers: Answers, rows: slice) -> Matrix:
    """sqrt(sum (x - E(x))^2 / E(x) + sum (y - E(y))^2 / E(y)), E from the table of the pair.

    With totals X and Y of the two rows that is sum_j (x_j Y - y_j X)^2 / ((x_j + y_j) X Y), which
    is exactly 0 for equal cases.
    """
    return np.asarray(np.sqrt(_chi2(answers, rows)[0]))


def phi_square(answers: Answers, rows: slice) -> Matrix:
    """chi-square divided by the square root of the total of the two rows."""
    chi2, total = _chi2(answers, rows)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.sqrt(chi2 / total))


def _chi2(answers: Answers, rows: slice) -> tuple[Matrix, Matrix]:
    x = answers.values
    chi2 = np.full((x[rows].shape[0], x.shape[0]), np.nan)
    total = np.full_like(chi2, np.nan)
    for k, own in enumerate(x[rows]):
        both = ~np.isnan(own) & ~np.isnan(x)
        mine, theirs = np.where(both, own, 0.0), np.where(both, x, 0.0)
        own_sum, sums = mine.sum(axis=1), theirs.sum(axis=1)
        column = mine + theirs
        above = np.square(mine * sums[:, None] - theirs * own_sum[:, None])
        terms = above / np.where(column > 0, column, 1.0)
        with np.errstate(invalid="ignore", divide="ignore"):
            value = _in_order(terms) / (own_sum * sums)
        chi2[k] = np.where((own_sum > 0) & (sums > 0), value, np.nan)
        total[k] = own_sum + sums
    return chi2, total


def _in_order(terms: Matrix) -> Matrix:
    """(n,) sums of rows, added up as a compiled loop does: NumPy's own order depends on the length.

    terms : (n, p).
    """
    out = np.zeros(len(terms))
    for column in terms.T:
        out += column
    return out


def whitening_of(x: Matrix) -> tuple[Matrix, list[int]]:
    """What turns differences of complete cases into those of uncorrelated variables of variance 1.

    x : (n, p). Returns (p, p) W with W W' the inverse of the sample covariance, and no variables;
    or, when the covariance is singular, places of variables that depend on each other.
    """
    n, p = x.shape
    away = x - x.mean(axis=0)
    spread = np.sqrt(np.square(away).sum(axis=0))
    flat = np.flatnonzero(spread <= 1e-13 * np.abs(x).max(axis=0, initial=0.0) * np.sqrt(n))
    if flat.size:
        return np.eye(p), flat.tolist()
    unit = away / spread
    for j in range(p):  # is a variable a sum of those before it?
        if j:
            weights, *_ = np.linalg.lstsq(unit[:, :j], unit[:, j], rcond=None)
            rest = unit[:, j] - unit[:, :j] @ weights
        else:
            weights, rest = np.empty(0), unit[:, 0]
        if rest @ rest <= 1e-20:
            others = np.flatnonzero(np.abs(weights) > 1e-8)
            return np.eye(p), [*others.tolist(), j]
    _, upper = np.linalg.qr(unit)
    inverse = np.linalg.solve(upper, np.eye(p))
    return np.asarray(inverse * np.sqrt(n - 1) / spread[:, None]), []
