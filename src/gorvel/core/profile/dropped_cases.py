"""Who is lost: cases left out for missing answers beside those that are kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import varies
from gorvel.core.cases.columns import answers_by_level, level_told
from gorvel.core.cases.prepared import Prepared
from gorvel.core.derive.making import as_completed
from gorvel.core.plan.growth import word_order
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import NUMERIC, present_value, two_valued_cells
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]
_MOST_LEVELS = 30  # of a nominal column


@dataclass(frozen=True)
class DropoutComparison:
    """One variable, or one level of it.

    level : "" for a mean, else the answer whose share it is; n_kept, n_lost : cases that answered;
    kept, lost : their weighted means, or shares; difference : lost less kept; effect : of means in
    standard deviations of all of them, of shares in those of a yes/no answer; 0 where there is no
    spread.
    """

    variable: str
    level: str
    n_kept: int
    n_lost: int
    kept: float
    lost: float
    difference: float
    effect: float


def lost_cases(table: Table, plan: Plan, prepared: Prepared) -> list[DropoutComparison]:
    """Compare the cases that lack an answer, and are left out for it, with those that are kept.

    On every column that some of both answer, but for labels, weights and the design; the largest
    effects first. Empty where nobody is left out for gaps.

    Raises
    ------
    InputError : a cell that its level does not allow.
    """
    lost = np.array([d.case - 1 for d in prepared.dropped if d.lacking], dtype=np.int64)
    if not lost.size or prepared.of != "cases":
        return []
    table = as_completed(table, plan)
    kept = prepared.numbers - 1
    weights = _weights(table, plan)
    out: list[DropoutComparison] = []
    for name in table.names:
        if name not in _beside(plan):
            out += _compared(table, plan, name, kept, lost, weights)
    return sorted(out, key=lambda one: -abs(one.effect))


def _beside(plan: Plan) -> set[str]:
    """Columns that say nothing of a case but how it came in."""
    design = plan.design
    named = {plan.cases.label, plan.cases.weight}
    if design is not None:
        named |= {design.strata, design.psu, *design.replicates}
    return {name for name in named if name is not None}


def _weights(table: Table, plan: Plan) -> Floats:
    column = plan.cases.weight
    if column is None:
        return np.ones(table.n)
    return np.nan_to_num(table.numbers(column, plan.codes(column)).values)


def _compared(
    table: Table, plan: Plan, name: str, kept: NDArray[np.int64], lost: NDArray[np.int64],
    weights: Floats,
) -> list[DropoutComparison]:  # fmt: skip
    level = level_told(table, plan, name)
    active = name in plan.variables.use or name in plan.variables.profile
    numbers = level in NUMERIC and not active and not word_order(plan, name)
    if numbers and table.numbers(name, plan.codes(name)).bad_row >= 0:
        return []  # nobody has looked at this column yet
    rows = np.concatenate([kept, lost])
    values, words, _ = answers_by_level(table, plan, name, level, rows)
    sides = [rows[~np.isnan(values[rows])] for rows in (kept, lost)]
    if not all(rows.size and weights[rows].sum() > 0 for rows in sides):
        return []
    if level == "nominal":
        if len(words) > _MOST_LEVELS:
            return []
        levels = [(words[k], (values == k).astype(np.float64)) for k in range(len(words))]
        return [_held(name, word, codes, sides, weights, share=True) for word, codes in levels]
    if level == "binary":
        found = two_valued_cells(table, name, plan.codes(name), rows)
        cells = {cell.lower(): cell for cell in found if cell is not None}
        present = present_value(set(cells))
        said = cells.get(present or "", "yes")
        return [_held(name, said, values, sides, weights, share=True)]
    return [_held(name, "", values, sides, weights, share=False)]


def _held(
    name: str, level: str, values: Floats, sides: Sequence[NDArray[np.int64]], weights: Floats,
    share: bool,
) -> DropoutComparison:  # fmt: skip
    """The means of two sides, and their difference in standard deviations of both together."""
    means = [float(np.average(values[rows], weights=weights[rows])) for rows in sides]
    both = np.concatenate(sides)
    centre = float(np.average(values[both], weights=weights[both]))
    spread = float(np.average((values[both] - centre) ** 2, weights=weights[both]))
    spread = spread if varies(values[both]) else 0.0
    if not share:
        total = float(weights[both].sum())
        spread *= total / (total - 1) if total > 1 else 0.0
    difference = means[1] - means[0]
    effect = difference / np.sqrt(spread) if spread > 0 else 0.0
    return DropoutComparison(
        name, level, sides[0].size, sides[1].size, means[0], means[1], difference, float(effect)
    )  # fmt: skip
