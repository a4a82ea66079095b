"""Groupings of cases at random: what any index comes to where nobody looked for clusters."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Making = Literal["centroids", "nearest", "farthest", "average"]
MAKINGS: tuple[Making, ...] = ("centroids", "nearest", "farthest", "average")


def random_groupings(
    far: Floats, count: int, making: Making, times: int, random: np.random.Generator
) -> Ints:
    """(times, n) clusters from 0, each around cases drawn at random.

    "centroids" gives each case to the nearest of the cases drawn; the others let these grow: one by
    one, the case joins that has the smallest "nearest", "farthest" or "average" distance to the
    members of a cluster. The earlier case and cluster win a draw.

    far : (n, n) distances; count : clusters, at most n.

    References
    ----------
    Hennig 2019, Cluster validation by measurement of clustering characteristics relevant to the
    user; Akhanli & Hennig 2020, Comparing clusterings and numbers of clusters by aggregation of
    calibrated clustering validity indexes.
    """
    n = len(far)
    seeds = np.stack([random.choice(n, count, replace=False) for _ in range(times)])
    if making == "centroids":
        out: Ints = far[seeds].argmin(axis=1).astype(np.int64)
        np.put_along_axis(out, seeds, np.broadcast_to(np.arange(count), seeds.shape), axis=1)
        return out
    each = np.arange(times)
    out = np.full((times, n), -1, dtype=np.int64)
    np.put_along_axis(out, seeds, np.broadcast_to(np.arange(count), seeds.shape), axis=1)
    to = far[seeds].transpose(0, 2, 1).copy()  # (times, n, count) of members so far
    sizes = np.ones((times, count))
    taken = out >= 0
    for _ in range(n - count):
        told = to / sizes[:, None] if making == "average" else to
        open_ = np.where(taken[:, :, None], np.inf, told)
        case, cluster = np.divmod(open_.reshape(times, -1).argmin(axis=1), count)
        out[each, case], taken[each, case] = cluster, True
        sizes[each, cluster] += 1
        column = to[each, :, cluster]
        if making == "nearest":
            to[each, :, cluster] = np.minimum(column, far[case])
        elif making == "farthest":
            to[each, :, cluster] = np.maximum(column, far[case])
        else:
            to[each, :, cluster] = column + far[case]
    return out
