"""Trees of all combinations of scales, handlings of gaps, measures and linkages."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby, product
from typing import ParamSpec, TypeVar

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Prepared
from gorvel.core.compare.pair import common_places
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.resampling.resampling_engine import engine_for
from gorvel.core.engine.engine import Engine
from gorvel.core.grow.algorithm import SMALL
from gorvel.core.grow.growing import pairs_of
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.analyses import OtherTree
from gorvel.core.plan.others import variant
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.table.source import Source
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count

Ints = NDArray[np.int64]
P = ParamSpec("P")
Made = TypeVar("Made")


@dataclass(frozen=True)
class Combination:
    """scale, handling, measure, linkage : keys; "" where the source has none of it."""

    scale: str
    handling: str
    measure: str
    linkage: str

    @property
    def measured(self) -> tuple[str, str, str]:
        """What proximities are made by, which all linkages share."""
        return self.scale, self.handling, self.measure


@dataclass(frozen=True)
class Swept:
    """What is known of one combination.

    why : why there is no tree, "" where there is one; best : by rule, None for no answer;
    agreement, smallest : by count, adjusted Rand index with the plan's own cut over the cases both
    keep, and cases of the smallest cluster.
    """

    at: Combination
    why: str = ""
    cases: int = 0
    cophenetic: float | None = None
    agglomerative: float | None = None
    inversions: int = 0
    ties_that_matter: int = 0
    best: dict[str, int | None] = field(default_factory=dict)
    agreement: dict[int, float] = field(default_factory=dict)
    smallest: dict[int, int] = field(default_factory=dict)


def combinations_of(plan: Plan) -> list[tuple[Combination, OtherTree]]:
    """Those that a plan asks for, scales outermost, then handlings, measures, linkages.

    Of each its keys, and what they change in the plan. A handling that is not named is the plan's,
    or the default of the measure.
    """
    asked = plan.sweep
    assert asked is not None
    ways: list[Sequence[str | None]] = [
        part if part is not None else (None,)
        for part in (asked.scales, asked.handlings, asked.measures, asked.linkages)
    ]
    table = plan.source.kind == "table"
    out = []
    for scale, handling, measure, linkage in product(*ways):
        said = {"scale": scale, "handling": handling, "measure": measure, "linkage": linkage}
        tree = OtherTree.model_validate(
            {"name": "-"} | {key: value for key, value in said.items() if value is not None}
        )
        measured = measure or plan.proximity.measure
        default = plan.missing.handling or ("pairwise" if MEASURES[measured].mixed else "drop")
        at = Combination(
            (scale or plan.scale.method) if table else "",
            (handling or default) if table else "",
            measured if table else "",
            linkage or plan.tree.linkage,
        )  # fmt: skip
        out.append((at, tree))
    return out


def sweep(
    source: Source, plan: Plan, own: Grown, counts: Sequence[int],
    rows: Collection[int] | None = None, progress: Progress = silent,
    report: Callable[[Swept], None] | None = None, engine: Engine | None = None,
) -> list[Swept]:  # fmt: skip
    """Grow the tree of each combination.

    Cases are prepared and measured once for all linkages, and trees of some hundred cases grown on
    all cores, with the same results.

    Parameters
    ----------
    own : the plan's tree; counts : of its cuts; rows : of a group of a split, None for all;
    progress : told "sweep"; may stop the work by raising; report : told of each tree, in order.
    """
    asked, stage = combinations_of(plan), Stage(progress, Phase.SWEEP)
    engine = engine or engine_for(own.tree.n)
    out: list[Swept] = []
    with at_hand(own.tree.n):
        for _, group in groupby(asked, lambda one: (one[0].scale, one[0].handling, one[0].measure)):
            task = _Linkages(source, plan, own, counts, rows, tuple(group))
            task = task.measured(stage.while_growing)
            for found in engine.map(task, range(len(task.asked)), stage.while_growing):
                out.append(found)
                if report is not None:
                    report(found)
                stage.tell(len(out) / len(asked))
    return out


@dataclass(frozen=True, eq=False)
class _Linkages:
    """The combinations of one scale, handling and measure. rows : of a group of a split.

    prepared : their cases, or why there are none; pairs : their proximities, in a matrix.
    """

    source: Source
    plan: Plan
    own: Grown
    counts: Sequence[int]
    rows: Collection[int] | None
    asked: tuple[tuple[Combination, OtherTree], ...]
    prepared: Prepared | str = ""
    pairs: Proximities | None = None
    plans: Sequence[Plan | str] = ()  # or why there is none

    def measured(self, progress: Progress) -> _Linkages:
        """With the cases, and their proximities where there are few."""
        plans = [_told(variant, self.plan, tree) for _, tree in self.asked]
        able = [one for one in plans if isinstance(one, Plan)]
        if not able:
            return replace(self, plans=plans)
        prepared: Prepared | str = _told(prepare, self.source, able[0], self.rows)
        known = None
        if isinstance(prepared, Prepared) and prepared.n <= SMALL:
            pairs = _told(pairs_of, prepared, able[0].method, progress)
            if isinstance(pairs, str):
                prepared = pairs
            elif pairs.matrix is not None:
                known = pairs
        return replace(self, plans=plans, prepared=prepared, pairs=known)

    def run(self, number: int, progress: Progress) -> Swept:
        """What becomes of one of them."""
        (at, _), plan, prepared = self.asked[number], self.plans[number], self.prepared
        if isinstance(plan, str):
            return Swept(at, plan)
        if isinstance(prepared, str):
            return Swept(at, prepared)
        group = self.own.key.group
        grown = _told(grow_prepared, prepared, plan, {}, progress, group, self.pairs)
        return Swept(at, grown) if isinstance(grown, str) else self._looked_at(at, grown, progress)

    def _looked_at(self, at: Combination, grown: Grown, progress: Progress) -> Swept:
        own, tree = self.own, grown.tree
        best = {}
        if self.plan.count is not None:
            board = compute_indices(grown, self.plan.count, None, progress)
            best = {name: verdict.best for name, verdict in board.verdicts.items()}
        mine, its = common_places(own.prepared.numbers, grown.prepared.numbers)
        agreement, smallest = {}, {}
        for count in self.counts:
            if count <= tree.n:
                cut = cut_at_count(tree, count)
                table = cross_counts(
                    cut_at_count(own.tree, count).membership[mine] - 1, cut.membership[its] - 1
                )
                agreement[count] = adjusted_rand(table)
                smallest[count] = int(tree.sizes[cut.roots].min())
        return Swept(
            at, "", tree.n, cophenetic_correlation(tree, grown.pairs, progress),
            grown.agglomerative, int(tree.inversions.sum()), int(tree.tie_matters.sum()), best,
            agreement, smallest,
        )  # fmt: skip


def _told(act: Callable[P, Made], *args: P.args, **keys: P.kwargs) -> Made | str:
    """What comes of an act, or why nothing does."""
    try:
        return act(*args, **keys)
    except InputError as error:
        error.file = ""
        return str(error)


@dataclass(frozen=True, eq=False)
class Sweep:
    """What is known of a sweep.

    asked : all combinations; found : those that are done, in that order; against : what linkages
    are swept against; kinds : of `KEYS`, in which its columns differ; count : of the cuts that are
    compared; own : the combination of the tree in hand.
    """

    asked: tuple[Combination, ...]
    found: tuple[Swept, ...]
    against: str
    kinds: tuple[str, ...]
    count: int
    own: Combination

    @property
    def whole(self) -> bool:
        return len(self.found) == len(self.asked)

    def key(self, at: Combination) -> tuple[str, ...]:
        """What a combination takes of that which linkages are swept against, kind by kind."""
        return tuple(str(getattr(at, KEYS[kind])) for kind in self.kinds)


KEYS = {"measures": "measure", "scales": "scale", "handlings": "handling"}
