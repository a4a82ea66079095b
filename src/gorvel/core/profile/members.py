"""The members of one cluster: who is most typical, who could stand elsewhere, what is nearest."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cuts import Cut

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_BLOCK = 1 << 22  # cells of a block
_DRAW = 1e-12  # relative: means this close are equal


@dataclass(frozen=True, eq=False)
class Members:
    """One cluster.

    typical : its cases (from 0), those with the smallest mean proximity to the rest first; mean,
    diameter : of the proximities inside, None and 0 for one case; silhouette : mean, None for one
    cluster; border : case, the cluster (from 1) it leans to and its silhouette, the lowest first;
    nearest : other clusters (from 1) with their mean proximities, the smallest first.
    """

    typical: Ints
    mean: float | None
    diameter: float
    silhouette: float | None
    border: list[tuple[int, int, float]]
    nearest: list[tuple[int, float]]


def members_of(grown: Grown, cut: Cut, cluster: int, progress: Progress = silent) -> Members:
    """Of a cut, also of one with branches cut lower. cluster : from 1.

    Silhouettes are those of Rousseeuw 1987, on the distances of the rules. progress : told "pairs";
    may stop the work by raising.
    """
    rows = np.flatnonzero(cut.membership == cluster)
    everyone = np.arange(grown.tree.n)
    own, others = cut.membership - 1, [k for k in range(cut.clusters) if k != cluster - 1]
    sizes = np.bincount(own, minlength=cut.clusters)
    plain = np.zeros((len(rows), cut.clusters))  # sums of proximities to each cluster
    rooted, diameter = np.zeros_like(plain), 0.0
    distances = Distances(grown.pairs)
    by_cluster = np.argsort(own, kind="stable")
    begins = np.append(0, np.cumsum(sizes)[:-1])
    step = max(1, _BLOCK // len(everyone))
    for begin in range(0, len(rows), step):
        progress(Phase.PAIRS, begin / len(rows))
        some = rows[begin : begin + step]
        block = grown.pairs.block(some, everyone)
        diameter = max(diameter, float(block[:, own == cluster - 1].max()))
        plain[begin : begin + step] = np.add.reduceat(block[:, by_cluster], begins, axis=1)
        if distances.squared:
            block = np.sqrt(block)
        rooted[begin : begin + step] = np.add.reduceat(block[:, by_cluster], begins, axis=1)
    inside = plain[:, cluster - 1] / max(len(rows) - 1, 1)
    least = float(inside.min())
    level = inside <= least * (1 + _DRAW)  # of these the earliest is the medoid
    typical = rows[np.argsort(np.where(level, least, inside), kind="stable")]
    mean = float(inside.mean()) if len(rows) > 1 else None
    if not others:
        return Members(typical, mean, diameter, None, [], [])
    means = rooted[:, others] / sizes[others]
    place = means.argmin(axis=1)
    b = means[np.arange(len(rows)), place]
    a = rooted[:, cluster - 1] / max(len(rows) - 1, 1)
    larger = np.maximum(a, b)
    values = np.where(larger > 0, (b - a) / np.where(larger > 0, larger, 1.0), 0.0)
    if len(rows) == 1:
        values[:] = 0.0
    lowest = np.argsort(values, kind="stable")
    border = [(int(rows[i]), others[place[i]] + 1, float(values[i])) for i in lowest.tolist()]
    far = plain[:, others].sum(axis=0) / (len(rows) * sizes[others])
    pairs = zip((k + 1 for k in others), far.tolist(), strict=True)
    nearest = sorted(pairs, key=lambda pair: pair[1])
    return Members(typical, mean, diameter, float(values.mean()), border, nearest)
