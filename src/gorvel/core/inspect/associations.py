"""Which variables say the same: associations of all pairs, in an order that puts likes together."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import varies
from gorvel.core.cases.columns import level_told
from gorvel.core.cases.rows import left_out
from gorvel.core.linkage.agglomerate import grow
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.scaling import average_ranks, pearson
from gorvel.core.table.levels import binary_codes, categories
from gorvel.core.table.table import Level, Table
from gorvel.core.tree.cuts import cut_at_height

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Kind = Literal["rank", "moment"]
_REDUNDANT = 0.7  # mean absolute association from which variables are called a group


@dataclass(frozen=True, eq=False)
class CorrelationMap:
    """How variables are associated, in an order that shows groups.

    names : p, in order of the map; values : (p, p), NaN where not defined; groups : of names, two
    or more that are associated at 0.7 on average, whichever the sign; coefficients : (p, p) names
    of what the values are, such as "r".
    """

    names: tuple[str, ...]
    values: Floats
    groups: tuple[tuple[str, ...], ...]
    coefficients: tuple[tuple[str, ...], ...]


def correlation_map(table: Table, plan: Plan, kind: Kind = "moment") -> CorrelationMap:
    """Associate the active variables over the cases chosen, each pair over the cases with both.

    Numbers, and binary variables as 0 and 1: Pearson's r ("moment") or Spearman's ("rank"); a
    nominal variable with numbers: the correlation ratio; with a nominal or binary one: Cramér's V.
    The order is that of the tree that average linkage grows on 1 - |value|; an undefined one counts
    as 0.

    Raises
    ------
    InputError : the condition of the plan does not fit the table, or a cell is no number.
    """
    out = left_out(table, plan)
    chosen = np.ones(table.n, dtype=bool)
    chosen[list(out)] = False
    names = list(plan.variables.use)
    levels = [level_told(table, plan, name) for name in names]
    rows = np.flatnonzero(chosen)
    columns = [
        _values(table, plan, name, level, rows)[rows]
        for name, level in zip(names, levels, strict=True)
    ]
    p = len(names)
    values, told = np.eye(p), [[""] * p for _ in names]
    for j in range(p):
        for k in range(j):
            pair = _associated(columns[j], columns[k], levels[j], levels[k], kind)
            values[j, k] = values[k, j] = pair[0]
            told[j][k] = told[k][j] = pair[1]
    if p < 2:
        return CorrelationMap(tuple(names), values, (), tuple(map(tuple, told)))
    tree = grow(1.0 - np.abs(np.nan_to_num(values)), "average")
    cut = cut_at_height(tree, 1.0 - _REDUNDANT)
    groups = [
        tuple(names[int(k)] for k in tree.members(int(root)))
        for root in cut.roots
        if tree.sizes[root] > 1
    ]
    order = tree.order.tolist()
    return CorrelationMap(
        tuple(names[k] for k in order),
        values[np.ix_(order, order)],
        tuple(groups),
        tuple(tuple(told[j][k] for k in order) for j in order),
    )


def _values(table: Table, plan: Plan, name: str, level: Level, rows: Ints) -> Floats:
    codes = plan.codes(name)
    if level == "nominal":
        return categories(table.cells(name, codes))[0]
    if level != "binary":
        return table.numbers(name, codes).values
    try:
        return binary_codes(table, name, codes, rows)[0]
    except InputError:  # more than two values: said where the plan is checked
        return categories(table.cells(name, codes))[0]


def _associated(x: Floats, y: Floats, one: Level, other: Level, kind: Kind) -> tuple[float, str]:
    """The value, and the name of the coefficient that fits the levels."""
    both = ~np.isnan(x) & ~np.isnan(y)
    x, y = x[both], y[both]
    if one != "nominal" and other != "nominal":
        ranked = kind == "rank"
        told = pearson(average_ranks(x), average_ranks(y)) if ranked else pearson(x, y)
        name = "rank r" if ranked else "r"
    elif {one, other} <= {"nominal", "binary"}:
        told, name = cramers_v(x, y), "Cramér’s V"
    else:
        groups, numbers = (x, y) if one == "nominal" else (y, x)
        numbers = average_ranks(numbers) if kind == "rank" else numbers
        told, name = correlation_ratio(groups, numbers), "correlation ratio"
    return (float("nan") if told is None else told), name


def cramers_v(x: Floats, y: Floats) -> float | None:
    """sqrt(chi² / (n (min(r, c) - 1))) of two columns of categories; None without two of each.

    x, y : (n,) complete.

    References
    ----------
    Cramér 1946, Mathematical Methods of Statistics.
    """
    _, rows = np.unique(x, return_inverse=True)
    _, columns = np.unique(y, return_inverse=True)
    if not x.size or min(rows.max(), columns.max()) == 0:
        return None
    table = np.zeros((rows.max() + 1, columns.max() + 1))
    np.add.at(table, (rows, columns), 1.0)
    expected = np.outer(table.sum(axis=1), table.sum(axis=0)) / x.size
    chi2 = float(((table - expected) ** 2 / expected).sum())
    return float(min(np.sqrt(chi2 / (x.size * (min(table.shape) - 1))), 1.0))


def correlation_ratio(groups: Floats, numbers: Floats) -> float | None:
    """sqrt(between / total sum of squares) of numbers in groups; None without spread or groups.

    groups, numbers : (n,) complete.

    References
    ----------
    Fisher 1925, Statistical Methods for Research Workers, section 45.
    """
    if not varies(numbers):
        return None
    _, places = np.unique(groups, return_inverse=True)
    total = float(((numbers - numbers.mean()) ** 2).sum())
    if places.max() == 0 or total <= 0:
        return None
    sizes = np.bincount(places)
    means = np.bincount(places, weights=numbers) / sizes
    between = float((sizes * (means - numbers.mean()) ** 2).sum())
    return float(min(np.sqrt(between / total), 1.0))
