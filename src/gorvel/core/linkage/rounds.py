"""Trees of thousands of cases by rounds of joins, where no nearest neighbours tie."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from gorvel.core.linkage.large import Clusters, join_all, mode_of
from gorvel.core.linkage.merges import SLACK, tree_of
from gorvel.core.progress import Progress, silent
from gorvel.core.tree import Tree

__all__ = ["FEW", "IN_ROUNDS", "grow_in_rounds"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

# rules under which no join brings others nearer, and the order of joins does not tell: not the
# flexible ones, whose proximities depend on which of two pairs was joined first
IN_ROUNDS = frozenset(("single", "complete", "average", "weighted-average"))
_STEP = 1 << 25  # cells passed between two reports
FEW = 2000  # clusters from which the rest is joined one by one, in the processor's cache
_SLOW = 0.04  # share of joins in a round below which rounds no longer pay


def grow_in_rounds(
    work: Floats,
    key: str,
    masses: Floats | None = None,
    progress: Progress = silent,
    few: int = FEW,
) -> Tree | None:
    """The tree of n cases; None where proximities tie. See `agglomerate.grow`.

    work : (n, n) proximities with infinity on the diagonal; is consumed; key : in `IN_ROUNDS`;
    few : clusters left to be joined one by one.

    References
    ----------
    Bruynooghe 1977, New methods in automatic classification of numerous taxonomic data.
    """
    from gorvel.core.kernels import rounds

    n = len(work)
    mode, equal, *_ = mode_of(key, 0.0)
    mass = np.ones(n) if masses is None or equal else np.array(masses, dtype=np.float64)
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    heights = np.zeros(n - 1)
    node, rows = np.arange(n), np.arange(n)
    near, how_far, tie = np.empty(n, dtype=np.int64), np.empty(n), np.zeros(n, dtype=bool)
    m, made = n, 0
    for begin, end in _pieces(n, n):
        progress("joins", 0.0)
        rounds.look_all(work, rows, begin, end, n, near, how_far, tie, SLACK)
    while m > few:
        if tie[:m].any():
            return None
        first_of, second_of, pairs = np.empty((3, m), dtype=np.int64)
        new_node, new_rows, new_near = np.empty((3, m), dtype=np.int64)
        new_mass, new_far = np.empty((2, m))
        to, count = rounds.pair_up(
            m, near, how_far, mass, node, rows, first_of, second_of, pairs, n, made, left, right,
            heights, new_mass, new_node, new_rows, new_near,
        )  # fmt: skip
        for begin, end in _pieces(to, m):
            progress("joins", 1 - (m / n) ** 2)
            rounds.play_round(
                work, m, rows, mass, equal, how_far, first_of, second_of, pairs, count, to, mode,
                new_near, new_far, tie, SLACK, begin, end,
            )  # fmt: skip
        made += count
        mass, node, rows, near, how_far = new_mass, new_node, new_rows, new_near, new_far
        slow, m = count < _SLOW * m, to
        if slow:
            break
    if tie[:m].any():
        return None
    flags = np.zeros((2, n - 1), dtype=bool)
    rest = Clusters(work, rows[:m].copy(), mass[:m].copy(), node[:m].copy())
    join_all(rest, key, made, left, right, heights, flags, progress)
    if flags.any():
        return None
    return tree_of(n, left, right, heights)


def _pieces(rows: int, cells: int) -> Iterator[tuple[int, int]]:
    """Rows in pieces between which progress is told; cells : of a row."""
    step = max(_STEP // cells, 1)
    for begin in range(0, rows, step):
        yield begin, min(begin + step, rows)
