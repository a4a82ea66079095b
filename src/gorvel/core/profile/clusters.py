"""Each cluster of a cut in figures: its medoid, how wide it is, and which one is nearest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress, silent
from gorvel.core.count.indices.nested import Nested, nested_cuts
from gorvel.core.count.indices.pairsums import Distances, PairSums, pair_sums, silhouette_values
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cuts import cut_at_count

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST = 20_000  # cases up to which all pairs are passed over
_CELLS = 4e7  # of cases by clusters, likewise
_DRAW = 1e-12  # relative: values this close are equal, and the earlier case or cluster wins
_BLOCK = 1 << 22  # cells of a block


@dataclass(frozen=True)
class ClusterFigures:
    """One cluster.

    cluster : its number, from 1; size : cases; mass : sum of their weights; share : of the mass of
    all; medoid : place of the case (from 0) with the smallest mean proximity to the rest; within_ss
    : sum of squares of the scaled variables; diameter : the largest proximity inside;
    mean_silhouette; nearest_cluster, nearest_distance : smallest mean proximity to another. None
    where there is none.
    """

    cluster: int
    size: int
    mass: float
    share: float
    medoid: int | None
    within_ss: float | None
    diameter: float | None
    mean_silhouette: float | None
    nearest_cluster: int | None
    nearest_distance: float | None


@dataclass(frozen=True, eq=False)
class _Material:
    grown: Grown
    nested: Nested
    masses: Floats
    plain: PairSums | None  # of the proximities of the plan
    rooted: PairSums | None  # of the distances that silhouettes are made of


def cluster_figures(
    grown: Grown, counts: Sequence[int], progress: Progress = silent
) -> dict[int, list[ClusterFigures]]:
    """By count, clusters in the order of their numbers.

    Of very many cases or clusters only sizes, masses and sums of squares are known.

    counts : 1 to the number of cases; progress : told "pairs"; may stop the work by raising.
    """
    weights, n = grown.prepared.weights, grown.tree.n
    masses = np.ones(n) if weights is None else weights
    nested = nested_cuts(grown.tree, max(counts))
    rooted = plain = None
    if passes_over_pairs(n, max(counts)):
        distances = Distances(grown.pairs)
        rooted = pair_sums(nested, distances, progress)
        plain = rooted
        if distances.squared:
            plain = pair_sums(nested, Distances(grown.pairs, roots=False), progress)
    material = _Material(grown, nested, masses, plain, rooted)
    return {count: _of_count(material, count) for count in counts}


def passes_over_pairs(n: int, clusters: int) -> bool:
    """Are figures worked out that look at all pairs of cases?"""
    return n <= MOST and n * clusters <= _CELLS


def _of_count(material: _Material, count: int) -> list[ClusterFigures]:
    nested, masses = material.nested, material.masses
    membership = cut_at_count(material.grown.tree, count).membership
    sizes = nested.cluster_sizes(count)
    begins = np.append(0, np.cumsum(sizes))
    number = membership[nested.order[begins[:-1]]]  # of each cluster in leaf order
    mass = np.bincount(membership, masses, count + 1)
    within = _within(material, membership, count)
    silhouettes = _silhouettes(material, count, begins)
    nearest, apart = _nearest(material, count, begins, number)
    out = []
    for place in np.argsort(number).tolist():
        own = int(number[place])
        cases = nested.order[begins[place] : begins[place + 1]]
        out.append(
            ClusterFigures(
                own, len(cases), float(mass[own]), float(mass[own] / masses.sum()),
                _medoid(material, count, place, cases, begins), within[own - 1],
                _diameter(material, count, place), silhouettes[place],
                nearest[place], apart[place],
            )
        )  # fmt: skip
    return out


def _within(material: _Material, membership: Ints, count: int) -> list[float | None]:
    """Sum of squares about the weighted centroid of each cluster, by number."""
    prepared = material.grown.prepared
    answers = prepared.answers
    if not prepared.measurable_spread or answers is None:
        return [None] * count
    out: list[float | None] = []
    for number in range(1, count + 1):
        rows = np.flatnonzero(membership == number)
        x, w = answers.values[rows], material.masses[rows][:, None]
        off = x - x[0]  # about a case, so that equal ones have no spread
        off = off - (w * off).sum(axis=0) / w.sum()
        out.append(float((w * off**2 * answers.importance).sum()))
    return out


def _silhouettes(material: _Material, count: int, begins: Ints) -> list[float | None]:
    if material.rooted is None or count < 2:
        return [None] * count
    values = silhouette_values(material.rooted, count)[0]
    sums = np.add.reduceat(values, begins[:-1])
    return [float(v) for v in sums / np.diff(begins)]


def _nearest(
    material: _Material, count: int, begins: Ints, number: Ints
) -> tuple[list[int | None], list[float | None]]:
    """The other cluster with the smallest mean proximity, the smaller number on a draw."""
    if material.plain is None or count < 2:
        return [None] * count, [None] * count
    sums = np.add.reduceat(material.plain.to_clusters(count), begins[:-1], axis=0)
    sizes = np.diff(begins)
    means = sums / np.outer(sizes, sizes)
    np.fill_diagonal(means, np.inf)
    clusters: list[int | None] = []
    for row in means:
        close = row <= row.min() * (1 + _DRAW)
        clusters.append(int(number[close].min()))
    return clusters, [float(value) for value in means.min(axis=1)]


def _diameter(material: _Material, count: int, place: int) -> float | None:
    if material.plain is None:
        return None
    starts = np.append(material.nested.starts(count), material.nested.finest)
    inside = slice(starts[place], starts[place + 1])
    return float(material.plain.farthest[inside, inside].max())


def _medoid(material: _Material, count: int, place: int, cases: Ints, begins: Ints) -> int | None:
    """The earliest of the cases with the smallest mean proximity to the rest of the cluster."""
    if material.plain is None:
        return None
    if len(cases) == 1:
        return int(cases[0])
    if material.grown.prepared.weights is None:
        starts = np.append(material.nested.starts(count), material.nested.finest)
        rows = slice(begins[place], begins[place + 1])
        pieces = material.plain.to_pieces[rows, starts[place] : starts[place + 1]]
        means = pieces.sum(axis=1) / (len(cases) - 1)
    else:
        means = _weighted(material, cases)
    close = means <= means.min() * (1 + _DRAW)
    return int(cases[close].min())


def _weighted(material: _Material, cases: Ints) -> Floats:
    """(cases,) mean proximity to the rest of the cluster, each as often as its weight."""
    w = material.masses[cases]
    step, parts = max(1, _BLOCK // len(cases)), []
    for begin in range(0, len(cases), step):
        some = cases[begin : begin + step]
        parts.append(material.grown.pairs.block(some, cases) @ w)
    return np.asarray(np.concatenate(parts) / (w.sum() - w))
