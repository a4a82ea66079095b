"""The work behind the question whether groups of a split find the same clusters."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.base.progress import Progress
from gorvel.core.compare.replicating import FoundAgain, found_again
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.study.kept import KeptTree, grown_again
from gorvel.core.table.table import Table
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.faces import group_words
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs


@dataclass(frozen=True, eq=False)
class Replicated:
    """Of the trees of all groups at one count. number : of their entry; groups : what each is

    called, with its cases; found : by the group whose tree it is, and whose cases are given.
    """

    number: int
    count: int
    groups: dict[str, tuple[str, int]]
    found: dict[tuple[str, str], FoundAgain]


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
                _replicated, source, plan, self.focus.grown_id, trees, here, cut.clusters
            )
            (self.inquiry.again if again else self.inquiry.ask)(self._about, work)


def _replicated(
    table: Table, plan: Plan, number: int, kept: dict[str, KeptTree], here: Grown, count: int,
    progress: Progress,
) -> Replicated:  # fmt: skip
    trees = {group: here if tree.tree is here.tree else grown_again(table, tree, None, progress)
             for group, tree in kept.items()}  # fmt: skip
    groups = {group: (group_words(plan, group), tree.tree.n) for group, tree in trees.items()}
    return Replicated(number, count, groups, found_again(table, plan, trees, count, progress))
