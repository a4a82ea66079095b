"""How faithful a large tree is to its proximities, which are measured again rather than kept."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.recipe import Recipe
from gorvel.core.progress import Progress, silent
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree import Tree, correlation_of_sums

__all__ = ["cophenetic_of_pairs"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_STEP = 1 << 24  # pairs between two reports
_BLOCK = 1 << 20  # cells of a block
_SAMPLE = 400  # cases from which a middle proximity is taken


def cophenetic_of_pairs(
    tree: Tree, pairs: Proximities, progress: Progress = silent
) -> float | None:
    """Pearson correlation, over all pairs, of proximity and height of meeting; see

    `tree.cophenetic_correlation`, which gives the same from a matrix. Two leaves meet at the latest
    join between any neighbours that lie between them.

    References
    ----------
    Sokal & Rohlf 1962, The comparison of dendrograms by objective methods.
    """
    if tree.joins < 1:
        return None
    bounds = np.empty(tree.joins, dtype=np.int64)
    bounds[tree.starts[tree.right] - 1] = np.arange(tree.joins)
    some = tree.order[np.linspace(0, tree.n - 1, min(tree.n, _SAMPLE)).astype(np.int64)]
    block = pairs.block(some, some)  # about the middle, so that constant proximities sum to 0
    middle = float(block[~np.eye(len(some), dtype=bool)].mean())
    counts = tree.sizes[tree.left].astype(float) * tree.sizes[tree.right]
    level = float(np.sum(counts * tree.heights) / counts.sum())
    recipe = pairs.recipe
    if recipe is None:
        sums = _by_blocks(tree, pairs, bounds, middle, level, progress)
    else:
        with ONE_AT_A_TIME:
            sums = _by_kernel(tree, recipe, bounds, middle, level, progress)
    total, squares, products = (float(column.sum()) for column in sums.T)
    spread = squares - total * total / counts.sum()
    spread_heights = float(np.sum(counts * (tree.heights - level) ** 2))
    return correlation_of_sums(products, spread, spread_heights, float(counts.sum()), middle, level)


def _by_kernel(
    tree: Tree, recipe: Recipe, bounds: Ints, middle: float, level: float, progress: Progress
) -> Floats:  # fmt: skip
    from gorvel.core.kernels.cophenetic import sums

    ordered = recipe.of(tree.order)
    out, half = np.zeros((tree.n, 3)), (tree.n + 1) // 2
    step = max(_STEP // tree.n, 1)
    for begin in range(0, half, step):
        progress("correlation", begin / half)
        sums(
            ordered, bounds, tree.heights, middle, level, begin, min(begin + step, half), out
        )  # fmt: skip
    return out


def _by_blocks(
    tree: Tree, pairs: Proximities, bounds: Ints, middle: float, level: float, progress: Progress
) -> Floats:
    out, order = np.zeros((tree.n, 3)), tree.order
    step = max(1, _BLOCK // tree.n)
    for begin in range(0, tree.n - 1, step):
        progress("correlation", begin / tree.n)
        rows = np.arange(begin, min(begin + step, tree.n - 1))
        block = pairs.block(order[rows], order[begin:])
        for k, row in enumerate(rows.tolist()):
            far = block[k, k + 1 :] - middle
            high = tree.heights[np.maximum.accumulate(bounds[row:])] - level
            out[row] = far.sum(), far @ far, far @ high
    return out
