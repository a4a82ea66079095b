"""Single linkage straight from the answers, without a matrix of proximities: its spanning tree."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.linkage.merges import tree_of
from gorvel.core.progress import Progress, silent
from gorvel.core.tree import TIE_TOLERANCE, Tree

__all__ = ["single_tree", "spanning_bytes"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_WIDER = 4.0  # than the tolerance for ties, as roots of lengths lie closer together
_STEP = 1 << 24  # distances between two reports


def spanning_bytes(n: int, p: int) -> float:
    """Peak memory of n cases by p variables."""
    return 8.0 * n * (10 * p + 40)


def single_tree(
    values: Floats, importance: Floats, kind: int, progress: Progress = silent
) -> Tree | None:
    """Single linkage; None where two edges of the spanning tree are equally long.

    Parameters
    ----------
    values : (n, p), n at least 2; importance : (p,); kind : 0 for squared, 1 for absolute
        differences, added up over the variables.

    References
    ----------
    Gower & Ross 1969, Minimum spanning trees and single linkage cluster analysis.
    """
    from gorvel.core.kernels import single

    n, p = values.shape
    columns = np.empty((p, n))
    columns[:, : n - 1], columns[:, n - 1] = values[1:].T, values[0]
    keys = np.full(n - 1, np.inf)
    parents, cases = np.zeros(n - 1, dtype=np.int64), np.arange(1, n)
    ends, starts = np.zeros((2, n - 1), dtype=np.int64)
    lengths = np.zeros(n - 1)
    state = np.array([n - 1, 0])
    taken, pairs = 0, n * (n - 1) / 2
    while taken < n - 1:
        count = min(max(_STEP // int(state[0]), 1), n - 1 - taken)
        progress("joins", 1 - int(state[0]) * (int(state[0]) + 1) / 2 / pairs)
        single.span(
            columns, importance, kind, keys, parents, cases, state, count, ends, starts, lengths
        )
        taken += count
    order = np.argsort(lengths, kind="stable")
    edges = lengths[order]
    if np.any(edges[1:] <= edges[:-1] * (1.0 + _WIDER * TIE_TOLERANCE)):
        return None
    left, right = _joined(n, ends[order].tolist(), starts[order].tolist())
    return tree_of(n, left, right, edges)


def _joined(n: int, ends: list[int], starts: list[int]) -> tuple[Ints, Ints]:
    """Edges from the shortest on, as joins of the clusters they connect."""
    parent = list(range(2 * n - 1))
    left, right = np.zeros((2, n - 1), dtype=np.int64)

    def root(node: int) -> int:
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for k, (a, b) in enumerate(zip(ends, starts, strict=True)):
        one, other = root(a), root(b)
        left[k], right[k] = one, other
        parent[one] = parent[other] = n + k
    return left, right
