"""Cases that stand apart: from the rest of each variable, from the cloud, from their neighbours."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.prepared import Prepared
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.levels import NUMERIC

Floats = NDArray[np.float64]

_NEIGHBOURS = 5
_UNUSUAL = 2.5  # robust z from which a variable is named as a reason
_MOST_REASONS = 3
_MAD_TO_SD = 1.482602218505602  # 1 / the 0.75 quantile of the standard normal
_MEAN_TO_SD = 1.2533141373155003  # sqrt(pi / 2)
_STARTS, _FINISHED = 60, 5  # samples to begin from; how many of the best are followed to the end
_BLOCK = 1 << 20  # cells of a block of distances


@dataclass(frozen=True)
class Reason:
    """An unusual answer: the variable, the answer, and its robust z."""

    variable: str
    answer: float
    z: float


@dataclass(frozen=True)
class Outlier:
    """How far a case stands apart. case : number in the file; label.

    apart : its mean distance to its nearest neighbours, as a multiple of the median case's;
    cloud : robust Mahalanobis distance, None where it is not defined;
    reasons : its most unusual answers.
    """

    case: int
    label: str
    apart: float
    cloud: float | None
    reasons: tuple[Reason, ...]


def robust_z(x: Floats) -> Floats:
    """(x - median) / (1.4826 MAD) of each column, NaN where missing.

    Where half of a column is one value and MAD is 0, the mean absolute deviation from the median
    times sqrt(pi/2) takes its place; a column without any spread is 0.

    References
    ----------
    Iglewicz & Hoaglin 1993, How to Detect and Handle Outliers.
    """
    out = np.full_like(x, np.nan)
    for j in range(x.shape[1]):
        known = ~np.isnan(x[:, j])
        values = x[known, j]
        if not values.size:
            continue
        away = values - np.median(values)
        scale = _MAD_TO_SD * np.median(np.abs(away)) or _MEAN_TO_SD * np.mean(np.abs(away))
        out[known, j] = away / scale if scale > 0 else 0.0
    return out


def _chi2_quantile(p: int, share: float) -> float:
    """The value below which a share of chi-squared with p degrees of freedom lies."""
    from scipy.special import chdtri  # only here, since it takes a while to load

    return float(chdtri(p, 1.0 - share))


def _fit(x: Floats, rows: NDArray[np.int64]) -> tuple[Floats, Floats] | None:
    """Squared Mahalanobis distances of all rows from the mean and covariance of some of them."""
    centre = x[rows].mean(axis=0)
    away = x - centre
    covariance = away[rows].T @ away[rows] / len(rows)
    try:
        half = np.linalg.cholesky(covariance)
    except np.linalg.LinAlgError:
        return None
    if half.diagonal().min() <= 1e-9 * half.diagonal().max():
        return None
    scaled = np.linalg.solve(half, away.T)
    return (scaled**2).sum(axis=0), np.log(half.diagonal()).sum()


def _concentrate(x: Floats, rows: NDArray[np.int64], steps: int) -> tuple[float, Floats] | None:
    """Move to the half that lies nearest to the half before; the determinant can only fall."""
    n, p = x.shape
    keep, before = (n + p + 1) // 2, np.inf
    for _ in range(steps):
        fitted = _fit(x, rows)
        if fitted is None:
            return None
        rows = np.argpartition(fitted[0], keep - 1)[:keep]
        if before - fitted[1] <= 1e-12:
            break
        before = float(fitted[1])
    fitted = _fit(x, rows)
    return None if fitted is None else (float(fitted[1]), fitted[0])


def robust_distances(x: Floats) -> Floats | None:
    """(n,) Mahalanobis distances from the centre and by the covariance of the tightest half.

    Minimum covariance determinant by concentration from many small random samples (always the
    same ones), then refitted to the cases within the 97.5 % ellipsoid. Up to half of the cases may
    be outliers. Scaled so that the median case lies where it would under a normal distribution.

    Returns
    -------
    None when there are too few cases, or when half of them lie in a plane.

    References
    ----------
    Rousseeuw & Van Driessen 1999, A fast algorithm for the minimum covariance determinant
    estimator.
    """
    n, p = x.shape
    if n < 5 * p:
        return None
    spread = x.std(axis=0)
    if not np.all(spread > 0):
        return None
    x = (x - x.mean(axis=0)) / spread
    rng = np.random.default_rng(1)
    starts = [rng.choice(n, size=min(2 * p + 2, n), replace=False) for _ in range(_STARTS)]
    tried = [found for rows in starts if (found := _concentrate(x, rows, 2)) is not None]
    if not tried:
        return None
    keep = (n + p + 1) // 2
    best: tuple[float, Floats] | None = None
    for _, squared in sorted(tried, key=lambda found: found[0])[:_FINISHED]:
        found = _concentrate(x, np.argpartition(squared, keep - 1)[:keep], 100)
        if found is not None and (best is None or found[0] < best[0]):
            best = found
    if best is None:
        return None
    squared = best[1] * (_chi2_quantile(p, 0.5) / np.median(best[1]))
    within = np.flatnonzero(squared <= _chi2_quantile(p, 0.975))
    fitted = _fit(x, within)
    if fitted is None:
        return None
    return np.asarray(np.sqrt(fitted[0] * (_chi2_quantile(p, 0.5) / np.median(fitted[0]))))


def neighbour_distances(
    prepared: Prepared, plan: Plan, neighbours: int = _NEIGHBOURS, progress: Progress = silent
) -> Floats:
    """(n,) mean distance, by the plan's measure, to the nearest other cases."""
    assert prepared.answers is not None
    n = prepared.n
    neighbours = min(neighbours, n - 1)
    out = np.zeros(n)
    if neighbours < 1:
        return out
    function = MEASURES[plan.proximity.measure].function
    step = max(1, _BLOCK // n)
    for start in range(0, n, step):
        progress(Phase.NEIGHBOURS, start / n)
        rows = slice(start, min(n, start + step))
        block = function(prepared.answers, rows)
        block[np.arange(rows.stop - start), np.arange(start, rows.stop)] = np.inf
        block[np.isnan(block)] = np.inf
        nearest = np.partition(block, neighbours - 1, axis=1)[:, :neighbours]
        out[rows] = nearest.mean(axis=1)
    return out


def find_outliers(prepared: Prepared, plan: Plan, progress: Progress = silent) -> list[Outlier]:
    """All cases kept, the farthest from its neighbours first, and what makes each unusual."""
    if prepared.answers is None or prepared.raw is None or prepared.n < 3:
        return []
    numeric = [j for j, v in enumerate(prepared.variables) if v.level in NUMERIC]
    z = robust_z(prepared.raw[:, numeric])
    complete = not np.isnan(prepared.raw[:, numeric]).any()
    interval = [k for k, j in enumerate(numeric) if prepared.variables[j].level == "interval"]
    cloud = None
    if complete and interval:
        cloud = robust_distances(prepared.raw[:, [numeric[k] for k in interval]])
    near = neighbour_distances(prepared, plan, progress=progress)
    usual = float(np.median(near))
    apart = near / usual if usual > 0 else near
    found = []
    for i in np.argsort(-apart, kind="stable").tolist():
        reasons = []
        for k in np.argsort(-np.nan_to_num(np.abs(z[i])), kind="stable")[:_MOST_REASONS].tolist():
            if abs(z[i, k]) >= _UNUSUAL:
                variable = prepared.variables[numeric[k]].name
                answer = float(prepared.raw[i, numeric[k]])
                reasons.append(Reason(variable, answer, float(z[i, k])))
        found.append(
            Outlier(
                int(prepared.numbers[i]), prepared.labels[i], float(apart[i]),
                None if cloud is None else float(cloud[i]), tuple(reasons),
            )
        )  # fmt: skip
    return found
