"""Do clusters differ: tests of one variable at one cut, and how large the difference is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import counted, varies
from gorvel.core.cases.design import Design
from gorvel.core.profile.moments import cramers_v, means_covariance
from gorvel.core.profile.raw_answers import Question

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
_NONE = float("nan")
LEAST_CASES = 5  # with an answer, in a cluster whose differences are tested
LEAST_UNITS = 2  # sampling units that a cluster has to lie in
_SINGULAR = 1e-12  # of the largest eigenvalue


@dataclass(frozen=True)
class Difference:
    """One test.

    test : "f", "wald-f", "chi-square" or "rao-scott-f"; statistic, df1, df2, p : NaN where there is
    none; effect : eta squared, or Cramér's V; withheld : why the statistic and p are not to be
    trusted, "" where they are.
    """

    test: str
    statistic: float
    df1: float
    df2: float
    p: float
    effect: float
    withheld: str = ""


def differences(
    told: Question, own: Ints, count: int, weights: Floats, design: Design | None = None
) -> list[Difference]:
    """The tests of a variable; those that know the design stand beside those that do not.

    Weights are normed to sum to the cases that answered. Clusters are taken as given.

    own : (n,) clusters from 0; weights : (n,).
    """
    if told.level in ("nominal", "binary"):
        found = [_chi_square(told, own, count, weights)]
        if design is not None:
            found.append(_rao_scott(told, own, count, design))
    else:
        found = [_f(told.values, own, count, weights)]
        if design is not None:
            found.append(_wald(told.values, own, count, design, found[0].effect))
    why = why_withheld(told, own, count, design)
    return [replace(one, withheld=why) for one in found] if why else found


def why_withheld(told: Question, own: Ints, count: int, design: Design | None = None) -> str:
    """Why a test of a variable is not to be trusted; "" where nothing is known against it.

    The normal theory behind F, and behind the chi-square of a table, needs some cases in each
    cluster (Cochran 1954 asks for five in a cell); where a cluster has no spread, or lies in one
    sampling unit, its error is estimated as none at all.

    own : (n,) clusters from 0.
    """
    known = ~np.isnan(told.values)
    answered = np.bincount(own[known], minlength=count)
    few = np.flatnonzero((answered > 0) & (answered < LEAST_CASES))
    if few.size:
        cases = int(answered[few[0]])
        return f"cluster {few[0] + 1} has only {counted(cases, 'case')} with an answer"
    if told.level not in ("nominal", "binary"):
        for cluster in np.flatnonzero(answered).tolist():
            inside = told.values[known & (own == cluster)]
            if (inside == inside[0]).all():
                return f"all answers in cluster {cluster + 1} are alike"
    if design is None or design.psu is None:
        return ""
    for cluster in np.flatnonzero(answered).tolist():
        if np.unique(design.psu[known & (own == cluster)]).size < LEAST_UNITS:
            return f"cluster {cluster + 1} lies within one sampling unit"
    return ""


def holm(p: Floats) -> Floats:
    """P values corrected for their number, so that the chance of any false one stays; NaN apart.

    References
    ----------
    Holm 1979, A simple sequentially rejective multiple test procedure.
    """
    known = np.flatnonzero(~np.isnan(p))
    order = known[np.argsort(p[known], kind="stable")]
    times = np.arange(len(order), 0, -1)
    out = np.full(len(p), np.nan)
    out[order] = np.minimum(np.maximum.accumulate(p[order] * times), 1.0)
    return out


def _f(values: Floats, own: Ints, count: int, weights: Floats) -> Difference:
    """Fisher’s F of means.

    References
    ----------
    Fisher 1925, Statistical methods for research workers.
    """
    from scipy.special import fdtrc

    known = ~np.isnan(values)
    x, w = values[known], weights[known]
    c = np.unique(own[known], return_inverse=True)[1]
    n, k = len(x), int(c.max()) + 1 if len(x) else 0
    if k < 2:
        return Difference("f", _NONE, _NONE, _NONE, _NONE, _NONE)
    if not varies(x):
        return Difference("f", _NONE, float(k - 1), float(n - k), _NONE, _NONE)
    w = w * n / w.sum()
    mass = np.bincount(c, w)
    x = x - np.average(x, weights=w)
    mean = np.bincount(c, w * x) / mass
    between = float((mass * mean**2).sum())
    within = float((w * (x - mean[c]) ** 2).sum())
    whole = between + within
    effect = between / whole if whole > 0 else _NONE
    if n <= k or not within > 1e-24 * whole or whole <= 0:
        return Difference("f", _NONE, float(k - 1), float(n - k), _NONE, effect)
    statistic = (between / (k - 1)) / (within / (n - k))
    return Difference(
        "f", statistic, float(k - 1), float(n - k), float(fdtrc(k - 1, n - k, statistic)), effect
    )


def _wald(values: Floats, own: Ints, count: int, design: Design, effect: float) -> Difference:
    """Are the means equal, by their joint design covariance.

    References
    ----------
    Korn & Graubard 1990, Simultaneous testing of regression coefficients with complex survey data:
    use of Bonferroni t statistics (the F form).
    """
    from scipy.special import fdtrc

    known = ~np.isnan(values)
    used = np.unique(own[known])
    k, df2 = len(used), design.df - len(used) + 2
    nothing = Difference("wald-f", _NONE, max(float(k - 1), 0.0), df2, _NONE, effect)
    if k < 2 or df2 <= 0:
        return nothing
    w = np.where(known, design.weights, 0.0)
    mass = np.bincount(own, w, count)
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = np.bincount(own, w * np.where(known, values, 0.0), count) / mass
        whole = (w * np.where(known, values, 0.0)).sum() / w.sum()
    covariance = means_covariance(values, own, count, np.append(mean, whole), design)
    covariance = covariance[np.ix_(used, used)]
    contrasts = np.hstack([np.eye(k - 1), -np.ones((k - 1, 1))])
    apart, inside = contrasts @ mean[used], contrasts @ covariance @ contrasts.T
    if not _regular(inside):
        return nothing
    wald = float(apart @ np.linalg.solve(inside, apart))
    statistic = wald * df2 / ((k - 1) * design.df)
    return Difference(
        "wald-f", statistic, float(k - 1), df2, float(fdtrc(k - 1, df2, statistic)), effect
    )


def _regular(matrix: Floats) -> bool:
    if not np.isfinite(matrix).all():
        return False
    values = np.linalg.eigvalsh(matrix)
    return bool(values[0] > _SINGULAR * values[-1])


def _table(
    told: Question, own: Ints, count: int, weights: Floats
) -> tuple[Floats, Ints, NDArray[np.bool_]]:
    """Masses of clusters by levels that any case has, and the cell of each case, -1 for none."""
    known = ~np.isnan(told.values)
    c, rows = np.unique(own[known], return_inverse=True)
    x, columns = np.unique(told.values[known], return_inverse=True)
    cell = np.full(len(own), -1)
    cell[known] = rows * len(x) + columns
    masses = np.asarray(np.bincount(cell[known], weights[known], len(c) * len(x)), np.float64)
    return masses.reshape(len(c), len(x)), cell, known


def _chi_square(told: Question, own: Ints, count: int, weights: Floats) -> Difference:
    """Pearson’s chi-square of the table of clusters and levels.

    References
    ----------
    Pearson 1900, On the criterion that a given system of deviations … can be reasonably supposed to
    have arisen from random sampling.
    """
    from scipy.special import chdtrc

    masses, _, known = _table(told, own, count, weights)
    n, v = int(known.sum()), cramers_v(masses) if masses.size else _NONE
    if np.isnan(v):
        return Difference("chi-square", _NONE, _NONE, _NONE, _NONE, _NONE)
    df = (masses.shape[0] - 1) * (masses.shape[1] - 1)
    statistic = v**2 * n * (min(masses.shape) - 1)
    return Difference("chi-square", statistic, float(df), _NONE, float(chdtrc(df, statistic)), v)


def _rao_scott(told: Question, own: Ints, count: int, design: Design) -> Difference:
    """Chi-square corrected for the design to the second order.

    References
    ----------
    Rao & Scott 1984, On chi-squared tests for multiway contingency tables with cell proportions
    estimated from survey data.
    """
    from scipy.special import fdtrc

    masses, cell, known = _table(told, own, count, design.weights)
    v = cramers_v(masses) if masses.size else _NONE
    nothing = Difference("rao-scott-f", _NONE, _NONE, _NONE, _NONE, v)
    if np.isnan(v) or design.df <= 0:
        return nothing
    rows, columns = masses.shape
    n = int(known.sum())

    def parts(weights: Floats) -> tuple[Floats, Floats, Floats]:
        found = np.bincount(cell[known], weights[known], rows * columns).reshape(rows, columns)
        shares = found / found.sum()
        return shares, shares.sum(axis=1), shares.sum(axis=0)

    def independence(weights: Floats) -> Floats:
        shares, of_row, of_column = parts(weights)
        return (shares - np.outer(of_row, of_column))[:-1, :-1].ravel()

    shares, of_row, of_column = parts(design.weights)
    h = shares - np.outer(of_row, of_column)
    row, column = np.divmod(np.where(known, cell, 0), columns)
    in_row = (row[:, None] == np.arange(rows)) - of_row
    in_column = (column[:, None] == np.arange(columns)) - of_column
    both = in_row[:, :, None] * in_column[:, None, :] - h
    w = np.where(known, design.weights, 0.0)
    linear = (w / w.sum())[:, None] * both[:, :-1, :-1].reshape(len(w), -1)
    covariance = design.covariance(independence, linear)
    if not np.isfinite(covariance).all():
        return nothing
    p_row = np.diag(of_row[:-1]) - np.outer(of_row[:-1], of_row[:-1])
    p_column = np.diag(of_column[:-1]) - np.outer(of_column[:-1], of_column[:-1])
    inverse = np.kron(np.linalg.inv(p_row), np.linalg.inv(p_column))
    delta = np.linalg.eigvals(n * inverse @ covariance).real
    if not (_regular(covariance) and delta.sum() > 0):
        return nothing
    statistic = float(n * (h**2 / np.outer(of_row, of_column)).sum() / delta.sum())
    df1 = float(delta.sum() ** 2 / (delta**2).sum())
    df2 = df1 * design.df
    return Difference("rao-scott-f", statistic, df1, df2, float(fdtrc(df1, df2, statistic)), v)
