"""What a measure works on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.table.table import Level

Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Answers:
    """Scaled answers, with all that a measure may want to know of them.

    values : (n, p), NaN where missing; importance : (p,) > 0;
    levels : p measurement levels; asymmetric : p flags; ranges : (p,), max - min of each column;
    power, root : p and r of the Minkowski and power distances;
    whitening : (p, p), turns differences into those of uncorrelated variables of variance 1; only
    for the Mahalanobis distance.
    """

    values: Matrix
    importance: NDArray[np.float64]
    levels: Sequence[Level]
    asymmetric: Sequence[bool]
    ranges: NDArray[np.float64]
    power: float = 2.0
    root: float = 2.0
    whitening: Matrix | None = None

    @property
    def points(self) -> Matrix:
        """(n, p) places whose straight distances are those of a Euclidean measure."""
        points = self.values * np.sqrt(self.importance)
        return points if self.whitening is None else points @ self.whitening

    @classmethod
    def of(
        cls,
        values: Matrix,
        importance: NDArray[np.float64],
        levels: Sequence[Level],
        asymmetric: Sequence[bool],
        power: float = 2.0,
        root: float = 2.0,
    ) -> Answers:
        """Work out the ranges of the known values."""
        ranges = np.zeros(values.shape[1])
        for j in range(values.shape[1]):
            known = values[~np.isnan(values[:, j]), j]
            ranges[j] = known.max() - known.min() if known.size else 0.0
        return cls(values, importance, levels, asymmetric, ranges, power, root)
