"""Delimited texts as files: read whole, looked at from the beginning, or taken for a matrix."""

from __future__ import annotations

import csv
import zlib
from io import StringIO
from pathlib import Path
from typing import Any

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Phase, Progress
from gorvel.core.base.reading import open_to_read
from gorvel.core.table.detect import as_utf8, head, stray_line
from gorvel.core.table.file_kind import AUTO, Asked, Beginning, Content, Rows
from gorvel.core.table.files import contents, is_packed, unpacked
from gorvel.core.table.header import column_names, lines_above
from gorvel.core.table.table import Reading
from gorvel.core.table.text import TextFile, open_text, text_frame, text_header, text_rows

_PREVIEWED = 1 << 18  # bytes that are looked at
_FIRST = 4  # rows, at least, from which a matrix is known
_LONGEST_LINE = 400  # characters of a raw line
_DECODED = 0.4  # share of the work of reading


def _nothing_there(asked: Reading) -> InputError:
    """The error of a file without a header."""
    below = "nothing below these lines" if asked.skip else "an empty file"
    return InputError(below, "a header row and cases")


def _opened(path: Path, data: bytes, asked: Reading) -> TextFile:
    name = path.with_suffix("") if is_packed(path) else path
    return open_text(data, asked, tabs_first=name.suffix.lower() == ".tsv")


def read_text(path: Path, asked: Asked, progress: Progress) -> Content:
    """All of it."""
    data = contents(path, progress)
    file = _opened(path, data, asked.reading)
    progress(Phase.READING, _DECODED)
    header = text_header(file)
    if not header:
        raise _nothing_there(asked.reading)
    frame = text_frame(file, column_names(header, asked.reading.header))
    return Content(frame, file.reading, _mixed(data, asked.reading, file.reading))


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


def text_cells(path: Path, asked: Asked) -> Rows:
    """All rows, without a header of their own."""
    file = _opened(path, contents(path), asked.reading)
    return text_rows(file), file.reading


def text_head(path: Path, asked: Reading, rows: int) -> Content:
    """The first rows, read like the whole."""
    with open_to_read(path) as file:
        start = file.read(_PREVIEWED)
    text = _opened(path, _whole_lines(start), asked)
    header = text_header(text)
    if not header:
        raise _nothing_there(asked)
    names = column_names(header, text.reading.header)
    lines = [row for row in text_rows(text, part=True) if row][: rows + text.reading.header]
    data = StringIO(newline="")
    csv.writer(data, delimiter=text.delimiter, lineterminator="\n").writerows(lines)
    kept = data.getvalue().encode()
    return Content(text_frame(TextFile(kept, text.delimiter, text.reading), names), text.reading)


def first_text_rows(path: Path) -> Beginning:
    """Rows at the beginning of an unpacked text; all of a packed one."""
    if is_packed(path):
        return list(text_cells(path, Asked())[0]), True
    with open_to_read(path) as file:
        start = file.read(_PREVIEWED)
        while start.count(b"\n") < _FIRST and (more := file.read(_PREVIEWED)):
            start += more
        whole = not file.read(1)
    text = _opened(path, start if whole else _whole_lines(start), AUTO)
    return list(text_rows(text, part=True)), whole


def begun_text(path: Path) -> dict[str, Any]:
    """How many lines stand above the header, where some do and it can be read."""
    start = _start_of(path, _PREVIEWED)
    try:
        above = lines_above(head(as_utf8(_whole_lines(start))[0])) if start else 0
    except InputError:
        above = 0
    return {"skip": above} if above else {}


def _start_of(path: Path, most: int) -> bytes:
    """The first bytes, unpacked; none of a file that is not there."""
    try:
        with unpacked(path) as file:
            return file.read(most)
    except (OSError, EOFError, zlib.error, InputError):
        return b""


def raw_lines(path: Path, most: int) -> list[str]:
    """The first lines of a text as they stand in the file, to see why it cannot be read.

    None of a file that is not there; bytes that are no text become "?".
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
