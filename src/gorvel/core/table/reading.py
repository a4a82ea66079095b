"""Reading files of any kind we know: tables of cases, and rows of a matrix."""

from __future__ import annotations

import csv
import gzip
import io
import zlib
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO, cast

import polars as pl

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.base.reading import bytes_of, guarded, open_to_read
from gorvel.core.table.apart import read_apart, sheets_apart
from gorvel.core.table.detect import as_utf8, find_decimal, head, stray_line
from gorvel.core.table.header import lines_above, rows_above
from gorvel.core.table.lines import json_lines_frame
from gorvel.core.table.stripping import stripped
from gorvel.core.table.table import Reading, Table
from gorvel.core.table.text import TextFile, open_text, text_frame, text_header, text_rows

__all__ = [
    "READABLE",
    "READ_MANY_WAYS",
    "WORKBOOKS",
    "file_bytes",
    "first_rows",
    "header_below",
    "preview_table",
    "raw_lines",
    "read_rows",
    "read_table",
    "sheets_of",
    "table_of",
]

TEXTS = (".csv", ".tsv", ".txt")
WORKBOOKS = (".xlsx", ".ods")
_WHOLE = (".parquet", ".arrow", ".feather", ".jsonl", ".ndjson")  # read in one way
READABLE = (*TEXTS, *WORKBOOKS, *_WHOLE)
READ_MANY_WAYS = (*TEXTS, *WORKBOOKS)  # of which something can be chosen
_PREVIEWED = 1 << 18  # bytes from which a preview is made
_PREVIEWED_ROWS = 200
_FIRST = 4  # rows, at least, from which a matrix is known
_LONGEST_LINE = 400  # characters of a raw line
_CELLS = 10_000  # cells at most, of that
_SAMPLE = 400  # rows from which the decimal mark is found
_MOST_UNPACKED = 4 << 30  # bytes of a compressed text
_PIECE = 1 << 24  # bytes read between two reports
_SWELLS = 4  # times that a packed text is expected to grow
_GOT, _DECODED, _PARSED = 0.2, 0.4, 0.8  # shares of the work done after each step
_AUTO = Reading("auto", "auto", "auto")


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
        frame, reading, cautions = _frame(path, asked or _AUTO, sheet, progress)
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
    return Table(name, frame, _with_decimal(reading, frame))


def file_bytes(path: Path, asked: Reading) -> tuple[bytes, Reading]:
    """A text as UTF-8 with plain line ends, and how it was read.

    Raises
    ------
    InputError : no such file, or not text in the encoding asked for.
    """
    try:
        with guarded(path.name, f"a text at {path}"):
            data, encoding = as_utf8(bytes_of(path), asked.encoding)
    except InputError as error:
        raise error.in_file(path.name) from None
    return data, replace(asked, delimiter="", encoding=encoding)


def _with_decimal(reading: Reading, frame: pl.DataFrame) -> Reading:
    """The decimal mark found in the first rows, where it was not given."""
    if reading.decimal != "auto":
        return reading
    sample = frame.head(min(_SAMPLE, max(_CELLS // max(frame.width, 1), _FIRST)))
    return replace(reading, decimal=find_decimal(pl.concat(sample.get_columns())))


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
            return Table(table.name, table.frame.head(rows), table.reading)
        try:
            return _preview_of_text(path, asked or _AUTO, rows)
        except InputError as error:
            raise error.in_file(path.name) from None


def _preview_of_text(path: Path, asked: Reading, rows: int) -> Table:
    with open_to_read(path) as file:
        start = file.read(_PREVIEWED)
    text = open_text(_whole_lines(start), asked, tabs_first=path.suffix.lower() == ".tsv")
    header = text_header(text)
    if not header:
        raise _empty(asked)
    names = _column_names(header, text.reading.header)
    lines = [row for row in text_rows(text, part=True) if row][: rows + text.reading.header]
    kept = "\n".join(_joined(line, text.delimiter) for line in lines).encode()
    frame = text_frame(TextFile(kept, text.delimiter, text.reading), names)
    return Table(path.name, frame, _with_decimal(text.reading, frame))


def _empty(asked: Reading) -> InputError:
    below = "nothing below these lines" if asked.skip else "an empty file"
    return InputError(below, "a header row and cases")


def header_below(path: Path, sheet: str | None = None) -> int:
    """How many lines of a text, or rows of a sheet, stand above its header; see `lines_above`.

    Only the beginning of the file is looked at. 0 where it cannot be read.
    """
    try:
        kind = "".join(path.suffixes[-1:]).lower()
        if kind in WORKBOOKS:
            return rows_above(_sheet(_bytes(path)[0], sheet).head(_PREVIEWED_ROWS).rows())
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
        with _unpacked(path, packed) as file:
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
        return sheets_apart(_bytes(path)[0])
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
        cells = [cell for row in rows for cell in row[1:]]
        reading = replace(reading, decimal=find_decimal(pl.Series(cells, dtype=pl.String)))
    return rows, reading


def first_rows(path: Path) -> tuple[list[list[str]], bool]:
    """The rows of stripped cells at the beginning of a file, and whether there are no others.

    Raises
    ------
    InputError : as `read_table`, as far as the beginning can tell.
    """
    kind = "".join(path.suffixes[-1:]).lower()
    try:
        if kind in _WHOLE:
            return [], False
        if kind in WORKBOOKS:
            cells = _sheet(_bytes(path)[0], None).head(_FIRST).iter_rows()
            rows = [[(cell or "").strip() for cell in row] for row in cells if any(row)]
            return rows, len(rows) < _FIRST
        if kind not in TEXTS:
            return list(_rows(path, _AUTO, None)[0]), True
        with open_to_read(path) as file:
            start = file.read(_PREVIEWED)
            while start.count(b"\n") < _FIRST and (more := file.read(_PREVIEWED)):
                start += more
            whole = not file.read(1)
        text = _text(start if whole else _whole_lines(start), kind, _AUTO)
        lines = text_rows(text, part=True)
        return [[cell.strip() for cell in row] for row in lines if any(row)], whole
    except InputError as error:
        raise error.in_file(path.name) from None
    except OSError as error:
        raise InputError(error.strerror or "unreadable", "a table", file=path.name) from error


def _rows(path: Path, asked: Reading, sheet: str | None) -> tuple[Iterator[list[str]], Reading]:
    """Rows of stripped cells without the blank ones, and how they are read."""
    data, kind = _bytes(path)
    found: Iterator[list[str]]
    if kind in _WHOLE:
        raise InputError(f"a {kind} file", "a matrix as text or workbook")
    if kind in WORKBOOKS:
        cells = _sheet(data, sheet).slice(asked.skip).iter_rows()
        found, reading = ([cell or "" for cell in row] for row in cells), Reading("", ".", "")
    else:
        file = _text(data, kind, asked)
        found, reading = text_rows(file), file.reading
    return ([cell.strip() for cell in row] for row in found if any(row)), reading


def _bytes(path: Path, progress: Progress = silent) -> tuple[bytes, str]:
    """What the file holds, unpacked, and the kind of file it is."""
    suffixes = [suffix.lower() for suffix in path.suffixes[-2:]]
    packed = bool(suffixes) and suffixes[-1] == ".gz"
    kind = (suffixes[:-1] or [""])[-1] if packed else (suffixes or [""])[-1]
    if kind not in READABLE or (packed and kind not in TEXTS):
        raise InputError(
            f'the file type "{"".join(suffixes)}"', f"one that Gorvel reads: {', '.join(READABLE)}"
        )
    try:
        with _unpacked(path, packed) as file:
            data = _all_of(file, path.stat().st_size, packed, progress)
    except FileNotFoundError:
        raise InputError("no such file", f"a table at {path}") from None
    except (OSError, EOFError, zlib.error) as error:
        reason = getattr(error, "strerror", None) or "an unreadable file"
        raise InputError(reason, "a readable file") from error
    return data, kind


@contextmanager
def _unpacked(path: Path, packed: bool) -> Iterator[BinaryIO]:
    with open_to_read(path) as file:
        if not packed:
            yield file
            return
        with gzip.open(file) as unpacked:
            yield cast(BinaryIO, unpacked)


def _all_of(file: BinaryIO, size: int, packed: bool, progress: Progress) -> bytes:
    """Everything a file holds, piece by piece; size : bytes on the disk."""
    pieces, total = [], 0
    while piece := file.read(_PIECE):
        pieces.append(piece)
        total += len(piece)
        if packed and total > _MOST_UNPACKED:
            raise InputError("a file that unpacks to more than 4 GiB", "a smaller one")
        share = min(total / max(size * (_SWELLS if packed else 1), 1), 1.0)
        progress(Phase.READING, _GOT * share)
    return b"".join(pieces)


def _text(data: bytes, kind: str, asked: Reading) -> TextFile:
    return open_text(data, asked, tabs_first=kind == ".tsv")


def _frame(
    path: Path, asked: Reading, sheet: str | None, progress: Progress
) -> tuple[pl.DataFrame, Reading, tuple[Caution, ...]]:
    """Columns of stripped text by name, how they were read, and what has to be known of that."""
    data, kind = _bytes(path, progress)
    typed = Reading("", ".", "", asked.header, asked.skip)
    if kind in _WHOLE:
        frame = _whole_frame(data, kind, asked.encoding)
        names = _names(frame.columns)
        named = frame.rename(dict(zip(frame.columns, names, strict=True)))
        return stripped(named), replace(typed, header=True, skip=0), ()
    if kind in WORKBOOKS:
        cells = _sheet(data, sheet).slice(asked.skip)
        if cells.is_empty():
            raise InputError("an empty sheet below these rows", "a header row and cases")
        names = _column_names([cell or "" for cell in cells.row(0)], asked.header)
        frame = cells.slice(int(asked.header)).rename(dict(zip(cells.columns, names, strict=True)))
        return stripped(frame.filter(pl.any_horizontal(pl.all().is_not_null()))), typed, ()
    file = _text(data, kind, asked)
    progress(Phase.READING, _DECODED)
    header = text_header(file)
    if not header:
        raise _empty(asked)
    frame = text_frame(file, _column_names(header, asked.header))
    return frame, file.reading, _mixed(data, asked, file.reading)


def _mixed(data: bytes, asked: Reading, found: Reading) -> tuple[Caution, ...]:
    """A caution where most of a text is UTF-8, and it had to be read as something else."""
    line = None
    if asked.encoding == "auto" and found.encoding in ("cp1252", "latin-1"):
        line = stray_line(data)
    if line is None:
        return ()
    text = (
        f"The text seems to be UTF-8, but line {line} has bytes that are none, so it was read as"
        f" {found.encoding}: letters beyond ASCII may be wrong."
    )
    return (Caution("mixed-encoding", text),)


def _whole_frame(data: bytes, kind: str, encoding: str) -> pl.DataFrame:
    """Columns of a file that knows their names."""
    if kind in (".jsonl", ".ndjson"):
        return json_lines_frame(as_utf8(data, encoding)[0].decode())
    return read_apart(data, "typed", "Parquet" if kind == ".parquet" else "Arrow")


def _sheet(data: bytes, sheet: str | None) -> pl.DataFrame:
    """All cells of a sheet, the header among them; the first one where none is named."""
    return read_apart(data, "sheet", sheet)


def _column_names(first_row: Sequence[str], header: bool) -> list[str]:
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
