"""Fixed-width text: each column stands at the same characters of all lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import polars as pl

from gorvel.core.base.errors import InputError


@dataclass(frozen=True)
class Position:
    """Where a column stands. start, end : its first and last character, from 1."""

    name: str
    start: int
    end: int


def fixed_frame(data: bytes, positions: Sequence[Position]) -> pl.DataFrame:
    """Columns of text; where a line ends before, a cell is empty. Blank lines are no cases.

    data : UTF-8 with plain line ends.

    Raises
    ------
    InputError : no lines.
    """
    lines = pl.Series("line", data.decode().split("\n"), dtype=pl.String)
    lines = lines.filter(lines.str.strip_chars() != "")
    if lines.is_empty():
        raise InputError("an empty file", "a line for each case")
    cut = [
        pl.col("line").str.slice(one.start - 1, one.end - one.start + 1).alias(str(k))
        for k, one in enumerate(positions)
    ]
    names = {str(k): one.name for k, one in enumerate(positions)}
    return lines.to_frame().select(cut).rename(names)
