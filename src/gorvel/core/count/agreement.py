"""How far two groupings of the same cases agree."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]


def cross_counts(one: Ints, other: Ints) -> Ints:
    """(a, b) cases in each pair of groups. one, other : (n,) groups from 0."""
    a, b = int(one.max(initial=-1)) + 1, int(other.max(initial=-1)) + 1
    return np.bincount(one * b + other, minlength=a * b).reshape(a, b)


def _pairs(counts: Ints) -> float:
    return float((counts * (counts - 1) // 2).sum())


def adjusted_rand(table: Ints) -> float:
    """Share of pairs on which two groupings agree, beyond chance: 1 the same, 0 as by chance.

    table : of `cross_counts`. Two groupings that both keep all cases together, or both apart, are
    the same.

    References
    ----------
    Hubert & Arabie 1985, Comparing partitions.
    """
    together = _pairs(table)
    one, other = _pairs(table.sum(axis=1)), _pairs(table.sum(axis=0))
    pairs = _pairs(table.sum(keepdims=True))
    expected, most = (one * other / pairs if pairs else 0.0), (one + other) / 2
    return (together - expected) / (most - expected) if most != expected else 1.0


def normalised_information(table: Ints) -> float:
    """Mutual information over the mean of the two entropies, 0 to 1; 1 when both have one group.

    References
    ----------
    Strehl & Ghosh 2002, Cluster ensembles; with the arithmetic mean.
    """
    n = table.sum()
    if n == 0:
        return 1.0

    def entropy(counts: Ints) -> float:
        shares = counts[counts > 0] / n
        return float(-(shares * np.log(shares)).sum())

    one, other = entropy(table.sum(axis=1)), entropy(table.sum(axis=0))
    if one + other == 0:
        return 1.0
    shared = one + other - entropy(table.ravel())
    return float(np.clip(shared / ((one + other) / 2), 0.0, 1.0))
