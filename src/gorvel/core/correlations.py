"""Which variables say the same: correlations of all pairs, in an order that puts likes together."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.choosing import left_out
from gorvel.core.cuts import cut_at_height
from gorvel.core.linkage.agglomerate import grow
from gorvel.core.plan import Plan
from gorvel.core.scaling import average_ranks, pearson
from gorvel.core.table.table import Table

__all__ = ["CorrelationMap", "correlation_map"]

Floats = NDArray[np.float64]
_REDUNDANT = 0.7  # mean absolute correlation from which variables are called a group


@dataclass(frozen=True, eq=False)
class CorrelationMap:
    """names : p, in order of the map; values : (p, p), NaN where not defined; groups : of names,

    two or more that correlate at 0.7 on average, whichever the sign.
    """

    names: tuple[str, ...]
    values: Floats
    groups: tuple[tuple[str, ...], ...]


def correlation_map(
    table: Table, plan: Plan, kind: Literal["rank", "moment"] = "moment"
) -> CorrelationMap:
    """Correlate the active numeric variables over the cases chosen, pairwise complete.

    kind : "moment" for Pearson's r, "rank" for Spearman's. The order is that of the tree that
    average linkage grows on 1 - |r|; an undefined correlation counts as 0.

    Raises
    ------
    InputError : the condition of the plan does not fit the table.
    """
    out = left_out(table, plan)
    chosen = np.ones(table.n, dtype=bool)
    chosen[list(out)] = False
    names = [
        name
        for name in plan.variables.use
        if table.numbers(name, plan.codes(name)).mostly
        and plan.variables.level(name) in (None, "interval", "ordinal")
    ]
    columns = [table.numbers(name, plan.codes(name)).values[chosen] for name in names]
    p = len(names)
    values = np.eye(p)
    for j in range(p):
        for k in range(j):
            values[j, k] = values[k, j] = _correlation(columns[j], columns[k], kind)
    if p < 2:
        return CorrelationMap(tuple(names), values, ())
    tree = grow(1.0 - np.abs(np.nan_to_num(values)), "average")
    cut = cut_at_height(tree, 1.0 - _REDUNDANT)
    groups = [
        tuple(names[int(k)] for k in tree.members(int(root)))
        for root in cut.roots
        if tree.sizes[root] > 1
    ]
    order = tree.order
    return CorrelationMap(
        tuple(names[int(k)] for k in order), values[np.ix_(order, order)], tuple(groups)
    )


def _correlation(x: Floats, y: Floats, kind: str) -> float:
    both = ~np.isnan(x) & ~np.isnan(y)
    x, y = x[both], y[both]
    told = pearson(average_ranks(x), average_ranks(y)) if kind == "rank" else pearson(x, y)
    return float("nan") if told is None else told
