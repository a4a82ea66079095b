"""What columns hold at first sight."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl
from polars.selectors import by_name

from gorvel.core.base.numbers import LARGEST
from gorvel.core.table.tallies import Tally, tallied


@dataclass(frozen=True)
class Overview:
    """Of a column, whatever is read as missing.

    answered : cells that are not empty; finite : cells that are finite numbers; different :
    answers; tally : of them, unless all are numbers.
    """

    answered: int
    different: int
    finite: int
    tally: Tally | None = None


def looked_over(cells: pl.DataFrame, numbers: pl.Expr) -> tuple[dict[str, Overview], pl.DataFrame]:
    """What columns of text hold, and the numbers of those that hold nothing else, null for a gap.

    numbers : the cells of all columns as numbers, null where they are none.
    """
    floats = cells.select(numbers)
    finite = _finite(floats)
    answered = {name: cells.height - gaps for name, gaps in _gaps(cells).items()}
    numeric = [name for name, known in finite.items() if 0 < known == answered[name]]
    different = cells.select(by_name(numeric).n_unique()).row(0, named=True) if numeric else {}
    tallies = tallied([series for series in cells.iter_columns() if series.name not in different])
    seen = {}
    for name, known in answered.items():
        tally = tallies.get(name)
        # of numbers, a gap is counted as another
        distinct = tally.different if tally else different[name] - (known < cells.height)
        seen[name] = Overview(known, distinct, finite[name], tally)
    return seen, floats.select(by_name(numeric))


def _gaps(frame: pl.DataFrame) -> dict[str, int]:
    return frame.null_count().row(0, named=True)


def _finite(floats: pl.DataFrame) -> dict[str, int]:
    """Cells of each column that are finite numbers."""
    some = {name: floats.height - gaps for name, gaps in _gaps(floats).items()}
    names = [name for name, count in some.items() if count]
    counted = floats.select(by_name(names).is_between(-LARGEST, LARGEST).sum())
    return some | (counted.row(0, named=True) if names else {})
