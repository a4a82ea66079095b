"""Growing a tree from the top: the widest cluster is split, by cases that leave it one by one."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_REPORT_EVERY = 8  # splits


def split_apart(proximities: Floats, progress: Progress = silent) -> Tree:
    """Split the cases until each stands alone.

    The cluster with the largest proximity inside (its diameter) is split. The case with the largest
    mean proximity to the others leaves first; then, again and again, the one whose mean proximity
    to those that stay is above that to those that left by the most, while any is. Among equals
    (1e-12 of the diameter) the earliest case leaves, or the cluster of the earliest case is split,
    and the join is marked as tied. The last split is the first join; heights are diameters.

    Parameters
    ----------
    proximities : (n, n), symmetric, 0 on the diagonal; progress : told the share of splits done.

    References
    ----------
    Macnaughton-Smith, Williams, Dale & Mockett 1964, Dissimilarity analysis: a new technique of
    hierarchical sub-division; Kaufman & Rousseeuw 1990, Finding Groups in Data, chapter 6.
    """
    n = len(proximities)
    joins = max(n - 1, 0)
    left, right = np.zeros((2, joins), dtype=np.int64)
    heights, tied = np.zeros(joins), np.zeros(joins, dtype=bool)
    clusters, widths = [np.arange(n)], [_diameter(proximities)]
    above: list[tuple[int, bool] | None] = [None]  # of which join, as its left part?
    for join in range(joins - 1, -1, -1):
        if (joins - join) % _REPORT_EVERY == 1:
            progress(Phase.JOINS, (joins - 1 - join) / joins)
        at, drawn = _widest(clusters, widths)
        cluster, width = clusters.pop(at), widths.pop(at)
        part = proximities if len(cluster) == n else proximities[np.ix_(cluster, cluster)]
        leaves, drawn_inside = _leaving(part, width)
        _put(above.pop(at), n + join, left, right)
        heights[join], tied[join] = width, drawn or drawn_inside
        one, other = cluster[~leaves], cluster[leaves]
        if other[0] < one[0]:
            one, other, leaves = other, one, ~leaves
        for k, (cases, inside) in enumerate(((one, ~leaves), (other, leaves))):
            if len(cases) == 1:
                _put((join, k == 0), int(cases[0]), left, right)
                continue
            clusters.append(cases)
            widths.append(_diameter(part[np.ix_(inside, inside)]))
            above.append((join, k == 0))
    return Tree(n, left, right, heights, tied, tied.copy())


def _put(above: tuple[int, bool] | None, node: int, left: Ints, right: Ints) -> None:
    """Note what a part of a join is."""
    if above is not None:
        (left if above[1] else right)[above[0]] = node


def _diameter(part: Floats) -> float:
    return float(part.max(initial=0.0)) if len(part) > 1 else 0.0


def _widest(clusters: list[Ints], widths: list[float]) -> tuple[int, bool]:
    """The place of the cluster to split, and whether it was drawn among equals."""
    most = max(widths)
    near = [k for k, width in enumerate(widths) if width >= most - TIE_TOLERANCE * abs(most)]
    return min(near, key=lambda k: int(clusters[k][0])), len(near) > 1


def _leaving(part: Floats, width: float) -> tuple[NDArray[np.bool_], bool]:
    """(m,) cases that leave a cluster, and whether one was drawn among equals.

    part : (m, m), m at least 2; width : its diameter.
    """
    m, near = len(part), TIE_TOLERANCE * abs(width)
    inside = part.sum(axis=1)
    np.subtract(inside, part.diagonal(), out=inside)
    outside, leaves = np.zeros(m), np.zeros(m, dtype=bool)
    gain, drawn = inside / (m - 1), False
    while True:
        best = float(gain.max())
        close = np.flatnonzero(gain >= best - near)
        drawn = drawn or len(close) > 1
        case = int(close[0])
        leaves[case] = True
        inside -= part[:, case]
        outside += part[:, case]
        left = int(leaves.sum())
        if left == m - 1:
            return leaves, drawn
        gain = np.where(leaves, -np.inf, inside / (m - left - 1) - outside / left)
        if not gain.max() > near:
            return leaves, drawn
