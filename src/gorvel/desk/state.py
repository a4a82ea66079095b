"""The one focus that all views share: the study, its plan, its tree, the cut, the mark."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from PySide6.QtCore import QObject, Signal

from gorvel.core.analysis import Grown
from gorvel.core.counting.support import Support
from gorvel.core.cuts import Cut, cut_at_count, cut_at_height, cut_branches
from gorvel.core.errors import InputError
from gorvel.core.faithful import Faithful
from gorvel.core.identity import Identity, identities
from gorvel.core.matrix import ProximityTable
from gorvel.core.plan.plan import Plan
from gorvel.core.prepared import Prepared
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.table.table import Table

__all__ = ["Focus", "Mark", "Study"]

Source = Table | ProximityTable
_Step = tuple[Source, Plan]  # what was read, and the plan: what a step back returns to
_FIRST_COUNT = 4
_MOST_STEPS = 200


@dataclass(frozen=True, eq=False)
class Study:
    """What was opened: the data file, what was read from it, and the plan's file if any."""

    data_file: Path
    source: Source
    plan_file: Path | None = None


@dataclass(frozen=True)
class Mark:
    """What is pointed at or selected.

    kind, number : a join or a case (from 0), or a cluster (from 1);
    "pair" : cases number and other; "level" : the same, as they stand with so many clusters;
    "answer" : of case number to variable other (from 0).
    """

    kind: Literal["join", "case", "cluster", "pair", "level", "answer"]
    number: int
    other: int = -1
    clusters: int = 0


class Focus(QObject):
    """Holds the state and tells of every change; computes nothing but cuts.

    Signals: source_leaves(), before what was read makes way; refused(why), a change of plan whose
    parts would not go together; the others after what they name. With
    a plan the tree in hand may go out of date; tree_changed tells of another tree, or of none.
    """

    source_leaves = Signal()
    refused = Signal(str)
    study_changed = Signal()
    plan_changed = Signal()
    prepared_changed = Signal()
    tree_changed = Signal()
    cut_changed = Signal()
    mark_changed = Signal()
    saved_changed = Signal()
    support_changed = Signal()
    faithful_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.study: Study | None = None
        self.plan: Plan | None = None
        self.prepared: Prepared | None = None
        self.problem = ""  # why the plan cannot be carried out, in a sentence
        self.grown: Grown | None = None
        self.cut: Cut | None = None
        self.cut_height: float | None = None  # where a line was put by hand
        self.selected: Mark | None = None
        self.hovered: Mark | None = None
        self.saved_to: Path | None = None
        self.support: Support | None = None  # of the branches of this tree, where it was measured
        self.first_arrangement: Arrangement | None = None  # of the tree
        self.faithful: Faithful | None = None  # this tree, where that is known by now
        self.correlating = ""  # how far that is, in words, while it is worked out
        self._count: int | None = None
        self._lettered: Cut | None = None  # the cut whose clusters have letters of their own
        self._undo: list[_Step] = []
        self._redo: list[_Step] = []
        self._saved_plan: Plan | None = None

    # the study

    def open(self, study: Study, plan: Plan, saved: bool = True, count: int = 0) -> None:
        """Begin afresh with a study and its plan.

        saved : the plan is as its file has it; count : clusters to cut into at first, 0 for what
        the plan says.
        """
        self._saved_plan = plan if study.plan_file and saved else None
        self._undo.clear()
        self._redo.clear()
        self._turn_to(study, plan)
        self._count = count or None

    def _turn_to(self, study: Study, plan: Plan) -> None:
        """Look at something else that was read: its tree is still to grow."""
        self.source_leaves.emit()
        self.study, self.plan = study, plan
        self.prepared, self.problem = None, ""
        self.grown = self.cut = self.cut_height = self.saved_to = None
        self.first_arrangement = None
        self.selected = self.hovered = self.support = self.faithful = None
        self.correlating = ""
        self._count = None
        self.study_changed.emit()
        self.plan_changed.emit()
        self.prepared_changed.emit()
        self.tree_changed.emit()
        self.cut_changed.emit()
        self.mark_changed.emit()
        self.saved_changed.emit()

    # the plan

    def attempt(self, make: Callable[[Plan], Plan]) -> str:
        """Put what is made of the plan in force; returns why not, or an empty text."""
        assert self.plan is not None
        try:
            plan = make(self.plan)
        except InputError as error:
            return error.said or str(error)
        self.replace_plan(plan)
        return ""

    def change(self, part: str, **changes: Any) -> None:
        """Change keys of one part of the plan; where they do not go with the rest it is told."""
        self.change_by(lambda plan: plan.with_(part, **changes))

    def change_by(self, make: Callable[[Plan], Plan]) -> None:
        """Put what is made of the plan in force, or tell why not."""
        why = self.attempt(make)
        if why:
            self.refused.emit(why)

    def set_aside(self, cases: set[int]) -> None:
        """Leave cases (numbers in the file) out; they can be brought back."""
        if self.plan is not None and self.plan.source.kind == "table" and cases:
            self.change("cases", set_aside=sorted({*self.plan.cases.set_aside, *cases}))

    def bring_back(self, cases: set[int]) -> None:
        """Use cases again that were set aside."""
        if self.plan is not None and cases & set(self.plan.cases.set_aside):
            self.change("cases", set_aside=sorted(set(self.plan.cases.set_aside) - cases))

    def replace_plan(self, plan: Plan) -> None:
        """Put another plan in force; can be undone."""
        if self.plan is None or plan == self.plan:
            return
        self._remember()
        self.plan = plan
        self.plan_changed.emit()

    def replace_source(self, source: Source, plan: Plan) -> None:
        """Put the file as it was read anew, and a plan that fits, in force; can be undone."""
        if self.study is not None:
            self._remember()
            self._turn_to(replace(self.study, source=source), plan)

    def _remember(self) -> None:
        assert self.study is not None
        assert self.plan is not None
        self._undo.append((self.study.source, self.plan))
        del self._undo[:-_MOST_STEPS]
        self._redo.clear()

    @property
    def can_undo(self) -> bool:
        return bool(self._undo)

    @property
    def can_redo(self) -> bool:
        return bool(self._redo)

    def undo(self) -> None:
        """Take the last change of the plan, or of how the file is read, back."""
        self._step_between(self._undo, self._redo)

    def redo(self) -> None:
        """Make the change taken back last once more."""
        self._step_between(self._redo, self._undo)

    def _step_between(self, taken: list[_Step], kept: list[_Step]) -> None:
        if not taken or self.study is None or self.plan is None:
            return
        kept.append((self.study.source, self.plan))
        source, plan = taken.pop()
        if source is not self.study.source:
            self._turn_to(replace(self.study, source=source), plan)
            return
        self.plan = plan
        self.plan_changed.emit()

    def set_prepared(self, prepared: Prepared | None, problem: str = "") -> None:
        """What the plan makes of the table, or why it cannot."""
        self.prepared, self.problem = prepared, problem
        self.prepared_changed.emit()

    @property
    def plan_to_save(self) -> Plan | None:
        """The plan with the count of the cut line among those it saves."""
        if self.plan is None or self.cut is None:
            return self.plan
        if self.cut.split:
            split = [join + 1 for join in self.cut.split]
            branches = [one.model_dump() for one in self.plan.cut.branches]
            here = {"clusters": self.cut.level, "split": tuple(split)}
            return self.plan.with_("cut", branches=[b for b in branches if b != here] + [here])
        counts = set(self.plan.cut.counts or ()) | {self.cut.clusters}
        return self.plan.with_("cut", counts=sorted(counts))

    @property
    def plan_unsaved(self) -> bool:
        return self.plan is not None and self.plan != self._saved_plan

    def plan_was_saved(self, path: Path, plan: Plan | None) -> None:
        """A plan now stands in a file; it may not be the one in force any more."""
        if self.study is not None:
            self.study = replace(self.study, plan_file=path)
        self._saved_plan = plan
        self.saved_changed.emit()

    # the tree

    @property
    def out_of_date(self) -> bool:
        """Was the tree grown by another plan than the one in force?"""
        if self.grown is None or self.plan is None:
            return False
        return self.grown.plan.growth() != self.plan.growth()

    @property
    def grown_as_planned(self) -> Grown | None:
        """The tree with the plan in force, where that grows the same tree."""
        if self.grown is None or self.plan is None or self.out_of_date:
            return self.grown
        return replace(self.grown, plan=self.plan)

    def set_grown(self, grown: Grown, arrangement: Arrangement) -> None:
        """A new tree, as it is first laid out; the cut keeps its count as far as it can."""
        self.first_arrangement = arrangement
        self.grown, self.support, self.faithful = grown, None, None
        self._lettered = None
        self.saved_to = None
        self.selected = self.hovered = None
        first = self._count is None
        self._cut_at(self._count or self._planned_count(grown))
        if first and grown.plan.cut.branches:
            self._cut_as_planned(grown)
        self.tree_changed.emit()
        self.cut_changed.emit()
        self.mark_changed.emit()
        self.saved_changed.emit()

    def _cut_as_planned(self, grown: Grown) -> None:
        """Take up the branches that the plan cuts lower, where this tree has them."""
        asked, tree = grown.plan.cut.branches[-1], grown.tree
        if asked.clusters <= tree.n and all(j <= tree.n - asked.clusters for j in asked.split):
            self._lettered = cut_at_count(tree, asked.clusters)
            self.cut = cut_branches(tree, asked.clusters, [join - 1 for join in asked.split])
            self._count = self.cut.clusters

    def _planned_count(self, grown: Grown) -> int:
        if grown.plan.counting.chosen is not None:
            return min(grown.plan.counting.chosen, grown.tree.n)
        asked = grown.plan.cut.counts
        wanted = asked[-1] if asked and _FIRST_COUNT not in asked else _FIRST_COUNT
        return min(wanted, max(grown.tree.n - 1, 1))

    def set_faithful(self, faithful: Faithful | None, correlating: str = "") -> None:
        """How faithful the tree is; or how far that is known, in words."""
        self.faithful, self.correlating = faithful, correlating
        self.faithful_changed.emit()

    def set_support(self, support: Support) -> None:
        """How well supported the branches are."""
        self.support = support
        self.support_changed.emit()

    # the cut

    @property
    def identities(self) -> list[Identity]:
        """Names and colours of the clusters, which stay when the count changes."""
        if self.grown is None or self.cut is None:
            return []
        return identities(self.grown.tree, self._lettered or self.cut, self.cut)

    @property
    def lettered(self) -> Cut | None:
        """The cut whose clusters have letters of their own."""
        return self._lettered

    def letter_anew(self) -> None:
        """Give the clusters of this cut letters of their own."""
        self._lettered = self.cut
        self.cut_changed.emit()
        self.mark_changed.emit()

    def _cut_at(self, clusters: int) -> None:
        assert self.grown is not None
        clusters = min(max(clusters, 1), self.grown.tree.n)
        self.cut = cut_at_count(self.grown.tree, clusters)
        self._lettered = self._lettered or self.cut
        self.cut_height = None

    def set_count(self, clusters: int) -> None:
        """Cut into so many clusters."""
        if self.grown is None:
            return
        if self.cut is not None and clusters == self.cut.clusters and not self.cut.split:
            return
        self._cut_at(clusters)
        self._cut_moved()

    def split_cluster(self, cluster: int) -> bool:
        """Cut this cluster (from 1) lower than the others, into its two parts; False for a case."""
        if self.grown is None or self.cut is None:
            return False
        join = int(self.cut.roots[cluster - 1]) - self.grown.tree.n
        if join < 0:
            return False
        self._cut_branches((*self.cut.split, join))
        return True

    def join_again(self, cluster: int) -> bool:
        """Take back that the branch of this cluster (from 1) was cut lower; False if it was not."""
        if self.grown is None or self.cut is None:
            return False
        tree, above = self.grown.tree, int(self.grown.tree.used_at[self.cut.roots[cluster - 1]])
        if not 0 <= above < self.cut.joins_kept:
            return False
        inside = set(tree.members(tree.n + above).tolist())
        self._cut_branches(
            tuple(j for j in self.cut.split if int(tree.firsts[tree.n + j]) not in inside)
        )
        return True

    def _cut_branches(self, split: tuple[int, ...]) -> None:
        assert self.grown is not None
        assert self.cut is not None
        self.selected = self.hovered = None
        self.cut = cut_branches(self.grown.tree, self.cut.level, split)
        self._cut_moved()
        self.mark_changed.emit()

    def set_height(self, height: float) -> None:
        """Cut at a height."""
        if self.grown is None:
            return
        before = (self.cut.clusters, self.cut.split) if self.cut else None
        self.cut = cut_at_height(self.grown.tree, height)
        self.cut_height = height
        self._cut_moved(before != (self.cut.clusters, self.cut.split))

    def _cut_moved(self, clusters_changed: bool = True) -> None:
        assert self.cut is not None
        self._count = self.cut.clusters
        if clusters_changed:
            self.saved_to = None
            for mark in (self.selected, self.hovered):
                if mark is not None and mark.kind == "cluster":
                    self.selected = self.hovered = None
        self.cut_changed.emit()
        if clusters_changed:
            self.saved_changed.emit()

    # the mark

    @property
    def mark(self) -> Mark | None:
        """What is under the pointer, or else selected."""
        return self.hovered or self.selected

    @property
    def pair(self) -> tuple[int, int] | None:
        """Two cases: a pair that is marked, or the case selected and the one pointed at."""
        if self.mark is not None and self.mark.kind == "pair":
            return self.mark.number, self.mark.other
        one, other = self.selected, self.hovered
        if one is None or other is None or one == other:
            return None
        both_cases = one.kind == "case" and other.kind == "case"
        return (one.number, other.number) if both_cases else None

    def nodes_of(self, mark: Mark) -> list[int]:
        """The nodes of the tree that a mark is about."""
        assert self.grown is not None
        assert self.cut is not None
        if mark.kind == "join":
            return [self.grown.tree.n + mark.number]
        if mark.kind == "cluster":
            return [int(self.cut.roots[mark.number - 1])]
        if mark.kind in ("pair", "level"):
            return [mark.number, mark.other]
        return [mark.number]

    def hover(self, mark: Mark | None) -> None:
        """The pointer is over something, or over nothing."""
        if mark != self.hovered:
            self.hovered = mark
            self.mark_changed.emit()

    def select(self, mark: Mark | None) -> None:
        """Something is selected, in any view."""
        if mark != self.selected or self.hovered is not None:
            self.selected, self.hovered = mark, None
            self.mark_changed.emit()

    def step(self, by: int) -> None:
        """Select the next or previous join."""
        if self.grown is None or self.grown.tree.joins == 0:
            return
        last = self.grown.tree.joins - 1
        if self.selected is None or self.selected.kind != "join":
            self.select(Mark("join", last if by < 0 else 0))
        else:
            self.select(Mark("join", min(max(self.selected.number + by, 0), last)))

    # the memberships

    def memberships_saved(self, path: Path) -> None:
        """The clusters of this cut now stand in a file."""
        self.saved_to = path
        self.saved_changed.emit()
