"""The header of a table: where it stands, and the names that it gives."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from collections.abc import Sequence

from gorvel.core.base.errors import InputError
from gorvel.core.table.detect import DELIMITERS, find_delimiter
from gorvel.core.table.table import parse_number

_LOOKED_AT = 200  # lines
_DEEPEST = 30  # lines that may stand above a header
_FITS = 0.9  # share of rows that are as wide as the header


def lines_above(text: str, delimiter: str = "auto") -> int:
    """How many lines stand above the header of a delimited text; 0 where none is found lower.

    text : its beginning, with plain line ends; delimiter : as in plan files.
    """
    lines = [f"{line}\n" for line in text.split("\n")][:_LOOKED_AT]
    for above in range(min(_DEEPEST, len(lines) - 1)):
        if not lines[above].strip():
            continue
        rest = "".join(lines[above:])
        sign = find_delimiter(rest) if delimiter == "auto" else DELIMITERS[delimiter]
        rows = [row for row in csv.reader(io.StringIO(rest), delimiter=sign) if row]
        titles = list(csv.reader(lines[:above], delimiter=sign))
        if _is_header(titles, rows):
            return above
    return 0


def rows_above(rows: Sequence[Sequence[str | None]]) -> int:
    """How many rows of a sheet stand above its header; 0 where none is found lower."""
    cells = [[cell or "" for cell in row] for row in rows]
    for above in range(min(_DEEPEST, len(cells) - 1)):
        if any(cells[above]) and _is_header(cells[:above], cells[above:], sheet=True):
            return above
    return 0


def _is_header(titles: list[list[str]], rows: list[list[str]], sheet: bool = False) -> bool:
    """Are rows below titles a header and cases?"""
    width = _filled(rows[0])
    if width < 2 or any(2 * _filled(row) > width for row in titles):
        return False
    if titles and any(not math.isnan(parse_number(cell)) for cell in rows[0]):
        return False  # names of columns are no numbers
    if any(times > 1 for cell, times in Counter(rows[0]).items() if cell):
        return False
    below = rows[1:]
    if sheet:
        fits = sum(_filled(row) <= width for row in below)
    else:
        fits = sum(len(row) == len(rows[0]) for row in below)
    return bool(below) and fits >= _FITS * len(below)


def _filled(row: Sequence[str]) -> int:
    return sum(bool(cell.strip()) for cell in row)


def column_names(first_row: Sequence[str], header: bool) -> list[str]:
    """The names of the columns: the first row, or numbers where it is a case like others."""
    return checked_names(first_row if header else [""] * len(first_row))


def checked_names(header: Sequence[str]) -> list[str]:
    """Names without blanks around them; numbers where there are none.

    Raises
    ------
    InputError : a name comes twice.
    """
    names = [cell.strip() or f"column_{place}" for place, cell in enumerate(header, 1)]
    doubled = [name for name, times in Counter(names).items() if times > 1]
    if doubled:
        places = [str(place) for place, name in enumerate(names, 1) if name == doubled[0]]
        raise InputError(
            f'the column name "{doubled[0]}" more than once (columns {", ".join(places)})',
            "a name of its own for each column",
            place="header row",
        )
    return names
