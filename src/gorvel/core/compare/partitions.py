"""How two groupings of the same cases go together: indices, and the best one-to-one matching."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.agreement import cross_counts

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Agreement:
    """Of two groupings.

    rand, adjusted_rand, fowlkes_mallows, normalised_mi : 1 for the same; variation_of_information :
    0 for the same, in natural logarithms; moved : cases outside the best one-to-one matching.
    """

    rand: float
    adjusted_rand: float
    fowlkes_mallows: float
    variation_of_information: float
    normalised_mi: float
    moved: int


def agreement(one: Ints, other: Ints) -> Agreement:
    """How two groupings agree; see `agreement_of`. one, other : (n,) groups from 0."""
    return agreement_of(cross_counts(one, other))


def agreement_of(table: Ints) -> Agreement:
    """Where an index is 0/0 it is 1 for the same grouping, else 0.

    table : (a, b) cases in each pair of groups.

    References
    ----------
    Rand 1971, Objective criteria for the evaluation of clustering methods; Hubert & Arabie 1985,
    Comparing partitions; Fowlkes & Mallows 1983, A method for comparing two hierarchical
    clusterings; Meila 2007, Comparing clusterings: an information based distance; Kvalseth 1987,
    Entropy and correlation (by the mean of the two entropies).
    """
    n = int(table.sum())
    same = float(
        (table > 0).sum() == (table.sum(axis=1) > 0).sum() == (table.sum(axis=0) > 0).sum()
    )
    together, rows, columns = _pairs(table), _pairs(table.sum(axis=1)), _pairs(table.sum(axis=0))
    pairs = n * (n - 1) // 2
    agreed = pairs + 2 * together - rows - columns
    expected = rows * columns / pairs if pairs else 0.0
    beyond = (rows + columns) / 2 - expected
    shares = table / n if n else table.astype(np.float64)
    joint, mine, its = (_entropy(part) for part in
                        (shares, shares.sum(axis=1), shares.sum(axis=0)))  # fmt: skip
    shared = max(mine + its - joint, 0.0)
    apart = 0.0 if same else max(2 * joint - mine - its, 0.0)
    return Agreement(
        agreed / pairs if pairs else same,
        same if same or not beyond else (together - expected) / beyond,
        together / np.sqrt(float(rows) * float(columns)) if rows and columns else same,
        apart,
        same if same or not mine + its > 0 else 2 * shared / (mine + its),
        n - int(sum(table[i, j] for i, j in matching(table))),
    )


def _pairs(counts: Ints) -> int:
    return int((counts * (counts - 1) // 2).sum())


def _entropy(shares: Floats) -> float:
    known = shares[shares > 0]
    return float(-(known * np.log(known)).sum())


def matching(table: Ints) -> list[tuple[int, int]]:
    """Rows and columns, each at most once, that hold the most cases together.

    table : (a, b) counts. Rows or columns that are left over are matched with nothing.

    References
    ----------
    Kuhn 1955, The Hungarian method for the assignment problem.
    """
    a, b = table.shape
    if not a or not b:
        return []
    best = table.argmax(axis=1)
    if a <= b and len(set(best.tolist())) == a:  # as much as there can be
        return [(i, int(best[i])) for i in range(a)]
    if a > b:
        return sorted((i, j) for j, i in matching(table.T))
    return _assigned(-table.astype(np.int64))


def _assigned(cost: Ints) -> list[tuple[int, int]]:
    """Each row a column of its own, at the smallest cost in all; (a, b) with a <= b.

    Shortest paths from each row in turn, with prices of rows and columns that keep all reduced
    costs at 0 or above.
    """
    b = cost.shape[1]
    row_price, column_price = cost.min(axis=1), np.zeros(b, dtype=np.int64)
    owner = np.full(b, -1)
    waiting = []
    for row, column in enumerate(
        cost.argmin(axis=1).tolist()
    ):  # what is cheapest, where it is free
        if owner[column] < 0:
            owner[column] = row
        else:
            waiting.append(row)
    most = np.iinfo(np.int64).max // 4
    for start in waiting:
        nearest = np.full(b, most)
        before = np.full(b, -1)
        done = np.zeros(b, dtype=bool)
        row, column, far = start, -1, 0
        while True:
            through = far + cost[row] - row_price[row] - column_price
            shorter = ~done & (through < nearest)
            nearest[shorter], before[shorter] = through[shorter], column
            column = int(np.where(done, most, nearest).argmin())
            done[column], far = True, int(nearest[column])
            if owner[column] < 0:
                break
            row = int(owner[column])
        reached = done & (np.arange(b) != column)
        row_price[start] += far
        row_price[owner[reached]] += far - nearest[reached]
        column_price[reached] -= far - nearest[reached]
        while column >= 0:
            last = int(before[column])
            owner[column] = start if last < 0 else owner[last]
            column = last
    return sorted((int(row), column) for column, row in enumerate(owner) if row >= 0)
