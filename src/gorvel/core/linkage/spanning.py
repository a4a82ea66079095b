"""Single linkage straight from the answers, without a matrix of proximities: its spanning tree."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.limits import free_memory
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import upward
from gorvel.core.linkage.merges import tree_of
from gorvel.core.linkage.tied_levels import levels_joined
from gorvel.core.proximity.answers import Answers
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_WIDER = 4.0  # than the tolerance for ties, as roots of lengths lie closer together
_STEP = 1 << 24  # distances between two reports
_ROOM = 64  # pairs of one height of a case that are expected
_MOST_NEAR = 100  # pairs of one height, for each case, that are kept
_PAIR, _TIED = 48, 300  # bytes of such a pair, and of a case with its edge where there are some
_OTHERS = 1 << 19  # bytes of all that does not grow with the cases


def spanning_bytes(n: int, p: int) -> float:
    """Peak memory of n cases by p variables, none of them equally far apart; see bench/memory.py.

    Pairs at one height are only kept as far as there is memory: see `single_tree`.
    """
    return 8.0 * n * (3.6 * p + 2) + _OTHERS


def single_tree(
    answers: Answers, kind: int, rooted: bool, progress: Progress = silent
) -> Tree | None:
    """Single linkage; None where too many pairs are equally far apart to be kept.

    Parameters
    ----------
    answers : n cases by p variables, n at least 2, complete; kind : squared or absolute
        differences, added up over the variables; rooted : heights are the roots of the sums.

    References
    ----------
    Gower & Ross 1969, Minimum spanning trees and single linkage cluster analysis.
    """
    ends, starts, lengths = _spanning(answers, kind, progress)
    n = len(lengths) + 1
    tolerance = 2.0 * TIE_TOLERANCE if rooted else TIE_TOLERANCE
    if np.any(lengths[1:] <= lengths[:-1] * (1.0 + _WIDER * TIE_TOLERANCE)):
        tree = _with_ties(answers, kind, ends, starts, lengths, tolerance, progress)
    else:
        left, right = upward.spanned(ends, starts)
        tree = tree_of(n, left, right, lengths)
    if tree is None or not rooted:
        return tree
    return Tree(n, tree.left, tree.right, np.sqrt(tree.heights), tree.tied, tree.tie_matters)


def _spanning(answers: Answers, kind: int, progress: Progress) -> tuple[Ints, Ints, Floats]:
    """The edges of a minimum spanning tree, rising: two cases, and how far they are apart."""
    from gorvel.core.kernels import single

    n, p = answers.values.shape
    columns = np.empty((p, n))
    columns[:, : n - 1], columns[:, n - 1] = answers.values[1:].T, answers.values[0]
    short, scale = _short(columns, answers.importance, kind)
    parents, cases = np.zeros(n - 1, dtype=np.int64), np.arange(1, n)
    limits = np.full(n - 1, np.inf, dtype=np.float32)
    outside = (columns, answers.importance, scale, np.full(n - 1, np.inf), parents, limits)
    lows = np.full(-(-(n - 1) // single.PART), np.inf)
    ends, starts = np.zeros((2, n - 1), dtype=np.int64)
    lengths = np.zeros(n - 1)
    state = np.array([n - 1, 0])
    taken, pairs = 0, n * (n - 1) / 2
    while taken < n - 1:
        count = min(max(_STEP // int(state[0]), 1), n - 1 - taken)
        progress(Phase.JOINS, 1 - int(state[0]) * (int(state[0]) + 1) / 2 / pairs)
        single.span(outside, short, kind, cases, lows, state, count, ends, starts, lengths)
        taken += count
    order = np.argsort(lengths, kind="stable")
    return ends[order], starts[order], lengths[order]


def _short(columns: Floats, importance: Floats, kind: int) -> tuple[NDArray[np.float32], float]:
    """Columns weighed, about their middles, in short numbers of at most 1.

    What they, or of absolute differences these, were divided by.
    """
    weighed = columns - (columns.min(axis=1) + columns.max(axis=1))[:, None] / 2
    weighed *= (importance if kind else np.sqrt(importance))[:, None]
    scale = float(np.abs(weighed).max()) or 1.0
    return (weighed / scale).astype(np.float32), scale


class _TooManyError(Exception):
    """More pairs at one height than are worth keeping."""


def _with_ties(
    answers: Answers, kind: int, ends: Ints, starts: Ints, lengths: Floats, tolerance: float,
    progress: Progress,
) -> Tree | None:  # fmt: skip
    """The tree of a spanning tree with edges that are equally long."""
    from gorvel.core.kernels.single import near_pairs

    n, columns = len(lengths) + 1, np.ascontiguousarray(answers.values.T)
    step, free = max(_STEP // n, 1), free_memory() - _TIED * n
    most = min(_MOST_NEAR * n, free / _PAIR)

    def near(asking: Ints, cluster: Ints, bound: float) -> tuple[Ints, Ints, Floats]:
        found, total, room = [], 0, _ROOM
        begin = 0
        while begin < len(asking):
            progress(Phase.TIES, begin / len(asking))
            some = asking[begin : begin + max(step * _ROOM // room, 1)]
            others, apart = np.empty((len(some), room), dtype=np.int64), np.empty((len(some), room))
            counts = near_pairs(
                columns, answers.importance, kind, some, cluster, bound, others, apart
            )
            if total + int(counts.sum()) > most:
                raise _TooManyError
            if counts.max() > room:
                room = 2 * int(counts.max())
                continue
            begin += len(some)
            total += int(counts.sum())
            there = np.arange(room) < counts[:, None]
            found.append((np.repeat(some, counts), others[there], apart[there]))
        ones, others, apart = (np.concatenate(part) for part in zip(*found, strict=True))
        return ones, others, apart

    edges = list(zip(ends.tolist(), starts.tolist(), lengths.tolist(), strict=True))
    try:
        return levels_joined(n, edges, tolerance, near, progress)
    except _TooManyError:
        return None
