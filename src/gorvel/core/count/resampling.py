"""Rules that draw again: noise for the gap statistic, cases with replacement, halves of the cases.

Each round has random numbers of its own, made from the seed and its number, and the rounds are put
together in their order: the same seed gives the same numbers at any number of workers, and what is
finished when the work is stopped is what fewer rounds would have given.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.board import count_range, spread_of, without_squares
from gorvel.core.count.nested import Nested, nested_cuts
from gorvel.core.count.pairsums import Distances
from gorvel.core.count.regrow import NoiseBox, Pulse, Regrower, in_order
from gorvel.core.count.spread import within_by_count
from gorvel.core.count.verdicts import (
    PREDICTED,
    STABLE,
    Verdict,
    abstains,
    by_bound,
    by_extreme,
    gap_verdict,
)  # fmt: skip
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.tree.tree import Tree

__all__ = ["RESAMPLING", "resampled"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

RESAMPLING = tuple(key for key, rule in COUNT_RULES.items() if "resamples" in rule.needs)
_NOISE, _DRAWS, _HALVES = range(3)  # what random numbers are for
_RULES_OF = {  # parts of a round, and the rules that need them
    "noise": ("gap",),
    "jaccard": ("bootstrap-jaccard",),
    "halves": ("prediction-strength", "split-half"),
}
Part = TypeVar("Part")


@dataclass(eq=False)
class _Rounds:
    """What the finished rounds found; grows.

    noise : (rounds, finest + 1) log W of noise, place k for k clusters;
    jaccard : (rounds, clusters) best index of each cluster of each count, one after the other;
    strength, agreement : (rounds, 2, counts) of halves.
    """

    noise: list[Floats] = field(default_factory=list)
    jaccard: list[Floats] = field(default_factory=list)
    strength: list[Floats] = field(default_factory=list)
    agreement: list[Floats] = field(default_factory=list)
    done: int = 0


@dataclass(frozen=True, eq=False)
class _Draw:
    """One round: None for what is not asked for, the error of what could not be measured."""

    noise: Floats | InputError | None
    jaccard: Floats | InputError | None
    halves: tuple[Floats, Floats] | InputError | None


@dataclass(frozen=True, eq=False)
class _Resampler:
    regrower: Regrower
    counts: tuple[int, ...]
    nested: Nested
    seed: int
    keys: frozenset[str]
    box: NoiseBox | None  # of the scaled answers, where noise is wanted

    @property
    def n(self) -> int:
        return self.regrower.prepared.n

    def round(self, number: int) -> _Draw:
        def random(purpose: int) -> np.random.Generator:
            return np.random.default_rng([self.seed, number, purpose])

        def part(
            name: str, purpose: int, made: Callable[[np.random.Generator], Part]
        ) -> Part | InputError | None:
            if not self.keys & set(_RULES_OF[name]):
                return None
            try:
                return made(random(purpose))
            except InputError as error:
                return error

        return _Draw(
            part("noise", _NOISE, self._noise),
            part("jaccard", _DRAWS, self._jaccard),
            part("halves", _HALVES, self._halves),
        )

    def _noise(self, random: np.random.Generator) -> Floats:
        """(finest + 1,) log W of noise; place k for k clusters."""
        answers = self.regrower.prepared.answers
        assert answers is not None
        roots = np.sqrt(answers.importance)
        assert self.box is not None
        values = self.box.draw(random, self.n) / roots
        nested = nested_cuts(
            self.regrower.of_values(values, self.regrower.prepared.weights), self.nested.finest
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.log(within_by_count(nested, values, answers.importance, self.regrower.masses))

    def _jaccard(self, random: np.random.Generator) -> Floats:
        """Best Jaccard index of each cluster of each count among those drawn; NaN for none drawn.

        A cluster is compared by the different cases that were drawn.
        """
        drawn = np.sort(random.integers(0, self.n, self.n))
        cases, times = np.unique(drawn, return_counts=True)
        if self.regrower.folds:
            tree, rows = self.regrower.of_rows(cases, times), np.arange(len(cases))
        else:
            tree, rows = self.regrower.of_rows(drawn), np.searchsorted(drawn, cases)
        again = nested_cuts(tree, min(self.counts[-1], tree.n))
        out = []
        for count in self.counts:
            own = self.nested.clusters(count)[cases]
            new = again.clusters(min(count, again.finest))[rows]
            table = cross_counts(own, new)
            table = np.pad(table, ((0, count - len(table)), (0, 0)))
            either = table.sum(axis=1)[:, None] + table.sum(axis=0) - table
            best = (table / np.maximum(either, 1)).max(axis=1)
            out.append(np.where(table.sum(axis=1) > 0, best, np.nan))
        return np.concatenate(out)

    def _halves(self, random: np.random.Generator) -> tuple[Floats, Floats]:
        """(2, counts) prediction strength and adjusted Rand index; NaN for halves too small."""
        mixed = random.permutation(self.n)
        rows = np.sort(mixed[: self.n // 2]), np.sort(mixed[self.n // 2 :])
        trees = [self.regrower.of_rows(half) for half in rows]
        strength, agreement = np.full((2, 2, len(self.counts)), np.nan)
        for side in range(2):
            judge = _Half(self.regrower, rows[side], trees[side], self.counts[-1])
            judged = nested_cuts(trees[1 - side], min(self.counts[-1], trees[1 - side].n))
            given = judge.assigned(rows[1 - side], self.counts)
            for place, count in enumerate(self.counts):
                others = given[place]
                if others is not None and count <= judged.finest:
                    table = cross_counts(judged.clusters(count), others)
                    strength[side, place] = _strength(table)
                    agreement[side, place] = adjusted_rand(table)
        return strength, agreement


@dataclass(frozen=True, eq=False)
class _Half:
    """The tree of one half, which tells where cases of the other half belong."""

    regrower: Regrower
    rows: Ints
    tree: Tree
    finest: int

    def assigned(self, others: Ints, counts: Sequence[int]) -> list[Ints | None]:
        """(others,) clusters at each count: by the nearest centroid under a Euclidean measure of

        complete numbers, else by the smallest mean proximity; None where there are not that many
        cases.
        """
        nested = nested_cuts(self.tree, min(self.finest, self.tree.n))
        order = self.rows[nested.order]
        prepared = self.regrower.prepared
        flat = MEASURES[self.regrower.grown.method.measure].flat
        numeric = flat and prepared.measurable_spread and prepared.answers is not None
        if not numeric:
            block = Distances(self.regrower.grown.pairs).block(others, order)
            sums = np.add.reduceat(block, nested.bounds[:-1], axis=1)
        out: list[Ints | None] = []
        for count in counts:
            if count > nested.finest:
                out.append(None)
                continue
            begins = nested.bounds[nested.starts(count)]
            if numeric:
                far = self._from_centroids(others, order, begins)
            else:
                totals = np.add.reduceat(sums, nested.starts(count), axis=1)
                far = totals / nested.cluster_sizes(count)
            out.append(far.argmin(axis=1))
        return out

    def _from_centroids(self, others: Ints, order: Ints, begins: Ints) -> Floats:
        """(others, clusters) squared distances; begins : where clusters begin in `order`."""
        answers = self.regrower.prepared.answers
        assert answers is not None
        points = answers.values * np.sqrt(answers.importance)
        if answers.whitening is not None:
            points = points @ answers.whitening
        masses = self.regrower.masses[order]
        sums = np.add.reduceat(points[order] * masses[:, None], begins, axis=0)
        centroids = sums / np.add.reduceat(masses, begins)[:, None]
        return np.stack([((points[others] - c) ** 2).sum(axis=1) for c in centroids], axis=1)


def _strength(table: Ints) -> float:
    """The smallest share of the pairs of a test cluster that the other half keeps together.

    table : test clusters by those they are given to. A test cluster of one case predicts nothing
    and counts 0; else one case apart from all others would always be predicted.

    References
    ----------
    Tibshirani & Walther 2005, Cluster validation by prediction strength.
    """
    sizes = table.sum(axis=1)
    kept = (table * (table - 1)).sum(axis=1)
    return float((kept / np.maximum(sizes * (sizes - 1), 1)).min())


Report = Callable[[int, Callable[[], list[Verdict]]], None]


def resampled(
    grown: Grown,
    asked: CountPlan = ALL_RULES,
    keys: Sequence[str] | None = None,
    progress: Progress = silent,
    report: Report | None = None,
    workers: int | None = None,
) -> list[Verdict]:
    """What the rules say that resample.

    Parameters
    ----------
    asked : the part of a plan with range, rules and draws; keys : of rules; None for those asked
        for; others are passed over.
    progress : told "resamples"; may stop the work by raising.
    report : told after each round how many are done; what they say so far is worked out when the
        function it is handed is called.
    workers : trees grown side by side; None for as many as there are cores.
    """
    counts = count_range(asked, grown.tree.n)
    wanted = [key for key in RESAMPLING if key in (keys or asked.rules)]
    if not counts:
        few = f"{grown.tree.n} cases are too few"
        return [abstains(key, (), few) for key in wanted]
    whys = {key: why for key in wanted if (why := _why_not(grown, key))}
    able = frozenset(wanted) - set(whys)
    refused = [abstains(key, counts, why) for key, why in whys.items()]
    nested = nested_cuts(grown.tree, counts[-1] + 1)
    pulse = Pulse(progress, Phase.RESAMPLES)
    answers, box = grown.prepared.answers, None
    if "gap" in able and answers is not None:
        box = NoiseBox.of(answers.values * np.sqrt(answers.importance), asked.box)
    resampler = _Resampler(Regrower(grown, pulse), counts, nested, asked.seed, able, box)
    rounds = _Rounds()
    if not able:
        return refused
    own = spread_of(grown, nested)
    within = None if own is None else own.within
    workers = workers or resampler.regrower.workers

    def so_far() -> list[Verdict]:
        return refused + _verdicts(rounds, counts, able, within)

    for draw in in_order(resampler.round, asked.resamples, workers):
        for name, rules in _RULES_OF.items():
            if isinstance(error := getattr(draw, name), InputError):
                why = f"a resample could not be measured: {error}"
                refused += [abstains(key, counts, why) for key in rules if key in able]
                able -= set(rules)
        if not able:
            return refused
        _add(rounds, draw)
        if report is not None:
            report(rounds.done, so_far)
        pulse.tell(rounds.done / asked.resamples)
    return so_far()


def _why_not(grown: Grown, key: str) -> str | None:
    if grown.tree.n < 4:
        return f"{grown.tree.n} cases are too few to draw from"
    if key != "gap":
        return None
    return without_squares(grown)


def _add(rounds: _Rounds, draw: _Draw) -> None:
    rounds.done += 1
    if isinstance(draw.noise, np.ndarray):
        rounds.noise.append(draw.noise)
    if isinstance(draw.jaccard, np.ndarray):
        rounds.jaccard.append(draw.jaccard)
    if isinstance(draw.halves, tuple):
        rounds.strength.append(draw.halves[0])
        rounds.agreement.append(draw.halves[1])


def _verdicts(
    rounds: _Rounds, counts: tuple[int, ...], able: Collection[str], within: Floats | None
) -> list[Verdict]:
    out = []
    if "gap" in able and within is not None:
        out.append(gap_verdict(counts, within, np.array(rounds.noise)))
    if "bootstrap-jaccard" in able:
        out.append(_stability(counts, np.array(rounds.jaccard)))
    with np.errstate(invalid="ignore"):
        if "prediction-strength" in able:
            strength, error = _mean_of_rounds(np.array(rounds.strength))
            bound = np.full(len(counts), PREDICTED)
            verdict = by_bound(
                "prediction-strength", counts, strength, strength >= bound, bound,
                below=False, last=True,
            )  # fmt: skip
            out.append(verdict.with_error(error))
        if "split-half" in able:
            agreement, error = _mean_of_rounds(np.array(rounds.agreement))
            out.append(by_extreme("split-half", counts, agreement, agreement).with_error(error))
    return out


def _mean_of_rounds(found: Floats) -> tuple[Floats, Floats]:
    """(counts,) mean over rounds and both sides, and its standard error.

    found : (rounds, 2, counts), NaN where there is none.
    """
    each = _mean(found, 1)
    rounds = np.maximum((~np.isnan(each)).sum(axis=0), 1)
    mean = _mean(each, 0)
    error = np.sqrt(_mean((each - mean) ** 2, 0) / rounds)
    return mean, error


def _mean(found: Floats, axis: int) -> Floats:
    """The mean of what is known; NaN for nothing."""
    known = ~np.isnan(found)
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(known, found, 0.0).sum(axis=axis) / known.sum(axis=axis))


def _stability(counts: tuple[int, ...], found: Floats) -> Verdict:
    """found : (rounds, clusters of all counts)."""
    of_cluster = _mean(found, 0)
    ends = np.cumsum(counts)
    parts = [of_cluster[end - count : end] for count, end in zip(counts, ends, strict=True)]
    mean = np.array([_mean(part, 0) for part in parts])
    lowest = np.array([np.nan if np.isnan(part).all() else np.nanmin(part) for part in parts])
    bound = np.full(len(counts), STABLE)
    verdict = by_bound(
        "bootstrap-jaccard", counts, lowest, lowest >= bound, bound, below=False, last=True
    )
    return verdict.with_lowest(mean, lowest)
