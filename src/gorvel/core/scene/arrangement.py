"""The cases along the case axis: in which order, and which branches are folded into one mark."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import upward
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree.cuts import Cut
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
_REPORT_EVERY = 256  # joins


@dataclass(frozen=True, eq=False)
class Arrangement:
    """Where every node lies on the case axis.

    starts : (2n-1,) the position of each node's first leaf; order : (n,) the case at each position;
    edges : (n+1,) places between which the positions lie: 1 apart, closer where a branch is folded;
    flipped : (n-1,) joins whose right part comes first; folded : the topmost folded nodes.
    """

    tree: Tree
    starts: Ints
    order: Ints
    edges: Floats
    flipped: Flags
    folded: frozenset[int]

    @property
    def length(self) -> float:
        """The place where the axis ends."""
        return float(self.edges[-1])

    def span(self, node: int) -> tuple[float, float]:
        """The places between which a node lies."""
        start = int(self.starts[node])
        return float(self.edges[start]), float(self.edges[start + int(self.tree.sizes[node])])

    def position(self, place: float) -> int:
        """The position (from 0) at a place, the nearest one beyond the ends."""
        found = int(np.searchsorted(self.edges, place, side="right")) - 1
        return min(max(found, 0), self.tree.n - 1)

    def unit(self, position: int) -> int:
        """What is seen at a position: a case, or the folded branch that it lies in."""
        for node in self.folded:
            start = int(self.starts[node])
            if start <= position < start + int(self.tree.sizes[node]):
                return node
        return int(self.order[position])

    @cached_property
    def ends(self) -> tuple[Floats, Floats]:
        """Two (2n-1,): the places between which each node lies."""
        return self.edges[self.starts], self.edges[self.starts + self.tree.sizes]

    @cached_property
    def hidden(self) -> Flags:
        """(2n-1,) nodes that lie inside a folded branch."""
        out = np.zeros(2 * self.tree.n - 1, dtype=bool)
        for node in self.folded:
            start, end = self.starts[node], self.starts[node] + self.tree.sizes[node]
            inside = (self.starts >= start) & (self.starts < end)
            out |= inside & (self.tree.sizes < self.tree.sizes[node])
        return out

    @cached_property
    def places(self) -> Floats:
        """(2n-1,) where each node is drawn: a join midway between its two parts."""
        tree = self.tree
        middles = (self.edges[:-1] + self.edges[1:]) / 2
        given = np.full(2 * tree.n - 1, np.nan)
        for node in self.folded:
            given[node] = sum(self.span(node)) / 2
        own = middles[self.starts[: tree.n]]
        return np.asarray(upward.middles(tree.left, tree.right, own, given))

    @cached_property
    def apart_from(self) -> Ints:
        """(n-1,) the smallest cluster count with which neighbours in order are apart."""
        tree = self.tree
        second = np.where(self.flipped, tree.left, tree.right)
        out = np.empty(tree.joins, dtype=np.int64)
        out[self.starts[second] - 1] = tree.n - np.arange(tree.joins)
        return out


def arrange(tree: Tree, flipped: Flags | None = None, folded: Iterable[int] = ()) -> Arrangement:
    """Lay the cases out.

    flipped : (n-1,) joins whose right part comes first, none by default; folded : nodes shown as
    one mark; those inside others count for nothing. A folded branch of s cases is 1 + log2(s) / 2
    long.
    """
    flips = np.zeros(tree.joins, dtype=bool) if flipped is None else flipped
    first, second = np.where(flips, tree.right, tree.left), np.where(flips, tree.left, tree.right)
    starts, sizes = upward.starts(first, second, tree.sizes), tree.sizes
    order = np.empty(tree.n, dtype=np.int64)
    order[starts[: tree.n]] = np.arange(tree.n)
    steps, taken = np.ones(tree.n), np.zeros(tree.n, dtype=bool)
    topmost: set[int] = set()
    for node in sorted((node for node in folded if node >= tree.n), reverse=True):
        start, size = starts[node], sizes[node]
        if not taken[start]:  # a later join is never inside an earlier one
            taken[start : start + size] = True
            steps[start : start + size] = (1 + np.log2(size) / 2) / size
            topmost.add(node)
    edges = np.concatenate([[0.0], np.cumsum(steps)])
    return Arrangement(tree, starts, order, edges, flips, frozenset(topmost))


def laid_out(tree: Tree, flipped: Flags | None = None, folded: Iterable[int] = ()) -> Arrangement:
    """The first arrangement of a tree, see `arrange`; all that views ask of both is worked out."""
    out = arrange(tree, flipped, folded)
    tree.firsts, tree.used_at, tree.order, tree.inversions  # noqa: B018
    out.places, out.ends, out.apart_from  # noqa: B018
    return out


def in_file_order(at: Arrangement) -> Arrangement:
    """The cases as they stand in the file, along an axis as long as another.

    Only cases have places there: clusters do not stand together.
    """
    n = at.tree.n
    edges = np.linspace(0.0, at.length, n + 1)
    return Arrangement(
        at.tree, at.tree.firsts, np.arange(n), edges, np.zeros_like(at.flipped), frozenset()
    )


def by_mean(tree: Tree, values: Floats) -> Flags:
    """Flips that put the part with the smaller mean first; unknown means count as the largest.

    values : (n,) of the cases, NaN where not known.
    """
    known = ~np.isnan(values)
    sums = upward.masses(tree.left, tree.right, np.where(known, values, 0.0))
    counts = upward.masses(tree.left, tree.right, known.astype(np.float64))
    means = np.where(counts > 0, sums / np.maximum(counts, 1.0), np.inf)
    return np.asarray(means[tree.right] < means[tree.left])


def alike_side_by_side(tree: Tree, pairs: Proximities, progress: Progress = silent) -> Flags:
    """Flips that bring alike cases together where two parts meet.

    From the first join on, the two parts are turned so that the cases that become neighbours are
    the most alike of the four possible pairs. progress : told "order"; may stop by raising.

    References
    ----------
    Gruvaeus & Wainer 1972, Two additions to hierarchical cluster analysis.
    """
    n = tree.n
    ends = [(case, case) for case in range(n)]  # first and last case of each node
    turned = np.zeros(2 * n - 1, dtype=bool)  # beside how its parent stands
    for k, (left, right) in enumerate(zip(tree.left.tolist(), tree.right.tolist(), strict=True)):
        if k % _REPORT_EVERY == 0:
            progress(Phase.ORDER, k / tree.joins)
        one, other = ends[left], ends[right]
        apart = pairs.block(np.array(one), np.array(other))
        i, j = divmod(int(apart.argmin()), 2)  # the end of each part that meets the other
        turned[left], turned[right] = i == 0 and left >= n, j == 1 and right >= n
        ends.append((one[1 - i], other[1 - j]))
    stands = np.zeros(2 * n - 1, dtype=bool)
    for k in range(tree.joins - 1, -1, -1):
        for part in (tree.left[k], tree.right[k]):
            stands[part] = stands[n + k] ^ turned[part]
    return stands[n:]


def branches_of_cut(tree: Tree, cut: Cut) -> list[int]:
    """The clusters of a cut, as branches to fold."""
    return [int(root) for root in cut.roots if root >= tree.n]


def branches_up_to(tree: Tree, size: int) -> list[int]:
    """The largest branches that hold no more than so many cases."""
    nodes = np.arange(tree.n, 2 * tree.n - 1)
    above = tree.used_at[nodes]
    wide = np.where(above >= 0, tree.sizes[tree.n + np.maximum(above, 0)], tree.n + 1)
    chosen: list[int] = nodes[(tree.sizes[nodes] <= size) & (wide > size)].tolist()
    return chosen
