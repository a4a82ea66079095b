"""JSON Lines: an object for each case, a key for each column."""

from __future__ import annotations

import json
from typing import Any

import polars as pl

from gorvel.core.base.errors import InputError


def json_lines_frame(text: str) -> pl.DataFrame:
    """All keys as columns of text, in the order in which they first appear.

    A key that a line lacks is null. Numbers stand as they are written.

    Raises
    ------
    InputError : a line that is no object, or a value that holds others; names the line.
    """
    rows: list[dict[str, str | None]] = []
    names: dict[str, None] = {}
    for number, line in enumerate(text.split("\n"), 1):
        if not line.strip():
            continue
        row = _row(line, number)
        names.update(dict.fromkeys(row))
        rows.append(row)
    if not names:
        raise InputError("no lines", "an object for each case")
    return pl.DataFrame(
        {name: [row.get(name) for row in rows] for name in names},
        schema=dict.fromkeys(names, pl.String),
    )


def _row(line: str, number: int) -> dict[str, str | None]:
    place = f"line {number}"
    try:
        found = json.loads(line, parse_float=_Digits, parse_int=_Digits, parse_constant=_Digits)
    except (ValueError, RecursionError) as error:
        raise InputError(f"not JSON: {error}", "an object", place=place) from error
    if not isinstance(found, dict):
        raise InputError(f"{line.strip()[:40]}", "an object", place=place)
    return {str(name): _cell(name, value, place) for name, value in found.items()}


class _Digits(str):
    """A number as it is written."""

    __slots__ = ()


def _cell(name: str, value: Any, place: str) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return None if isinstance(value, _Digits) and value == "NaN" else str(value)
    where = f'{place}, key "{name}"'
    raise InputError("a value that holds others", "a number, a text, true or false", place=where)
