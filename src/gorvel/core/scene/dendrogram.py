"""Where the joins of a dendrogram lie, and which of them is under a point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cuts import Cut
from gorvel.core.scene.axis import HeightAxis
from gorvel.core.tree import Tree

__all__ = ["DendrogramScene", "cut_share", "hit", "join_owners", "lay_out"]

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class DendrogramScene:
    """A bracket for each join: two arms from the parts' heights to the join's own height.

    place : (2n-1,) of every node along the case axis; a case at position k lies at k + 0.5;
    share : (2n-1,) of every node along the height axis; cases at 0;
    first, second : (n-1,) the nodes joined (left and right of the tree).
    """

    tree: Tree
    axis: HeightAxis
    place: Floats
    share: Floats

    @property
    def first(self) -> NDArray[np.int64]:
        return self.tree.left

    @property
    def second(self) -> NDArray[np.int64]:
        return self.tree.right


def lay_out(tree: Tree, axis: HeightAxis) -> DendrogramScene:
    """Place every case and join: a join lies midway between its two parts."""
    place = np.empty(2 * tree.n - 1)
    place[: tree.n] = tree.starts[: tree.n] + 0.5
    for k in range(tree.joins):
        place[tree.n + k] = (place[tree.left[k]] + place[tree.right[k]]) / 2
    share = np.concatenate([np.zeros(tree.n), axis.share(tree.heights)])
    return DendrogramScene(tree, axis, place, share)


def hit(
    scene: DendrogramScene, share: float, place: float, near_share: float, near_place: float
) -> int | None:
    """The join (from 0) whose bracket is nearest to a point, if one is near enough.

    near_share, near_place : how far off a point may lie, along each axis.
    """
    tree = scene.tree
    if tree.joins == 0:
        return None
    own = scene.share[tree.n :]
    a, b = scene.place[tree.left], scene.place[tree.right]
    low, high = np.minimum(a, b), np.maximum(a, b)
    outside = np.maximum(np.maximum(low - place, place - high), 0.0)
    away = np.hypot((own - share) / near_share, outside / near_place)
    for part, at in ((tree.left, a), (tree.right, b)):
        start, end = np.minimum(scene.share[part], own), np.maximum(scene.share[part], own)
        beyond = np.maximum(np.maximum(start - share, share - end), 0.0)
        away = np.minimum(away, np.hypot(beyond / near_share, (at - place) / near_place))
    best = int(away.argmin())
    return best if away[best] <= 1.0 else None


def cut_share(scene: DendrogramScene, cut: Cut) -> float:
    """Where on the height axis a line for this cut runs: midway between the joins beside it."""
    tree, kept = scene.tree, cut.joins_kept
    share = scene.share[tree.n :]
    below = float(share[kept - 1]) if kept else 0.0
    above = float(share[kept]) if kept < tree.joins else 1.0
    return (below + above) / 2


def join_owners(tree: Tree, cut: Cut) -> NDArray[np.int64]:
    """(2n-1,) the cluster number (from 1) that each node lies in; 0 for nodes above the cut."""
    owner = np.zeros(2 * tree.n - 1, dtype=np.int64)
    owner[: tree.n] = cut.membership
    below = tree.firsts[tree.n : tree.n + cut.joins_kept]
    owner[tree.n : tree.n + cut.joins_kept] = cut.membership[below]
    return owner
