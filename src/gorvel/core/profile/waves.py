"""Sizes of the clusters in two waves, and whether they have changed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.assigning import Given
from gorvel.core.profile.differences import holm

__all__ = ["Waves", "waves_of"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Waves:
    """Of k clusters. first, second : (k,) cases of each wave; far : (k,) of the second, farther

    from their cluster than any member; ungiven : cases of the second that could not be given;
    change : (k,) share of the second less that of the first; lower, upper : (k,) its 95 % interval;
    p_each : (k,) corrected for their number; chi2, df, p : of all, NaN where there is none.
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
                     float("nan"), 0, float("nan"))  # fmt: skip
    table = np.stack([first, second]).astype(np.float64)
    expected = np.outer([n, m], table.sum(axis=0)) / (n + m)
    chi2 = float(((table - expected) ** 2 / expected).sum())
    one, other = (first + 1) / (n + 2), (second + 1) / (m + 2)
    se = np.sqrt(one * (1 - one) / (n + 2) + other * (1 - other) / (m + 2))
    pooled = table.sum(axis=0) / (n + m)
    change = second / m - first / n
    with np.errstate(divide="ignore", invalid="ignore"):
        z = change / np.sqrt(pooled * (1 - pooled) * (1 / n + 1 / m))
    p_each = holm(2 * ndtr(-np.abs(z)))
    middle = other - one
    return Waves(
        first, second, far, ungiven, change, middle - 1.959964 * se, middle + 1.959964 * se,
        p_each, chi2, count - 1, float(chdtrc(count - 1, chi2)),
    )  # fmt: skip
