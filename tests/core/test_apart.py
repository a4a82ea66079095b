"""A file that brings a library down brings nothing else down."""

from __future__ import annotations

import io
from pathlib import Path
from random import Random

import polars as pl
import pytest

from gorvel.core.base.errors import InputError
from gorvel.core.table.apart import read_apart, sheets_apart
from gorvel.core.table.reading import read_table


def workbook(path: Path, *cells: tuple[int, int, object]) -> Path:
    import xlsxwriter

    book = xlsxwriter.Workbook(path)
    sheet = book.add_worksheet("one")
    for row, column, value in cells:
        sheet.write(row, column, value)
    book.close()
    return path


@pytest.mark.slow
def test_a_stray_cell_at_the_far_end_is_an_error_and_no_abort(tmp_path: Path) -> None:
    cells = [(0, 0, "a"), (0, 1, "b"), (1, 0, 1), (1, 1, 2)]
    path = workbook(tmp_path / "t.xlsx", *cells, (1_048_575, 16_383, "stray"))
    with pytest.raises(InputError) as caught:
        read_table(path)
    assert str(caught.value).startswith("t.xlsx: ")
    whole = workbook(tmp_path / "w.xlsx", *cells)
    assert read_table(whole).frame.rows() == [("1", "2")]


@pytest.mark.slow
def test_damaged_files_of_columns_are_refused(tmp_path: Path) -> None:
    """Some of these end the process that reads them."""
    rng, held = Random(5), io.BytesIO()
    frame = pl.DataFrame({"x": [1, 2, None, 4] * 20, "y": ["a", "b", "ü", None] * 20})
    frame.write_ipc(held, compression="zstd")
    path, refused = tmp_path / "t.feather", []
    for _ in range(6):
        damaged = bytearray(held.getvalue())
        for _ in range(rng.choice([1, 5, 40])):
            damaged[rng.randrange(len(damaged))] = rng.randrange(256)
        path.write_bytes(damaged)
        try:
            read_table(path)
        except InputError as error:
            refused.append(str(error))
    assert refused
    assert all(said.startswith("t.feather: ") for said in refused)


@pytest.mark.slow
def test_what_is_read_apart_is_what_is_read_here(tmp_path: Path) -> None:
    data = workbook(tmp_path / "t.xlsx", (0, 0, "a"), (1, 0, 1.5), (2, 0, True)).read_bytes()
    assert sheets_apart(data) == ["one"]
    read = read_apart(data, "sheet", None)
    assert read_apart(data, "sheet", None) is read  # remembered
    assert read.frame.rows() == [("a",), ("1.5",), ("true",)]
    with pytest.raises(InputError, match=r'no sheet "two"; expected one of: one'):
        read_apart(data, "sheet", "two")
    with pytest.raises(InputError, match="not a workbook; expected an XLSX or ODS file"):
        sheets_apart(b"no workbook")
