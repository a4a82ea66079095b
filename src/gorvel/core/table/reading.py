"""Reading delimited text: tables of cases, and square or lower-triangular matrices."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

import numpy as np
import polars as pl

from gorvel.core.errors import InputError
from gorvel.core.table.detect import DELIMITERS, decode, find_decimal, find_delimiter, trimmed
from gorvel.core.table.table import Reading, Table

__all__ = ["READABLE", "read_rows", "read_table"]

READABLE = (".csv", ".tsv", ".txt")
_SAMPLE = 400  # rows from which the decimal mark is found


def read_table(path: Path, asked: Reading | None = None) -> Table:
    """Read a delimited text file with a header row.

    Parameters
    ----------
    path : a .csv, .tsv or .txt file.
    asked : delimiter, decimal mark and encoding; "auto" in any of them has it found.

    Raises
    ------
    InputError : no such file, not text, no header, doubled names, rows of unequal length.
    """
    text, delimiter, reading = _open(path, asked)
    try:
        header = next(row for row in _parse(text, delimiter) if row)
    except StopIteration:
        raise InputError("an empty file", "a header row and cases", file=path.name) from None
    names = _column_names(header, path.name)
    frame = _read_frame(text, delimiter, names, path.name)
    if frame.height == 0:
        raise InputError("a header row and no cases", "at least one case", file=path.name)
    decimal = reading.decimal
    if decimal == "auto":
        sample = frame.head(_SAMPLE)
        decimal = find_decimal(cell for name in names for cell in sample[name] if cell)
    return Table(path.name, frame, Reading(reading.delimiter, decimal, reading.encoding))


def read_rows(path: Path, asked: Reading | None = None) -> tuple[list[list[str]], Reading]:
    """Read a delimited text file as rows of stripped cells, without a header of its own."""
    text, delimiter, reading = _open(path, asked)
    rows = [[cell.strip() for cell in row] for row in _parse(text, delimiter) if any(row)]
    decimal = reading.decimal
    if decimal == "auto":
        decimal = find_decimal(cell for row in rows for cell in row[1:])
    return rows, Reading(reading.delimiter, decimal, reading.encoding)


def _open(path: Path, asked: Reading | None) -> tuple[str, str, Reading]:
    asked = asked or Reading("auto", "auto", "auto")
    if path.suffix.lower() not in READABLE:
        raise InputError(
            f'the file type "{path.suffix}"',
            f"one that Gorvel reads: {', '.join(READABLE)}",
            file=path.name,
        )
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        raise InputError("no such file", f"a table at {path}", file=path.name) from None
    except OSError as error:
        reason = error.strerror or "an unreadable file"
        raise InputError(reason, "a readable file", file=path.name) from error
    try:
        text, encoding = decode(data, asked.encoding)
    except InputError as error:
        raise error.in_file(path.name) from None
    text = text.rstrip("\n")
    if asked.delimiter == "auto":
        tabs = path.suffix.lower() == ".tsv" and "\t" in text.partition("\n")[0]
        delimiter = "\t" if tabs else find_delimiter(text)
    else:
        delimiter = DELIMITERS[asked.delimiter]
    if delimiter == " ":
        text = trimmed(text)
    name = next(key for key, char in DELIMITERS.items() if char == delimiter)
    return text, delimiter, Reading(name, asked.decimal, encoding)


def _parse(text: str, delimiter: str) -> Iterator[list[str]]:
    rows = csv.reader(
        io.StringIO(text, newline=""), delimiter=delimiter, skipinitialspace=delimiter == " "
    )
    try:
        yield from rows
    except csv.Error as error:
        raise InputError(
            str(error), "a delimited text table", place=f"line {rows.line_num}"
        ) from error


def _column_names(header: list[str], file: str) -> list[str]:
    names = [cell.strip() or f"column_{place}" for place, cell in enumerate(header, 1)]
    doubled = [name for name, times in Counter(names).items() if times > 1]
    if doubled:
        places = [str(place) for place, name in enumerate(names, 1) if name == doubled[0]]
        raise InputError(
            f'the column name "{doubled[0]}" more than once (columns {", ".join(places)})',
            "a name of its own for each column",
            place="header row",
            file=file,
        )
    return names


def _read_frame(text: str, delimiter: str, names: list[str], file: str) -> pl.DataFrame:
    data = text.encode()
    if delimiter != " " and _is_regular(data, delimiter, len(names)):
        frame = pl.read_csv(
            data,
            separator=delimiter,
            infer_schema=False,
            new_columns=names,
        )
    else:
        frame = _read_slowly(text, delimiter, names, file)
    stripped = pl.all().str.strip_chars()
    return frame.select(pl.when(stripped == "").then(None).otherwise(stripped).name.keep())


def _is_regular(data: bytes, delimiter: str, width: int) -> bool:
    """Do all lines have the same number of cells? Counted outside quotes, in one pass."""
    chars = np.frombuffer(data, dtype=np.uint8)
    open_quotes = np.cumsum(chars == ord('"'), dtype=np.uint32) & 1
    outside = open_quotes == 0
    ends = np.flatnonzero((chars == ord("\n")) & outside)
    cuts = np.flatnonzero((chars == ord(delimiter)) & outside)
    counts = np.diff(np.searchsorted(cuts, ends), prepend=0, append=cuts.size)
    closed = open_quotes.size == 0 or not open_quotes[-1]
    blank = width == 1 and bool(np.any(np.diff(ends, prepend=-1) == 1))
    return bool(closed and not blank and np.all(counts == width - 1))


def _read_slowly(text: str, delimiter: str, names: list[str], file: str) -> pl.DataFrame:
    """Row by row: for blank lines and runs of spaces, and to name the row that does not fit."""
    rows: list[list[str]] = []
    single = len(names) == 1
    for row in islice(_parse(text, delimiter), 1, None):
        if not row and not single:
            continue
        cells = row or [""]
        if len(cells) != len(names):
            raise InputError(
                f"{len(cells)} cells",
                f"{len(names)}, as in the header",
                place=f"row {len(rows) + 1}",
                file=file,
            )
        rows.append(cells)
    columns = list(zip(*rows, strict=True)) if rows else [()] * len(names)
    return pl.DataFrame(
        {name: list(cells) for name, cells in zip(names, columns, strict=True)},
        schema=dict.fromkeys(names, pl.String),
    )
