"""From the values of a rule to its answer: the best count, the runner-up, and how each stands."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Answer = int | Literal["one", "none"]  # a count; one cluster; no count keeps to the bound

_DRAW = 1e-12  # relative: values this close are equal, and the smaller count wins
STABLE, PREDICTED = 0.75, 0.8
_BEYOND, _SURE = 0.05, 0.05  # of Dudoit and Fridlyand: agreement above that without groups, and p
NO_VALUE = "its value is not defined at any of these counts"
_CLEARLY = 3.0  # errors by which a gap has to be above that of one cluster


@dataclass(frozen=True, eq=False)
class Verdict:
    """What one rule says.

    key : of the rule; counts : rising; values : (counts,), NaN where there is none;
    best, runner_up : counts or None; why : in words, where there is no best count;
    standing : (counts,) how near each is to the best, 0 to 1, NaN where it cannot be told;
    bound : (counts,) what values are held against, where the rule has a bound;
    besides : "one" or "none", an answer that is no count of the board, "" for a rule that abstains;
    published : of the gap, what the rule of its paper answers without ours beside it;
    error : (counts,) standard errors, of rules that resample; lowest : (counts,) of the least
    stable cluster.
    """

    key: str
    counts: tuple[int, ...]
    values: Floats
    best: int | None
    runner_up: int | None
    why: str | None
    standing: Floats
    bound: Floats | None = None
    error: Floats | None = None
    lowest: Floats | None = None
    besides: Literal["", "one", "none"] = ""
    published: Answer | None = None

    @property
    def answer(self) -> Answer | None:
        """A count, "one", "none", or None where the rule abstains."""
        return self.best if self.best is not None else self.besides or None

    def at(self, count: int) -> float:
        """The value at a count, NaN for none."""
        return float(self.values[self.counts.index(count)]) if count in self.counts else np.nan

    def with_error(self, error: Floats) -> Verdict:
        """The same with standard errors of the values."""
        return replace(self, error=error)

    def with_lowest(self, values: Floats, lowest: Floats) -> Verdict:
        """The same, judged by the least stable clusters, with the means as values."""
        return replace(self, values=values, lowest=lowest)


def abstains(key: str, counts: tuple[int, ...], why: str) -> Verdict:
    """A rule that cannot be worked out."""
    nothing = np.full(len(counts), np.nan)
    return Verdict(key, counts, nothing, None, None, why, nothing)


def by_extreme(key: str, counts: tuple[int, ...], values: Floats, merit: Floats) -> Verdict:
    """The count with the largest merit; merit : (counts,), NaN where a count is out."""
    if not np.isfinite(merit).any():
        return abstains_with(key, counts, values, NO_VALUE)
    best = _largest(merit)
    rest = merit.copy()
    rest[best] = np.nan
    runner_up = counts[_largest(rest)] if np.isfinite(rest).any() else None
    low, high = np.nanmin(merit), np.nanmax(merit)
    level = high - low <= _DRAW * abs(high)
    standing = np.ones_like(merit) if level else (merit - low) / (high - low)
    standing[~np.isfinite(merit)] = np.nan
    return Verdict(key, counts, values, counts[best], runner_up, None, standing)


def _largest(merit: Floats) -> int:
    """The place of the largest, the first of equals."""
    top = float(np.nanmax(merit))
    near = merit >= top - _DRAW * abs(top)
    return int(near.argmax())


def abstains_with(
    key: str, counts: tuple[int, ...], values: Floats, why: str,
    besides: Literal["", "one", "none"] = "",
) -> Verdict:  # fmt: skip
    """Values are there, but no count is best."""
    nothing = np.full(len(counts), np.nan)
    return Verdict(key, counts, values, None, None, why, nothing, besides=besides)


def by_bound(
    key: str, counts: tuple[int, ...], values: Floats, holds: NDArray[np.bool_], bound: Floats,
    below: bool, last: bool = False,
) -> Verdict:  # fmt: skip
    """The first count that keeps to its bound, or the last; the next such one is the runner-up.

    below : values keep to a bound from below; standing is how near the value is to it.
    """
    places = np.flatnonzero(holds & np.isfinite(values))
    if last:
        places = places[::-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = bound / values if below else values / bound
    standing = np.where(holds, 1.0, np.clip(share, 0.0, 1.0))
    standing[~np.isfinite(values)] = np.nan
    why = None
    if not places.size:
        how = "at or below" if below else "at or above"
        shown = f" {bound[0]:g}" if np.all(bound == bound[0]) else " its bound"
        why = f"no number from {counts[0]} to {counts[-1]} is {how}{shown}"
    best = counts[int(places[0])] if places.size else None
    runner_up = counts[int(places[1])] if places.size > 1 else None
    besides: Literal["", "none"] = "none" if best is None else ""
    return Verdict(key, counts, values, best, runner_up, why, standing, bound, besides=besides)


def _gaps(within: Floats, noise: Floats) -> tuple[Floats, Floats]:
    """(finest + 1,) how far the logarithm of noise lies above that of the data, and its error."""
    with np.errstate(divide="ignore", invalid="ignore"):
        own = np.log(within)
    own[~np.isfinite(own)] = np.nan
    noise = np.where(np.isfinite(noise), noise, np.nan)
    return noise.mean(axis=0) - own, noise.std(axis=0) * np.sqrt(1 + 1 / len(noise))


def second_gap(counts: tuple[int, ...], within: Floats, noise: Floats) -> Verdict:
    """The sharpest bend of the gap; parameters as `gap_verdict`.

    References
    ----------
    Yan & Ye 2007, Determining the number of clusters using the weighted gap statistic.
    """
    gaps, _ = _gaps(within, noise)
    bend = np.full(len(counts), np.nan)
    for place, k in enumerate(counts):
        if 2 <= k < len(gaps) - 1:
            bend[place] = 2 * gaps[k] - gaps[k - 1] - gaps[k + 1]
    return by_extreme("dd-gap", counts, bend, bend)


def agrees_beyond(counts: tuple[int, ...], agreement: Floats, without: Floats) -> Verdict:
    """The count at which halves agree most beyond those of data without groups, else one.

    agreement : (counts,); without : (data sets, counts), NaN where halves are too small.

    References
    ----------
    Dudoit & Fridlyand 2002, A prediction-based resampling method for estimating the number of
    clusters in a dataset (there the data without groups are even noise).
    """
    beyond = agreement - without.mean(axis=0)
    p = (1 + (without >= agreement).sum(axis=0)) / (1 + len(without))
    clear = (beyond >= _BEYOND) & (p <= _SURE)
    verdict = by_extreme("clest", counts, beyond, np.where(clear, beyond, np.nan))
    bound = np.full(len(counts), _BEYOND)
    if clear.any() or not np.isfinite(beyond).any():
        return replace(verdict, bound=bound)
    why = "one cluster: no halves agree clearly better than those of data without groups"
    return replace(abstains_with("clest", counts, beyond, why, "one"), bound=bound)


def gap_verdict(key: str, counts: tuple[int, ...], within: Floats, noise: Floats) -> Verdict:
    """The smallest count whose gap is not below that of the next, less its error.

    One cluster is the answer, which no count of the plan is, where it keeps to that rule itself
    and no count is clearly better. (The rule alone stops at one where groups are as far from each
    other as from the middle, however clear they are.)

    Parameters
    ----------
    key : of the rule; within : (finest + 1,) W, place k for k clusters; noise : (rounds, finest +
    1) its logarithm for noise.

    References
    ----------
    Tibshirani, Walther & Hastie 2001.
    """
    gaps, errors = _gaps(within, noise)
    places = np.array(counts)
    values, error = gaps[places], errors[places]
    if not np.isfinite(values).any():
        return abstains(key, counts, NO_VALUE)
    nexts = np.minimum(places + 1, len(gaps) - 1)
    holds = np.isfinite(values) & (values >= gaps[nexts] - errors[nexts]) & (nexts > places)
    verdict = by_extreme(key, counts, values, values)
    keeps = np.flatnonzero(holds)
    clearly = gaps[places] > gaps[1] + _CLEARLY * errors[places]
    one_keeps = bool(gaps[1] >= gaps[2] - errors[2])
    one_does = one_keeps and not clearly.any()
    published: Answer = "none" if not keeps.size else counts[int(keeps[0])]
    if one_keeps and 1 not in counts:
        published = "one"
    verdict = replace(verdict, error=error, published=published)
    if one_does and 1 not in counts:
        why = "one cluster: no number does clearly better than uniform noise"
        return replace(verdict, best=None, runner_up=None, why=why, besides="one")
    if not keeps.size:
        why = f"the gap still rises at {counts[-1]}"
        return replace(verdict, best=None, runner_up=None, why=why, besides="none")
    runner_up = counts[int(keeps[1])] if keeps.size > 1 else None
    return replace(verdict, best=counts[int(keeps[0])], runner_up=runner_up)
