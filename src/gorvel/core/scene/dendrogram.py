"""Where the joins of a dendrogram lie, and which of them is under a point."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cuts import Cut
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.scene.axis import HeightAxis
from gorvel.core.tree import Tree

__all__ = ["DendrogramScene", "Drawn", "cut_share", "drawn", "hit", "join_owners", "lower_cuts"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


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
        return np.concatenate([np.zeros(self.tree.n), self.axis.joins])


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
    first, last = at.edges[at.starts], at.edges[at.starts + tree.sizes]
    seen = (last > begin) & (first < end) & ~at.hidden
    wide = last - first >= least
    folded = np.array(sorted(at.folded), dtype=np.int64)
    open_ = wide & seen
    open_[folded] = False
    joins = np.flatnonzero(open_[tree.n :])
    parts = np.concatenate([tree.left[joins], tree.right[joins]])
    thin = parts[(parts >= tree.n) & ~wide[parts]]
    return Drawn(joins, thin, folded[seen[folded]])


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


def join_owners(tree: Tree, cut: Cut) -> NDArray[np.int64]:
    """(2n-1,) the cluster number (from 1) that each node lies in; 0 for nodes above the cut."""
    owner = np.zeros(2 * tree.n - 1, dtype=np.int64)
    owner[: tree.n] = cut.membership
    owner[tree.n :] = np.where(cut.kept(tree), cut.membership[tree.firsts[tree.n :]], 0)
    return owner


def lower_cuts(scene: DendrogramScene, cut: Cut) -> list[tuple[int, float]]:
    """Nodes that are clusters because their branch is cut lower, and the share of that line."""
    tree, share = scene.tree, scene.share
    found = []
    for root in cut.roots.tolist():
        above = int(tree.used_at[root])
        if 0 <= above < cut.joins_kept:
            found.append((root, float(share[root] + share[tree.n + above]) / 2))
    return found
