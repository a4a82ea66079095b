"""Delimited text: from bytes to columns of cells."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.table.detect import DELIMITERS, as_utf8, find_delimiter, head, trimmed
from gorvel.core.table.stripping import may_need_stripping, stripped
from gorvel.core.table.table import Reading

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


def text_rows(file: TextFile, part: bool = False) -> Iterator[list[str]]:
    """The rows one by one, by Python's own reader; blank lines are empty rows.

    part : the text is the beginning of another, which may end within quotes.

    Raises
    ------
    InputError : quotes that never end, or that end within a cell; names the row and its line.
    """
    return _parse(file.data.decode(), file, strict=not part)


def _parse(text: str, file: TextFile, strict: bool) -> Iterator[list[str]]:
    spaces = file.delimiter == " "
    rows = csv.reader(
        io.StringIO(text, newline=""),
        delimiter=file.delimiter, skipinitialspace=spaces, strict=strict,
    )  # fmt: skip
    number, line = 0 if file.reading.header else 1, 1
    try:
        for row in rows:
            yield row
            number += bool(row)
            line = rows.line_num + 1
    except csv.Error as error:
        place = f"row {number}" if number else "header row"
        raise _misquoted(error, f"{place} (line {line + file.reading.skip})") from error


def _misquoted(error: csv.Error, place: str) -> InputError:
    said = str(error)
    if "unexpected end" in said:
        return InputError("a quote that is never closed", "another one behind it", place=place)
    if "expected after" in said:
        expected = "the delimiter behind it, or two quotes for one"
        return InputError("a quote that ends within a cell", expected, place=place)
    return InputError(said, "a delimited text table", place=place)


def text_header(file: TextFile) -> list[str]:
    """The cells of the first row that is not blank; none for an empty file."""
    return next((row for row in _parse(head(file.data), file, strict=False) if row), [])


def text_frame(file: TextFile, names: list[str]) -> pl.DataFrame:
    """All rows below the header, if there is one, as columns of stripped text, null for none.

    Raises
    ------
    InputError : a row has another number of cells than the header; names the row.
    """
    if file.delimiter == " ":
        return stripped(_read_slowly(file, names))
    data, delimiter = file.data, file.delimiter
    with ThreadPoolExecutor(1) as beside:
        reading = beside.submit(_read_at_once, file, names)
        whole = b'"' not in data or _quotes_whole_cells(data, delimiter)
        edges = whole and may_need_stripping(data, delimiter)
        frame = reading.result()
    if frame is None or not whole or not _is_complete(frame, file):
        return stripped(_read_slowly(file, names))
    inside = data.count(b"\n") + 1 > frame.height + file.reading.header  # of quotes
    return stripped(frame) if edges or inside else frame


def _read_at_once(file: TextFile, names: list[str]) -> pl.DataFrame | None:
    """All rows by the table library; None where it finds that one is too long."""
    try:
        frame = pl.read_csv(
            file.data,
            separator=file.delimiter,
            has_header=file.reading.header,
            infer_schema=False,
            new_columns=names,
            empty_string_is_null=True,
        )
    except pl.exceptions.PolarsError:
        return None
    return frame.rechunk() if frame.width == len(names) else None  # all that follows is faster


def _is_complete(frame: pl.DataFrame, file: TextFile) -> bool:
    """Was every row as wide as the table?

    The table library completes those that are too short, by gaps, and takes one at the end of the
    file that is too long by an empty cell.
    """
    ends_open = file.data.endswith(file.delimiter.encode())
    doubtful = frame.width == 1 or ends_open or frame.to_series(-1).null_count() > 0
    return not doubtful or _is_regular(file, frame.width)


def _is_regular(file: TextFile, width: int) -> bool:
    """Do all lines have as many cells? Quotes stand around whole cells only."""
    data = file.data
    if width == 1 and (data.startswith(b"\n") or b"\n\n" in data):
        return False  # a blank line, as it seems
    passed_over = bytes(c for c in range(256) if c not in (ord(file.delimiter), _END, _QUOTE))
    marks = np.frombuffer(data.translate(None, passed_over), dtype=np.uint8)
    quotes = marks == _QUOTE
    if quotes.any():
        inside = np.logical_xor.accumulate(quotes)
        marks = marks[~(inside | quotes)]
    ends = marks == _END
    lines = int(np.count_nonzero(ends)) + 1
    return marks.size + 1 == lines * width and bool(ends[width - 1 :: width].all())


def _quotes_whole_cells(data: bytes, delimiter: str) -> bool:
    """Does every quote begin or end a cell, or stand beside its double inside one?"""
    chars = np.frombuffer(data, dtype=np.uint8)
    places = np.flatnonzero(chars == _QUOTE)
    if places.size % 2:
        return False
    beside = np.zeros(256, dtype=bool)
    beside[[ord(delimiter), _END, _QUOTE]] = True
    before, after = chars[places[::2] - 1], chars[np.minimum(places[1::2] + 1, chars.size - 1)]
    begins = beside[before] | (places[::2] == 0)
    ends = beside[after] | (places[1::2] + 1 >= chars.size)
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
            wanted = f"{len(names)}, as in the {'header' if file.reading.header else 'first row'}"
            if rows and len(cells) == 1 and all(len(row) < len(names) for row in lines):
                wanted += "; try removing the lines below the table from the file"
            raise InputError(counted(len(cells), "cell"), wanted, place=f"row {len(rows) + 1}")
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
