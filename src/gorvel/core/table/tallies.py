"""The different answers of columns, and how often each was given."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

_MOST = 60  # different answers that are kept
_TIMES = "\0times"


@dataclass(frozen=True)
class Tally:
    """The answers of a column, counted.

    answers : the most frequent ones, of equally frequent ones the first to appear first; counts :
    of these; different : answers, whether kept or not; answered : cells that hold any.
    """

    answers: tuple[str, ...]
    counts: tuple[int, ...]
    different: int
    answered: int


def tallied(columns: Sequence[pl.Series]) -> dict[str, Tally]:
    """The answers of columns of text, all looked at together; null is none."""
    known = pl.all().drop_nulls()
    frame = pl.DataFrame(columns)
    found = frame.select(
        pl.all().arg_unique().implode(), known.unique_counts().implode().name.suffix(_TIMES)
    )
    return {s.name: _tally(s, found[s.name][0], found[f"{s.name}{_TIMES}"][0]) for s in columns}


def _tally(column: pl.Series, first: pl.Series, times: pl.Series) -> Tally:
    """first : the rows in which an answer, or a gap, first appears; times : those of answers."""
    rows, counts = first.to_numpy(), times.to_numpy()
    if rows.size > counts.size:
        gap = int(column.alias("").is_null().arg_max() or 0)
        rows = rows[rows != gap]
    most = np.argsort(counts.max(initial=0) - counts, kind="stable")[:_MOST]
    return Tally(
        tuple(map(column.item, rows[most].tolist())), tuple(counts[most].tolist()),
        counts.size, int(counts.sum(dtype=np.int64)),
    )  # fmt: skip
