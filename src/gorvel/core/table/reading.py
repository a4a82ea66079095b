"""Reading files of any kind we know: tables of cases, and rows of a matrix."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

import polars as pl

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.table.apart import ReadApart, read_apart, sheets_apart
from gorvel.core.table.detect import as_utf8, find_decimal, stray_line
from gorvel.core.table.files import WHOLE, WORKBOOKS, contents
from gorvel.core.table.lines import json_lines_frame
from gorvel.core.table.stripping import stripped
from gorvel.core.table.table import Reading, Table
from gorvel.core.table.text import TextFile, open_text, text_frame, text_header, text_rows

_FEW = 4  # rows, at least, in which the decimal mark is sought
_CELLS = 10_000  # cells at most, of that
_SAMPLE = 400  # rows from which the decimal mark is found
_DECODED, _PARSED = 0.4, 0.8  # shares of the work done after each step
AUTO = Reading("auto", "auto", "auto")


def read_table(
    path: Path,
    asked: Reading | None = None,
    sheet: str | None = None,
    progress: Progress = silent,
) -> Table:
    """Read a file with a row for each case, below a header row unless there is none.

    Parameters
    ----------
    path : text (.csv, .tsv, .txt, each also .gz), workbook (.xlsx, .ods), .parquet, Arrow (.arrow,
        .feather) or JSON Lines (.jsonl, .ndjson).
    asked : delimiter, decimal mark and encoding of a text; "auto" in any has it found. Without a
        header the columns are called column_1, column_2 and so on.
    sheet : of a workbook; the first by default.
    progress : told the phase "reading"; may raise to stop.

    Raises
    ------
    InputError : no such file, not of its kind, no header, doubled names, rows of unequal length.
    """
    try:
        frame, reading, cautions = _frame(path, asked or AUTO, sheet, progress)
    except InputError as error:
        raise error.in_file(path.name) from None
    progress(Phase.READING, _PARSED)
    table = replace(_table(path.name, frame, reading), cautions=cautions)
    progress(Phase.READING, 1.0)
    return table


def table_of(name: str, frame: pl.DataFrame, reading: Reading) -> Table:
    """A table of columns of text, which are stripped, and in which "" is no answer.

    Raises
    ------
    InputError : no rows.
    """
    return _table(name, stripped(frame), reading)


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


def nothing_there(asked: Reading) -> InputError:
    """The error of a file without a header."""
    below = "nothing below these lines" if asked.skip else "an empty file"
    return InputError(below, "a header row and cases")


def sheets_of(path: Path) -> list[str]:
    """The sheets of a workbook, in order.

    Raises
    ------
    InputError : not a workbook.
    """
    try:
        return sheets_apart(contents(path)[0])
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
        found, reading = rows_of(path, asked or AUTO, sheet)
        rows = list(found)
    except InputError as error:
        raise error.in_file(path.name) from None
    if reading.decimal == "auto":
        cells = [cell for row in rows for cell in row[1:]]
        reading = replace(reading, decimal=find_decimal(pl.Series(cells, dtype=pl.String)))
    return rows, reading


def rows_of(path: Path, asked: Reading, sheet: str | None) -> tuple[Iterator[list[str]], Reading]:
    """Rows of stripped cells without the blank ones, and how they are read."""
    data, kind = contents(path)
    found: Iterator[list[str]]
    if kind in WHOLE:
        raise InputError(f"a {kind} file", "a matrix as text or workbook")
    if kind in WORKBOOKS:
        cells = sheet_of(data, sheet).frame.slice(asked.skip).iter_rows()
        found, reading = ([cell or "" for cell in row] for row in cells), Reading("", ".", "")
    else:
        file = text_of(data, kind, asked)
        found, reading = text_rows(file), file.reading
    return ([cell.strip() for cell in row] for row in found if any(row)), reading


def text_of(data: bytes, kind: str, asked: Reading) -> TextFile:
    """A text opened as asked for; kind : its ending, which tells of tabs."""
    return open_text(data, asked, tabs_first=kind == ".tsv")


def _frame(
    path: Path, asked: Reading, sheet: str | None, progress: Progress
) -> tuple[pl.DataFrame, Reading, tuple[Caution, ...]]:
    """Columns of stripped text by name, how they were read, and what has to be known of that."""
    data, kind = contents(path, progress)
    typed = Reading("", ".", "", asked.header, asked.skip)
    if kind in WHOLE:
        whole = _whole_frame(data, kind, asked.encoding)
        frame = whole.frame
        names = _names(frame.columns)
        named = frame.rename(dict(zip(frame.columns, names, strict=True)))
        return stripped(named), replace(typed, header=True, skip=0), _unusable(whole)
    if kind in WORKBOOKS:
        read = sheet_of(data, sheet)
        cells = read.frame.slice(asked.skip)
        if cells.is_empty():
            raise InputError("an empty sheet below these rows", "a header row and cases")
        names = column_names([cell or "" for cell in cells.row(0)], asked.header)
        frame = cells.slice(int(asked.header)).rename(dict(zip(cells.columns, names, strict=True)))
        frame = frame.filter(pl.any_horizontal(pl.all().is_not_null()))
        return stripped(frame), typed, _spoilt(read)
    file = text_of(data, kind, asked)
    progress(Phase.READING, _DECODED)
    header = text_header(file)
    if not header:
        raise nothing_there(asked)
    frame = text_frame(file, column_names(header, asked.header))
    return frame, file.reading, _mixed(data, asked, file.reading)


def _mixed(data: bytes, asked: Reading, found: Reading) -> tuple[Caution, ...]:
    """A caution where letters of a text are UTF-8, and it had to be read as something else."""
    line = None
    if asked.encoding == "auto" and found.encoding in ("cp1252", "latin-1"):
        line = stray_line(data)
    if line is None:
        return ()
    text = (
        f"Some letters are UTF-8, but line {line} has bytes that are none, so it was read as"
        f" {found.encoding}: letters beyond ASCII may be wrong."
    )
    return (Caution("mixed-encoding", text),)


def _spoilt(sheet: ReadApart) -> tuple[Caution, ...]:
    """A caution where cells hold an error of the workbook, which is no answer."""
    if not sheet.errors:
        return ()
    told = ", ".join(f"{cell.place}: {cell.error}" for cell in sheet.first)
    more = " and others" if sheet.errors > len(sheet.first) else ""
    holds, are = ("cell holds", "is") if sheet.errors == 1 else ("cells hold", "are")
    text = f"{sheet.errors:,} {holds} an error and {are} read as no answer ({told}{more})."
    return (Caution("error-cells", text),)


def _unusable(read: ReadApart) -> tuple[Caution, ...]:
    """A caution where columns are of a type that holds no answers."""
    if not read.errors:
        return ()
    told = ", ".join(f"{column.place} ({column.error})" for column in read.first)
    text = f"Left out, since their cells are no numbers, text, dates or yes/no: {told}."
    return (Caution("unusable-columns", text),)


def _whole_frame(data: bytes, kind: str, encoding: str) -> ReadApart:
    """Columns of a file that knows their names."""
    if kind in (".jsonl", ".ndjson"):
        return ReadApart(json_lines_frame(as_utf8(data, encoding)[0].decode()))
    return read_apart(data, "typed", "Parquet" if kind == ".parquet" else "Arrow")


def sheet_of(data: bytes, sheet: str | None) -> ReadApart:
    """All cells of a sheet, the header among them; the first one where none is named."""
    return read_apart(data, "sheet", sheet)


def column_names(first_row: Sequence[str], header: bool) -> list[str]:
    """The names of the columns: the first row, or numbers where it is a case like others."""
    return _names(first_row if header else [""] * len(first_row))


def _names(header: Sequence[str]) -> list[str]:
    names = [cell.strip() or f"column_{place}" for place, cell in enumerate(header, 1)]
    doubled = [name for name, times in Counter(names).items() if times > 1]
    if doubled:
        places = [str(place) for place, name in enumerate(names, 1) if name == doubled[0]]
        raise InputError(
            f'the column name "{doubled[0]}" more than once (columns {", ".join(places)})',
            "a name of its own for each column",
            place="header row",
        )
    return names
