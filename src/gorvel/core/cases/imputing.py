"""Filling gaps several times over, by answers of cases that are expected to answer alike."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cases.prepared import Variable

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

ROUNDS, DONORS = 5, 5  # times that each variable is filled anew; cases of which one is drawn
_RIDGE = 1e-4  # of the mean square of the predictors, so that any regression can be solved
_BLOCK = 1 << 22  # cells of a block


def imputed(raw: Floats, variables: Sequence[Variable], random: np.random.Generator) -> Floats:
    """One completed data set; answers that are there stay.

    Gaps are first filled by answers drawn at random; then each variable in turn, that with the
    fewest gaps first, is regressed on all others over the cases that answered, drawn anew with
    replacement, and each gap takes the answer of one of the `DONORS` cases whose expected answers
    are nearest; all that `ROUNDS` times. Of nominal variables the shares of the words are expected.

    Parameters
    ----------
    raw : (n, p) codes, NaN where missing; each variable has an answer.

    References
    ----------
    Rubin 1987, Multiple imputation for nonresponse in surveys; Little 1988, Missing-data
    adjustments in large surveys (predictive mean matching); van Buuren, Brand, Groothuis-Oudshoorn
    & Rubin 2006, Fully conditional specification in multivariate imputation.
    """
    gaps, out = np.isnan(raw), raw.copy()
    lacking = gaps.sum(axis=0)
    for j in np.flatnonzero(lacking).tolist():
        known = raw[~gaps[:, j], j]
        out[gaps[:, j], j] = random.choice(known, int(lacking[j]))
    order = sorted(np.flatnonzero(lacking).tolist(), key=lambda j: (int(lacking[j]), j))
    for _ in range(ROUNDS):
        for j in order:
            others = _predictors(out, variables, j)
            nominal = variables[j].level == "nominal"
            wanted = _dummies(raw[:, j]) if nominal else raw[:, [j]]
            out[gaps[:, j], j] = _drawn(others, wanted, raw[:, j], gaps[:, j], random)
    return out


def _dummies(column: Floats) -> Floats:
    """(n, words) 1 for the word that stands there, NaN where none does."""
    words = np.unique(column[~np.isnan(column)])
    out: Floats = (column[:, None] == words).astype(np.float64)
    out[np.isnan(column)] = np.nan
    return out


def _predictors(values: Floats, variables: Sequence[Variable], target: int) -> Floats:
    """(n, q) all other variables about their means, in their spreads, and a column of ones."""
    parts = [
        _dummies(values[:, j])[:, 1:] if variable.level == "nominal" else values[:, [j]]
        for j, variable in enumerate(variables)
        if j != target
    ]
    ones = np.ones((len(values), 1))
    if not parts:
        return ones
    columns = np.hstack(parts)
    columns = columns - columns.mean(axis=0)
    spread = columns.std(axis=0)
    return np.hstack([ones, columns[:, spread > 0] / spread[spread > 0]])


def _drawn(
    others: Floats, wanted: Floats, answers: Floats, gap: Flags, random: np.random.Generator
) -> Floats:
    """Answers for the gaps of one variable, each that of a case expected to answer alike."""
    there = np.flatnonzero(~gap)
    again = random.choice(there, len(there))
    x, y = others[again], wanted[again]
    square = x.T @ x
    square[np.diag_indices_from(square)] += _RIDGE * len(x)
    expected = others @ np.linalg.solve(square, x.T @ y)
    lacking, donors = expected[gap], expected[there]
    many = min(DONORS, len(there))
    chosen = np.empty(len(lacking), dtype=np.int64)
    step = max(1, _BLOCK // len(there))
    for begin in range(0, len(lacking), step):
        some = lacking[begin : begin + step]
        away = sum((some[:, None, k] - donors[None, :, k]) ** 2 for k in range(donors.shape[1]))
        near = np.argsort(away, axis=1, kind="stable")[:, :many]
        pick = random.integers(0, many, len(some))
        chosen[begin : begin + step] = near[np.arange(len(some)), pick]
    return np.asarray(answers[there[chosen]])
