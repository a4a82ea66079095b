"""One round of drawing again: even noise, cases with replacement, halves of the cases.

Each round has random numbers of its own, made from the seed and its number, so that the same seed
gives the same numbers at any number of workers.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.indices.nested import Nested, nested_cuts
from gorvel.core.count.indices.within_ss import spreads
from gorvel.core.count.resampling.cluster_assignment import Judge
from gorvel.core.count.resampling.null_model import NullModel
from gorvel.core.count.resampling.resampling_engine import NoiseBox, TreeResampler

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Part = TypeVar("Part")

# what random numbers are for
_PURPOSE = {"noise": 0, "jaccard": 1, "halves": 2, "differ": 3, "without": 4}
RULES_OF = {  # parts of a round, and the rules that need them
    "noise": ("gap", "weighted-gap", "dd-gap"),
    "jaccard": ("bootstrap-jaccard",),
    "halves": ("prediction-strength", "split-half", "clest"),
    "differ": ("instability",),
    "without": ("clest",),
}
_SPLITS = 3  # in halves, of each data set without groups
Draw = dict[str, Floats | InputError]  # by part; the error of what could not be measured


@dataclass(eq=False)
class Rounds:
    """What the finished rounds found, by part; grows.

    noise : (2, finest + 1) log W of noise, and log of W with each cluster divided by its cases less
    one, place k for k clusters; jaccard : (clusters,) best index of each cluster of each count, one
    after the other; halves : (2, 2, counts) prediction strength and agreement of each side;
    differ : (counts,) share of pairs; without : (counts,) agreement of halves without groups.
    """

    parts: dict[str, list[Floats]] = field(default_factory=lambda: {name: [] for name in RULES_OF})
    done: int = 0

    def add(self, draw: Draw) -> None:
        """One more round."""
        self.done += 1
        for name, found in draw.items():
            if not isinstance(found, InputError):
                self.parts[name].append(found)

    def of(self, name: str) -> Floats:
        """(rounds, ...) what one part found."""
        return np.array(self.parts[name])


@dataclass(frozen=True, eq=False)
class ResampleRound:
    """One round.

    counts, nested : of the tree; keys : of rules that are asked for; box : of the scaled answers,
    where noise is wanted; null : data without groups, where these are.
    """

    resampler: TreeResampler
    counts: tuple[int, ...]
    nested: Nested
    seed: int
    keys: frozenset[str]
    box: NoiseBox | None
    null: NullModel | None

    @property
    def n(self) -> int:
        return self.resampler.prepared.n

    def run(self, number: int, progress: Progress) -> Draw:
        """What it finds."""
        watched = replace(self, resampler=self.resampler.watched(progress))
        makers: dict[str, Callable[[np.random.Generator], Floats]] = {
            "noise": watched._noise, "jaccard": watched._jaccard, "halves": watched._halves,
            "differ": watched._differ, "without": watched._without,
        }  # fmt: skip
        out: Draw = {}
        for name, made in makers.items():
            if self.keys & set(RULES_OF[name]):
                try:
                    out[name] = made(np.random.default_rng([self.seed, number, _PURPOSE[name]]))
                except InputError as error:
                    out[name] = error
        return out

    def _noise(self, random: np.random.Generator) -> Floats:
        answers = self.resampler.prepared.answers
        assert answers is not None
        assert self.box is not None
        values = self.box.draw(random, self.n) / np.sqrt(answers.importance)
        tree = self.resampler.of_values(values, self.resampler.prepared.weights)
        nested = nested_cuts(tree, self.nested.finest)
        found = spreads(nested, values, answers.importance, self.resampler.masses)
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.log(np.stack([found.within, found.variances]))

    def _jaccard(self, random: np.random.Generator) -> Floats:
        """Best Jaccard index of each cluster of each count among those drawn; NaN for none drawn.

        A cluster is compared by the different cases that were drawn.
        """
        cases, _, tree, rows = self.resampler.of_drawn(self.resampler.drawn(random))
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

    def _halves(self, random: np.random.Generator) -> Floats:
        return _of_halves(self.resampler, self.counts, random)

    def _differ(self, random: np.random.Generator) -> Floats:
        """(counts,) share of pairs that are together by one resample and apart by another.

        References
        ----------
        Fang & Wang 2012, Selection of the number of clusters via the bootstrap method.
        """
        everyone, sides = np.arange(self.n), []
        for _ in range(2):
            drawn = self.resampler.drawn(random)
            judge = Judge.of_drawn(self.resampler, drawn, self.counts[-1])
            sides.append(judge.assigned(everyone, self.counts))
        out = np.full(len(self.counts), np.nan)
        for place, (one, other) in enumerate(zip(*sides, strict=True)):
            if one is not None and other is not None:
                table = cross_counts(one, other)
                pairs = [_pairs(table.sum(axis=1)), _pairs(table.sum(axis=0))]
                out[place] = (sum(pairs) - 2 * _pairs(table)) / max(_pairs(np.array(self.n)), 1)
        return out

    def _without(self, random: np.random.Generator) -> Floats:
        """(counts,) agreement of halves of one data set without groups, over some splits."""
        assert self.null is not None
        made_up = self.resampler.again(self.null.draw(random))
        resampler = replace(self.resampler, grown=made_up, design=None)
        splits = [_of_halves(resampler, self.counts, random)[1] for _ in range(_SPLITS)]
        return np.asarray(np.mean(splits, axis=(0, 1)))


def _pairs(sizes: Ints) -> float:
    return float((sizes * (sizes - 1) / 2).sum())


def _of_halves(
    resampler: TreeResampler, counts: tuple[int, ...], random: np.random.Generator
) -> Floats:
    """(2, 2, counts) prediction strength and adjusted Rand index of each side.

    NaN for halves too small.
    """
    n = resampler.prepared.n
    mixed = random.permutation(n)
    halves = np.sort(mixed[: n // 2]), np.sort(mixed[n // 2 :])
    judges = [Judge.of_rows(resampler, half, counts[-1]) for half in halves]
    out = np.full((2, 2, len(counts)), np.nan)
    for side in range(2):
        test = judges[1 - side].tree
        judged = nested_cuts(test, min(counts[-1], test.n))
        given = judges[side].assigned(halves[1 - side], counts)
        for place, count in enumerate(counts):
            others = given[place]
            if others is not None and count <= judged.finest:
                table = cross_counts(judged.clusters(count), others)
                out[:, side, place] = _strength(table), adjusted_rand(table)
    return out


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
