"""Tables as workbooks: what is text stays text, and nothing is cut without a word."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl

from gorvel.core.base.errors import InputError

_MOST_ROWS, _MOST_COLUMNS, _LONGEST = 1_048_576, 16_384, 32_767  # of the format (ISO/IEC 29500)


def workbook(part: Path) -> Any:
    """A new one, in which texts that look like links, formulas or numbers are none."""
    import xlsxwriter

    as_text = dict.fromkeys(("strings_to_urls", "strings_to_formulas", "strings_to_numbers"), False)
    return xlsxwriter.Workbook(str(part), as_text)


def write_sheet(frame: pl.DataFrame, part: Path, sheet: str) -> None:
    """A table on one sheet, its header still in sight.

    Raises
    ------
    InputError : more rows, columns or characters in a cell than a workbook holds; names the place.
    """
    _check_size(frame)
    book = workbook(part)
    frame.write_excel(book, worksheet=sheet, autofit=True, freeze_panes=(1, 0))
    book.close()


def _check_size(frame: pl.DataFrame) -> None:
    rows, columns = frame.height + 1, frame.width
    if rows > _MOST_ROWS or columns > _MOST_COLUMNS:
        found = f"{rows:,} rows and {columns:,} columns"
        raise InputError(found, f"at most {_MOST_ROWS:,} and {_MOST_COLUMNS:,}, or a CSV file")
    for name in (*frame.columns,):
        if len(name) > _LONGEST:
            raise InputError(f"a name of {len(name):,} characters", _expected(), place="header")
    for series in frame.select(pl.col(pl.String)).iter_columns():
        long = (series.alias("").str.len_chars() > _LONGEST).fill_null(value=False)
        row = long.arg_max() if long.any() else None
        if row is not None:
            found = f"a text of {len(series[row]):,} characters"
            place = f'row {row + 1}, column "{series.name}"'
            raise InputError(found, _expected(), place=place)


def _expected() -> str:
    return f"at most {_LONGEST:,} in a cell of a workbook, or a CSV file"
