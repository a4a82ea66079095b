"""Measurement levels: what a column of answers may be used for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.table.table import Cells, Level, Table

LEVELS: tuple[Level, ...] = ("interval", "ordinal", "nominal", "binary", "count")
NUMERIC: frozenset[Level] = frozenset(("interval", "ordinal", "count"))  # can be scaled

_PRESENT = {"yes", "true", "y", "1"}
_ABSENT = {"no", "false", "n", "0"}


def guess_level(table: Table, column: str, codes: Sequence[str] = ()) -> Level:
    """The level of a column nobody has named.

    That of what was made, or interval when mostly numeric, else nominal.
    """
    if table.made is not None and column in table.made.levels:
        return table.made.levels[column]
    return "interval" if table.numbers(column, codes).mostly else "nominal"


def binary_codes(
    table: Table, column: str, codes: Sequence[str] = (), rows: NDArray[np.int64] | None = None
) -> tuple[NDArray[np.float64], list[Caution]]:
    """A two-valued column as 1 (present), 0 (absent), NaN (missing).

    yes, true, y, 1 against no, false, n, 0; of any other two values the larger is present.

    rows : (from 0) that count where the whole column has more values; None for all.

    Raises
    ------
    InputError : the column has more than two values; names the row of the third.
    """
    cells = two_valued_cells(table, column, codes, rows)
    seen: dict[str, int] = {}
    for row, cell in enumerate(cells):
        if cell is not None and cell.lower() not in seen:
            seen[cell.lower()] = row
            if len(seen) == 3:
                raise InputError(
                    f'a third value, "{cell}"',
                    "two values in a binary variable",
                    place=f'row {row + 1}, column "{column}"',
                    file=table.name,
                )
    present = present_value(set(seen))
    values = np.array(
        [np.nan if c is None else float(c.lower() == present) for c in cells], dtype=np.float64
    )
    cautions = []
    if set(seen) == {"1", "2"}:
        cautions.append(
            Caution("binary-1-2", f'In "{column}" the values are 1 and 2; 2 was read as present.')
        )
    return values, cautions


def two_valued_cells(
    table: Table, column: str, codes: Sequence[str], rows: NDArray[np.int64] | None
) -> NDArray[np.object_]:
    """The cells of a column; where it has more than two values, none but those of some rows."""
    cells = table.cells(column, codes).values
    if rows is None or len({cell.lower() for cell in cells if cell is not None}) <= 2:
        return cells
    out = np.full(len(cells), None, dtype=object)
    out[rows] = cells[rows]
    return out


def are_yes_no(values: set[str]) -> bool:
    """Are these two words, in lower case, yes and no, or true and false, in one spelling?"""
    present, absent = values & _PRESENT, values & _ABSENT
    return bool(values) and values <= _PRESENT | _ABSENT and max(len(present), len(absent)) <= 1


def present_value(values: set[str]) -> str | None:
    """Of the two values of a binary variable, in lower case, the one that is present."""
    if not values:
        return None
    if are_yes_no(values):
        return next(iter(values & _PRESENT), None)
    try:
        return max(values, key=float)
    except ValueError:
        return max(values)


def categories(cells: Cells) -> tuple[NDArray[np.float64], list[str]]:
    """A nominal column as category numbers 0.., NaN where missing, and the categories, sorted."""
    names = sorted({cell for cell in cells.values if cell is not None})
    place = {name: float(i) for i, name in enumerate(names)}
    values = np.array([place.get(cell, np.nan) for cell in cells.values], dtype=np.float64)
    return values, names
