"""A column of a table as numbers, by the level of its variable."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.plan.growth import word_order
from gorvel.core.plan.making import plain_word
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import binary_codes, categories, guess_level
from gorvel.core.table.table import Level, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def level_told(table: Table, plan: Plan, name: str) -> Level:
    """The level that a plan gives a variable, or the one its cells look like."""
    return plan.variables.level(name) or guess_level(table, name, plan.codes(name))


def _in_order(
    table: Table, name: str, codes: Sequence[str], order: Sequence[str], rows: Ints | None
) -> Floats:
    """Words as 1, 2, 3 …; case and outer blanks do not matter."""
    asked = None if rows is None else set(rows.tolist())
    places = {plain_word(word): float(place) for place, word in enumerate(order, 1)}
    out = np.full(table.n, np.nan)
    for row, cell in enumerate(table.cells(name, codes).values):
        if cell is None:
            continue
        if plain_word(cell) not in places and asked is not None and row not in asked:
            continue
        if plain_word(cell) not in places:
            place = f'row {row + 1}, column "{name}"'
            raise InputError(
                f'"{cell}"', f"one of: {', '.join(order)}", place=place, file=table.name
            )
        out[row] = places[plain_word(cell)]
    return out


def answers_by_level(
    table: Table, plan: Plan, name: str, level: Level, rows: Ints | None = None
) -> tuple[Floats, list[str], list[Caution]]:
    """(rows of the file,) answers as numbers, NaN where missing.

    The categories of a nominal variable, whose places are its numbers; and cautions.

    rows : (from 0) whose cells have to be what the level allows; None for all. A cell of another
        row that is not counts as missing.

    Raises
    ------
    InputError : a cell that its level does not allow; names row and column.
    """
    codes = plan.codes(name)
    if level == "nominal":
        values, names = categories(table.cells(name, codes))
        return values, names, []
    if level == "binary":
        values, cautions = binary_codes(table, name, codes, rows)
        return values, [], cautions
    order = word_order(plan, name) if level == "ordinal" else ()
    if order and not table.numbers(name, codes).mostly:
        return _in_order(table, name, codes, order, rows), [], []
    values = table.clean_numbers(name, codes, rows)
    below = np.flatnonzero(values < 0)
    if rows is not None:
        below = np.intersect1d(below, rows)
    if level == "count" and below.size:
        row = int(below[0])
        raise InputError(
            f"{values[row]:g}",
            "0 or more, as a count is",
            place=f'row {row + 1}, column "{name}"',
            file=table.name,
        )
    return values, [], []
