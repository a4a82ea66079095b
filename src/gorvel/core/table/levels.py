"""Measurement levels: what a column of answers may be used for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.table.table import Cells, Level, Table

__all__ = [
    "LEVELS", "NUMERIC", "binary_codes", "categories", "guess_level", "present_value",
]  # fmt: skip

LEVELS: tuple[Level, ...] = ("interval", "ordinal", "nominal", "binary", "count")
NUMERIC: frozenset[Level] = frozenset(("interval", "ordinal", "count"))  # can be scaled

_PRESENT = {"yes", "true", "y", "1"}
_ABSENT = {"no", "false", "n", "0"}


def guess_level(table: Table, column: str, codes: Sequence[str] = ()) -> Level:
    """The level of a column nobody has named: that of what was made, or interval when mostly

    numeric, else nominal.
    """
    if table.made is not None and column in table.made.levels:
        return table.made.levels[column]
    return "interval" if table.numbers(column, codes).mostly else "nominal"


def binary_codes(
    table: Table, column: str, codes: Sequence[str] = ()
) -> tuple[NDArray[np.float64], list[Caution]]:
    """A two-valued column as 1 (present), 0 (absent), NaN (missing).

    yes, true, y, 1 against no, false, n, 0; of any other two values the larger is present.

    Raises
    ------
    InputError : the column has more than two values; names the row of the third.
    """
    cells = table.cells(column, codes).values
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


def present_value(values: set[str]) -> str | None:
    """Of the two values of a binary variable, in lower case, the one that is present."""
    if not values:
        return None
    if values <= _PRESENT | _ABSENT and len(values & _PRESENT) <= 1 and len(values & _ABSENT) <= 1:
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
