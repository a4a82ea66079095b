"""How faithful a tree is to its proximities, which are measured again where they were not kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import ONE_AT_A_TIME, upward
from gorvel.core.kernels.loading import MANY
from gorvel.core.kernels.recipe import Recipe
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities, plain_kind
from gorvel.core.tree.tree import Tree, correlation_of_sums

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_STEP = 1 << 24  # pairs between two reports
_BLOCK = 1 << 20  # cells of a block
_ALONG = 1 << 20  # answers passed along the joins between two reports
_SAMPLE = 400  # cases from which a middle proximity is taken
_ALIKE = 1e-5  # share of squares that must be spread about the mean, or too many figures are lost


@dataclass(frozen=True)
class Faithful:
    """How faithful a tree was found to be.

    correlation : cophenetic, None where it is not defined.
    """

    correlation: float | None


def cophenetic_correlation(
    tree: Tree, pairs: Proximities, progress: Progress = silent
) -> float | None:
    """Pearson correlation, over all pairs of cases, of proximity and height of meeting.

    Squared Euclidean distances are summed in closed form; others in one pass over all pairs of
    different cases. The same on any number of threads, whether or not a matrix was kept.

    Parameters
    ----------
    progress : told "correlation" and the share passed; may stop the work by raising.

    Returns
    -------
    None when there are no pairs, or when either side is constant.

    References
    ----------
    Sokal & Rohlf 1962, The comparison of dendrograms by objective methods.
    """
    if tree.joins < 1:
        return None
    answers = pairs.answers
    if answers is not None and plain_kind(answers, pairs.key) == (0, False):
        told = _in_closed_form(tree, answers, progress)
        if told is not None:
            return told
    return _over_pairs(tree, pairs, progress)


def _in_closed_form(tree: Tree, answers: Answers, progress: Progress) -> float | None:
    """Of squared Euclidean distances D; None where these are too much alike for it.

    With r the lengths of the points about their mean and S the matrix of their products, the sums
    over pairs are: of D, n sum r^2; of D^2, n sum r^4 + (sum r^2)^2 + 2 |S|^2; those of D times
    height follow the joins (`upward.products`). No term is a difference of large ones.
    """
    n, p = answers.values.shape
    centred = answers.values - answers.values.mean(axis=0)
    centred -= centred.mean(axis=0)  # the mean of numbers far from 0 is a rounded one
    centred *= np.sqrt(answers.importance)
    highest = float(np.abs(tree.heights).max())
    furthest = float(np.abs(centred).max())
    if highest == 0 or furthest == 0:
        return None
    centred /= furthest
    heights = tree.heights / highest
    squares = np.einsum("ij,ij->i", centred, centred)
    total, both = float(squares.sum()), centred.T @ centred
    sum_d = n * total
    sum_d2 = n * float(squares @ squares) + total**2 + 2.0 * float(np.sum(both * both))
    sizes = tree.sizes.astype(np.float64)
    counts = sizes[tree.left] * sizes[tree.right]
    pairs = n * (n - 1) / 2
    spread, level = sum_d2 - sum_d * sum_d / pairs, float(counts @ heights) / pairs
    if spread < _ALIKE * sum_d2:
        return None
    mean, inside = np.empty((2 * n - 1, p)), np.zeros(2 * n - 1)
    mean[:n] = centred
    products, step = 0.0, max(_ALONG // p, 1)
    for begin in range(0, tree.joins, step):
        progress(Phase.CORRELATION, begin / tree.joins)
        end = min(begin + step, tree.joins)
        products += upward.products(
            tree.left, tree.right, begin, end, mean, sizes, inside, heights, level
        )
    spread_heights = float(counts @ (heights - level) ** 2)
    return correlation_of_sums(products, spread, spread_heights, pairs, sum_d / pairs, level)


@dataclass(frozen=True, eq=False)
class _Runs:
    """Cases in leaf order, equal ones that are joined at 0 before all others taken together.

    cases : (m,) one of each; weights : (m,) how many; bounds : (m - 1,) the join at which
    neighbours meet: two meet at the latest join between any neighbours that lie between them.
    """

    cases: Ints
    weights: Floats
    bounds: Ints

    @classmethod
    def of(cls, tree: Tree, pairs: Proximities) -> _Runs:
        bounds, order = np.empty(tree.joins, dtype=np.int64), tree.order
        bounds[tree.starts[tree.right] - 1] = np.arange(tree.joins)
        alone = cls(order, np.ones(tree.n), bounds)
        if pairs.answers is None or not MEASURES[pairs.key].folds:
            return alone
        values = pairs.answers.values[order]
        equal: NDArray[np.bool_] = np.asarray((values[1:] == values[:-1]).all(axis=1))
        inner = bounds[equal]
        first = len(inner)
        if not first or inner.max() >= first or tree.heights[:first].any():
            return alone
        heads = np.flatnonzero(np.concatenate([[True], ~equal]))
        weights = np.diff(heads, append=tree.n).astype(np.float64)
        return cls(order[heads], weights, bounds[~equal])


def _over_pairs(tree: Tree, pairs: Proximities, progress: Progress) -> float | None:
    some = tree.order[np.linspace(0, tree.n - 1, min(tree.n, _SAMPLE)).astype(np.int64)]
    block = pairs.block(some, some)  # about the middle, so that constant proximities sum to 0
    middle = float(block[~np.eye(len(some), dtype=bool)].mean())
    counts = tree.sizes[tree.left].astype(float) * tree.sizes[tree.right]
    level = float(np.sum(counts * tree.heights) / counts.sum())
    runs, recipe = _Runs.of(tree, pairs), pairs.recipe
    if recipe is None or tree.n <= MANY:  # by size alone: the two differ in the last figure
        sums = _by_blocks(tree, pairs, runs, middle, level, progress)
    else:
        sums = _by_kernel(tree, recipe, runs, middle, level, progress)
    total, squares, products = (float(column.sum()) for column in sums.T)
    at_zero = float(np.sum(runs.weights * (runs.weights - 1.0)) / 2)  # pairs of equal cases
    total -= at_zero * middle
    squares += at_zero * middle * middle
    products += at_zero * middle * level
    spread = squares - total * total / counts.sum()
    spread_heights = float(np.sum(counts * (tree.heights - level) ** 2))
    return correlation_of_sums(products, spread, spread_heights, float(counts.sum()), middle, level)


def _by_kernel(
    tree: Tree, recipe: Recipe, runs: _Runs, middle: float, level: float, progress: Progress
) -> Floats:
    from gorvel.core.kernels.cophenetic import sums

    m = len(runs.cases)
    ordered = recipe.of(runs.cases)
    out, half = np.zeros((m, 3)), (m + 1) // 2
    step = max(_STEP // m, 1)
    for begin in range(0, half, step):
        progress(Phase.CORRELATION, begin / half)
        with ONE_AT_A_TIME:  # between two steps others may come in
            sums(
                ordered, runs.weights, runs.bounds, tree.heights, middle, level, begin,
                min(begin + step, half), out,
            )  # fmt: skip
    return out


def _by_blocks(
    tree: Tree, pairs: Proximities, runs: _Runs, middle: float, level: float, progress: Progress
) -> Floats:
    m, cases, weights = len(runs.cases), runs.cases, runs.weights
    out, step = np.zeros((m, 3)), max(1, _BLOCK // m)
    folded = m < tree.n
    rising = bool((np.diff(tree.heights) >= 0).all())  # then the latest join is the highest
    heights = tree.heights - level
    met = heights[runs.bounds] if rising else runs.bounds
    latest = np.full(m, met.min(initial=0) if rising else -1, dtype=met.dtype)
    for end in range(m - 1, 0, -step):  # from the last row, so that meetings grow by one row each
        progress(Phase.CORRELATION, 1.0 - end / m)
        begin = max(end - step, 0)
        block = pairs.block(cases[begin:end], cases[begin:])
        block = np.triu(block - middle, 1)  # each pair once
        meetings = np.zeros(block.shape, dtype=met.dtype)
        for row in range(end - 1, begin - 1, -1):
            meeting = latest[row + 1 :]
            np.maximum(meeting, met[row], out=meeting)
            meetings[row - begin, row - begin + 1 :] = meeting
        high = meetings if rising else heights[meetings]
        weighed = weights[begin:end, None] * weights[begin:] * block if folded else block
        out[begin:end] = np.stack(
            [
                weighed.sum(axis=1),
                np.einsum("ij,ij->i", weighed, block),
                np.einsum("ij,ij->i", weighed, high),
            ],
            axis=1,
        )
    return out
