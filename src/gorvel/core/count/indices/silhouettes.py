"""The silhouettes of all cases at one count, by cluster, and which cases lean elsewhere."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.pairsums import PairSums, silhouette_values

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Silhouettes:
    """Cases by cluster, each cluster from its highest silhouette down.

    count; clusters are numbered from 1 by their earliest case;
    cases, values, own, leans : (n,) case (from 0), its silhouette, its cluster, and the other
    cluster nearest to it; ends : (count,) where each cluster ends; means : (count,).
    """

    count: int
    cases: Ints
    values: Floats
    own: Ints
    leans: Ints
    ends: Ints
    means: Floats

    @property
    def leaning(self) -> Ints:
        """Rows of the cases with a negative silhouette, the most negative first."""
        rows = np.flatnonzero(self.values < 0)
        return rows[np.argsort(self.values[rows], kind="stable")]

    def row_of(self, case: int) -> int:
        """Where a case (from 0) stands."""
        return int(np.flatnonzero(self.cases == case)[0])


def silhouettes_of(sums: PairSums, count: int) -> Silhouettes:
    """The silhouettes at a count, 2 or more."""
    nested = sums.nested
    values, leans = silhouette_values(sums, count)
    sizes = nested.cluster_sizes(count)
    of_leaf = np.repeat(np.arange(count), sizes)
    firsts = np.array([int(nested.order[of_leaf == c].min()) for c in range(count)])
    number = np.empty(count, dtype=np.int64)
    number[np.argsort(firsts)] = np.arange(1, count + 1)
    own = number[of_leaf]
    rows = np.lexsort((-values, own))
    ends = np.cumsum(np.bincount(own, minlength=count + 1)[1:])
    totals = np.bincount(own, values, count + 1)[1:]
    means = totals / np.bincount(own, minlength=count + 1)[1:]
    return Silhouettes(
        count, nested.order[rows], values[rows], own[rows], number[leans][rows], ends, means
    )
