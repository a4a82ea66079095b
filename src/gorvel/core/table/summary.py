"""What a column holds, in a few figures."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.table.table import Table

_FEW = 12  # distinct numbers up to which each has its own bar
_BARS = 20


@dataclass(frozen=True)
class ColumnSummary:
    """valid, missing : cells; distinct : different values.

    mean, sd, low, high : of a numeric column (sd with n - 1), else None;
    mode, mode_share : the most frequent value of any other, and its share of the valid cells;
    shape : bar heights, the largest 1: of single values where there are few, else of classes of
        equal width, or of the most frequent categories.
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
    shape: tuple[float, ...] = ()


def describe_column(table: Table, name: str, codes: Collection[str] = ()) -> ColumnSummary:
    """Sum a column up; cells equal to a missing code count as missing."""
    numbers = table.numbers(name, codes)
    cells = table.series(name, codes)
    missing = cells.null_count()
    valid = table.n - missing
    if numbers.mostly:
        known = numbers.values[~np.isnan(numbers.values)]
        distinct = len(np.unique(known))
        return ColumnSummary(
            name, True, valid, missing, distinct,
            float(known.mean()),
            float(known.std(ddof=1)) if known.size > 1 else None,
            float(known.min()),
            float(known.max()),
            shape=_shape_of_numbers(known, distinct),
        )  # fmt: skip
    if not valid:
        return ColumnSummary(name, False, 0, missing, 0)
    counts = cells.drop_nulls().value_counts(sort=True, name="times")
    mode, times = counts.row(0)
    most = counts["times"].to_list()[:_BARS]
    shape = tuple(times / most[0] for times in most) if most[0] > 1 else ()
    return ColumnSummary(
        name, False, valid, missing, counts.height, mode=str(mode), mode_share=times / valid,
        shape=shape,
    )  # fmt: skip


def _shape_of_numbers(known: NDArray[np.float64], distinct: int) -> tuple[float, ...]:
    if distinct < 2:
        return (1.0,)
    if distinct <= _FEW:
        counts = np.unique(known, return_counts=True)[1]
    else:
        counts = np.histogram(known, bins=_BARS)[0]
    return tuple((counts / counts.max()).tolist())
