"""The work behind the question whether clusters hang on how gaps are handled."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.base.progress import Progress
from gorvel.core.compare.gaps import Imputed, imputed_trees
from gorvel.core.compare.sweep import Swept, sweep
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs

TIMES = 20  # that gaps are filled anew


@dataclass(frozen=True, eq=False)
class Filled:
    """Of one cut. handlings : the tree under each handling of gaps; imputed : trees of completed

    data sets.
    """

    cut: Cut
    handlings: list[Swept]
    imputed: Imputed


class Filling(QObject):
    """Asks of the cut in hand."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.inquiry = Inquiry(jobs, JobKind.IMPUTE, self)
        focus.shelf.study_changed.connect(self.inquiry.forget)

    @property
    def why_not(self) -> str:
        """Why nothing can be asked; "" where it can."""
        plan, grown = self.focus.plan_of_tree, self.focus.grown
        if grown is None or self.focus.cut is None or plan is None:
            return "There is no tree yet."
        if plan.source.kind != "table" or grown.of != "cases":
            return "Only cases have missing answers."
        if grown.key.group is not None:
            return "With a split, each group has its own tree: remove the split first."
        return ""

    @property
    def known(self) -> Filled | None:
        """What is known of the cut in hand."""
        found: Filled | None = self.inquiry.found
        return found if found is not None and found.cut is self.focus.cut else None

    def ask(self) -> None:
        """Grow the trees."""
        study, plan = self.focus.shelf.study, self.focus.plan_of_tree
        grown, cut = self.focus.grown, self.focus.cut
        if self.why_not or study is None or plan is None or grown is None or cut is None:
            return
        source = study.source_for(plan)
        if isinstance(source, Table):
            work = partial(_filled, source, plan, grown, cut)
            self.inquiry.again((grown.tree, cut), work)


def _filled(table: Table, plan: Plan, grown: Grown, cut: Cut, progress: Progress) -> Filled:
    with at_hand(grown.tree.n):
        asked = plan.with_whole("count", None).with_whole("sweep", {"handlings": "all"})
        handlings = sweep(table, asked, grown, [cut.clusters], None, progress)
        return Filled(cut, handlings, imputed_trees(table, plan, grown, cut, TIMES, 1, None,
                                                    progress))  # fmt: skip
