"""Workbooks as files: read by sheet, looked at from the beginning, or taken for a matrix."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Progress
from gorvel.core.table.apart import ReadApart, read_apart, sheets_apart
from gorvel.core.table.file_kind import Asked, Beginning, Content, Rows
from gorvel.core.table.files import contents
from gorvel.core.table.header import column_names, rows_above
from gorvel.core.table.stripping import stripped
from gorvel.core.table.table import Reading

_LOOKED_AT = 200  # rows, for a header
_FIRST = 4  # rows from which a matrix is known


def sheets_of(path: Path) -> list[str]:
    """The sheets, in order."""
    return sheets_apart(contents(path))


def _sheet(data: bytes, sheet: str | None) -> ReadApart:
    """All cells of a sheet, the header among them; the first one where none is named."""
    return read_apart(data, "sheet", sheet)


def read_workbook(path: Path, asked: Asked, progress: Progress) -> Content:
    """A sheet."""
    told = asked.reading
    read = _sheet(contents(path, progress), asked.sheet)
    cells = read.frame.slice(told.skip)
    if cells.is_empty():
        raise InputError("an empty sheet below these rows", "a header row and cases")
    names = column_names([cell or "" for cell in cells.row(0)], told.header)
    frame = cells.slice(int(told.header)).rename(dict(zip(cells.columns, names, strict=True)))
    frame = frame.filter(pl.any_horizontal(pl.all().is_not_null()))
    return Content(stripped(frame), Reading("", ".", "", told.header, told.skip), _spoilt(read))


def _spoilt(sheet: ReadApart) -> tuple[Caution, ...]:
    """A caution where cells hold an error of the workbook, which is no answer."""
    if not sheet.errors:
        return ()
    told = ", ".join(f"{cell.place}: {cell.error}" for cell in sheet.first)
    more = " and others" if sheet.errors > len(sheet.first) else ""
    holds, are = ("cell holds", "is") if sheet.errors == 1 else ("cells hold", "are")
    text = f"{sheet.errors:,} {holds} an error and {are} read as no answer ({told}{more})."
    return (Caution("error-cells", text),)


def sheet_cells(path: Path, asked: Asked) -> Rows:
    """All rows of a sheet, without a header of their own."""
    cells = _sheet(contents(path), asked.sheet).frame.slice(asked.reading.skip).iter_rows()
    return ([cell or "" for cell in row] for row in cells), Reading("", ".", "")


def first_sheet_rows(path: Path) -> Beginning:
    """Rows at the beginning of the first sheet."""
    cells = _sheet(contents(path), None).frame.head(_FIRST).iter_rows()
    rows = [[cell or "" for cell in row] for row in cells if any(row)]
    return rows, len(rows) < _FIRST


def begun_workbook(path: Path) -> dict[str, Any]:
    """How many rows stand above the header of the first sheet, where some do and it can be read."""
    try:
        above = rows_above(_sheet(contents(path), None).frame.head(_LOOKED_AT).rows())
    except InputError:
        above = 0
    return {"skip": above} if above else {}
