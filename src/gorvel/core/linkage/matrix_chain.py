"""Joins one by one on a matrix, for thousands of cases and with ties of any kind."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_UPDATES = ("smaller", "larger", "mean", "ward")  # as kernels count them
_SHRINK = 0.2  # share of places that die before the gaps are closed
_BEHIND = 150  # clusters whose proximities are only in their own row
_STEP = 1 << 21  # places passed between two reports


def square_bytes(n: int) -> float:
    """Peak memory of growing on a matrix of n cases."""
    return 8.0 * n * (n + 400)


def mode_of(key: str, beta: float) -> tuple[int, bool, float, float]:
    """How a rule updates, whether parts count alike, and by what a mean is scaled and shifted."""
    recurrence = LINKAGES[key].recurrence
    assert recurrence is not None
    return _UPDATES.index(recurrence.by), recurrence.equal, *recurrence.scale_and_share(beta)


@dataclass(frozen=True, eq=False)
class Clusters:
    """Clusters to be joined.

    work : rows of proximities; rows : (m,) the row of each cluster; masses, node : (m,) of each,
    node the number of what it is in the tree.
    """

    work: Floats
    rows: Ints
    masses: Floats
    node: Ints


def grow_square(
    work: Floats,
    key: str,
    masses: Floats | None = None,
    roots: bool = False,
    progress: Progress = silent,
    beta: float = 0.0,
    alone: bool = False,
) -> Tree:
    """The tree of n cases; see `agglomerate.grow`, which gives the same one.

    work : (n, n) working proximities with infinity on the diagonal; is consumed; alone : on one
    thread, so that several trees may be grown side by side.
    """
    n = len(work)
    used = masses is not None and LINKAGES[key].masses
    mass = np.array(masses, dtype=np.float64) if used else np.ones(n)
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    heights, flags = np.zeros(n - 1), np.zeros((2, n - 1), dtype=bool)
    clusters = Clusters(work, np.arange(n), mass, np.arange(n))
    join_all(clusters, key, 0, left, right, heights, flags, progress, beta, alone)
    if roots:
        heights = np.sqrt(np.maximum(heights, 0.0))
    return Tree(n, left, right, heights, flags[0], flags[1])


def join_all(
    clusters: Clusters,
    key: str,
    done: int,
    left: Ints,
    right: Ints,
    heights: Floats,
    flags: NDArray[np.bool_],
    progress: Progress = silent,
    beta: float = 0.0,
    alone: bool = False,
) -> None:
    """Join clusters until one is left, in the order of the tie rule.

    done : joins made before; left, right, heights : (n-1,) results; flags : (2, n-1) tied, matters.
    """
    from gorvel.core.kernels import joins

    mode, equal, scale, shift = mode_of(key, beta)
    recurrence = LINKAGES[key].recurrence
    centre = recurrence is not None and recurrence.centre
    work, rows, mass, node = clusters.work, clusters.rows, clusters.masses, clusters.node
    places, n = len(rows), len(left) + 1
    near, at = np.empty(places), np.empty(places, dtype=np.int32)
    stamps, made = np.zeros(places, dtype=np.int64), np.zeros(places, dtype=np.int64)
    made_count = 0
    look_all, bring_up, close_up = joins.look_all, joins.bring_up, joins.close_up
    if alone:
        look_all, bring_up, close_up = (
            joins.look_all_alone, joins.bring_up_alone, joins.close_up_alone,
        )  # fmt: skip
    look_all(work, rows, places, stamps, near, at, TIE_TOLERANCE)
    while done < n - 1:
        until = min(done + max(int(_SHRINK * places), 1), n - 1)
        while done < until:
            progress(Phase.JOINS, 1 - ((n - done) / n) ** 2)
            count = min(max(_STEP // places, 1), until - done)
            made_count = joins.join_some(
                work, rows, places, count, done, n, mode, scale, shift, centre, equal,
                TIE_TOLERANCE, mass, stamps, node, near, at, made, made_count, left, right,
                heights, flags[0], flags[1],
            )  # fmt: skip
            done += count
            if made_count > _BEHIND and done < until:
                alive = np.flatnonzero(stamps[:places] < joins.GONE)
                bring_up(work, rows, alive, stamps, made, made_count)
                made_count = 0
        alive = np.flatnonzero(stamps[:places] < joins.GONE)
        bring_up(work, rows, alive, stamps, made, made_count)
        close_up(work, rows, alive, mass, stamps, node, near, at)
        places, made_count = len(alive), 0
