"""Reading files of any kind we know: tables of cases, and rows of a matrix."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.base.reading import guarded
from gorvel.core.table.detect import find_decimal
from gorvel.core.table.file_kind import AUTO, Asked
from gorvel.core.table.file_kinds import kind_named, kind_of
from gorvel.core.table.table import Reading, Table

_FEW = 4  # rows, at least, in which the decimal mark is sought
_CELLS = 10_000  # cells at most, of that
_SAMPLE = 400  # rows from which the decimal mark is found
_PARSED = 0.8  # share of the work of reading


def read_table(
    path: Path, asked: Reading | None = None, sheet: str | None = None, progress: Progress = silent
) -> Table:
    """Read a file with a row for each case, below a header row unless there is none.

    Parameters
    ----------
    path : a file of any of `FILE_KINDS`.
    asked : delimiter, decimal mark and encoding of a text; "auto" in any has it found. Without a
        header the columns are called column_1, column_2 and so on.
    sheet : of a workbook; the first by default.
    progress : told the phase "reading"; may raise to stop.

    Raises
    ------
    InputError : no such file, not of its kind, no header, doubled names, rows of unequal length.
    """
    return read_as(path, Asked(asked or AUTO, sheet), progress)


def read_as(path: Path, asked: Asked, progress: Progress = silent) -> Table:
    """The same, with all that can be asked of any kind of file."""
    try:
        content = kind_of(path).read(path, asked, progress)
    except InputError as error:
        raise error.in_file(path.name) from None
    progress(Phase.READING, _PARSED)
    table = replace(_table(path.name, content.frame, content.reading), cautions=content.cautions)
    progress(Phase.READING, 1.0)
    return table


def preview_table(path: Path, asked: Asked | None = None, rows: int = 10) -> Table:
    """The first rows of a file, read like the whole, to see whether it is read aright.

    Raises
    ------
    InputError : as `read_table`, as far as the first rows can tell.
    """
    asked = asked or Asked()
    with guarded(path.name, "a table"):
        head = kind_of(path).head
        if head is None or path.suffix.lower() == ".gz":
            table = read_as(path, asked)
            return replace(table, frame=table.frame.head(rows))
        try:
            frame, reading, _ = head(path, asked.reading, rows)
        except InputError as error:
            raise error.in_file(path.name) from None
        return Table(path.name, frame, with_decimal(reading, frame))


def _table(name: str, frame: pl.DataFrame, reading: Reading) -> Table:
    if frame.height == 0:
        raise InputError("a header row and no cases", "at least one case", file=name)
    return Table(name, frame, with_decimal(reading, frame))


def with_decimal(reading: Reading, frame: pl.DataFrame) -> Reading:
    """The decimal mark found in the first rows, where it was not given."""
    if reading.decimal != "auto":
        return reading
    sample = frame.head(min(_SAMPLE, max(_CELLS // max(frame.width, 1), _FEW)))
    return replace(reading, decimal=find_decimal(pl.concat(sample.get_columns()).alias("")))


def names_in(path: Path) -> list[str]:
    """The sheets or tables of a file of which one is chosen, in order; none where none is.

    Raises
    ------
    InputError : a file that cannot be read.
    """
    try:
        return kind_of(path).names(path)
    except InputError as error:
        raise error.in_file(path.name) from None


def read_rows(
    path: Path, asked: Reading | None = None, sheet: str | None = None
) -> tuple[list[list[str]], Reading]:
    """Read a text or a workbook as rows of stripped cells, without a header of its own.

    Raises
    ------
    InputError : as `read_table`.
    """
    try:
        kind = kind_of(path)
        if kind.rows is None:
            raise InputError(f"a {path.suffix.lower()} file", "a matrix as text or workbook")
        found, reading = kind.rows(path, Asked(asked or AUTO, sheet))
        rows = [[cell.strip() for cell in row] for row in found if any(row)]
    except InputError as error:
        raise error.in_file(path.name) from None
    if reading.decimal == "auto":
        cells = [cell for row in rows for cell in row[1:]]
        reading = replace(reading, decimal=find_decimal(pl.Series(cells, dtype=pl.String)))
    return rows, reading


def first_rows(path: Path) -> tuple[list[list[str]], bool]:
    """The rows of stripped cells at the beginning of a file, and whether there are no others.

    None of a kind that holds no matrix.

    Raises
    ------
    InputError : as `read_table`, as far as the beginning can tell.
    """
    first = kind_of(path).first
    if first is None:
        return [], False
    try:
        rows, whole = first(path)
        return [[cell.strip() for cell in row] for row in rows if any(row)], whole
    except InputError as error:
        raise error.in_file(path.name) from None
    except OSError as error:
        raise InputError(error.strerror or "unreadable", "a table", file=path.name) from error


def begun(path: Path) -> dict[str, Any]:
    """Keys of [source] for a file that nobody has described.

    Raises
    ------
    InputError : a file of which something has to be chosen that cannot be.
    """
    kind = kind_named(path.name)
    return {} if kind is None else kind.begun(path)
