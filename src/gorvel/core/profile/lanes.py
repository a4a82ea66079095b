"""The clusters of a cut side by side: a lane for each question, in the order of what tells most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cases.design import Design
from gorvel.core.profile.moments import numbers_of, shares_of
from gorvel.core.profile.raw_answers import Question, Role

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
_ROUNDING = 1e-12  # of the ends of an interval


@dataclass(frozen=True, eq=False)
class Lane:
    """One question, or one level of a nominal one.

    name, word : of the variable, and of the level, "" for none; role; share : are values shares of
    yes, or of the level; effect : eta squared, or Cramér’s V squared of a nominal variable, NaN for
    none; values, lower, upper, sd : (k,) of the clusters, by number: mean or share, ends of its
    95 % interval, spread; deff : (k,) design effects, NaN without a design; median : (k,) NaN for
    shares; n : (k,) cases that answered; whole, whole_sd, whole_median : of all cases.
    """

    name: str
    word: str
    role: Role
    share: bool
    effect: float
    values: Floats
    lower: Floats
    upper: Floats
    sd: Floats
    deff: Floats
    median: Floats
    n: Ints
    whole: float
    whole_sd: float
    whole_median: float

    @property
    def title(self) -> str:
        return f"{self.name}: {self.word}" if self.word else self.name

    @cached_property
    def away(self) -> Floats:
        """(k,) how far each cluster is from the whole, in standard deviations of all cases."""
        with np.errstate(divide="ignore", invalid="ignore"):
            out = (self.values - self.whole) / self.whole_sd
        return np.where(self.whole_sd > 0, out, 0.0)


def lanes_of(
    told: Sequence[Question], own: Ints, count: int, weights: Floats, design: Design | None = None
) -> list[Lane]:
    """Active questions first, then those for profiles.

    In each part what tells clusters apart most comes first, levels of a question together.

    Intervals are those of the design; without one, as if cases were drawn one by one.

    own : (n,) clusters from 0; weights : (n,), 1 each where there are none.
    """
    found = [
        _levels(one, own, count, weights, design)
        if one.nominal
        else [_numbers(one, own, count, weights, design)]
        for one in told
    ]
    parts = [
        sorted(
            (lanes for lanes in found if lanes and lanes[0].role == role),
            key=lambda lanes: -np.nan_to_num(lanes[0].effect, nan=-1.0),
        )
        for role in ("active", "profile")
    ]
    return [lane for part in parts for lanes in part for lane in lanes]


def _numbers(one: Question, own: Ints, count: int, weights: Floats, design: Design | None) -> Lane:
    of = numbers_of(one, own, count, weights, design)
    lower, upper = of.lower[:-1], of.upper[:-1]
    if design is None:
        reach = _reach(one.values, own, count, weights, of.mean[:-1])
        lower, upper = of.mean[:-1] - reach, of.mean[:-1] + reach
    lower, upper = _with_width(lower, upper, one.values, own)
    with np.errstate(invalid="ignore"):
        squares = np.where(of.mass > 1, of.sd**2 * (of.mass - 1) / of.mass, np.nan)
    return Lane(
        one.name, "", one.role, one.level == "binary", of.eta2, of.mean[:-1], lower, upper,
        of.sd[:-1], _effects(of.se, squares, of.n), of.median[:-1], of.n[:-1],
        float(of.mean[-1]), float(of.sd[-1]), float(of.median[-1]),
    )  # fmt: skip


def _levels(
    one: Question, own: Ints, count: int, weights: Floats, design: Design | None
) -> list[Lane]:
    of = shares_of(one, own, count, weights, design)
    out = []
    answered = of.n[:-1].sum(axis=1)
    for level, word in enumerate(one.words):
        share, whole = of.share[:-1, level], float(of.share[-1, level])
        lower, upper = of.lower[:-1, level], of.upper[:-1, level]
        here = np.where(np.isnan(one.values), np.nan, one.values == level)
        if design is None:
            reach = _reach(here, own, count, weights, share)
            lower, upper = share - reach, share + reach
        lower, upper = _with_width(lower, upper, here, own)
        spread = float(np.sqrt(whole * (1 - whole)))
        p = of.share[:, level]
        deff = _effects(of.se[:, level], p * (1 - p), of.n.sum(axis=1))
        out.append(
            Lane(
                one.name, word, one.role, True, of.cramers_v**2, share, lower, upper,
                np.sqrt(share * (1 - share)), deff, np.full(count, np.nan), answered, whole, spread,
                float("nan"),
            )
        )  # fmt: skip
    return out


def _with_width(
    lower: Floats, upper: Floats, values: Floats, own: Ints
) -> tuple[Floats, Floats]:  # fmt: skip
    """(k,) ends of intervals, NaN where one has no width.

    That is no certainty, but too few cases or none that answered otherwise. values : (n,) the
    answers; own : (n,) clusters from 0.
    """
    known = ~np.isnan(values)
    least, most = np.full(len(lower), np.inf), np.full(len(lower), -np.inf)
    np.minimum.at(least, own[known], values[known])
    np.maximum.at(most, own[known], values[known])
    with np.errstate(invalid="ignore"):
        size = np.maximum(np.abs(upper), np.abs(lower))
        none = (least >= most) | ~(upper - lower > _ROUNDING * size)
    return np.where(none, np.nan, lower), np.where(none, np.nan, upper)


def _effects(se: Floats, squares: Floats, n: Ints) -> Floats:
    """(k,) variance of each mean under the design over that of as many cases drawn one by one.

    se, squares, n : (k + 1,) errors, weighted mean squares about the mean, cases that answered, of
    the clusters and of all.

    References
    ----------
    Kish 1965, Survey sampling.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        out = se**2 / (squares / (n - 1))
    return np.asarray(np.where((n > 1) & (squares > 0), out, np.nan)[:-1])


def _reach(values: Floats, own: Ints, count: int, weights: Floats, mean: Floats) -> Floats:
    """(k,) half the 95 % interval of each mean, each case drawn by itself."""
    from scipy.special import stdtrit

    known = ~np.isnan(values)
    x, c, w = values[known], own[known], weights[known]
    n = np.bincount(c, minlength=count)
    with np.errstate(divide="ignore", invalid="ignore"):
        mass = np.bincount(c, w, count)
        squares = np.bincount(c, (w * (x - mean[c])) ** 2, count)
        se = np.sqrt(n / (n - 1) * squares) / mass
        reach = stdtrit(np.maximum(n - 1, 1), 0.975) * se
    return np.where(n > 1, reach, np.nan)
