"""The kinds of files that are read: one entry each, from which forms, filters and laws follow."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Progress
from gorvel.core.base.reading import bytes_of, guarded
from gorvel.core.table.apart import ReadApart, read_apart
from gorvel.core.table.databases import database_frame, tables_of
from gorvel.core.table.ddi import ddi_positions
from gorvel.core.table.detect import as_utf8
from gorvel.core.table.file_kind import Asked, Content, FileKind
from gorvel.core.table.files import contents, file_bytes, is_packed
from gorvel.core.table.fixed import fixed_frame
from gorvel.core.table.header import checked_names
from gorvel.core.table.lines import json_lines_frame
from gorvel.core.table.stripping import stripped
from gorvel.core.table.table import Reading
from gorvel.core.table.text import lines_below
from gorvel.core.table.text_files import (
    begun_text,
    first_text_rows,
    read_text,
    text_cells,
    text_head,
)
from gorvel.core.table.workbooks import (
    begun_workbook,
    first_sheet_rows,
    read_workbook,
    sheet_cells,
    sheets_of,
)

_PLAIN = Reading("", ".", "")


def _named(read: ReadApart) -> Content:
    """Columns of a file that knows their names, and a caution where some hold no answers."""
    names = checked_names(read.frame.columns)
    frame = read.frame.rename(dict(zip(read.frame.columns, names, strict=True)))
    told = ", ".join(f"{column.place} ({column.error})" for column in read.first)
    text = f"Left out, since their cells are no numbers, text, dates or yes/no: {told}."
    cautions = (Caution("unusable-columns", text),) if read.errors else ()
    return Content(stripped(frame), _PLAIN, cautions)


def _read_typed(kind: str, path: Path, asked: Asked, progress: Progress) -> Content:
    return _named(read_apart(contents(path, progress), "typed", kind))


def _read_json_lines(path: Path, asked: Asked, progress: Progress) -> Content:
    text = as_utf8(contents(path, progress), asked.reading.encoding)[0].decode()
    return _named(ReadApart(json_lines_frame(text)))


def _read_database(path: Path, asked: Asked, progress: Progress) -> Content:
    return Content(stripped(database_frame(path, asked.table, asked.query, progress)), _PLAIN)


def _begun_database(path: Path) -> dict[str, Any]:
    """Its first table."""
    tables = tables_of(path)
    if not tables:
        raise InputError("a database without tables", "one with tables", file=path.name)
    return {"table": tables[0]}


def _read_fixed(path: Path, asked: Asked, progress: Progress) -> Content:
    if asked.codebook is None:
        raise InputError("no codebook", "one that gives the positions of columns",
                         place="[source] codebook")  # fmt: skip
    with guarded(asked.codebook, "a codebook in DDI-Codebook"):
        try:
            positions = ddi_positions(bytes_of(asked.folder / asked.codebook))
        except InputError as error:
            raise error.in_file(asked.codebook) from None
    data, reading = file_bytes(path, asked.reading)
    frame = fixed_frame(lines_below(data, asked.reading.skip), positions)
    return Content(stripped(frame), reading)


def _begun_fixed(path: Path) -> dict[str, Any]:
    """The codebook beside it."""
    book = path.with_suffix(".xml")
    if not book.exists():
        expected = f"a codebook that gives the positions of its columns: {book.name} (DDI-Codebook)"
        raise InputError("a fixed-width file", expected, file=path.name)
    return {"codebook": book.name}


FILE_KINDS: dict[str, FileKind] = {
    "text": FileKind(
        "texts", (".csv", ".tsv", ".txt"),
        frozenset({"delimiter", "decimal", "encoding", "skip", "header"}), read_text,
        begun=begun_text, head=text_head, rows=text_cells, first=first_text_rows, packed=True,
    ),
    "workbook": FileKind(
        "workbooks", (".xlsx", ".ods"), frozenset({"sheet", "sheets", "skip", "header"}),
        read_workbook, names=sheets_of, begun=begun_workbook, rows=sheet_cells,
        first=first_sheet_rows,
    ),
    "parquet": FileKind(
        "Parquet", (".parquet",), frozenset(), partial(_read_typed, "Parquet")
    ),
    "arrow": FileKind("Arrow", (".arrow", ".feather"), frozenset(), partial(_read_typed, "Arrow")),
    "json-lines": FileKind(
        "JSON Lines", (".jsonl", ".ndjson"), frozenset({"encoding"}), _read_json_lines
    ),
    "database": FileKind(
        "databases", (".sqlite", ".sqlite3", ".db"), frozenset({"table", "query"}), _read_database,
        one_of=("table", "query"),
        unchosen=("neither table nor query", "one of the two for a database"),
        names=tables_of, begun=_begun_database,
    ),
    "fixed": FileKind(
        "fixed-width texts", (".dat", ".asc"), frozenset({"codebook", "skip", "encoding"}),
        _read_fixed, one_of=("codebook",),
        unchosen=(
            "a fixed-width file without one", "a codebook that gives the positions of its columns"
        ),
        begun=_begun_fixed,
    ),
}  # fmt: skip


def kind_named(name: str) -> FileKind | None:
    """The kind of a file by its name, None for one that is not read."""
    path = Path(name.lower())
    packed = is_packed(path)
    ending = (path.with_suffix("") if packed else path).suffix
    for kind in FILE_KINDS.values():
        if ending in kind.endings and (kind.packed or not packed):
            return kind
    return None


def kind_of(path: Path) -> FileKind:
    """The kind of a file.

    Raises
    ------
    InputError : a kind that is not read.
    """
    kind = kind_named(path.name)
    if kind is None:
        ending = "".join(path.suffixes[-2:]).lower()
        expected = f"one that Gorvel reads: {', '.join(endings())}"
        raise InputError(f'the file type "{ending}"', expected, file=path.name)
    return kind


def mendable(path: Path) -> bool:
    """Can a file that was not read aright be read in another way?"""
    kind = kind_named(path.name)
    return kind is not None and bool(kind.options) and not kind.one_of


def endings(wanted: Callable[[FileKind], bool] = lambda kind: True) -> tuple[str, ...]:
    """Of all kinds that are wanted."""
    kinds = [kind for kind in FILE_KINDS.values() if wanted(kind)]
    return tuple(ending for kind in kinds for ending in kind.endings)
