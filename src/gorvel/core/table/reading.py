"""Reading files of any kind we know: tables of cases, and rows of a matrix."""

from __future__ import annotations

import csv
import gzip
import io
import zlib
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path

import polars as pl

from gorvel.core.errors import InputError
from gorvel.core.table.detect import find_decimal
from gorvel.core.table.sheets import parquet_frame, sheet_frame, sheet_names
from gorvel.core.table.table import Reading, Table
from gorvel.core.table.text import TextFile, open_text, text_frame, text_header, text_rows

__all__ = [
    "READABLE",
    "WORKBOOKS",
    "first_cells",
    "preview_table",
    "read_rows",
    "read_table",
    "sheets_of",
]

TEXTS = (".csv", ".tsv", ".txt")
WORKBOOKS = (".xlsx", ".ods")
READABLE = (*TEXTS, *WORKBOOKS, ".parquet")
_PREVIEWED = 1 << 18  # bytes from which a preview is made
_SAMPLE = 400  # rows from which the decimal mark is found
_MOST_UNPACKED = 4 << 30  # bytes of a compressed text
_AUTO = Reading("auto", "auto", "auto")


def read_table(path: Path, asked: Reading | None = None, sheet: str | None = None) -> Table:
    """Read a file with a header row and a row for each case.

    Parameters
    ----------
    path : text (.csv, .tsv, .txt, each also .gz), workbook (.xlsx, .ods) or .parquet.
    asked : delimiter, decimal mark and encoding of a text; "auto" in any has it found.
    sheet : of a workbook; the first by default.

    Raises
    ------
    InputError : no such file, not of its kind, no header, doubled names, rows of unequal length.
    """
    try:
        frame, reading = _frame(path, asked or _AUTO, sheet)
    except InputError as error:
        raise error.in_file(path.name) from None
    if frame.height == 0:
        raise InputError("a header row and no cases", "at least one case", file=path.name)
    frame = _stripped(frame)
    if reading.decimal == "auto":
        sample = frame.head(_SAMPLE)
        cells = (cell for name in frame.columns for cell in sample[name] if cell)
        reading = Reading(reading.delimiter, find_decimal(cells), reading.encoding)
    return Table(path.name, frame, reading)


def preview_table(
    path: Path, asked: Reading | None = None, sheet: str | None = None, rows: int = 10
) -> Table:
    """The first rows of a file, read like the whole, to see whether it is read aright.

    Raises
    ------
    InputError : as `read_table`, as far as the first rows can tell.
    """
    kind = "".join(path.suffixes[-1:]).lower()
    if kind not in TEXTS:
        table = read_table(path, asked, sheet)
        return Table(table.name, table.frame.head(rows), table.reading)
    try:
        with path.open("rb") as file:
            start = file.read(_PREVIEWED)
        text = open_text(_whole_lines(start), asked or _AUTO, tabs_first=kind == ".tsv")
        names = _names(text_header(text))
        lines = [row for row in text_rows(text) if row][: rows + 1]
        kept = "\n".join(_joined(line, text.delimiter) for line in lines).encode()
        frame = _stripped(text_frame(TextFile(kept, text.delimiter, text.reading), names))
    except InputError as error:
        raise error.in_file(path.name) from None
    except OSError as error:
        raise InputError(error.strerror or "unreadable", "a table", file=path.name) from error
    reading = text.reading
    if reading.decimal == "auto":
        cells = (cell for name in frame.columns for cell in frame[name] if cell)
        reading = Reading(reading.delimiter, find_decimal(cells), reading.encoding)
    return Table(path.name, frame, reading)


def _whole_lines(data: bytes) -> bytes:
    """Without the line that was cut in the middle, where there are others."""
    if len(data) < _PREVIEWED or b"\n" not in data:
        return data
    end = data.rfind(b"\n")
    return data[: end - end % 2]  # an even number of bytes, for encodings of two


def _joined(cells: Sequence[str], delimiter: str) -> str:
    out = io.StringIO()
    csv.writer(out, delimiter=delimiter, lineterminator="").writerow(cells)
    return out.getvalue()


def sheets_of(path: Path) -> list[str]:
    """The sheets of a workbook, in order.

    Raises
    ------
    InputError : not a workbook.
    """
    try:
        return sheet_names(_bytes(path)[0])
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
        found, reading = _rows(path, asked or _AUTO, sheet)
        rows = list(found)
    except InputError as error:
        raise error.in_file(path.name) from None
    if reading.decimal == "auto":
        decimal = find_decimal(cell for row in rows for cell in row[1:])
        reading = Reading(reading.delimiter, decimal, reading.encoding)
    return rows, reading


def first_cells(path: Path) -> Iterator[list[str]]:
    """The same rows one by one, for whoever needs only the first of them.

    Raises
    ------
    InputError : as `read_table`.
    """
    try:
        yield from _rows(path, _AUTO, None)[0]
    except InputError as error:
        raise error.in_file(path.name) from None


def _rows(path: Path, asked: Reading, sheet: str | None) -> tuple[Iterator[list[str]], Reading]:
    """Rows of stripped cells without the blank ones, and how they are read."""
    data, kind = _bytes(path)
    found: Iterator[list[str]]
    if kind == ".parquet":
        raise InputError("a Parquet file", "a matrix as text or workbook")
    if kind in WORKBOOKS:
        cells = sheet_frame(data, sheet).iter_rows()
        found, reading = ([cell or "" for cell in row] for row in cells), Reading("", ".", "")
    else:
        file = _text(data, kind, asked)
        found, reading = text_rows(file), file.reading
    return ([cell.strip() for cell in row] for row in found if any(row)), reading


def _bytes(path: Path) -> tuple[bytes, str]:
    """What the file holds, unpacked, and the kind of file it is."""
    suffixes = [suffix.lower() for suffix in path.suffixes[-2:]]
    packed = bool(suffixes) and suffixes[-1] == ".gz"
    kind = (suffixes[:-1] or [""])[-1] if packed else (suffixes or [""])[-1]
    if kind not in READABLE or (packed and kind not in TEXTS):
        raise InputError(
            f'the file type "{"".join(suffixes)}"', f"one that Gorvel reads: {', '.join(READABLE)}"
        )
    try:
        if not packed:
            return path.read_bytes(), kind
        with gzip.open(path) as file:
            data = file.read(_MOST_UNPACKED + 1)
    except FileNotFoundError:
        raise InputError("no such file", f"a table at {path}") from None
    except (OSError, EOFError, zlib.error) as error:
        reason = getattr(error, "strerror", None) or "an unreadable file"
        raise InputError(reason, "a readable file") from error
    if len(data) > _MOST_UNPACKED:
        raise InputError("a file that unpacks to more than 4 GiB", "a smaller one")
    return data, kind


def _text(data: bytes, kind: str, asked: Reading) -> TextFile:
    return open_text(data, asked, tabs_first=kind == ".tsv")


def _frame(path: Path, asked: Reading, sheet: str | None) -> tuple[pl.DataFrame, Reading]:
    """Columns of text by name, not yet stripped, and how they were read."""
    data, kind = _bytes(path)
    if kind == ".parquet":
        frame = parquet_frame(data)
        return frame.rename(dict(zip(frame.columns, _names(frame.columns), strict=True))), Reading(
            "", ".", ""
        )
    if kind in WORKBOOKS:
        cells = sheet_frame(data, sheet)
        names = _names([cell or "" for cell in cells.row(0)])
        frame = cells.slice(1).rename(dict(zip(cells.columns, names, strict=True)))
        return frame.filter(pl.any_horizontal(pl.all().is_not_null())), Reading("", ".", "")
    file = _text(data, kind, asked)
    header = text_header(file)
    if not header:
        raise InputError("an empty file", "a header row and cases")
    return text_frame(file, _names(header)), file.reading


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


def _stripped(frame: pl.DataFrame) -> pl.DataFrame:
    """Cells without white space around them; the columns that have any are made anew."""
    edges = pl.all().str.contains(r"^\s|\s$|^$").any()
    touched = [name for name, found in frame.select(edges).row(0, named=True).items() if found]
    stripped = pl.col(touched).str.strip_chars()
    if not touched:
        return frame
    return frame.with_columns(pl.when(stripped == "").then(None).otherwise(stripped).name.keep())
