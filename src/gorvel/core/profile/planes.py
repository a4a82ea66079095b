"""Cases in a plane: on a map, along two components, by two questions; with their clusters."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.profile.components import Components
from gorvel.core.profile.map import CaseMap
from gorvel.core.profile.raw_answers import Question
from gorvel.core.scene.points import Points, apart, splits_next
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_branches
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

ARROWS = 12  # variables drawn, those with the longest arrows
_REACH = 0.92  # of the places: how far the longest arrow goes
_LOOSE = 0.5  # of the other trees: a case that stays less often with its cluster


@dataclass(frozen=True, eq=False)
class Clusters:
    """The clusters of the cases of a plane.

    own : (n,) from 0; names : by number; parts, shown_parts : (n,) clusters of the next count, and
    which of them are parts of one, with their names; loose : (n,) cases that stay with their
    cluster in fewer than half of the other trees, None where that is not known.
    """

    own: Ints
    names: Sequence[Identity]
    parts: Ints | None = None
    shown_parts: Sequence[tuple[int, str]] = ()
    loose: NDArray[np.bool_] | None = None

    @classmethod
    def of(
        cls, tree: Tree, cut: Cut, named: Callable[[Cut], Sequence[Identity]],
        stays: Floats | None = None, finer: bool = False,
    ) -> Clusters:  # fmt: skip
        """Of a cut.

        named : the clusters of a cut; stays : (n,) share of the other trees in which each case is
        with its cluster; finer : with what one more cluster would split.
        """
        own = cut.membership - 1
        loose = None if stays is None or len(stays) != len(own) else stays < _LOOSE
        if not finer or cut.clusters >= tree.n:
            return cls(own, named(cut), loose=loose)
        next_ = cut_at_count(tree, cut.level + 1)
        if cut.split:
            below = tree.n - next_.clusters
            next_ = cut_branches(tree, next_.clusters, [j for j in cut.split if j < below])
        parts, called = next_.membership - 1, named(next_)
        shown = [(part, called[part].name) for part, _ in splits_next(own, parts)]
        return cls(own, named(cut), parts, shown, loose)

    def points(
        self, places: Floats, across: str = "", along: str = "", square: bool = True,
        arrows: Sequence[tuple[str, float, float]] = (),
    ) -> Points:  # fmt: skip
        """At (n, 2) places; see `Points`."""
        return Points(
            places, self.own, self.names, across, along, square, arrows, self.parts,
            self.shown_parts, loose=self.loose,
        )  # fmt: skip


def map_points(found: CaseMap, least: bool, clusters: Clusters) -> Points:
    """The map. least : with the smallest stress, or else by classical scaling."""
    return clusters.points(found.least if least else found.classical)


def components_points(found: Components, one: int, other: int, clusters: Clusters) -> Points:
    """Cases along two components (from 0), and the variables with the longest arrows.

    References
    ----------
    Gabriel 1971, The biplot graphic display of matrices.
    """
    places, loadings = found.places[:, [one, other]], found.loadings[:, [one, other]]
    length = np.hypot(loadings[:, 0], loadings[:, 1])
    room = np.where(loadings > 0, places.max(axis=0), -places.min(axis=0))
    with np.errstate(divide="ignore", invalid="ignore"):
        reach = np.where(loadings != 0, room / np.abs(loadings), np.inf)
    scale = _REACH * float(reach[length > 0.3 * length.max(initial=0.0)].min(initial=np.inf))
    scale = scale if np.isfinite(scale) else 1.0
    chosen = np.argsort(-length, kind="stable")[:ARROWS]
    arrows = [(found.names[j], *(scale * loadings[j]).tolist()) for j in chosen.tolist()]
    across, along = (f"component {k + 1}, {found.explained[k]:.0%}" for k in (one, other))
    return clusters.points(places, across, along, arrows=arrows)


def answers_points(across: Question, along: Question, clusters: Clusters) -> Points:
    """Cases by their answers to two questions; equal answers are set apart a little."""
    places = np.column_stack([apart(across.values), apart(along.values, second=True)])
    return clusters.points(places, across.name, along.name, square=False)


def grid_points(questions: Sequence[Question], clusters: Clusters) -> dict[tuple[str, str], Points]:
    """Of all pairs, by the names across and along."""
    return {
        (across.name, along.name): answers_points(across, along, clusters)
        for row, along in enumerate(questions)
        for across in questions[:row]
    }
