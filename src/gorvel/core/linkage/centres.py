"""Trees of clusters that are centres, without a matrix of proximities.

Under Ward's rule, average and weighted average linkage on squared Euclidean distances, how far
apart two clusters are depends on their centres, masses and spreads alone. Where no nearest clusters
tie, all that are nearest to each other are joined at once; otherwise one by one, by the tie rule.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.merges import SLACK, tree_of
from gorvel.core.linkage.rules import LINKAGES, Linkage
from gorvel.core.proximity.answers import Answers
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_LEAF = 320  # clusters in the smallest box of the search tree, measured together
_REBUILT = 0.6  # share of clusters still alive at which the search tree is made anew
_SEARCHED = 1 << 24  # clusters that searches may have to look at between two reports
_JOINED = 1 << 22  # clusters times joins between two reports
_LOOKING = 0.1  # share of the time that the first search takes
_UNSURE = -5  # a stamp that nothing has
_OTHERS = 1 << 19  # bytes of all that does not grow with the cases


def centres_bytes(n: int, p: int) -> float:
    """Peak memory of n cases by p variables; see bench/memory.py."""
    return 8.0 * n * (4.5 * p + 16) + _OTHERS


class _Centres:
    """The clusters alive, in the order of a tree of boxes."""

    def __init__(self, points: Floats, masses: Floats, linkage: Linkage) -> None:
        from gorvel.core.kernels.centres import MEAN, WARD

        n = len(points)
        self.n, self.p = points.shape
        assert linkage.recurrence is not None
        self.kind = WARD if linkage.of_losses else MEAN
        self.equal = linkage.recurrence.equal
        self.centres, self.spreads = points.T.copy(), np.zeros(n)
        self.masses = np.ones(n) if self.equal else masses.copy()
        self.near, self.also = np.full((2, n), -1, dtype=np.int64)
        self.how_far, self.next_far = np.zeros(n), np.zeros(n)
        self.node, self.firsts = np.arange(n), np.arange(n)
        self.alive = np.arange(n)
        self.left, self.right = np.zeros((2, n - 1), dtype=np.int64)
        self.heights = np.zeros(n - 1)
        self._built = 0

    @property
    def light(self) -> Floats:
        """What distances are weighed by: masses, or spreads."""
        return self.spreads if self.kind else self.masses

    def arrange(self) -> None:
        """Boxes round what is alive; the tree is made anew when much of it has died."""
        from gorvel.core.kernels import boxes

        if not self._built or len(self.alive) < _REBUILT * self._built:
            self._rebuild()
        begins, ends, lows, highs, least, depth = self.boxes
        boxes.refit(self.centres, self.masses, self.light, begins, ends, lows, highs, least, depth)

    def _rebuild(self) -> None:
        from gorvel.core.kernels import boxes

        self._built = len(self.alive)
        depth = max(int(np.ceil(np.log2(max(self._built / _LEAF, 1)))), 0)
        nodes = (2 << depth) - 1
        begins, ends = np.zeros((2, nodes), dtype=np.int64)
        order = self.alive.copy()
        boxes.build(self.centres, order, begins, ends, depth)
        lows, highs = np.empty((2, nodes, self.p))
        self.boxes = (begins, ends, lows, highs, np.empty(nodes), depth)
        self.largest = int((ends - begins)[nodes // 2 :].max())
        where = np.full(len(self.masses), -1, dtype=np.int64)
        where[order] = np.arange(self._built)
        self.centres = self.centres[:, order].copy()
        self.masses, self.spreads = self.masses[order], self.spreads[order]
        self.how_far, self.next_far = self.how_far[order], self.next_far[order]
        self.node, self.firsts = self.node[order], self.firsts[order]
        self.alive = np.arange(self._built)
        self.moved(where, order)

    def moved(self, where: Ints, order: Ints) -> None:
        """Slots have new places. where : of each old slot, -1 for dead ones; order : old slots."""

    def look(self, some: Ints) -> None:
        """Look for the nearest of some."""
        from gorvel.core.kernels import centres

        centres.nearest(
            self.kind, some, self.near, self.also, self.how_far, self.next_far, self.centres,
            self.masses, self.light, self.firsts, self.boxes, TIE_TOLERANCE, SLACK, self.largest,
        )  # fmt: skip

    def pieces(self, some: Ints) -> list[Ints]:
        """Searches between which progress is told."""
        step = max(_SEARCHED // max(len(self.alive), 1), 64)
        return [some[begin : begin + step] for begin in range(0, len(some), step)]


class _Rounds(_Centres):
    """All that are nearest to each other are joined at once."""

    def __init__(self, points: Floats, masses: Floats, linkage: Linkage) -> None:
        super().__init__(points, masses, linkage)
        self.made = 0
        self.stale = self.succeeded = self.alive

    def moved(self, where: Ints, order: Ints) -> None:
        was_stale = np.zeros(len(where), dtype=bool)
        was_stale[self.stale] = True
        self.stale = np.flatnonzero(was_stale[order])
        self.near = np.where(self.near >= 0, where[np.maximum(self.near, 0)], -1)[order]
        self.also = np.full(len(order), -1, dtype=np.int64)
        self.succeeded = np.arange(len(order))

    def tree(self, progress: Progress) -> Tree | None:
        """The whole tree; None as soon as nearest clusters tie."""
        done = 0.0
        while self.made < self.n - 1:
            self.arrange()
            pieces = self.pieces(self.stale)
            for k, some in enumerate(pieces):  # a round joins about a fourth of what is left
                ahead = len(self.alive) / 4 * k / len(pieces)
                done = max(done, min((self.made + ahead) / (self.n - 1), 1.0))
                progress(Phase.JOINS, done)
                self.look(some)
                if not np.all(self.next_far[some] > self.how_far[some] * SLACK):
                    return None
            self._join()
        return tree_of(self.n, self.left, self.right, self.heights)

    def _join(self) -> None:
        """Join all that are nearest to each other, and note who has to look again."""
        from gorvel.core.kernels import centres

        self.made = centres.join_pairs(
            self.n, self.equal, self.alive, self.near, self.how_far, self.centres, self.masses,
            self.spreads, self.node, self.firsts, self.made, self.left, self.right, self.heights,
            self.succeeded,
        )  # fmt: skip
        self.alive = self.alive[self.masses[self.alive] > 0]
        at = self.near[self.alive]
        joined = at == -2
        known = np.maximum(at, 0)
        changed = joined | (self.succeeded[known] != at) | (self.near[known] == -2)
        self.stale = self.alive[changed]
        self.near[self.stale] = np.where(joined, -1, self.succeeded[known])[changed]


class _OneByOne(_Centres):
    """Joined in the order of the tie rule."""

    def __init__(self, points: Floats, masses: Floats, linkage: Linkage) -> None:
        super().__init__(points, masses, linkage)
        self.stamps, self.seen, self.also_seen, self.into, self.leaves = np.zeros(
            (5, self.n), dtype=np.int64
        )

    def arrange(self) -> None:
        super().arrange()
        from gorvel.core.kernels.centres_in_order import Slots, settle_all

        begins, depth = self.boxes[0], self.boxes[5]
        self.slots = Slots(
            self.centres, self.masses, self.spreads, self.light, self.firsts, self.node, self.near,
            self.also, self.how_far, self.stamps, self.seen, self.also_seen, self.into, self.leaves,
        )  # fmt: skip
        self.lows, self.chosen = np.empty(len(begins)), np.empty(len(begins), dtype=np.int64)
        self.room = (
            np.empty(self.p), np.empty(self.largest), np.empty(2 * depth + 4, dtype=np.int64),
            np.empty(2 * depth + 4), np.empty(2),
        )  # fmt: skip
        settle_all(self.slots, self.boxes, TIE_TOLERANCE, self.lows, self.chosen)

    def moved(self, where: Ints, order: Ints) -> None:
        from gorvel.core.kernels.boxes import leaves_of

        known = (self.near >= 0) & (self.stamps[self.near] == self.seen)
        twice = (self.also >= 0) & (self.stamps[self.also] == self.also_seen)
        near, also = where[np.maximum(self.near, 0)], where[np.maximum(self.also, 0)]
        unsure = (self.also >= 0) & ~twice
        self.near = np.where(known, near, -1)[order]
        self.also = np.where(twice, also, np.where(unsure, 0, -1))[order]
        self.also_seen = np.where(unsure, _UNSURE, 0)[order]
        self.stamps, self.seen, self.into, self.leaves = np.zeros((4, len(order)), dtype=np.int64)
        begins, ends, depth = self.boxes[0], self.boxes[1], self.boxes[5]
        leaves_of(begins, ends, depth, self.leaves)

    def tree(self, progress: Progress) -> Tree:
        """The whole tree."""
        from gorvel.core.kernels import centres_in_order

        n, made = self.n, 0
        flags = np.zeros((2, n - 1), dtype=bool)
        self.arrange()
        pieces = self.pieces(self.alive)
        for k, some in enumerate(pieces):
            progress(Phase.JOINS, _LOOKING * k / len(pieces))
            self.look(some)
        self.arrange()
        while made < n - 1:
            progress(Phase.JOINS, _LOOKING + (1 - _LOOKING) * made / n)
            until = min(made + max(_JOINED // len(self.alive), 64), n - 1)
            centres_in_order.join_in_order(
                self.kind, self.equal, n, made, until, self.slots, self.boxes, self.lows,
                self.chosen, TIE_TOLERANCE, SLACK, self.room, self.left, self.right, self.heights,
                *flags,
            )  # fmt: skip
            made = until
            self.alive = np.flatnonzero(self.masses > 0)
            self.arrange()
        return Tree(n, self.left, self.right, self.heights, flags[0], flags[1])


def centre_tree(answers: Answers, masses: Floats, key: str, progress: Progress = silent) -> Tree:
    """The tree of cases on squared Euclidean distances.

    Parameters
    ----------
    answers : n cases by p variables, n at least 2, complete; masses : (n,), of no account under
    weighted average linkage; key : "ward", where two cases join at 2 w u / (w + u) times their
    squared distance, "average" or "weighted-average", where they join at that distance.

    References
    ----------
    Ward 1963, Hierarchical grouping to optimize an objective function; Bruynooghe 1977, New methods
    in automatic classification of numerous taxonomic data; Murtagh 1983, A survey of recent
    advances in hierarchical clustering algorithms.
    """
    points = _nearer_zero(answers.values) * np.sqrt(answers.importance)
    linkage = LINKAGES[key]
    tree = _Rounds(points, masses, linkage).tree(progress)
    return tree if tree is not None else _OneByOne(points, masses, linkage).tree(progress)


def _nearer_zero(points: Floats) -> Floats:
    """Columns less their middle value, where that changes no difference by rounding."""
    middles = np.partition(points, len(points) // 2, axis=0)[len(points) // 2]
    moved = points - middles
    back = moved - points  # the rounding error of a difference (Knuth 1969)
    lost = (points - (moved - back)) + (-middles - back)
    return np.where((lost == 0).all(axis=0), moved, points)
