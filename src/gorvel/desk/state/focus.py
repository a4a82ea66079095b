"""The focus of the window: the tree in hand of the study on the shelf."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gorvel.core.cases.prepared import Prepared
from gorvel.core.cases.rows import labelled_by
from gorvel.core.grow.grown import Grown, relabelled
from gorvel.core.plan.growth import GrowthKey
from gorvel.core.plan.kinds import TOLD_OF_CLUSTERS
from gorvel.core.plan.plan import Plan
from gorvel.core.scene.arrangement import Arrangement, laid_out
from gorvel.core.study.file import StudyFile
from gorvel.core.study.groups import GrownGroups
from gorvel.core.study.kept import KeptCut, KeptTree
from gorvel.core.study.study import TreeEntry
from gorvel.core.tree.cluster_names import first_count, retitled, same_nodes, titled_nodes
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from gorvel.core.tree.tree import Tree
from gorvel.desk.state.shelf import Shelf
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.desk.state.turn import in_one_turn

_FIRST_COUNT = 4


class Focus(TreeFocus):
    """The tree in hand of a study, which may be out of date with the plan in force.

    Signals: prepared_changed(); displaced_changed(), a tree that was not kept made way for another,
    or is kept by now.
    """

    prepared_changed = Signal()
    displaced_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.shelf = Shelf(self)
        self.prepared: Prepared | None = None
        self.problem = ""  # why the plan cannot run, in a sentence
        self.contributors: list[Callable[[KeptTree], KeptTree]] = []  # add what they found of it
        self.too_small: dict[str, str] = {}  # groups without a tree, and why
        self.tried: set[GrowthKey] = set()  # what trees were grown by, of what is read now
        self.shelf.source_leaves.connect(self._source_left)
        self.shelf.tree_leaves.connect(self.remember)
        self.shelf.plan_changed.connect(self._follow_plan)
        self.edited.connect(self._edited)

    def forget_tree(self) -> None:
        """There is no tree; nobody is told yet."""
        super().forget_tree()
        self._grown_as: TreeEntry | None = None  # as it was when its plan last grew this tree
        self._labelled_by: tuple[str | None, dict[str, str]] = (None, {})
        self.came_with: KeptTree | None = None  # what was known of it when it was shown again
        self.displaced: tuple[KeptTree, ...] = ()  # by it, though not kept; of all groups
        self.saved_to: Path | None = None

    def _edited(self, clusters_differ: bool) -> None:
        self.shelf.touch()
        if clusters_differ:
            self.saved_to = None
            self.shelf.saved_changed.emit()

    # the study

    @in_one_turn
    def open(
        self, content: StudyFile, file: Path | None = None, saved: bool = True,
        for_reading: bool = False,
    ) -> None:  # fmt: skip
        """Begin afresh with a study; see `begin`."""
        self.shelf.begin(content, file, saved, for_reading)
        self.shelf.source_leaves.emit()
        self.shelf.study_changed.emit()
        self.shelf.columns_changed.emit()
        self.shelf.plan_changed.emit()
        self.shelf.shelf_changed.emit()
        self.shelf.saved_changed.emit()

    @in_one_turn
    def _source_left(self) -> None:
        """What is on the screen is of something else than what is read now."""
        self.prepared, self.problem = None, ""
        self.too_small, self.tried = {}, set()
        self.forget_tree()
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
        if self.shelf.plan is None or self.cut is None or self.out_of_date:
            return self.shelf.plan
        if self.cut.split:
            split = [join + 1 for join in self.cut.split]
            branches = [one.model_dump() for one in self.shelf.plan.cut.branches]
            here = {"clusters": self.cut.level, "split": tuple(split)}
            return self.shelf.plan.with_(
                "cut", branches=[b for b in branches if b != here] + [here]
            )
        counts = set(self.shelf.plan.cut.counts or ()) | {self.cut.clusters}
        return self.shelf.plan.with_("cut", counts=sorted(counts))

    # what is kept of the tree

    @property
    def grown_id(self) -> int:
        """The tree of the study that is on the screen; 0 for none."""
        return 0 if self._grown_as is None else self._grown_as.id

    @property
    def grown_as(self) -> TreeEntry | None:
        """The tree on the screen with what belongs to it.

        As the study has it, as long as that plans this tree, or else as it was last.
        """
        last, study = self._grown_as, self.shelf.study
        if last is None or study is None or not study.has(last.id):
            return last
        entry = study.tree(last.id)
        return entry if entry.plan.grows_as(last.plan) else last

    @property
    def grown_by(self) -> Plan | None:
        """The plan of the tree on the screen; see `grown_as`."""
        return None if self.grown_as is None else self.grown_as.plan

    @property
    def kept_now(self) -> KeptTree | None:
        """What a study keeps of the tree on the screen."""
        if self.grown is None or self.grown_as is None:
            return None
        entry = self.grown_as
        cut = None if self.cut is None else KeptCut.of(self.cut, self.cut_height, self._lettered)
        kept = KeptTree.of(
            entry.plan, self.grown, cut=cut, faithful=self.faithful, title=entry.title,
            note=entry.note,
        )  # fmt: skip
        for contribute in self.contributors:
            kept = contribute(kept)
        return kept

    def remember(self) -> None:
        """Before the study is another, or is saved."""
        self._grown_as = self.grown_as
        kept = self.kept_now
        if kept is not None:
            self.shelf.kept[self.grown_id, self.grown_group] = kept

    def content(self, picture: bytes = b"") -> StudyFile | None:
        """The study as a file keeps it."""
        if self.shelf.study is None:
            return None
        self.remember()
        kept = {key: tree for key, tree in self.shelf.kept.items() if self.shelf.study.has(key[0])}
        return StudyFile(self.shelf.study, kept, self.shelf.group, picture)

    @property
    def trees_as_grown(self) -> tuple[KeptTree, ...]:
        """The tree on the screen, and with a split those of the other groups."""
        kept = self.kept_now
        return tuple(self.of_groups.values()) or (() if kept is None else (kept,))

    @in_one_turn
    def keep_displaced(self) -> None:
        """Put the tree on the shelf that made way for the one on the screen."""
        trees, self.displaced = self.displaced, ()
        if trees:
            self.shelf.keep(trees)
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
        return [group for one, group in self.shelf.kept if one == number and group is not None]

    @property
    def of_groups(self) -> dict[str, KeptTree]:
        """The tree of each group, as it is cut now."""
        self.remember()
        return {group: self.shelf.kept[self.grown_id, group] for group in self.groups}

    @in_one_turn
    def turn_to(self, group: str) -> None:
        """Look at the tree of another group."""
        if group != self.shelf.group and group in self.groups:
            self.remember()
            self.shelf.group = group
            self.shelf.tree_wanted.emit()

    @in_one_turn
    def cut_all_groups(self) -> None:
        """Cut the tree of every group into as many clusters as the one looked at, where it can."""
        if self.cut is None:
            return
        count = self.cut.clusters
        for group, tree in self.of_groups.items():
            if group != self.grown_group:
                cut = KeptCut(min(count, tree.tree.n))
                self.shelf.kept[self.grown_id, group] = tree.with_(cut=cut)
        self.saved_to = None
        self.shelf.touch()
        self.cut_changed.emit()
        self.shelf.saved_changed.emit()

    # titles of clusters

    @property
    def _planned_titles(self) -> dict[str, dict[int, str]]:
        """What is said of clusters, by node of the tree on the screen; nothing in a split."""
        plan, grown = self.shelf.plan, self.grown
        if plan is None or grown is None or self.out_of_date or self.grown_group is not None:
            return {}
        found = {key: titled_nodes(grown.tree, getattr(plan.cut, key)) for key in TOLD_OF_CLUSTERS}
        return {key: told for key, told in found.items() if told}

    def _follow_plan(self) -> None:
        """Labels and titles of the plan in force, where it grows this tree; else they stay."""
        if self.shelf.plan is not None and self.grown is not None and not self.out_of_date:
            self._follow_labels(self.shelf.plan)
            self._follow_titles()

    def _follow_labels(self, plan: Plan) -> None:
        assert self.grown is not None
        assert self.shelf.study is not None
        by = labelled_by(plan)
        if self._labelled_by != by:
            self._labelled_by = by
            self.put_labels(relabelled(self.grown, self.shelf.study.source, plan))

    @in_one_turn
    def _follow_titles(self) -> None:
        told = self._planned_titles
        if told != self.told_of:
            self.told_of = told
            self.cut_changed.emit()
            self.titles_changed.emit()
            self.mark_changed.emit()

    @in_one_turn
    def name_cluster(self, cluster: int, title: str) -> None:
        """Give a cluster (from 1) of the cut a title, or none; can be undone."""
        self.tell_of_cluster("names", cluster, title)

    @in_one_turn
    def tell_of_cluster(self, key: str, cluster: int, words: str) -> None:
        """Say something of a cluster (from 1), or nothing any more. key : of [cut]; as a title."""
        plan = self.shelf.plan
        if self.grown is None or self.cut is None or plan is None:
            return
        title, why, whos = words.strip(), "", self.identities
        others = [who.title for who in whos[: cluster - 1] + whos[cluster:]]
        if self.out_of_date:
            why = "Grow the tree first: the plan has changed."
        elif self.grown_group is not None:
            why = "With a split, each group has its own clusters, which only have letters."
        elif key == "names" and title and title in others:
            why = f"Another cluster is already called “{title}”."
        if why:
            self.shelf.refused.emit(why)
            return
        told = retitled(self.grown.tree, getattr(plan.cut, key), self.cut, cluster, title)
        self.shelf.change("cut", **{key: told})

    def _carry_titles(self, old: Grown | None, told_of: dict[str, dict[int, str]]) -> None:
        """Clusters of the tree before that are there again, case by case, keep what was said."""
        plan = self.shelf.plan
        if old is None or self.grown is None or plan is None or self.grown_group is not None:
            return
        nodes = list(dict.fromkeys(node for told in told_of.values() for node in told))
        if not nodes or any(getattr(plan.cut, key) for key in TOLD_OF_CLUSTERS):
            return
        tree = self.grown.tree
        again = same_nodes(
            old.tree, old.prepared.numbers, tree, self.grown.prepared.numbers, nodes
        )  # fmt: skip
        changes: dict[str, dict[str, list[str]]] = {}
        for node, other in again.items():
            clusters = cut_at_count(tree, first_count(tree, other))
            at = clusters.roots.tolist().index(other) + 1
            for key, told in told_of.items():
                if node in told:
                    before = changes.get(key, {})
                    changes[key] = retitled(tree, before, clusters, at, told[node])
        if changes:
            self.shelf.amend_plan(plan.with_("cut", **changes))

    # the tree

    @property
    def out_of_date(self) -> bool:
        """Was the tree grown by another plan than the one in force?"""
        if self.grown is None or self.shelf.plan is None:
            return False
        return self.grown.key != self.shelf.plan.growth(self.shelf.group_in_force)

    @property
    def plan_of_tree(self) -> Plan | None:
        """The plan in force, where that grows the tree on the screen; else the one that grew it."""
        return self.grown_by if self.out_of_date else self.shelf.plan

    @in_one_turn
    def set_grown(
        self, plan: Plan, grown: Grown, arrangement: Arrangement, groups: GrownGroups | None = None
    ) -> None:
        """A new tree of the one in hand, laid out; the cut keeps its count as far as it can.

        plan : that grew it; groups : all trees of a split, of which this is the first looked at.
        """
        assert self.shelf.study is not None
        number, group = self.shelf.study.in_hand, None if groups is None else groups.first
        self.remember()
        before = {key[1]: tree for key, tree in self.shelf.kept.items() if key[0] == number}
        mine = self.grown_id == number and not self.shelf.study.entry.kept
        same = before.get(group)
        if mine and before and (same is None or not same.grows_as(plan)):
            self.displaced = tuple(before.values())
        if groups is None and same is not None and same.grows_as(plan):
            self._grown_again(number, plan, grown, same)
            return
        self.shelf.kept = {key: tree for key, tree in self.shelf.kept.items() if key[0] != number}
        self.too_small = {} if groups is None else groups.without
        first, self.came_with = self._count is None, None
        if same is not None and same.cut is not None and group is not None:
            self._count = same.cut.cut(same.tree).clusters
        titled = (self.grown, self.told_of) if mine else (None, {})
        self._show(grown, arrangement, TreeEntry(number, plan))
        self._carry_titles(*titled)
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
            self.shelf.kept[number, name] = tree.with_(cut=cut)
        self.shelf.touch()
        self._tell_tree()
        self._follow_plan()

    @in_one_turn
    def add_grown(self, number: int, plan: Plan, grown: Grown, groups: GrownGroups | None) -> bool:
        """Keep a tree grown for one that is not in hand any more; False if that is gone."""
        if self.shelf.study is None or not self.shelf.study.has(number):
            return False
        new = {None: KeptTree.of(plan, grown)} if groups is None else dict(groups.kept)
        self.shelf.kept = {key: tree for key, tree in self.shelf.kept.items() if key[0] != number}
        self.shelf.kept |= {(number, group): tree for group, tree in new.items()}
        self.shelf.touch()
        self.shelf.shelf_changed.emit()
        return True

    @in_one_turn
    def show_kept(
        self, grown: Grown, arrangement: Arrangement, number: int, kept: KeptTree
    ) -> None:
        """A tree that was grown before, as it was left; number : of its entry."""
        self._show(grown, arrangement, TreeEntry(number, kept.plan, kept.title, kept.note))
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
        self._follow_plan()

    def _grown_again(self, number: int, plan: Plan, grown: Grown, same: KeptTree) -> None:
        """The tree that was there already: it stays as it was left."""
        self.shelf.touch()
        folded = [node for node in same.looked.folded if node >= grown.tree.n]
        flipped = grown.flipped if same.looked.flipped is None else same.looked.flipped
        arrangement = laid_out(grown.tree, flipped, folded)
        self.show_kept(grown, arrangement, number, same.with_(plan=plan, tree=grown.tree))

    def _show(self, grown: Grown, arrangement: Arrangement, entry: TreeEntry) -> None:
        self.put_tree(grown, arrangement)
        self._grown_as, self._labelled_by = entry, labelled_by(entry.plan)
        self.tried.add(entry.plan.growth())
        self.shelf.group = grown.key.group
        self.saved_to, self.told_of = None, self._planned_titles

    def _tell_tree(self) -> None:
        self.tree_changed.emit()
        self.displaced_changed.emit()
        self.cut_changed.emit()
        self.mark_changed.emit()
        self.faithful_changed.emit()
        self.shelf.saved_changed.emit()
        self.shelf.shelf_changed.emit()

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

    # the memberships

    def memberships_saved(self, path: Path) -> None:
        """The clusters of this cut now stand in a file."""
        self.saved_to = path
        self.shelf.saved_changed.emit()
