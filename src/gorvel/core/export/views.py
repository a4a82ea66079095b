"""What each view of a tree shows, as a table to be copied."""

from __future__ import annotations

import html
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import number
from gorvel.core.export.membership import check_savable, write_frame
from gorvel.core.export.tables import schedule_columns
from gorvel.core.grow.grown import Grown
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.tree.cuts import cut_at_count

__all__ = [
    "MOST_CELLS", "MOST_PAIRS", "ViewTable", "answers_table", "icicle_table", "labels_table",
    "proximities_table", "schedule_table",
]  # fmt: skip

MOST_PAIRS = 2000  # cases whose proximities are copied
MOST_CELLS = 500_000  # of an icicle plot, to be copied
_FIGURES = 6  # of a number in a file
Cell = str | int | float | None


@dataclass(frozen=True)
class ViewTable:
    """A table with heads. Numbers keep all their figures where a spreadsheet takes them from the

    clipboard; in a file they have six, and for word processors as many as on the screen.
    """

    heads: Sequence[str]
    rows: Sequence[Sequence[Cell]]

    def tsv(self) -> str:
        """Tab-separated lines, as spreadsheets take them."""
        lines = [self.heads, *self.rows]
        return "\n".join("\t".join(_plain(cell) for cell in line) for line in lines) + "\n"

    def save(self, path: Path) -> None:
        """Write a .csv or .xlsx file, whole or not at all.

        Raises
        ------
        InputError : another file type, or a place that cannot be written.
        """
        check_savable(path)
        heads = [name or f"column {place}" for place, name in enumerate(self.heads, 1)]
        columns = zip(*self.rows, strict=True) if self.rows else ([] for _ in heads)
        series = [
            pl.Series(name, list(column), strict=False)
            for name, column in zip(_different(heads), columns, strict=True)
        ]
        floats = pl.selectors.float()
        frame = pl.DataFrame(series).with_columns(floats.fill_nan(None).round_sig_figs(_FIGURES))
        write_frame(frame, path, "table")

    def html(self) -> str:
        """A table for word processors."""

        def line(cells: Iterable[Cell], tag: str) -> str:
            return "".join(f"<{tag}>{html.escape(_read(cell))}</{tag}>" for cell in cells)

        body = "".join(f"<tr>{line(row, 'td')}</tr>" for row in self.rows)
        return f"<table><tr>{line(self.heads, 'th')}</tr>{body}</table>"


def _different(names: Sequence[str]) -> list[str]:
    """Each its own: the second of a name has a number."""
    out: list[str] = []
    for name in names:
        again = sum(one == name for one in names[: len(out)])
        out.append(f"{name} ({again + 1})" if again else name)
    return out


def _plain(cell: Cell) -> str:
    if cell is None or (isinstance(cell, float) and np.isnan(cell)):
        return ""
    return str(cell).replace("\t", " ").replace("\n", " ")


def _read(cell: Cell) -> str:
    """As it stands in a text."""
    known = isinstance(cell, float) and not np.isnan(cell)
    return number(float(cell)) if known else _plain(cell)  # type: ignore[arg-type]


def schedule_table(grown: Grown, support: NDArray[np.float64] | None = None) -> ViewTable:
    """Every join in order, with all its columns; support : (n-1,) of the joins, if measured."""
    columns = schedule_columns(grown)
    if support is not None:
        columns["support"] = support.tolist()
    return ViewTable(list(columns), list(zip(*columns.values(), strict=True)))


def labels_table(
    grown: Grown, at: Arrangement, names: Sequence[str], members: Sequence[int]
) -> ViewTable:
    """The cases as drawn, with their clusters. names : of clusters; members : (n,) from 1."""
    labels, numbers = grown.prepared.labels, grown.prepared.numbers
    rows = [
        (position, int(numbers[case]), labels[case], names[members[case] - 1])
        for position, case in enumerate(at.order.tolist(), 1)
    ]
    return ViewTable(("position", "case", "label", "cluster"), rows)


def icicle_table(grown: Grown, at: Arrangement, first: int, last: int) -> ViewTable:
    """The cluster number of each case at each count, cases as drawn.

    Raises
    ------
    InputError : there would be more than `MOST_CELLS` cells.
    """
    if (last - first + 1) * grown.tree.n > MOST_CELLS:
        found = f"{grown.tree.n:,} cases at {last - first + 1:,} counts"
        raise InputError(found, f"at most {MOST_CELLS:,} cells to be copied", place="the clipboard")
    counts = list(range(first, last + 1))
    members = [cut_at_count(grown.tree, count).membership[at.order].tolist() for count in counts]
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    return ViewTable(
        ("label", *(f"{count} clusters" for count in counts)),
        list(zip(labels, *members, strict=True)),
    )


def proximities_table(grown: Grown, at: Arrangement) -> ViewTable:
    """All proximities, cases as drawn both ways.

    Raises
    ------
    InputError : there are more than `MOST_PAIRS` cases.
    """
    if grown.tree.n > MOST_PAIRS:
        found = f"the proximities of {grown.tree.n:,} cases"
        raise InputError(found, f"at most {MOST_PAIRS:,} to be copied", place="the clipboard")
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    block = grown.pairs.block(at.order, at.order).tolist()
    rows = [(label, *values) for label, values in zip(labels, block, strict=True)]
    return ViewTable(("", *labels), rows)


def answers_table(grown: Grown, at: Arrangement) -> ViewTable:
    """The answers as they were measured before scaling, cases as drawn."""
    raw = grown.prepared.raw
    assert raw is not None
    names = [variable.name for variable in grown.prepared.variables]
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    rows = [(label, *values) for label, values in zip(labels, raw[at.order].tolist(), strict=True)]
    return ViewTable(("label", *names), rows)
