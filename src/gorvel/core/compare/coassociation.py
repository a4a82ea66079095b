"""Which clusters stand whatever the tree: how often their cases stay together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class CoAssociation:
    """Of one cut beside the cuts of several trees.

    trees : how many; cases : (n,) the share of trees, on average over the other cases of its
    cluster, in which each case is with them; clusters : (k,) the same over all pairs of a cluster;
    strangers : (k,) the share in which a case of a cluster is with one of another; NaN where there
    is no pair that a tree has.
    """

    trees: int
    cases: Floats
    clusters: Floats
    strangers: Floats


def together(own: Ints, count: int, others: Sequence[Ints]) -> CoAssociation:
    """How often cases of one cluster are together in other groupings.

    A pair counts in those groupings that have both cases.

    Parameters
    ----------
    own : (n,) clusters from 0; count : of clusters; others : each (n,) groups from 0, -1 for a case
    that a tree does not have.

    References
    ----------
    Fred & Jain 2005, Combining multiple clusterings using evidence accumulation (co-association).
    """
    n = len(own)
    met, pairs = np.zeros(n), np.zeros(n)
    mixed, apart = np.zeros(count), np.zeros(count)
    for groups in others:
        there = groups >= 0
        most = int(groups.max(initial=0)) + 1
        table = np.bincount(own[there] * most + groups[there], minlength=count * most)
        table = table.reshape(count, most)
        met[there] += table[own[there], groups[there]] - 1
        sizes = table.sum(axis=1)
        pairs[there] += sizes[own[there]] - 1
        mixed += (table * (table.sum(axis=0) - table)).sum(axis=1)
        apart += sizes * (table.sum() - sizes)
    whole, possible = (
        np.bincount(own, part, minlength=count).astype(np.float64) for part in (met, pairs)
    )
    return CoAssociation(
        len(others), _share(met, pairs), _share(whole, possible), _share(mixed, apart)
    )  # fmt: skip


def _share(part: Floats, whole: Floats) -> Floats:
    return np.where(whole > 0, part / np.maximum(whole, 1), np.nan)
