"""The one focus that all views share: the study, and of its tree in hand the cut and the mark."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gorvel.core.cases.prepared import Prepared
from gorvel.core.count.support import Support
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.study.file import StudyFile
from gorvel.core.study.groups import GrownGroups
from gorvel.core.study.kept import KeptCut, KeptTree
from gorvel.core.tree.cluster_names import Identity, identities
from gorvel.core.tree.cophenetic import Faithful
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_at_height, cut_branches
from gorvel.core.tree.tree import Tree
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.shelf import Shelf

__all__ = ["Focus"]

_FIRST_COUNT = 4


class Focus(Shelf):
    """The tree on the screen, which may be out of date with the plan in force; computes nothing but

    cuts.

    Signals: tree_changed(), another tree or none; displaced_changed(), a tree that was not kept
    made way for another, or is kept by now; the others after what they name.
    """

    prepared_changed = Signal()
    tree_changed = Signal()
    displaced_changed = Signal()
    cut_changed = Signal()
    mark_changed = Signal()
    support_changed = Signal()
    faithful_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.prepared: Prepared | None = None
        self.problem = ""  # why the plan cannot be carried out, in a sentence
        self.contributors: list[Callable[[KeptTree], KeptTree]] = []  # add what they found of it
        self.too_small: dict[str, str] = {}  # groups without a tree, and why
        self._clear()
        self.source_leaves.connect(self._source_left)
        self.tree_leaves.connect(self.remember)

    def _clear(self) -> None:
        self.grown: Grown | None = None
        self.grown_by: Plan | None = None
        self.grown_id = 0  # the tree of the study that is on the screen
        self.came_with: KeptTree | None = None  # what was known of it when it was shown again
        self.displaced: tuple[KeptTree, ...] = ()  # by it, though not kept; of all groups
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

    # the study

    def open(
        self, content: StudyFile, file: Path | None = None, saved: bool = True,
        for_reading: bool = False,
    ) -> None:  # fmt: skip
        """Begin afresh with a study; see `begin`."""
        self.begin(content, file, saved, for_reading)
        self.source_leaves.emit()
        self.study_changed.emit()
        self.plan_changed.emit()
        self.shelf_changed.emit()
        self.saved_changed.emit()

    def _source_left(self) -> None:
        """What is on the screen is of something else than what is read now."""
        self.prepared, self.problem = None, ""
        self.too_small = {}
        self._clear()
        self.prepared_changed.emit()
        self.tree_changed.emit()
        self.displaced_changed.emit()
        self.cut_changed.emit()
        self.mark_changed.emit()

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

    # what is kept of the tree

    @property
    def kept_now(self) -> KeptTree | None:
        """What a study keeps of the tree on the screen."""
        if self.grown is None or self.grown_by is None:
            return None
        cut = None if self.cut is None else KeptCut.of(self.cut, self.cut_height, self._lettered)
        kept = KeptTree.of(self.grown_by, self.grown, cut=cut, faithful=self.faithful)
        for contribute in self.contributors:
            kept = contribute(kept)
        return kept

    def remember(self) -> None:
        """Before another tree is shown, or the study is saved."""
        kept = self.kept_now
        if kept is not None:
            self.kept[self.grown_id, self.grown_group] = kept

    def content(self, picture: bytes = b"") -> StudyFile | None:
        """The study as a file keeps it."""
        if self.study is None:
            return None
        self.remember()
        kept = {key: tree for key, tree in self.kept.items() if self.study.has(key[0])}
        return StudyFile(self.study, kept, self.group, picture)

    @property
    def trees_as_grown(self) -> tuple[KeptTree, ...]:
        """The tree on the screen, and with a split those of the other groups."""
        kept = self.kept_now
        return tuple(self.of_groups.values()) or (() if kept is None else (kept,))

    def keep_displaced(self) -> None:
        """Put the tree on the shelf that made way for the one on the screen."""
        trees, self.displaced = self.displaced, ()
        if trees:
            self.keep(trees)
            self.displaced_changed.emit()

    # groups of a split

    @property
    def grown_group(self) -> str | None:
        """The group of a split whose tree is on the screen; None for all cases."""
        return None if self.grown is None else self.grown.key.group

    @property
    def groups(self) -> list[str]:
        """The groups of a split of which there are trees."""
        if self.grown_group is None:
            return []
        number = self.grown_id
        return [group for one, group in self.kept if one == number and group is not None]

    @property
    def of_groups(self) -> dict[str, KeptTree]:
        """The tree of each group, as it is cut now."""
        self.remember()
        return {group: self.kept[self.grown_id, group] for group in self.groups}

    def turn_to(self, group: str) -> None:
        """Look at the tree of another group."""
        if group != self.group and group in self.groups:
            self.remember()
            self.group = group
            self.tree_wanted.emit()

    def cut_all_groups(self) -> None:
        """Cut the tree of every group into as many clusters as the one looked at, where it can."""
        if self.cut is None:
            return
        count = self.cut.clusters
        for group, tree in self.of_groups.items():
            if group != self.grown_group:
                cut = KeptCut(min(count, tree.tree.n))
                self.kept[self.grown_id, group] = tree.with_(cut=cut)
        self.saved_to = None
        self.touch()
        self.cut_changed.emit()
        self.saved_changed.emit()

    # the tree

    @property
    def out_of_date(self) -> bool:
        """Was the tree grown by another plan than the one in force?"""
        if self.grown is None or self.plan is None:
            return False
        return self.grown.key != self.plan.growth(self.group_in_force)

    @property
    def plan_of_tree(self) -> Plan | None:
        """The plan in force, where that grows the tree on the screen; else the one that grew it."""
        return self.grown_by if self.out_of_date else self.plan

    def set_grown(
        self, plan: Plan, grown: Grown, arrangement: Arrangement, groups: GrownGroups | None = None
    ) -> None:
        """A new tree of the one in hand, laid out; the cut keeps its count as far as it can.

        plan : that grew it; groups : all trees of a split, of which this is the first looked at.
        """
        assert self.study is not None
        number, group = self.study.in_hand, None if groups is None else groups.first
        self.remember()
        before = {key[1]: tree for key, tree in self.kept.items() if key[0] == number}
        mine = self.grown_id == number and not self.study.entry.kept
        same = before.get(group)
        if mine and before and (same is None or not same.grows_as(plan)):
            self.displaced = tuple(before.values())
        self.kept = {key: tree for key, tree in self.kept.items() if key[0] != number}
        self.too_small = {} if groups is None else groups.without
        first, self.came_with = self._count is None, None
        if same is not None and same.cut is not None and group is not None:
            self._count = same.cut.cut(same.tree).clusters
        self._show(plan, grown, arrangement, number)
        self.faithful, self.support, self._lettered = None, None, None
        self._cut_at(self._count or self._planned_count(grown.tree, plan))
        if first and plan.cut.branches:
            self._cut_as_planned(grown.tree, plan)
        for name, tree in ({} if groups is None else groups.kept).items():
            old = before.get(name)
            count = self.cut.clusters if self.cut is not None else _FIRST_COUNT
            if old is not None and old.cut is not None:
                count = old.cut.cut(old.tree).clusters
            cut = KeptCut(min(count, max(tree.tree.n - 1, 1)))
            self.kept[number, name] = tree.with_(cut=cut)
        self.touch()
        self._tell_tree()

    def add_grown(self, number: int, plan: Plan, grown: Grown, groups: GrownGroups | None) -> bool:
        """Keep a tree grown for one that is not in hand any more; False if that is gone."""
        if self.study is None or not self.study.has(number):
            return False
        new = {None: KeptTree.of(plan, grown)} if groups is None else dict(groups.kept)
        self.kept = {key: tree for key, tree in self.kept.items() if key[0] != number}
        self.kept |= {(number, group): tree for group, tree in new.items()}
        self.touch()
        self.shelf_changed.emit()
        return True

    def show_kept(
        self, grown: Grown, arrangement: Arrangement, number: int, kept: KeptTree
    ) -> None:
        """A tree that was grown before, as it was left; number : of its entry."""
        self._show(kept.plan, grown, arrangement, number)
        self.came_with = kept
        self.faithful, self.support, cut = kept.faithful, kept.checks.support, kept.cut
        if cut is None:
            self._lettered = None
            self._cut_at(self._planned_count(grown.tree, kept.plan))
        else:
            self.cut, self._lettered = cut.cut(grown.tree), cut.lettered_cut(grown.tree)
            self.cut_height = cut.height
            self._count = self.cut.clusters
        self._tell_tree()

    def _show(self, plan: Plan, grown: Grown, arrangement: Arrangement, number: int) -> None:
        self.first_arrangement = arrangement
        self.grown, self.grown_by, self.grown_id = grown, plan, number
        self.group = grown.key.group
        self.correlating = ""
        self.saved_to = None
        self.selected = self.hovered = None

    def _tell_tree(self) -> None:
        self.tree_changed.emit()
        self.displaced_changed.emit()
        self.cut_changed.emit()
        self.mark_changed.emit()
        self.faithful_changed.emit()
        self.saved_changed.emit()
        self.shelf_changed.emit()

    def _cut_as_planned(self, tree: Tree, plan: Plan) -> None:
        """Take up the branches that the plan cuts lower, where this tree has them."""
        asked = plan.cut.branches[-1]
        if asked.clusters <= tree.n and all(j <= tree.n - asked.clusters for j in asked.split):
            self._lettered = cut_at_count(tree, asked.clusters)
            self.cut = cut_branches(tree, asked.clusters, [join - 1 for join in asked.split])
            self._count = self.cut.clusters

    def _planned_count(self, tree: Tree, plan: Plan) -> int:
        if plan.counting.chosen is not None:
            return min(plan.counting.chosen, tree.n)
        asked = plan.cut.counts
        wanted = asked[-1] if asked and _FIRST_COUNT not in asked else _FIRST_COUNT
        return min(wanted, max(tree.n - 1, 1))

    def set_faithful(self, faithful: Faithful | None, correlating: str = "") -> None:
        """How faithful the tree is; or how far that is known, in words."""
        self.faithful, self.correlating = faithful, correlating
        self.faithful_changed.emit()

    def set_support(self, support: Support) -> None:
        """How well supported the branches are."""
        self.support = support
        self.touch()
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
        self.touch()
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
        self.touch()
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
