"""Does the cut hang on how gaps are filled: many completed data sets, and the tree of each."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.imputing import imputed
from gorvel.core.cases.prepare import prepare
from gorvel.core.compare.coassociation import CoAssociation, together
from gorvel.core.compare.pair import common_places
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.engine.engine import Engine, ThreadEngine, rounds_of
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut, cut_at_count

Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Imputed:
    """Of one cut beside those of trees of completed data sets.

    agreement : (m,) adjusted Rand index of each with the cut, over the cases of both; cases : of
    the completed trees; together : how often cases of a cluster are together in them; gaps : cells
    that were filled.
    """

    agreement: tuple[float, ...]
    cases: int
    together: CoAssociation
    gaps: int


def imputed_trees(
    table: Table, plan: Plan, own: Grown, cut: Cut, many: int, seed: int,
    rows: Collection[int] | None = None, progress: Progress = silent,
    engine: Engine | None = None,
) -> Imputed:  # fmt: skip
    """Complete the data so many times by chained draws, and cut the tree of each as often.

    Parameters
    ----------
    own, cut : the plan's tree and its cut; progress : told "impute"; may stop by raising.

    Raises
    ------
    InputError : a variable has no answer at all.

    References
    ----------
    See `imputed`.
    """
    task, stage = _Completed(table, plan, own, cut, seed, rows), Stage(progress, Phase.IMPUTE)
    found = [*rounds_of(engine or ThreadEngine(), task, many, stage)]
    of_all = together(cut.membership - 1, cut.clusters, [one.groups for one in found])
    last = found[-1]
    return Imputed(tuple(one.agreement for one in found), last.cases, of_all, last.gaps)


class _OfOne(NamedTuple):
    """Of one completed tree. groups : (n,) its clusters, -1 for cases that it lacks."""

    groups: Ints
    agreement: float
    cases: int
    gaps: int


@dataclass(frozen=True, eq=False)
class _Completed:
    """The tree of one completed data set."""

    table: Table
    plan: Plan
    own: Grown
    cut: Cut
    seed: int
    rows: Collection[int] | None

    def run(self, number: int, progress: Progress) -> _OfOne:
        counted: list[int] = []
        fill = partial(_filled, self.seed, number, counted)
        prepared = prepare(self.table, self.plan, self.rows, fill)
        grown = grow_prepared(prepared, self.plan, {}, progress, self.own.key.group)
        count = min(self.cut.clusters, grown.tree.n)
        its = cut_at_count(grown.tree, count).membership - 1
        mine, other = common_places(self.own.prepared.numbers, grown.prepared.numbers)
        groups = np.full(self.own.tree.n, -1, dtype=np.int64)
        groups[mine] = its[other]
        agreement = adjusted_rand(cross_counts(self.cut.membership[mine] - 1, its[other]))
        return _OfOne(groups, agreement, grown.tree.n, counted[0])


def _filled(
    seed: int, number: int, counted: list[int], raw: NDArray[np.float64], variables: object
) -> NDArray[np.float64]:
    gaps = np.isnan(raw)
    counted.append(int(gaps.sum()))
    if gaps.all(axis=0).any():
        raise InputError("a variable without any answer", "one to draw from")
    random = np.random.default_rng([seed, 17, number])
    return imputed(raw, variables, random)  # type: ignore[arg-type]
