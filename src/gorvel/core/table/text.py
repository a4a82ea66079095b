"""Delimited text: from bytes to columns of cells."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.table.detect import DELIMITERS, as_utf8, find_delimiter, head, trimmed
from gorvel.core.table.table import Reading

__all__ = ["TextFile", "lines_below", "open_text", "text_frame", "text_header", "text_rows"]


_END, _QUOTE = ord("\n"), ord('"')


@dataclass(frozen=True)
class TextFile:
    """data : UTF-8 with plain line ends; delimiter : the character; reading : what was found."""

    data: bytes
    delimiter: str
    reading: Reading


def open_text(data: bytes, asked: Reading, tabs_first: bool = False) -> TextFile:
    """Find out how a text file was written.

    tabs_first : its name says that tabs delimit.

    Raises
    ------
    InputError : not text, or not in the encoding asked for.
    """
    data, encoding = as_utf8(data, asked.encoding)
    data = lines_below(data, asked.skip).rstrip(b"\n")
    if asked.delimiter != "auto":
        delimiter = DELIMITERS[asked.delimiter]
    elif tabs_first and b"\t" in data.partition(b"\n")[0]:
        delimiter = "\t"
    else:
        delimiter = find_delimiter(head(data))
    if delimiter == " ":
        data = trimmed(data.decode()).encode()
    name = next(key for key, char in DELIMITERS.items() if char == delimiter)
    return TextFile(data, delimiter, replace(asked, delimiter=name, encoding=encoding))


def lines_below(data: bytes, lines: int) -> bytes:
    """What stands below so many lines of a text."""
    at = 0
    for _ in range(lines):
        at = data.find(b"\n", at) + 1
        if at == 0:
            return b""
    return data[at:]


def text_rows(file: TextFile) -> Iterator[list[str]]:
    """The rows one by one, by Python's own reader; blank lines are empty rows.

    Raises
    ------
    InputError : names the line.
    """
    return _parse(file.data.decode(), file.delimiter)


def _parse(text: str, delimiter: str) -> Iterator[list[str]]:
    rows = csv.reader(
        io.StringIO(text, newline=""), delimiter=delimiter, skipinitialspace=delimiter == " "
    )
    try:
        yield from rows
    except csv.Error as error:
        place = f"line {rows.line_num}"
        raise InputError(str(error), "a delimited text table", place=place) from error


def text_header(file: TextFile) -> list[str]:
    """The cells of the first row that is not blank; none for an empty file."""
    return next((row for row in _parse(head(file.data), file.delimiter) if row), [])


def text_frame(file: TextFile, names: list[str]) -> pl.DataFrame:
    """All rows below the header, if there is one, as columns of text; an empty cell is null.

    Raises
    ------
    InputError : a row has another number of cells than the header; names the row.
    """
    if file.delimiter == " " or not _is_regular(file.data, file.delimiter, len(names)):
        return _read_slowly(file, names)
    return pl.read_csv(
        file.data,
        separator=file.delimiter,
        has_header=file.reading.header,
        infer_schema=False,
        new_columns=names,
        empty_string_is_null=True,
    )


def _is_regular(data: bytes, delimiter: str, width: int) -> bool:
    """Do all lines have the same number of cells, and do quotes stand around whole cells only?

    Only delimiters, line ends and quotes are looked at, those inside quotes not.
    """
    chars = np.frombuffer(data, dtype=np.uint8)
    quoted = b'"' in data
    marks = (chars == ord(delimiter)) | (chars == _END)
    if quoted:
        marks |= chars == _QUOTE
    places = np.flatnonzero(marks)
    kinds = chars[places]
    if quoted:
        quotes = kinds == _QUOTE
        inside = (np.cumsum(quotes, dtype=np.uint32) & 1).astype(bool)
        if inside.size and inside[-1]:
            return False
        if not _quotes_whole_cells(chars, places[quotes], ord(delimiter)):
            return False
        outside = ~(inside | quotes)
        places, kinds = places[outside], kinds[outside]
    ends = np.flatnonzero(kinds == _END)
    if width == 1 and bool(np.any(np.diff(places[ends], prepend=-1) == 1)):
        return False  # a blank line
    counts = np.diff(ends, prepend=-1, append=kinds.size) - 1
    return bool(np.all(counts == width - 1))


def _quotes_whole_cells(
    chars: NDArray[np.uint8], places: NDArray[np.int64], delimiter: int
) -> bool:
    """Does every quote begin or end a cell, or stand beside its double inside one?"""
    beside = (delimiter, _END, _QUOTE)
    before, after = chars[places[::2] - 1], chars[np.minimum(places[1::2] + 1, chars.size - 1)]
    begins = np.isin(before, beside) | (places[::2] == 0)
    ends = np.isin(after, beside) | (places[1::2] + 1 >= chars.size)
    return bool(begins.all() and ends.all())


def _read_slowly(file: TextFile, names: list[str]) -> pl.DataFrame:
    """Row by row: for blank lines and runs of spaces, and to name the row that does not fit."""
    rows: list[list[str]] = []
    single = len(names) == 1
    lines = text_rows(file)
    for row in _after_header(lines) if file.reading.header else lines:
        if not row and not single:
            continue
        cells = row or [""]
        if len(cells) != len(names):
            raise InputError(
                f"{len(cells)} cell{'' if len(cells) == 1 else 's'}",
                f"{len(names)}, as in the {'header' if file.reading.header else 'first row'}",
                place=f"row {len(rows) + 1}",
            )
        rows.append(cells)
    columns = list(zip(*rows, strict=True)) if rows else [()] * len(names)
    return pl.DataFrame(
        {name: list(cells) for name, cells in zip(names, columns, strict=True)},
        schema=dict.fromkeys(names, pl.String),
    )


def _after_header(rows: Iterator[list[str]]) -> Iterator[list[str]]:
    for row in rows:
        if row:
            break
    return rows
