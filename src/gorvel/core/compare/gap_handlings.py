"""The tree in hand under each handling of missing answers, and under imputed ones."""

from __future__ import annotations

from dataclasses import dataclass

from gorvel.core.base.progress import Progress
from gorvel.core.compare.imputed_trees import Imputed, imputed_trees
from gorvel.core.compare.sweep import Swept, sweep
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut

TIMES = 20  # that gaps are filled anew


@dataclass(frozen=True, eq=False)
class GapHandlings:
    """Of one cut.

    handlings : the tree under each handling of gaps; imputed : trees of completed data sets.
    """

    cut: Cut
    handlings: list[Swept]
    imputed: Imputed


def handle_gaps(
    table: Table, plan: Plan, grown: Grown, cut: Cut, progress: Progress
) -> GapHandlings:
    with at_hand(grown.tree.n):
        asked = plan.with_whole("count", None).with_whole("sweep", {"handlings": "all"})
        handlings = sweep(table, asked, grown, [cut.clusters], None, progress)
        return GapHandlings(cut, handlings, imputed_trees(table, plan, grown, cut, TIMES, 1, None,
                                                    progress))  # fmt: skip
