"""Do scale and measure suit the variables that are active? What suits better, and why."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution
from gorvel.core.base.numbers import counted
from gorvel.core.cases.columns import answers_by_level, level_told
from gorvel.core.cases.prepared import Variable
from gorvel.core.cases.rows import rows_looked_at
from gorvel.core.plan.default_method import method_for, on_one_scale
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]


def refitted(before: tuple[Table, Plan], after: tuple[Table, Plan]) -> Plan:
    """The plan of `after`, with the method that suits its variables.

    Where the user has chosen another one before, that stays.

    before, after : the table that a plan makes, and the plan.

    Raises
    ------
    InputError : a cell that the level of its variable does not allow.
    """
    suited, plan = _suited(*before), after[1]
    chosen = any(
        getattr(getattr(plan, part), key) != value
        for part, keys in suited.items()
        for key, value in keys.items()
    )
    return plan if chosen else plan.with_parts(_suited(*after))


def _suited(table: Table, plan: Plan) -> dict[str, dict[str, str]]:
    """The parts of a plan that suit its variables."""
    rows = rows_looked_at(table, plan)
    levels = [level_told(table, plan, name) for name in plan.variables.use]
    columns = [
        answers_by_level(table, plan, name, level, rows)[0][rows]
        for name, level in zip(plan.variables.use, levels, strict=True)
    ]
    return method_for(levels, columns)


def fit_notes(plan: Plan, variables: Sequence[Variable], raw: Floats) -> list[Caution]:
    """What suits the variables in use, where the plan does otherwise, or just that.

    Each has a remedy by its code. Empty where nothing is to be said.

    raw : (n, p) answers before scaling.
    """
    measure = MEASURES[plan.proximity.measure]
    if plan.tree.of != "cases" or plan.source.kind != "table" or not len(variables):
        return []
    if measure.kind == "numbers" and all(v.level == "binary" for v in variables):
        text = (
            f"All {counted(len(variables), 'variable')} are yes/no: {measure.name} counts "
            "how many of them differ between two cases. A presence measure gives the share "
            "they have in common and can ignore what both lack."
        )
        return [Caution("fit-presence", text)]
    ends = on_one_scale([v.level for v in variables], list(raw.T))
    if ends is None or measure.kind != "numbers":
        return []
    low, high = ends
    same = f"All {len(variables)} variables are ratings from {low} to {high}"
    if plan.scale.method == "none":
        text = (
            f"{same}, used unscaled: one scale point counts the same in each. With z-scores "
            "a point would count more where answers vary less."
        )
        return [Caution("fit-as-they-are", text)]
    if plan.scale.method in ("zscore", "sd1", "robust"):
        text = (
            f"{same}. On this scale a point counts more where answers vary less; unscaled, "
            "it counts the same in each."
        )
        return [Caution("fit-scaled", text)]
    return []
