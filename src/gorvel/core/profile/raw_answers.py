"""The answers that clusters are told by: those in use and those kept for profiles, as they came."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cases.columns import answers_by_level, level_told
from gorvel.core.cases.prepared import Prepared
from gorvel.core.derive.making import as_completed
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import present_value, two_valued_cells
from gorvel.core.table.table import Level, Table

Role = Literal["active", "profile"]


@dataclass(frozen=True, eq=False)
class Question:
    """One variable.

    values : (n,) raw answers, codes of words, NaN where missing, for the cases of a tree; words :
    the levels of a nominal variable, and the two of a binary one, whose places are its codes.
    """

    name: str
    level: Level
    role: Role
    values: NDArray[np.float64]
    words: tuple[str, ...] = ()

    @cached_property
    def known_order(self) -> NDArray[np.int64]:
        """Places of the cases that answered, by their answers, rising."""
        return np.argsort(self.values, kind="stable")[: int((~np.isnan(self.values)).sum())]

    @property
    def nominal(self) -> bool:
        return self.level == "nominal"


def read_answers(table: Table, plan: Plan, prepared: Prepared) -> list[Question]:
    """Of the cases of a tree: variables in use first, then those for profiles only.

    Answers are as they were given: gaps that were filled are gaps, and nothing is scaled or capped.
    Behind a cross table there are none.

    Raises
    ------
    InputError : a cell of a variable for profiles that its level does not allow.
    """
    if prepared.chi_square is not None:
        return []
    table = as_completed(table, plan)
    rows = prepared.numbers - 1
    levels = {variable.name: variable.level for variable in prepared.variables}
    out = [_told(table, plan, name, levels[name], "active", rows) for name in plan.variables.use]
    return out + [
        _told(table, plan, name, level_told(table, plan, name), "profile", rows)
        for name in plan.variables.profile
    ]


def _told(
    table: Table, plan: Plan, name: str, level: Level, role: Role, rows: NDArray[np.int64]
) -> Question:
    values, words, _ = answers_by_level(table, plan, name, level, rows)
    if level == "binary":
        words = _two_words(table, plan, name, rows)
    return Question(name, level, role, values[rows], tuple(words))


def _two_words(table: Table, plan: Plan, name: str, rows: NDArray[np.int64]) -> list[str]:
    """Of a binary variable, the absent one first; "" for one that nobody gave."""
    cells = two_valued_cells(table, name, plan.codes(name), rows)
    seen = {cell.lower(): cell for cell in cells if cell is not None}
    present = present_value(set(seen))
    absent = next((word for low, word in seen.items() if low != present), "")
    return [absent, seen[present] if present is not None else ""]
