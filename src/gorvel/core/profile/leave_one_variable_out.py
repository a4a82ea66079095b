"""How much each variable matters to the clusters: the tree grown again without it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.pairsums import Distances, pair_sums
from gorvel.core.count.indices.silhouettes import silhouettes_of
from gorvel.core.engine.engine import Engine, ThreadEngine, rounds_of
from gorvel.core.grow.growing import regrown_pairs
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree

Ints = NDArray[np.int64]

LITTLE = 0.1  # of the spread of a variable that clusters explain: less is little


@dataclass(frozen=True)
class Driver:
    """One variable.

    agreement : adjusted Rand index of the clusters and those of the tree grown without it, of as
    many clusters; explained : share of its spread between the clusters (eta squared, Cramér’s V
    squared), NaN for none; gain : how much the mean silhouette is higher without it, each tree by
    its own distances, NaN for one cluster; why : why there is no such tree, "" where there is one.
    """

    name: str
    agreement: float
    explained: float
    gain: float
    why: str = ""

    @property
    def little(self) -> bool:
        """Do the clusters explain little of it?"""
        return self.explained < LITTLE


def only_noise(found: Sequence[Driver]) -> list[str]:
    """Variables that only add noise: clusters explain little of them, and stand out more without.

    None where clusters explain little of half the variables or more: then the tree found no
    groups in them, and nothing can be said.
    """
    if 2 * sum(one.little for one in found) >= len(found):
        return []
    return [one.name for one in found if one.little and one.gain > 0]


def drivers(
    table: Table, plan: Plan, grown: Grown, own: Ints, explained: Sequence[float],
    progress: Progress = silent, report: Callable[[list[Driver]], None] | None = None,
    engine: Engine | None = None,
) -> list[Driver]:  # fmt: skip
    """Grow the tree of the same cases without each variable in turn; in the order of the plan.

    Parameters
    ----------
    own : (n,) clusters from 0 of the cut in hand; explained : of each variable in use, see
        `Driver`; progress : told "drivers"; report : told of all so far after each.

    References
    ----------
    Hubert & Arabie 1985, Comparing partitions.
    """
    use, count = plan.variables.use, int(own.max()) + 1
    before = _silhouette(grown.tree, grown.pairs, count)
    task, out = _Without(table, plan, grown, own, explained, before), []
    stage = Stage(progress, Phase.DRIVERS)
    for found in rounds_of(engine or ThreadEngine(), task, len(use), stage):
        out.append(found)
        if report is not None:
            report(list(out))
    return out


@dataclass(frozen=True, eq=False)
class _Without:
    """The tree without a variable, by its place. before : silhouette of the tree with all."""

    table: Table
    plan: Plan
    grown: Grown
    own: Ints
    explained: Sequence[float]
    before: float

    def run(self, number: int, progress: Progress) -> Driver:
        nan, use, grown = float("nan"), self.plan.variables.use, self.grown
        name, explained = use[number], self.explained[number]
        if len(use) < 2:
            return Driver(name, nan, explained, nan, "It is the only active variable.")
        left = self.plan.with_("variables", use=[one for one in use if one != name])
        try:
            prepared = prepare(self.table, left, (grown.prepared.numbers - 1).tolist())
            tree, pairs = regrown_pairs(prepared, grown.method, False, progress)
        except InputError as error:
            return Driver(name, nan, explained, nan, str(error))
        if not np.array_equal(prepared.numbers, grown.prepared.numbers):
            return Driver(name, nan, explained, nan, "Some cases would have no answer left.")
        count = int(self.own.max()) + 1
        other = cut_at_count(tree, count).membership - 1
        gain = _silhouette(tree, pairs, count) - self.before
        return Driver(name, adjusted_rand(cross_counts(self.own, other)), explained, gain)


def _silhouette(tree: Tree, pairs: Proximities, count: int) -> float:
    """The mean of all cases, at a cut by count."""
    if not 1 < count <= tree.n:
        return float("nan")
    nested = nested_cuts(tree, count)
    return float(silhouettes_of(pair_sums(nested, Distances(pairs)), count).values.mean())
