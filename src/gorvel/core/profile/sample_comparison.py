"""Sizes of the clusters in two waves, and whether they have changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.assigning import Given
from gorvel.core.profile.differences import LEAST_CASES, holm

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
_MATCHED = 0.5  # share of the second wave from which it is taken for the same cases


@dataclass(frozen=True, eq=False)
class Waves:
    """Of k clusters.

    first, second : (k,) cases of each wave; far : (k,) of the second, farther from their cluster
    than any member; ungiven : cases of the second that could not be given; change : (k,) share of
    the second less that of the first; lower, upper : (k,) its 95 % interval; p_each : (k,)
    corrected for their number, NaN for clusters with too few cases; chi2, df, p : of all, NaN where
    there is none, or where one cluster has too few; few : (k,) fewer than five cases expected in
    one of the waves.
    """

    first: Ints
    second: Ints
    far: Ints
    ungiven: int
    change: Floats
    lower: Floats
    upper: Floats
    p_each: Floats
    chi2: float
    df: int
    p: float
    few: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Panel:
    """Cases that are in both waves, by their labels.

    table : (k, k) cases by their cluster in the first wave and in the second; chi2, df, p : are the
    clusters as large in both, NaN where that cannot be told.
    """

    table: Ints
    chi2: float
    df: int
    p: float

    @property
    def cases(self) -> int:
        return int(self.table.sum())

    @property
    def stay(self) -> int:
        """Those that are in the same cluster."""
        return int(np.trace(self.table))


def panel_of(
    own: Ints, count: int, labels: Sequence[str], given: Given, its_labels: Sequence[str]
) -> Panel | None:
    """Match the cases of two waves by label; None where labels come twice, or hardly any match.

    own : (n,) clusters from 0 of the first wave; labels, its_labels : of the cases of both waves.

    References
    ----------
    Stuart 1955, A test for homogeneity of the marginal distributions in a two-way classification;
    Maxwell 1970, Comparing the classification of subjects by two independent judges.
    """
    from scipy.special import chdtrc

    first = {label: place for place, label in enumerate(labels)}
    if len(first) < len(labels) or len({*its_labels}) < len(its_labels):
        return None
    both = [(first[label], k) for k, label in enumerate(its_labels) if label in first]
    both = [(place, k) for place, k in both if given.cluster[k] > 0]
    if len(both) < _MATCHED * max(len(its_labels), 1):
        return None
    table = np.zeros((count, count), dtype=np.int64)
    for place, k in both:
        table[own[place], given.cluster[k] - 1] += 1
    rows, columns = table.sum(axis=1), table.sum(axis=0)
    known = np.flatnonzero(rows + columns)[:-1]  # the last follows from the others
    apart = (rows - columns)[known].astype(np.float64)
    inside = -(table + table.T).astype(np.float64)
    np.fill_diagonal(inside, rows + columns - 2 * np.diag(table))
    inside = inside[np.ix_(known, known)]
    moved = len(both) - int(np.trace(table))
    if not len(known) or moved < LEAST_CASES or np.linalg.matrix_rank(inside) < len(known):
        return Panel(table, float("nan"), len(known), float("nan"))
    chi2 = float(apart @ np.linalg.solve(inside, apart))
    return Panel(table, chi2, len(known), float(chdtrc(len(known), chi2)))


def waves_of(own: Ints, count: int, given: Given) -> Waves:
    """Compare the shares of the cases, as if each wave were drawn by itself and unweighted.

    own : (n,) clusters from 0 of the first wave.

    References
    ----------
    Pearson 1900, On the criterion that a given system of deviations ... (chi-square of the table).
    Agresti & Caffo 2000, Simple and effective confidence intervals for proportions (one case added
    of either kind in each wave). Holm 1979.
    """
    from scipy.special import chdtrc, ndtr

    first = np.bincount(own, minlength=count)
    known = given.cluster > 0
    second = np.bincount(given.cluster[known] - 1, minlength=count)
    far = np.bincount(given.cluster[known & given.far] - 1, minlength=count)
    n, m = int(first.sum()), int(second.sum())
    nothing = np.full(count, np.nan)
    ungiven = int((~known).sum())
    if not m or count < 2:
        change = nothing if not m else np.zeros(count)
        return Waves(first, second, far, ungiven, change, nothing, nothing, nothing,
                     float("nan"), 0, float("nan"), np.zeros(count, dtype=bool))  # fmt: skip
    table = np.stack([first, second]).astype(np.float64)
    expected = np.outer([n, m], table.sum(axis=0)) / (n + m)
    chi2 = float(((table - expected) ** 2 / expected).sum())
    one, other = (first + 1) / (n + 2), (second + 1) / (m + 2)
    se = np.sqrt(one * (1 - one) / (n + 2) + other * (1 - other) / (m + 2))
    pooled = table.sum(axis=0) / (n + m)
    change = second / m - first / n
    with np.errstate(divide="ignore", invalid="ignore"):
        z = change / np.sqrt(pooled * (1 - pooled) * (1 / n + 1 / m))
    few = expected.min(axis=0) < LEAST_CASES
    p_each = holm(np.where(few, np.nan, 2 * ndtr(-np.abs(z))))
    p = float("nan") if few.any() else float(chdtrc(count - 1, chi2))
    middle = other - one
    return Waves(
        first, second, far, ungiven, change, middle - 1.959964 * se, middle + 1.959964 * se,
        p_each, chi2, count - 1, p, few,
    )  # fmt: skip
