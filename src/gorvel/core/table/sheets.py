"""Workbooks (XLSX, ODS), Parquet and Arrow files: from bytes to columns of cells."""

from __future__ import annotations

import io
import zipfile
from typing import Literal, NamedTuple

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.table.error_cells import ErrorCell, error_cells

_MOST_UNPACKED = 4 << 30  # bytes
_MOST_SQUEEZED = 250  # times, for workbooks that unpack to more than _WORTH_A_LOOK
_WORTH_A_LOOK = 64 << 20


_A = {"Parquet": "a Parquet", "Arrow": "an Arrow"}


def _check_archive(data: bytes) -> None:
    """A workbook is a zip archive; one that unpacks beyond all measure is refused unopened."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise InputError("not a workbook", "an XLSX or ODS file") from error
    squeezed = unpacked / max(len(data), 1)
    if unpacked > _MOST_UNPACKED or (unpacked > _WORTH_A_LOOK and squeezed > _MOST_SQUEEZED):
        raise InputError(
            f"a workbook that unpacks from {len(data) / 2**20:.1f} to {unpacked / 2**20:,.0f} MiB",
            "one that does not grow so much; save the sheet as CSV",
        )


def _opened(data: bytes) -> object:
    import fastexcel

    _check_archive(data)
    try:
        return fastexcel.read_excel(data)
    except fastexcel.FastExcelError as error:
        raise InputError("a workbook that cannot be read", "an XLSX or ODS file") from error


def sheet_names(data: bytes) -> list[str]:
    """The sheets of a workbook, in order."""
    return list(_opened(data).sheet_names)  # type: ignore[attr-defined]


class Sheet(NamedTuple):
    """The cells of a sheet as text, and those that hold an error: they are empty in the frame."""

    frame: pl.DataFrame
    errors: list[ErrorCell]


def read_sheet(data: bytes, sheet: str | None) -> Sheet:
    """All cells of one sheet, the header among them; the first sheet by default.

    Raises
    ------
    InputError : not a workbook, no such sheet, an empty sheet.
    """
    import fastexcel

    book = _opened(data)
    names = list(book.sheet_names)  # type: ignore[attr-defined]
    if not names:
        raise InputError("a workbook without sheets", "a table")
    if sheet is not None and sheet not in names:
        raise InputError(
            f'no sheet "{sheet}"', f"one of: {', '.join(names)}", place="[source] sheet"
        )
    chosen = names[0] if sheet is None else sheet
    place = f'sheet "{chosen}"'
    try:
        load = book.load_sheet  # type: ignore[attr-defined]
        loaded = load(chosen, header_row=None, dtypes="string")
        frame: pl.DataFrame = loaded.to_polars()
    except fastexcel.FastExcelError as error:
        raise InputError("a sheet that cannot be read", "a table", place=place) from error
    if frame.is_empty():
        raise InputError("an empty sheet", "a header row and cases", place=place)
    return Sheet(frame, error_cells(data, chosen))


def typed_frame(
    data: bytes, kind: Literal["Parquet", "Arrow"]
) -> tuple[pl.DataFrame, dict[str, str]]:
    """Columns as text, by name, and the types of those that are left out; NaN is an empty cell.

    Left out are columns that hold more than one value a cell, bytes, or lengths of time.

    Raises
    ------
    InputError : not such a file, or no column is left.
    """
    try:
        read = pl.read_parquet if kind == "Parquet" else pl.read_ipc
        frame = read(io.BytesIO(data))
    except (pl.exceptions.PolarsError, OSError) as error:
        found = f"not {_A[kind]} file that can be read"
        raise InputError(found, f"{_A[kind]} file") from error
    unusable = {
        name: str(type_)
        for name, type_ in frame.schema.items()
        if type_.is_nested() or type_ in (pl.Binary, pl.Duration, pl.Object)
    }
    if unusable and len(unusable) == frame.width:
        name, type_ = next(iter(unusable.items()))
        place, expected = f'column "{name}"', "numbers, text, dates or yes/no"
        raise InputError(f"cells of type {type_}", expected, place=place)
    floats = pl.selectors.float()
    texts = frame.drop(list(unusable)).with_columns(floats.fill_nan(None)).cast(pl.String)
    return texts, unusable
