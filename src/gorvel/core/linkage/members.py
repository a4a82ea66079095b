"""Joins one by one under rules that look at the members of clusters, by compiled loops."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

_STEP = 1 << 21  # places passed between two reports

Floats = NDArray[np.float64]


def grow_by_members(
    work: Floats, key: str, masses: Floats | None = None, progress: Progress = silent
) -> Tree:
    """The tree of n cases; see `agglomerate.grow`, which gives the same one.

    work : (n, n) working proximities with infinity on the diagonal; is consumed.
    """
    from gorvel.core.kernels import members

    n = len(work)
    used = masses is not None and LINKAGES[key].masses
    mass = np.array(masses, dtype=np.float64) if used else np.ones(n)
    rule = members.MINIMAX if LINKAGES[key].members == "minimax" else members.WITHIN
    sums = np.where(np.isfinite(work), work, 0.0)
    if rule == members.WITHIN:
        sums *= mass[:, None]
        sums *= mass
    node, owner = np.arange(n), np.arange(n)
    near, at = np.full(n, np.inf), np.zeros(n, dtype=np.int64)
    inside, pairs = np.zeros((2, n))
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    heights, flags = np.zeros(n - 1), np.zeros((2, n - 1), dtype=bool)
    members.look_at_later(work, near, at)
    step = max(_STEP // n, 1)
    for begin in range(0, n - 1, step):
        progress(Phase.JOINS, begin / (n - 1))
        members.join_members(
            rule, work, begin, min(begin + step, n - 1), TIE_TOLERANCE, mass, node, near, at, sums,
            inside, pairs, owner, left, right, heights, flags[0], flags[1],
        )  # fmt: skip
    return Tree(n, left, right, heights, flags[0], flags[1])
