"""Joins one by one on condensed proximities, for thousands of cases and with ties of any kind."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.progress import Progress, silent
from gorvel.core.tree import TIE_TOLERANCE, Tree

__all__ = ["CONDENSED", "grow_condensed", "mode_of"]

Floats = NDArray[np.float64]

# rule: how it updates (smallest, largest, linear, Ward's), whether parts count alike
_MODES = {
    "single": (0, False), "complete": (1, False), "average": (2, False),
    "weighted-average": (2, True), "flexible": (2, True), "flexible-average": (2, False),
    "centroid": (2, False), "median": (2, True), "ward": (3, False),
}  # fmt: skip
CONDENSED = frozenset(_MODES)
_SHRINK = 0.25  # share of places that die before the gaps are closed
_STEP = 1 << 21  # places passed between two reports


def mode_of(key: str, beta: float) -> tuple[int, bool, float, float]:
    """How a rule updates, whether parts count alike, and by what a mean is scaled and shifted."""
    mode, equal = _MODES[key]
    flexible = key in ("flexible", "flexible-average")
    scale, shift = (1.0 - beta if flexible else 1.0), (beta if flexible else 0.0)
    return mode, equal, scale, -0.25 if key == "median" else shift


def grow_condensed(
    work: Floats,
    n: int,
    key: str,
    masses: Floats | None = None,
    roots: bool = False,
    progress: Progress = silent,
    beta: float = 0.0,
) -> Tree:
    """The tree of n cases; see `agglomerate.grow`, which gives the same one.

    work : (n (n - 1) / 2,) working proximities, the rows of the upper triangle; is consumed.
    """
    from gorvel.core.kernels import joins

    mode, equal, scale, shift = mode_of(key, beta)
    used = masses is not None and LINKAGES[key].masses
    mass = np.array(masses, dtype=np.float64) if used else np.ones(n)
    node, near, at = np.arange(n), np.empty(n), np.empty(n, dtype=np.int64)
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    heights = np.zeros(n - 1)
    tied, matters = np.zeros((2, n - 1), dtype=bool)
    joins.start(work, n, near, at)
    done, places = 0, n
    while done < n - 1:
        until = min(done + max(int(_SHRINK * places), 1), n - 1)
        while done < until:
            progress("joins", 1 - ((n - done) / n) ** 2)
            count = min(max(_STEP // places, 1), until - done)
            joins.join_some(
                work, places, count, done, mode, scale, shift, key == "centroid", equal,
                TIE_TOLERANCE, mass, node, near, at, left, right, heights, tied, matters, n,
            )  # fmt: skip
            done += count
        places = joins.compact(
            work, places, np.flatnonzero(mass[:places] > 0), mass, node, near, at
        )
    if roots:
        heights = np.sqrt(np.maximum(heights, 0.0))
    return Tree(n, left, right, heights, tied, matters)
