"""One case: how surely it is where it is, who is most like it, and where it goes elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.design import Design
from gorvel.core.count.agreement import cross_counts
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.profile.raw_answers import Question
from gorvel.core.tree.cuts import cut_at_count

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class OneCase:
    """What there is to tell of one case.

    cluster : from 1; silhouette, leans : its own, and the cluster (from 1) nearest after its own,
    None for one cluster; inside : mean proximity to the rest of its cluster, None for one case;
    nearest : other cases (from 0) with their proximities, the smallest first.
    """

    cluster: int
    silhouette: float | None
    leans: int | None
    inside: float | None
    nearest: list[tuple[int, float]]


@dataclass(frozen=True)
class Likeness:
    """What two cases share, and where they differ: variables, those that differ most first.

    away : of each, in standard deviations of all cases; infinite for other words.
    """

    alike: tuple[str, ...]
    differ: tuple[tuple[str, float], ...]


def one_case(grown: Grown, own: Ints, case: int, most: int = 6) -> OneCase:
    """own : (n,) clusters from 0; case : from 0; most : nearest cases told.

    References
    ----------
    Rousseeuw 1987, Silhouettes: a graphical aid to the interpretation and validation of cluster
    analysis.
    """
    n, everyone, me = grown.tree.n, np.arange(grown.tree.n), np.array([case])
    plain = grown.pairs.block(me, everyone)[0]
    rooted = Distances(grown.pairs).block(me, everyone)[0]
    rest = np.where(everyone == case, np.inf, plain)
    others = np.argsort(rest, kind="stable")[: min(most, n - 1)]
    nearest = [(int(k), float(plain[k])) for k in others]
    count, mine = int(own.max()) + 1, int(own[case])
    sizes = np.bincount(own, minlength=count)
    alone = sizes[mine] == 1
    inside = None if alone else float(plain[(own == mine) & (everyone != case)].mean())
    if count == 1:
        return OneCase(1, None, None, inside, nearest)
    means = np.bincount(own, rooted, count) / sizes
    means[mine] = np.inf
    leans = int(means.argmin())
    a = 0.0 if alone else float(rooted[(own == mine) & (everyone != case)].mean())
    b = float(means[leans])
    value = 0.0 if alone or max(a, b) == 0 else (b - a) / max(a, b)
    return OneCase(mine + 1, value, leans + 1, inside, nearest)


def likeness(told: Sequence[Question], one: int, other: int) -> Likeness:
    """By the raw answers to active questions; a tenth of a standard deviation apart is alike."""
    alike, differ = [], []
    for question in told:
        if question.role != "active":
            continue
        x, y = question.values[one], question.values[other]
        if np.isnan(x) or np.isnan(y):
            continue
        if question.nominal:
            away = 0.0 if x == y else np.inf
        else:
            sd = float(np.nanstd(question.values))
            away = abs(float(x - y)) / sd if sd > 0 else 0.0
        if away <= 0.1:
            alike.append(question.name)
        else:
            differ.append((question.name, away))
    differ.sort(key=lambda pair: -pair[1])
    return Likeness(tuple(alike), tuple(differ))


@dataclass(frozen=True, eq=False)
class _Drawn:
    """The cases of one draw, and which of them are in what their cluster comes back as."""

    resampler: TreeResampler
    own: Ints
    count: int
    seed: int

    def run(self, number: int, progress: Progress) -> tuple[Ints, NDArray[np.bool_]]:
        random = np.random.default_rng([self.seed, number, 15])
        resampler = self.resampler.watched(progress)
        cases, _, tree, rows = resampler.of_drawn(resampler.drawn(random))
        new = cut_at_count(tree, min(self.count, tree.n)).membership[rows] - 1
        table = cross_counts(self.own[cases], new)
        table = np.pad(table, ((0, self.count - len(table)), (0, 0)))
        either = table.sum(axis=1)[:, None] + table.sum(axis=0) - table
        match = (table / np.maximum(either, 1)).argmax(axis=1)
        return cases, new == match[self.own[cases]]


def membership_shares(
    grown: Grown, own: Ints, rounds: int, seed: int = 1, progress: Progress = silent,
    design: Design | None = None, engine: Engine | None = None,
) -> Floats:  # fmt: skip
    """(n,) how often each case, when drawn, is in the cluster that its own cluster comes back as.

    Cases are drawn with replacement and the tree is grown again; each cluster comes back as that
    of the new ones, of as many, with the largest Jaccard index, the first of equals. NaN for a case
    that was never drawn. design : by which cases are drawn, None for each by itself.

    References
    ----------
    Hennig 2007, Cluster-wise assessment of cluster stability (the matching).
    """
    n, count = grown.tree.n, int(own.max()) + 1
    times, kept = np.zeros(n), np.zeros(n)
    resampler = TreeResampler(grown, design)
    task, stage = _Drawn(resampler, own, count, seed), Stage(progress, Phase.RESAMPLES)
    for cases, back in rounds_of(engine or resampler.engine, task, rounds, stage):
        times[cases] += 1
        kept[cases] += back
    with np.errstate(invalid="ignore"):
        return kept / times
