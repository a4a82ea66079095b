"""The work behind the question whether groups of a split find the same clusters."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.study.groups import Replicated, replicate_groups
from gorvel.core.table.table import Table
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs


class Replicating(QObject):
    """Asks of the tree in hand, at its count."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.inquiry = Inquiry(jobs, JobKind.REPLICATE, self)
        focus.shelf.study_changed.connect(self.inquiry.forget)

    @property
    def why_not(self) -> str:
        """Why nothing can be asked; "" where it can."""
        grown, plan = self.focus.grown, self.focus.plan_of_tree
        if grown is None or self.focus.cut is None or plan is None:
            return "There is no tree yet."
        if len(self.focus.groups) < 2:
            return (
                "With a split (see the Plan page), each group has its own tree; this page "
                "shows whether they find the same clusters."
            )
        if grown.of != "cases":
            return "Trees of variables are compared under Two trees."
        if plan.tree.neighbours is not None:
            return "Cases cannot be assigned to clusters that depend on case order."
        return ""

    @property
    def _about(self) -> tuple[object, ...]:
        focus, cut = self.focus, self.focus.cut
        return (0 if cut is None else cut.clusters, focus.grown_id,
                *(tree.tree for tree in focus.of_groups.values()))  # fmt: skip

    @property
    def known(self) -> Replicated | None:
        """What is known at the count in hand."""
        found: Replicated | None = self.inquiry.found
        return found if found is not None and self.inquiry.is_about(self._about) else None

    def ask(self, again: bool = False) -> None:
        """Give the cases of each group to the clusters of every other, unless that is done."""
        study, plan, cut = self.focus.shelf.study, self.focus.plan_of_tree, self.focus.cut
        if self.why_not or study is None or plan is None or cut is None:
            self.inquiry.forget()
            return
        source = study.source_for(plan)
        if isinstance(source, Table) and self.focus.grown is not None:
            trees, here = self.focus.of_groups, self.focus.grown
            work = partial(
                replicate_groups, source, plan, self.focus.grown_id, trees, here, cut.clusters
            )
            (self.inquiry.again if again else self.inquiry.ask)(self._about, work)
