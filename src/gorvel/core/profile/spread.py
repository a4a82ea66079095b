"""How answers spread inside clusters: five numbers, a density, or shares of each answer."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.profile.raw_answers import Question

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_STACKED = 11  # different answers that are shown as shares
_POINTS = 64  # of a density
_FIFTHS = (0.0, 0.25, 0.5, 0.75, 1.0)


@dataclass(frozen=True, eq=False)
class Spread:
    """Of one variable in each of k clusters and in all cases, the last row.

    five : (k + 1, 5) least, lower quartile, median, upper quartile, greatest, of cases; at,
    density : (64,) places and (k + 1, 64) heights, each with an area of 1, weighted; answers,
    shares : words of the different answers and (k + 1, answers) their shares, weighted, where there
    are few, else none. NaN where nobody answered.
    """

    name: str
    five: Floats
    at: Floats
    density: Floats
    answers: tuple[str, ...]
    shares: Floats


def spread_of(told: Question, own: Ints, count: int, weights: Floats) -> Spread:
    """own : (n,) clusters from 0; weights : (n,), 1 each where there are none.

    References
    ----------
    Hyndman & Fan 1996, Sample quantiles in statistical packages (definition 7).
    Silverman 1986, Density estimation for statistics and data analysis (rule of thumb, 3.31).
    """
    known = ~np.isnan(told.values)
    x, c, w = told.values[known], own[known], weights[known]
    groups = [c == k for k in range(count)] + [np.ones(len(x), dtype=bool)]
    answers, shares = _shares(told, x, w, groups)
    empty = np.full((count + 1, 5), np.nan)
    if told.nominal or not len(x):
        return Spread(told.name, empty, np.empty(0), np.empty((count + 1, 0)), answers, shares)
    five = np.array([np.quantile(x[g], _FIFTHS) if g.any() else empty[0] for g in groups])
    room = 0.04 * (x.max() - x.min())
    at = np.linspace(x.min() - room, x.max() + room, _POINTS)
    density = np.array([_density(x[g], w[g], at) for g in groups])
    return Spread(told.name, five, at, density, answers, shares)


def _shares(
    told: Question, x: Floats, w: Floats, groups: list[NDArray[np.bool_]]
) -> tuple[tuple[str, ...], Floats]:
    if told.nominal:
        values, words = np.arange(len(told.words), dtype=np.float64), told.words
    else:
        values = np.unique(x)
        words = tuple(f"{value:g}" for value in values[: MOST_STACKED + 1])
        if told.level == "binary":
            words = tuple((told.words or ("no", "yes"))[int(value)] for value in values)
    if not 0 < len(values) <= MOST_STACKED:
        return (), np.empty((len(groups), 0))
    with np.errstate(invalid="ignore"):
        parts = [[w[g & (x == value)].sum() for value in values] for g in groups]
        mass = np.array([w[g].sum() for g in groups])
        return words, np.asarray(np.array(parts) / mass[:, None])


def _density(x: Floats, w: Floats, at: Floats) -> Floats:
    """Heights of a density at places.

    A normal curve about each case, of the width that the rule of thumb says, half a step at the
    least.
    """
    if not len(x):
        return np.full(len(at), np.nan)
    share = w / w.sum()
    mean = float(share @ x)
    sd = float(np.sqrt(share @ (x - mean) ** 2))
    low, high = np.quantile(x, (0.25, 0.75))
    inside = (high - low) / 1.349
    width = 0.9 * (min(sd, inside) if inside > 0 else sd) * len(x) ** -0.2
    width = max(width, (at[1] - at[0]) / 2, 1e-300)
    values, place = np.unique(x, return_inverse=True)
    masses = np.bincount(place, share)
    off = (at[:, None] - values) / width
    curve = np.exp(-0.5 * off * off) @ masses
    area = float(curve.sum() * (at[1] - at[0]))
    return np.asarray(curve / area if area > 0 else curve)
