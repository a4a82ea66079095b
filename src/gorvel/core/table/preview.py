"""The beginning of a file: its first rows and lines, read like the whole."""

from __future__ import annotations

import csv
import io
import math
import zlib
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from io import StringIO
from pathlib import Path

from gorvel.core.base.errors import InputError
from gorvel.core.base.reading import guarded, open_to_read
from gorvel.core.table.detect import DELIMITERS, as_utf8, find_delimiter, head
from gorvel.core.table.files import TEXTS, WHOLE, WORKBOOKS, contents, unpacked
from gorvel.core.table.reading import (
    AUTO,
    column_names,
    nothing_there,
    read_table,
    rows_of,
    sheet_of,
    text_of,
    with_decimal,
)  # fmt: skip
from gorvel.core.table.table import Reading, Table, parse_number
from gorvel.core.table.text import TextFile, open_text, text_frame, text_header, text_rows

_PREVIEWED = 1 << 18  # bytes from which a preview is made
_PREVIEWED_ROWS = 200
_FIRST = 4  # rows, at least, from which a matrix is known
_LONGEST_LINE = 400  # characters of a raw line

_LOOKED_AT = 200  # lines
_DEEPEST = 30  # lines that may stand above a header
_FITS = 0.9  # share of rows that are as wide as the header


def lines_above(text: str, delimiter: str = "auto") -> int:
    """How many lines stand above the header of a delimited text; 0 where none is found lower.

    text : its beginning, with plain line ends; delimiter : as in plan files.
    """
    lines = [f"{line}\n" for line in text.split("\n")][:_LOOKED_AT]
    for above in range(min(_DEEPEST, len(lines) - 1)):
        if not lines[above].strip():
            continue
        rest = "".join(lines[above:])
        sign = find_delimiter(rest) if delimiter == "auto" else DELIMITERS[delimiter]
        rows = [row for row in csv.reader(io.StringIO(rest), delimiter=sign) if row]
        titles = list(csv.reader(lines[:above], delimiter=sign))
        if _is_header(titles, rows):
            return above
    return 0


def rows_above(rows: Sequence[Sequence[str | None]]) -> int:
    """How many rows of a sheet stand above its header; 0 where none is found lower."""
    cells = [[cell or "" for cell in row] for row in rows]
    for above in range(min(_DEEPEST, len(cells) - 1)):
        if any(cells[above]) and _is_header(cells[:above], cells[above:], sheet=True):
            return above
    return 0


def _is_header(titles: list[list[str]], rows: list[list[str]], sheet: bool = False) -> bool:
    """Are rows below titles a header and cases?"""
    width = _filled(rows[0])
    if width < 2 or any(2 * _filled(row) > width for row in titles):
        return False
    if titles and any(not math.isnan(parse_number(cell)) for cell in rows[0]):
        return False  # names of columns are no numbers
    if any(times > 1 for cell, times in Counter(rows[0]).items() if cell):
        return False
    below = rows[1:]
    if sheet:
        fits = sum(_filled(row) <= width for row in below)
    else:
        fits = sum(len(row) == len(rows[0]) for row in below)
    return bool(below) and fits >= _FITS * len(below)


def _filled(row: Sequence[str]) -> int:
    return sum(bool(cell.strip()) for cell in row)


def preview_table(
    path: Path, asked: Reading | None = None, sheet: str | None = None, rows: int = 10
) -> Table:
    """The first rows of a file, read like the whole, to see whether it is read aright.

    Raises
    ------
    InputError : as `read_table`, as far as the first rows can tell.
    """
    with guarded(path.name, "a table"):
        if "".join(path.suffixes[-1:]).lower() not in TEXTS:
            table = read_table(path, asked, sheet)
            return replace(table, frame=table.frame.head(rows))
        try:
            return _preview_of_text(path, asked or AUTO, rows)
        except InputError as error:
            raise error.in_file(path.name) from None


def _preview_of_text(path: Path, asked: Reading, rows: int) -> Table:
    with open_to_read(path) as file:
        start = file.read(_PREVIEWED)
    text = open_text(_whole_lines(start), asked, tabs_first=path.suffix.lower() == ".tsv")
    header = text_header(text)
    if not header:
        raise nothing_there(asked)
    names = column_names(header, text.reading.header)
    lines = [row for row in text_rows(text, part=True) if row][: rows + text.reading.header]
    data = StringIO(newline="")
    csv.writer(data, delimiter=text.delimiter, lineterminator="\n").writerows(lines)
    kept = data.getvalue().encode()
    frame = text_frame(TextFile(kept, text.delimiter, text.reading), names)
    return Table(path.name, frame, with_decimal(text.reading, frame))


def header_below(path: Path, sheet: str | None = None) -> int:
    """How many lines of a text, or rows of a sheet, stand above its header; see `lines_above`.

    Only the beginning of the file is looked at. 0 where it cannot be read.
    """
    try:
        kind = "".join(path.suffixes[-1:]).lower()
        if kind in WORKBOOKS:
            return rows_above(sheet_of(contents(path)[0], sheet).frame.head(_PREVIEWED_ROWS).rows())
        start = _start_of(path, _PREVIEWED)
        return lines_above(head(as_utf8(_whole_lines(start))[0])) if start else 0
    except InputError:
        return 0


def _start_of(path: Path, most: int) -> bytes:
    """The first bytes of a text, unpacked; none of a file of another kind, or one not there."""
    packed = path.suffix.lower() == ".gz"
    kind = path.suffixes[-2:-1] if packed else path.suffixes[-1:]
    if "".join(kind).lower() not in TEXTS:
        return b""
    try:
        with unpacked(path, packed) as file:
            return file.read(most)
    except (OSError, EOFError, zlib.error, InputError):
        return b""


def raw_lines(path: Path, most: int) -> list[str]:
    """The first lines of a text as they stand in the file, to see why it cannot be read.

    None of a workbook, or of a file that is not there; bytes that are no text become "?".
    """
    start = _start_of(path, _PREVIEWED // 4)
    shown = start.decode("utf-8", "replace").replace("\x00", "").replace("\ufffd", "?")
    return [line[:_LONGEST_LINE] for line in shown.splitlines()[:most]]


def _whole_lines(data: bytes) -> bytes:
    """Without the line that was cut in the middle, where there are others."""
    if len(data) < _PREVIEWED or b"\n" not in data:
        return data
    end = data.rfind(b"\n")
    return data[: end - end % 2]  # an even number of bytes, for encodings of two


def first_rows(path: Path) -> tuple[list[list[str]], bool]:
    """The rows of stripped cells at the beginning of a file, and whether there are no others.

    Raises
    ------
    InputError : as `read_table`, as far as the beginning can tell.
    """
    kind = "".join(path.suffixes[-1:]).lower()
    try:
        if kind in WHOLE:
            return [], False
        if kind in WORKBOOKS:
            cells = sheet_of(contents(path)[0], None).frame.head(_FIRST).iter_rows()
            rows = [[(cell or "").strip() for cell in row] for row in cells if any(row)]
            return rows, len(rows) < _FIRST
        if kind not in TEXTS:
            return list(rows_of(path, AUTO, None)[0]), True
        with open_to_read(path) as file:
            start = file.read(_PREVIEWED)
            while start.count(b"\n") < _FIRST and (more := file.read(_PREVIEWED)):
                start += more
            whole = not file.read(1)
        text = text_of(start if whole else _whole_lines(start), kind, AUTO)
        lines = text_rows(text, part=True)
        return [[cell.strip() for cell in row] for row in lines if any(row)], whole
    except InputError as error:
        raise error.in_file(path.name) from None
    except OSError as error:
        raise InputError(error.strerror or "unreadable", "a table", file=path.name) from error
