"""Does the cut hang on how gaps are filled: many completed data sets, and the tree of each."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.imputing import imputed
from gorvel.core.cases.prepare import prepare
from gorvel.core.compare.coassociation import CoAssociation, together
from gorvel.core.compare.pair import common_places
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.resampling_engine import ProgressStage
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
    pulse, groups, agreement, cases, gaps = ProgressStage(progress, Phase.IMPUTE), [], [], 0, 0
    for k in range(many):
        pulse.tell(k / many)
        counted: list[int] = []
        prepared = prepare(table, plan, rows, partial(_filled, seed, k, counted))
        grown = grow_prepared(prepared, plan, {}, pulse.while_growing, own.key.group)
        its = cut_at_count(grown.tree, min(cut.clusters, grown.tree.n)).membership - 1
        mine, other = common_places(own.prepared.numbers, grown.prepared.numbers)
        own_groups = np.full(own.tree.n, -1, dtype=np.int64)
        own_groups[mine] = its[other]
        groups.append(own_groups)
        agreement.append(adjusted_rand(cross_counts(cut.membership[mine] - 1, its[other])))
        cases, gaps = grown.tree.n, counted[0]
    found = together(cut.membership - 1, cut.clusters, groups)
    return Imputed(tuple(agreement), cases, found, gaps)


def _filled(
    seed: int, number: int, counted: list[int], raw: NDArray[np.float64], variables: object
) -> NDArray[np.float64]:
    gaps = np.isnan(raw)
    counted.append(int(gaps.sum()))
    if gaps.all(axis=0).any():
        raise InputError("a variable without any answer", "one to draw from")
    random = np.random.default_rng([seed, 17, number])
    return imputed(raw, variables, random)  # type: ignore[arg-type]
