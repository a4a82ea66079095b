"""What a column holds, in a few figures."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import polars as pl

from gorvel.core.table.table import Table

__all__ = ["ColumnSummary", "describe_column"]


@dataclass(frozen=True)
class ColumnSummary:
    """valid, missing : cells; distinct : different values.

    mean, sd, low, high : of a numeric column (sd with n - 1), else None;
    mode, mode_share : the most frequent value of any other, and its share of the valid cells.
    """

    name: str
    numeric: bool
    valid: int
    missing: int
    distinct: int
    mean: float | None = None
    sd: float | None = None
    low: float | None = None
    high: float | None = None
    mode: str = ""
    mode_share: float = 0.0


def describe_column(table: Table, name: str, codes: Collection[str] = ()) -> ColumnSummary:
    """Sum a column up; cells equal to a missing code count as missing."""
    numbers = table.numbers(name, codes)
    cells = [cell for cell in table.cells(name, codes).values.tolist() if cell is not None]
    valid, missing = len(cells), table.n - len(cells)
    if numbers.mostly:
        known = numbers.values[~np.isnan(numbers.values)]
        return ColumnSummary(
            name, True, valid, missing, len(np.unique(known)),
            float(known.mean()),
            float(known.std(ddof=1)) if known.size > 1 else None,
            float(known.min()),
            float(known.max()),
        )  # fmt: skip
    if not cells:
        return ColumnSummary(name, False, 0, missing, 0)
    counts = pl.Series(name, cells).value_counts(sort=True, name="times")
    mode, times = counts.row(0)
    return ColumnSummary(
        name, False, valid, missing, counts.height, mode=str(mode), mode_share=times / valid
    )
