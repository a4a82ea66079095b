"""One pass over the proximities of all pairs: what every rule that looks at pairs is made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.nested import Nested
from gorvel.core.kernels import ONE_AT_A_TIME
from gorvel.core.kernels.recipe import Recipe
from gorvel.core.proximity.pairs import Proximities

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
_BLOCK = 1 << 20  # cells of a block
_STEP = 1 << 24  # pairs between two reports


@dataclass(frozen=True, eq=False)
class Distances:
    """The distances d of the rules.

    The plan's proximities, or their roots when these are squared Euclidean. roots : False for the
    proximities as they are.
    """

    pairs: Proximities
    roots: bool = True

    @property
    def squared(self) -> bool:
        squares = self.pairs.answers is not None and self.pairs.key == "squared-euclidean"
        return squares and self.roots

    def block(self, rows: Ints, columns: Ints) -> Floats:
        """(rows, columns) distances of some cases to some others."""
        block = self.pairs.block(rows, columns)
        return np.sqrt(block) if self.squared else block

    def recipe(self, order: Ints) -> Recipe | None:
        """How a compiled loop measures them, cases in this order; None for none."""
        recipe = self.pairs.recipe
        if recipe is None:
            return None
        return recipe.of(order)._replace(rooted=recipe.rooted or self.squared)


@dataclass(frozen=True, eq=False)
class PairSums:
    """Distances of cases to the pieces of `Nested`, and of pieces to each other.

    to_pieces, highs : (n, K) sums and largest, rows in leaf order; nearest, farthest : (K, K) of
    cases of two pieces; squares : sum of d^2 over all pairs.
    """

    nested: Nested
    to_pieces: Floats
    highs: Floats
    nearest: Floats
    farthest: Floats
    squares: float

    def to_clusters(self, count: int) -> Floats:
        """(n, count) sums of each case's distances to the clusters, rows in leaf order."""
        return np.asarray(np.add.reduceat(self.to_pieces, self.nested.starts(count), axis=1))

    @property
    def total(self) -> float:
        """Sum over all pairs."""
        return float(self.to_pieces.sum()) / 2


def pair_sums(nested: Nested, distances: Distances, progress: Progress = silent) -> PairSums:
    """Pass once over all proximities.

    progress : told "pairs"; may stop the work by raising.
    """
    n, pieces = len(nested.order), nested.finest
    sums, squares = np.zeros((n, pieces)), np.zeros(n)
    lows, highs = np.full((n, pieces), np.inf), np.zeros((n, pieces))
    recipe = distances.recipe(nested.order)
    if recipe is None:
        step = max(1, _BLOCK // n)
        begins = nested.bounds[:-1]
        for begin in range(0, n, step):
            progress(Phase.PAIRS, begin / n)
            rows = slice(begin, min(begin + step, n))
            block = distances.block(nested.order[rows], nested.order)
            sums[rows] = np.add.reduceat(block, begins, axis=1)
            lows[rows] = np.minimum.reduceat(block, begins, axis=1)
            highs[rows] = np.maximum.reduceat(block, begins, axis=1)
            squares[rows] = np.einsum("ij,ij->i", block, block)
    else:
        from gorvel.core.kernels.counting import sum_pieces

        step = max(_STEP // n, 1)
        for begin in range(0, n, step):
            progress(Phase.PAIRS, begin / n)
            with ONE_AT_A_TIME:
                sum_pieces(
                    recipe, nested.bounds, begin, min(begin + step, n), sums,
                    lows.view(np.int64), highs.view(np.int64), squares,
                )  # fmt: skip
    nearest = np.minimum.reduceat(lows, nested.bounds[:-1], axis=0)
    farthest = np.maximum.reduceat(highs, nested.bounds[:-1], axis=0)
    return PairSums(nested, sums, highs, nearest, farthest, float(squares.sum()) / 2)


def silhouette_values(sums: PairSums, count: int) -> tuple[Floats, Ints]:
    """Each case's silhouette, and the other cluster nearest to it, rows in leaf order.

    Returns
    -------
    (n,) between -1 and 1, 0 in a cluster of one; (n,) clusters from 0, in leaf order.

    References
    ----------
    Rousseeuw 1987, Silhouettes: a graphical aid to the interpretation and validation of cluster
    analysis.
    """
    nested = sums.nested
    sizes = nested.cluster_sizes(count)
    own = np.repeat(np.arange(count), sizes)
    rows = np.arange(len(own))
    totals = sums.to_clusters(count)
    inside = totals[rows, own] / np.maximum(sizes[own] - 1, 1)
    means = totals / sizes
    means[rows, own] = np.inf
    other = means.argmin(axis=1)
    outside = means[rows, other]
    larger = np.maximum(inside, outside)
    with np.errstate(invalid="ignore", divide="ignore"):
        values = np.where(larger > 0, (outside - inside) / larger, 0.0)
    values[sizes[own] == 1] = 0.0
    return values, other
