"""One tree on the screen: where it is cut, what of it is marked, and what was found of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from gorvel.core.count.resampling.support import Support
from gorvel.core.grow.grown import Grown
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.tree.cluster_names import Identity, identities
from gorvel.core.tree.cophenetic import Faithful
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_at_height, cut_branches
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.turn import in_one_turn


class TreeFocus(QObject):
    """What the views of one tree share; computes nothing but cuts.

    Signals: tree_changed(), another tree or none; edited(clusters differ), the user moved the cut,
    or something of the tree that is kept with it came to be known, before the others tell what;
    labels_changed(), the same tree has other labels; the others after what they name.
    """

    edited = Signal(bool)
    tree_changed = Signal()
    cut_changed = Signal()
    mark_changed = Signal()
    support_changed = Signal()
    faithful_changed = Signal()
    stays_changed = Signal()
    titles_changed = Signal()
    labels_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.forget_tree()

    def forget_tree(self) -> None:
        """There is no tree; nobody is told yet."""
        self.grown: Grown | None = None
        self.cut: Cut | None = None
        self.cut_height: float | None = None  # where a line was put by hand
        self.selected: Mark | None = None
        self.hovered: Mark | None = None
        self.stays: NDArray[np.float64] | None = None  # how surely each case is with its cluster
        self.support: Support | None = None  # of the branches of this tree, where it was measured
        self.first_arrangement: Arrangement | None = None  # of the tree
        self.faithful: Faithful | None = None  # this tree, where that is known by now
        self.correlating = ""  # how far that is, in words, while it is worked out
        self.told_of: dict[str, dict[int, str]] = {}  # clusters, by key of [cut] and by node
        self._count: int | None = None
        self._lettered: Cut | None = None  # the cut whose clusters have letters of their own

    def put_tree(self, grown: Grown, arrangement: Arrangement) -> None:
        """Another tree is there, laid out; nobody is told yet."""
        self.grown, self.first_arrangement, self.correlating = grown, arrangement, ""
        self.selected = self.hovered = None

    @in_one_turn
    def put_labels(self, grown: Grown) -> None:
        """The same tree, whose cases are called otherwise."""
        self.grown = grown
        self.labels_changed.emit()
        self.mark_changed.emit()

    # what is found of it

    def set_faithful(self, faithful: Faithful | None, correlating: str = "") -> None:
        """How faithful the tree is; or how far that is known, in words."""
        self.faithful, self.correlating = faithful, correlating
        self.faithful_changed.emit()

    def set_support(self, support: Support) -> None:
        """How well supported the branches are."""
        self.support = support
        self.edited.emit(False)
        self.support_changed.emit()

    def set_stays(self, stays: NDArray[np.float64] | None) -> None:
        """In which share of other trees each case is with the others of its cluster of this cut."""
        if stays is not self.stays:
            self.stays = stays
            self.stays_changed.emit()

    # the cut

    @property
    def identities(self) -> list[Identity]:
        """Names and colours of the clusters, which stay when the count changes."""
        if self.grown is None or self.cut is None:
            return []
        return self.identities_of(self.cut)

    def identities_of(self, cut: Cut) -> list[Identity]:
        """Names and colours of the clusters of another cut of the tree."""
        if self.grown is None:
            return []
        lettered = self._lettered or cut
        return identities(self.grown.tree, lettered, cut, self.titles, self.told_of.get("colours"))

    @property
    def titles(self) -> dict[int, str]:
        """Given to clusters, by node."""
        return self.told_of.get("names", {})

    def told_of_cluster(self, key: str, cluster: int) -> str:
        """What the plan says of a cluster (from 1) of the cut. key : of [cut], such as "notes"."""
        if self.cut is None:
            return ""
        return self.told_of.get(key, {}).get(int(self.cut.roots[cluster - 1]), "")

    @property
    def lettered(self) -> Cut | None:
        """The cut whose clusters have letters of their own."""
        return self._lettered

    @in_one_turn
    def letter_anew(self) -> None:
        """Give the clusters of this cut letters of their own."""
        self._lettered = self.cut
        self.edited.emit(False)
        self.cut_changed.emit()
        self.mark_changed.emit()

    def _cut_at(self, clusters: int) -> None:
        assert self.grown is not None
        clusters = min(max(clusters, 1), self.grown.tree.n)
        self.cut = cut_at_count(self.grown.tree, clusters)
        self._lettered = self._lettered or self.cut
        self.cut_height = None

    @in_one_turn
    def set_count(self, clusters: int) -> None:
        """Cut into so many clusters."""
        if self.grown is None:
            return
        if self.cut is not None and clusters == self.cut.clusters and not self.cut.split:
            return
        self._cut_at(clusters)
        self._cut_moved()

    @in_one_turn
    def split_cluster(self, cluster: int) -> bool:
        """Cut this cluster (from 1) lower than the others, into its two parts; False for a case."""
        if self.grown is None or self.cut is None:
            return False
        join = int(self.cut.roots[cluster - 1]) - self.grown.tree.n
        if join < 0:
            return False
        self._cut_branches((*self.cut.split, join))
        return True

    @in_one_turn
    def cut_unevenly(self, level: int, split: tuple[int, ...]) -> None:
        """Cut into so many clusters, and the branches below some joins (from 0) lower."""
        if self.grown is not None and self.cut is not None:
            self._cut_at(level)
            self._cut_branches(split)

    @in_one_turn
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

    @in_one_turn
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
            for mark in (self.selected, self.hovered):
                if mark is not None and mark.kind == "cluster":
                    self.selected = self.hovered = None
        self.edited.emit(clusters_changed)
        self.cut_changed.emit()

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
