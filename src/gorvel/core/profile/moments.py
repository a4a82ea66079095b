"""What each cluster answers: means, spreads and shares, of one variable at one cut."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import varies
from gorvel.core.cases.design import Design
from gorvel.core.profile.raw_answers import Question

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Numbers:
    """A variable of numbers in each of k clusters, and in all cases as the last, place k.

    n : cases that answered; mass : sum of their weights; mean, sd : weighted, sd with the sum of
    weights less 1; median, least, greatest : unweighted; share : of the mass; se, lower, upper : of
    the mean under a design, NaN without one; eta2 : share of the spread between clusters. All but
    eta2 are (k + 1,), NaN where there is none.
    """

    n: Ints
    mass: Floats
    mean: Floats
    sd: Floats
    median: Floats
    least: Floats
    greatest: Floats
    share: Floats
    se: Floats
    lower: Floats
    upper: Floats
    eta2: float


@dataclass(frozen=True, eq=False)
class Shares:
    """A nominal variable: levels in each of k clusters, and in all cases as the last row.

    n : (k + 1, levels) cases; mass : sums of their weights; share : of the mass of the cluster that
    answered; se, lower, upper : of the shares under a design, NaN without one; cramers_v : of the
    weighted table.
    """

    n: Ints
    mass: Floats
    share: Floats
    se: Floats
    lower: Floats
    upper: Floats
    cramers_v: float


def numbers_of(
    told: Question, own: Ints, count: int, weights: Floats, design: Design | None = None
) -> Numbers:
    """own : (n,) clusters from 0; weights : (n,), 1 each where there are none."""
    known = ~np.isnan(told.values)
    x, c, w = told.values[known], own[known], weights[known]
    n = np.append(np.bincount(c, minlength=count), len(x))
    mass = np.append(np.bincount(c, w, count), w.sum())
    with np.errstate(divide="ignore", invalid="ignore"):
        centre = _centre(x)
        off = x - centre
        sums = np.append(np.bincount(c, w * off, count), (w * off).sum())
        mean = np.where(n > 0, centre + sums / mass, np.nan)
        away = (x - mean[c]) ** 2 * w
        total = float((w * (x - mean[-1]) ** 2).sum()) if len(x) else np.nan
        squares = np.append(np.bincount(c, away, count), total)
        sd = np.where(mass > 1, np.sqrt(squares / (mass - 1)), np.nan)
        share = mass / mass[-1]
        within = float(squares[:-1].sum())
        eta2 = (total - within) / total if total > 0 else np.nan
    rising = told.known_order
    inside = np.argsort(own[rising].astype(np.int32), kind="stable")
    ends = np.append(0, np.cumsum(n[:-1]))
    ordered = told.values[rising]
    by_cluster = ordered[inside]
    parts = [by_cluster[ends[k] : ends[k + 1]] for k in range(count)] + [ordered]
    median, least, greatest = np.array([_middle_and_ends(part) for part in parts]).T
    se, lower, upper = _of_means(told.values, own, count, mean, design)
    return Numbers(
        n, mass, mean, sd, median, least, greatest, share, se, lower, upper, float(eta2)
    )  # fmt: skip


def _centre(x: Floats) -> float:
    """The mean of all, about which little is lost; of equal answers the answer itself."""
    return float(x.mean()) if varies(x) else float(x[0]) if len(x) else 0.0


def _middle_and_ends(rising: Floats) -> tuple[float, float, float]:
    """Median, least and greatest of answers in order; NaN for none."""
    if not len(rising):
        return np.nan, np.nan, np.nan
    half = len(rising) // 2
    middle = rising[half] if len(rising) % 2 else (rising[half - 1] + rising[half]) / 2
    return float(middle), float(rising[0]), float(rising[-1])


def shares_of(
    told: Question, own: Ints, count: int, weights: Floats, design: Design | None = None
) -> Shares:
    """As `numbers_of`, of a nominal variable."""
    levels = len(told.words)
    known = ~np.isnan(told.values)
    x, c, w = told.values[known].astype(np.int64), own[known], weights[known]
    cell = c * levels + x
    n = np.bincount(cell, minlength=count * levels).reshape(count, levels)
    mass = np.asarray(np.bincount(cell, w, count * levels), np.float64).reshape(count, levels)
    n, mass = np.vstack([n, n.sum(axis=0)]), np.vstack([mass, mass.sum(axis=0)])
    with np.errstate(divide="ignore", invalid="ignore"):
        share = mass / mass.sum(axis=1, keepdims=True)
    se, lower, upper = (np.full(share.shape, np.nan) for _ in range(3))
    for level in range(levels):
        here = np.where(known, told.values == level, np.nan)
        found = _of_means(here, own, count, share[:, level], design)
        se[:, level], lower[:, level], upper[:, level] = found
    return Shares(n, mass, share, se, lower, upper, cramers_v(mass[:-1]))


def cramers_v(table: Floats) -> float:
    """Of a table of masses; NaN for fewer than two rows or columns with any.

    References
    ----------
    Cramér 1946, Mathematical methods of statistics.
    """
    table = table[table.sum(axis=1) > 0][:, table.sum(axis=0) > 0]
    if min(table.shape) < 2:
        return float("nan")
    shares = table / table.sum()
    expected = np.outer(shares.sum(axis=1), shares.sum(axis=0))
    chi2 = float(((shares - expected) ** 2 / expected).sum())
    return float(np.sqrt(chi2 / (min(table.shape) - 1)))


def _of_means(
    values: Floats, own: Ints, count: int, mean: Floats, design: Design | None
) -> tuple[Floats, Floats, Floats]:
    """(k + 1,) standard error and ends of the 95 % interval of each mean, and of all cases."""
    unknown = np.full(count + 1, np.nan)
    if design is None or design.df < 1:
        return unknown, unknown.copy(), unknown.copy()
    from scipy.special import stdtrit

    covariance = means_covariance(values, own, count, mean, design)
    se = np.sqrt(np.diag(covariance))
    reach = float(stdtrit(design.df, 0.975))
    return se, mean - reach * se, mean + reach * se


def means_covariance(values: Floats, own: Ints, count: int, mean: Floats, design: Design) -> Floats:
    """(k + 1, k + 1) design covariance of the means of clusters, and of all cases as the last.

    values : (n,) NaN where missing; mean : (k + 1,).
    """
    known = ~np.isnan(values)
    x, c = np.where(known, values, 0.0), np.where(known, own, count)
    member = np.zeros((len(x), count + 1))
    member[known, own[known]] = 1.0
    member[known, count] = 1.0

    def means(weights: Floats) -> Floats:
        with np.errstate(divide="ignore", invalid="ignore"):
            inside = np.bincount(c, weights, count + 1)[:count]
            sums = np.bincount(c, weights * x, count + 1)[:count]
            out: Floats = np.append(sums, sums.sum()) / np.append(inside, inside.sum())
            return out

    w = design.weights[:, None] * member
    with np.errstate(divide="ignore", invalid="ignore"):
        linear = w * (x[:, None] - mean) / w.sum(axis=0)
    linear[:, np.isnan(mean)] = np.nan
    linear = np.where(member > 0, linear, np.where(np.isnan(mean), np.nan, 0.0))
    return design.covariance(means, linear)
