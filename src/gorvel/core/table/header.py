"""Where the header of a table stands, below titles, notes and blank lines."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from collections.abc import Sequence

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
