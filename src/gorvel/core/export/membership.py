"""Memberships saved into a copy of the table."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import letters
from gorvel.core.base.writing import check_room, replacing
from gorvel.core.export.tables import cluster_column, placed_column
from gorvel.core.export.workbooks import write_sheet
from gorvel.core.grow.allocation import place_set_aside
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.results.table import ResultTable
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut

SAVABLE = (".csv", ".xlsx")
_FIGURES = 6  # of a number of a result


def free_name(name: str, taken: Sequence[str]) -> str:
    """A name that no column has yet."""
    out, number = name, 2
    while out in taken:
        out, number = f"{name}_{number}", number + 1
    return out


def membership_frame(
    source: Source, plan: Plan, grown: Grown, cut: Cut,
    names: Sequence[str] = (), titles: Sequence[str] = (),
) -> pl.DataFrame:  # fmt: skip
    """The table as it was read, with what `memberships_added` says.

    For a tree of variables these, one a row.
    """
    if grown.prepared.of == "variables":
        frame = pl.DataFrame({"variable": grown.prepared.labels})
    else:
        frame = typed_frame(source)
    return frame.hstack(memberships_added(source, plan, grown, cut, names, titles, frame.columns))


def memberships_added(
    source: Source, plan: Plan, grown: Grown, cut: Cut,
    names: Sequence[str] = (), titles: Sequence[str] = (), taken: Sequence[str] = (),
) -> pl.DataFrame:  # fmt: skip
    """A cluster number and letter for each case that was read, or each variable of a tree of them.

    Columns `cluster_k<count>` and `letter_k<count>` (b for k where branches are cut lower) are
    called otherwise where one is among those taken; cases that were dropped have none. Where the
    plan gives clusters to cases set aside, a column `placed` marks them by 1.

    names : of the clusters, instead of letters; titles : given to them, "" for one without, in a
    column `name_k<count>` where there is any.
    """
    called = names or [letters(k) for k in range(1, cut.clusters + 1)]
    turned = grown.prepared.of == "variables"
    placed = None if turned else place_set_aside(source, plan, grown)
    rows = range(1, (len(grown.prepared.labels) if turned else source.n) + 1)
    clusters = cluster_column(grown, rows, cut, placed)
    told = clusters.replace_strict(
        list(range(1, cut.clusters + 1)), list(called), default=None, return_dtype=pl.String
    )
    kind = f"{'b' if cut.split else 'k'}{cut.clusters}"
    name = free_name(f"cluster_{kind}", taken)
    letter = free_name(f"letter_{kind}", taken)
    added = [clusters.alias(name), told.alias(letter)]
    if any(titles):
        called = [title or f"Cluster {k}" for k, title in enumerate(titles, 1)]
        title = clusters.replace_strict(
            list(range(1, cut.clusters + 1)), called, default=None, return_dtype=pl.String
        )
        added.append(title.alias(free_name(f"name_{kind}", taken)))
    if placed is not None:
        added.append(placed_column(rows, placed).alias(free_name("placed", taken)))
    return pl.DataFrame(added)


def typed_frame(source: Source) -> pl.DataFrame:
    """What was read, columns of numbers as numbers; of a matrix the labels."""
    if isinstance(source, ProximityTable):
        return pl.DataFrame({"label": list(source.labels)})
    columns = []
    for name in source.names:
        numbers = source.numbers(name)
        if numbers.bad_row >= 0 or not numbers.mostly or _has_leading_zero(source, name):
            columns.append(source.frame[name])
            continue
        series = pl.Series(numbers.values).fill_nan(None)
        whole = series.drop_nulls()
        if bool((whole == whole.round()).all()) and bool((whole.abs() < 2**53).all()):
            series = series.cast(pl.Int64)
        columns.append(series.alias(name))
    return pl.DataFrame(columns)


def _has_leading_zero(source: Table, name: str) -> bool:
    """Codes such as 007 are text, whatever they look like."""
    return bool(source.series(name).str.contains(r"^[+-]?0\d").any())


def save_membership(
    source: Source, plan: Plan, grown: Grown, cut: Cut, path: Path,
    names: Sequence[str] = (), titles: Sequence[str] = (), apostrophes: bool = False,
) -> pl.DataFrame:  # fmt: skip
    """Write the table with its memberships to a .csv or .xlsx file, whole or not at all.

    names, titles : see `membership_frame`; apostrophes : see `write_frame`.

    Raises
    ------
    InputError : another file type, or a place that cannot be written.
    """
    check_savable(path)
    frame = membership_frame(source, plan, grown, cut, names, titles)
    write_frame(frame, path, apostrophes=apostrophes)
    return frame


def check_savable(path: Path) -> None:
    """Raises InputError : memberships are not written into files of this type."""
    if path.suffix.lower() not in SAVABLE:
        raise InputError(f'the file type "{path.suffix}"', " or ".join(SAVABLE), file=str(path))


def write_frame(
    frame: pl.DataFrame, path: Path, sheet: str = "memberships", apostrophes: bool = False
) -> None:
    """Write a table, whole or not at all.

    sheet : its name in a workbook; apostrophes : in a CSV file texts that a spreadsheet would take
    for formulas stand behind one.
    """
    if apostrophes and path.suffix.lower() == ".csv":
        frame = _behind_apostrophes(frame)
    with replacing(path) as part:
        if path.suffix.lower() == ".csv":
            check_room(part.parent, _bytes_of(frame))
            with part.open("wb") as file:  # of which the name need not be text
                frame.write_csv(file)
        else:
            write_sheet(frame, part, sheet)


def _bytes_of(frame: pl.DataFrame) -> int:
    """About as many as it takes as text."""
    text = sum(
        int(series.alias("").str.len_bytes().sum()) for series in frame.select(pl.col(pl.String))
    )
    return text + 2 * frame.height * frame.width


def _behind_apostrophes(frame: pl.DataFrame) -> pl.DataFrame:
    """Numbers stay as they are, whatever their sign; a workbook needs none of this."""
    text = pl.col(pl.String)
    formula = text.str.contains(r"^[=+\-@\t\r]") & text.cast(pl.Float64, strict=False).is_null()
    new = {name: f"'{name}" for name in frame.columns if name[:1] in ("=", "+", "-", "@")}
    plain = formula.not_().fill_null(value=True)
    return frame.with_columns(pl.when(plain).then(text).otherwise("'" + text)).rename(new)


def save_table(table: ResultTable, path: Path) -> None:
    """Write a table of results to a .csv or .xlsx file, whole or not at all.

    Raises
    ------
    InputError : another file type, or a place that cannot be written.
    """
    check_savable(path)
    heads = [name or f"column {place}" for place, name in enumerate(table.heads, 1)]
    columns = zip(*table.rows, strict=True) if table.rows else ([] for _ in heads)
    series = [
        pl.Series(name, list(column), strict=False)
        for name, column in zip(_different(heads), columns, strict=True)
    ]
    floats = pl.selectors.float()
    frame = pl.DataFrame(series).with_columns(floats.fill_nan(None).round_sig_figs(_FIGURES))
    write_frame(frame, path, "table")


def _different(names: Sequence[str]) -> list[str]:
    """Each its own: the second of a name has a number."""
    out: list[str] = []
    for name in names:
        again = sum(one == name for one in names[: len(out)])
        out.append(f"{name} ({again + 1})" if again else name)
    return out
