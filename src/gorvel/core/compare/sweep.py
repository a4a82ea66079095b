"""Trees of all combinations of scales, handlings of gaps, measures and linkages."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from itertools import product

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Prepared
from gorvel.core.compare.pair import common_places
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.count.board import quick_board
from gorvel.core.count.regrow import Pulse
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.beside import OtherTree
from gorvel.core.plan.others import variant
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.source import Source
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count

__all__ = ["Combination", "Swept", "combinations_of", "sweep"]

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Combination:
    """scale, handling, measure, linkage : keys; "" where the source has none of it."""

    scale: str
    handling: str
    measure: str
    linkage: str


@dataclass(frozen=True)
class Swept:
    """What is known of one combination. why : why there is no tree, "" where there is one; best :

    by rule, None for no answer; agreement, smallest : by count, adjusted Rand index with the plan's
    own cut over the cases both keep, and cases of the smallest cluster.
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
    report: Callable[[Swept], None] | None = None,
) -> list[Swept]:  # fmt: skip
    """Grow the tree of each combination; cases are prepared once for all linkages.

    Parameters
    ----------
    own : the plan's tree; counts : of its cuts; rows : of a group of a split, None for all;
    progress : told "sweep"; may stop the work by raising; report : told of each tree.
    """
    asked, pulse = combinations_of(plan), Pulse(progress, Phase.SWEEP)
    prepared: dict[tuple[str, str, str], Prepared | str] = {}
    out = []
    with at_hand(own.tree.n):
        for done, (at, tree) in enumerate(asked):
            pulse.tell(done / len(asked))
            found = _swept(source, plan, own, counts, rows, at, tree, prepared, pulse)
            out.append(found)
            if report is not None:
                report(found)
    return out


def _swept(
    source: Source, plan: Plan, own: Grown, counts: Sequence[int], rows: Collection[int] | None,
    at: Combination, tree: OtherTree, known: dict[tuple[str, str, str], Prepared | str],
    pulse: Pulse,
) -> Swept:  # fmt: skip
    key = at.scale, at.handling, at.measure
    try:
        its_plan = variant(plan, tree)
        if key not in known:
            known[key] = _prepared(source, its_plan, rows)
        cases = known[key]
        if isinstance(cases, str):
            return Swept(at, cases)
        grown = grow_prepared(cases, its_plan, {}, pulse.while_growing, own.key.group)
    except InputError as error:
        return Swept(at, _sentence(error))
    found = grown.tree
    best = {}
    if plan.count is not None:
        board = quick_board(grown, plan.count, None, pulse.while_growing)
        best = {name: verdict.best for name, verdict in board.verdicts.items()}
    mine, its = common_places(own.prepared.numbers, grown.prepared.numbers)
    agreement, smallest = {}, {}
    for count in counts:
        if count <= found.n:
            cut = cut_at_count(found, count)
            table = cross_counts(
                cut_at_count(own.tree, count).membership[mine] - 1, cut.membership[its] - 1
            )
            agreement[count] = adjusted_rand(table)
            smallest[count] = int(found.sizes[cut.roots].min())
    return Swept(
        at, "", found.n, cophenetic_correlation(found, grown.pairs, pulse.while_growing),
        grown.agglomerative, int(found.inversions.sum()), int(found.tie_matters.sum()), best,
        agreement, smallest,
    )  # fmt: skip


def _prepared(source: Source, plan: Plan, rows: Collection[int] | None) -> Prepared | str:
    """The cases, or why there are none."""
    try:
        return prepare(source, plan, rows)
    except InputError as error:
        return _sentence(error)


def _sentence(error: InputError) -> str:
    error.file = ""
    return str(error)
