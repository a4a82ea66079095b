"""Where the joins of a dendrogram lie, and which of them is under a point."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.scene.axis import HeightAxis
from gorvel.core.scene.heights import CountSpans, count_spans, reached
from gorvel.core.tree.cuts import Cut
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
_HAIR = 1e-4  # of an axis: less than can be seen

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class DendrogramScene:
    """A bracket for each join: two arms from the parts' heights to the join's own height."""

    arrangement: Arrangement
    axis: HeightAxis

    @property
    def tree(self) -> Tree:
        return self.arrangement.tree

    @property
    def place(self) -> Floats:
        """(2n-1,) of every node along the case axis."""
        return self.arrangement.places

    @cached_property
    def share(self) -> Floats:
        """(2n-1,) of every node along the height axis; cases at 0."""
        out = np.zeros(2 * self.tree.n - 1)
        out[self.tree.n :] = self.axis.joins
        return out

    @cached_property
    def wide_spans(self) -> tuple[Ints, Floats, Floats]:
        """The counts that hold over more than a hair of the height axis, from 1 up.

        Also the shares at which each begins, and those at which it ends.
        """
        axis, n = self.axis, self.tree.n
        heights, shares = reached(self.tree.heights), reached(axis.joins)
        between = np.flatnonzero(np.diff(shares) >= _HAIR)[::-1] + 1
        ends = np.unique(np.concatenate([[0, n - 1], between]))[::-1]  # joins above the spans
        low, high = _taken(heights, ends - 1, 0.0), _taken(heights, ends, axis.top)
        begin = _taken(shares, ends - 1, float(axis.share(0.0)))
        end = _taken(shares, ends, float(axis.share(axis.top)))
        real = (high > low) & (end - begin >= _HAIR)
        return (n - ends)[real], begin[real], end[real]

    @cached_property
    def strokes(self) -> Floats:
        """The shares at which joins lie, those of less than a hair's distance as one; rising."""
        hairs = np.bincount(np.rint(self.axis.joins / _HAIR).astype(np.int64))
        return np.asarray(np.flatnonzero(hairs) * _HAIR)

    @cached_property
    def spans(self) -> CountSpans:
        """Over which heights each cluster count holds."""
        return count_spans(self.tree, self.axis.top)


def _taken(values: Floats, at: Ints, beyond: float) -> Floats:
    """Values at some places; another number before the first and after the last."""
    out = np.full(len(at), beyond)
    inside = (at >= 0) & (at < len(values))
    out[inside] = values[at[inside]]
    return out


class Drawn(NamedTuple):
    """What a dendrogram shows: joins as brackets, and nodes too thin or folded.

    joins : from 0; thin : nodes drawn as one line down to the cases; folded : nodes drawn as a
    wedge.
    """

    joins: Ints
    thin: Ints
    folded: Ints


def drawn(scene: DendrogramScene, begin: float, end: float, least: float) -> Drawn:
    """What is to be drawn of the cases between two places.

    least : branches narrower than this, in places, are one line.
    """
    at, tree = scene.arrangement, scene.tree
    first, last = at.ends

    def seen(nodes: Ints) -> Ints:
        there = (last[nodes] > begin) & (first[nodes] < end)
        return nodes[there & ~at.hidden[nodes]] if at.folded else nodes[there]

    def wide(nodes: Ints | slice) -> Flags:
        return np.asarray(last[nodes] - first[nodes] >= least)

    folded = np.array(sorted(at.folded), dtype=np.int64)
    nodes = seen(tree.n + np.flatnonzero(wide(slice(tree.n, None))))
    joins = (nodes if not at.folded else np.setdiff1d(nodes, folded)) - tree.n
    parts = np.concatenate([tree.left[joins], tree.right[joins]])
    parts = parts[parts >= tree.n]
    return Drawn(joins, parts[~wide(parts)], seen(folded))


def hit(
    scene: DendrogramScene, share: float, place: float, near_share: float, near_place: float
) -> int | None:
    """The join (from 0) whose bracket is nearest to a point, if one is near enough.

    near_share, near_place : how far off a point may lie, along each axis.
    """
    tree = scene.tree
    if tree.joins == 0:
        return None
    shares, places = scene.share, scene.place
    own = shares[tree.n :]
    a, b = places[tree.left], places[tree.right]
    low, high = np.minimum(a, b), np.maximum(a, b)
    outside = np.maximum(np.maximum(low - place, place - high), 0.0)
    away = np.hypot((own - share) / near_share, outside / near_place)
    for part, at in ((tree.left, a), (tree.right, b)):
        start, end = np.minimum(shares[part], own), np.maximum(shares[part], own)
        beyond = np.maximum(np.maximum(start - share, share - end), 0.0)
        away = np.minimum(away, np.hypot(beyond / near_share, (at - place) / near_place))
    away[scene.arrangement.hidden[tree.n :]] = np.inf
    best = int(away.argmin())
    return best if away[best] <= 1.0 else None


def cut_share(scene: DendrogramScene, cut: Cut) -> float:
    """Where on the height axis a line for this cut runs: midway between the joins beside it."""
    tree, kept = scene.tree, cut.joins_kept
    share = scene.axis.joins
    below = float(share[kept - 1]) if kept else 0.0
    above = float(share[kept]) if kept < tree.joins else 1.0
    return (below + above) / 2


def owners(tree: Tree, cut: Cut, nodes: Ints) -> Ints:
    """The cluster number (from 1) that each of some nodes lies in; 0 for nodes above the cut."""
    cluster = cut.membership[tree.firsts[nodes]]
    inside = tree.sizes[nodes] <= tree.sizes[cut.roots[cluster - 1]]
    return np.asarray(np.where(inside, cluster, 0))


def lower_cuts(scene: DendrogramScene, cut: Cut) -> list[tuple[int, float]]:
    """Nodes that are clusters because their branch is cut lower, and the share of that line."""
    tree, share = scene.tree, scene.share
    found = []
    for root in cut.roots.tolist():
        above = int(tree.used_at[root])
        if 0 <= above < cut.joins_kept:
            found.append((root, float(share[root] + share[tree.n + above]) / 2))
    return found
