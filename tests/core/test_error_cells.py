"""Cells of workbooks that hold an error are told of, and where they stand."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import polars as pl
import pytest
import xlsxwriter
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.plan.plan import validated
from gorvel.core.sources.reading import read_source
from gorvel.core.table.error_cells import ErrorCell, error_cells
from gorvel.core.table.reading import read_table
from gorvel.core.table.sheets import read_sheet
from gorvel.core.table.table import Table

Grid = list[list[str]]  # of cells; those that begin with # hold an error
CELLS = st.sampled_from(["", "1", "2.5", "Elm", "#N/A", "#DIV/0!"])
GRIDS = st.integers(1, 30).flatmap(
    lambda width: st.lists(st.lists(CELLS, min_size=width, max_size=width), min_size=1, max_size=6)
)


def xlsx(sheets: dict[str, Grid], from_row: int = 0, from_column: int = 0) -> bytes:
    held = io.BytesIO()
    book = xlsxwriter.Workbook(held)
    for name, grid in sheets.items():
        sheet = book.add_worksheet(name)
        for row, cells in enumerate(grid, from_row):
            for column, cell in enumerate(cells, from_column):
                if cell.startswith("#"):
                    sheet.write_formula(row, column, "=1/0", None, cell)
                elif cell:
                    sheet.write_string(row, column, cell)
    book.close()
    return held.getvalue()


def ods(sheets: dict[str, Grid], from_row: int = 0, from_column: int = 0) -> bytes:
    """Cells and rows that are the same are told once, with how many they are, as is usual."""
    space = "urn:oasis:names:tc:opendocument:xmlns:"
    spaces = {name: f"{space}{name}:1.0" for name in ("office", "table", "text")}
    spaces["calcext"] = "urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"

    def cell_of(cell: str, times: int) -> str:
        repeated = f' table:number-columns-repeated="{times}"' if times > 1 else ""
        if not cell:
            return f"<table:table-cell{repeated}/>"
        is_ = ' office:value-type="string"'
        if cell.startswith("#"):
            is_ += ' office:string-value="" calcext:value-type="error"'
        return f"<table:table-cell{is_}><text:p>{cell}</text:p></table:table-cell>" * times

    def row_of(cells: list[str]) -> str:
        row = cell_of("", from_column) if from_column else ""
        while cells:
            times = next((k for k, cell in enumerate(cells) if cell != cells[0]), len(cells))
            row += cell_of(cells[0], times)
            cells = cells[times:]
        return f"<table:table-row>{row}</table:table-row>"

    above = (
        f'<table:table-row table:number-rows-repeated="{from_row}"><table:table-cell/>'
        "</table:table-row>"
    )
    tables = "".join(
        f'<table:table table:name="{name}">{above if from_row else ""}'
        f"{''.join(map(row_of, grid))}</table:table>"
        for name, grid in sheets.items()
    )
    names = "".join(f' xmlns:{name}="{value}"' for name, value in spaces.items())
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr(
            "content.xml",
            f"<office:document-content{names}><office:body><office:spreadsheet>{tables}"
            "</office:spreadsheet></office:body></office:document-content>",
        )
    return held.getvalue()


def letters(column: int) -> str:
    """What a column is called, counted through: A to Z, then AA and so on."""
    names = [chr(65 + k) for k in range(26)]
    return [*names, *(a + b for a in names for b in names)][column]


@given(grid=GRIDS, other=GRIDS, row=st.integers(0, 3), column=st.integers(0, 40))
def test_every_error_is_found_where_it_stands(
    grid: Grid, other: Grid, row: int, column: int
) -> None:
    expected = [
        ErrorCell(f"{letters(column + c)}{row + r + 1}", cell)
        for r, cells in enumerate(grid)
        for c, cell in enumerate(cells)
        if cell.startswith("#")
    ]
    for make in (xlsx, ods):
        book = make({"before": other, "this": grid}, row, column)
        assert error_cells(book, "this") == expected, make.__name__
        assert error_cells(book, "no such sheet") == []


@given(data=st.binary(max_size=60), at=st.floats(0, 1), whole=st.sampled_from([xlsx, ods]))
def test_damaged_books_have_none_that_are_found(data: bytes, at: float, whole: object) -> None:
    assert callable(whole)
    book = bytearray(whole({"one": [["#N/A", "1"]] * 4}))
    begin = int(at * (len(book) - 1))
    book[begin : begin + len(data)] = data
    found = error_cells(bytes(book), "one")
    assert set(found) <= {ErrorCell(f"A{row}", "#N/A") for row in range(1, 5)}


GRID = [["id", "x", "y"], ["a", "1", "#N/A"], ["b", "#DIV/0!", "2"], ["c", "3", "4"]]


@pytest.mark.slow
def test_errors_are_gaps_with_a_caution(tmp_path: Path) -> None:
    for kind, make in ((".xlsx", xlsx), (".ods", ods)):
        path = tmp_path / f"t{kind}"
        path.write_bytes(make({"one": GRID, "two": [["id", "x"], ["d", "5"]]}))
        table = read_table(path)
        assert table.frame.rows() == [("a", "1", None), ("b", None, "2"), ("c", "3", "4")]
        (caution,) = table.cautions
        assert caution.code == "error-cells"
        assert caution.text == (
            "2 cells hold an error and are read as no answer (C2: #N/A, B3: #DIV/0!)."
        )
        assert read_table(path, sheet="two").cautions == ()
    path.write_bytes(ods({"one": [["x"], ["#N/A"], *[["#N/A", "1"]] * 4]}))
    assert read_sheet(path.read_bytes(), None).frame.height == 6
    (caution,) = read_table(path).cautions
    assert caution.text.startswith("5 cells hold an error")
    assert caution.text.endswith("(A2: #N/A, A3: #N/A, A4: #N/A and others).")


@pytest.mark.slow
def test_of_files_below_each_other_and_beside_the_name_is_told(tmp_path: Path) -> None:
    pl.DataFrame({"id": ["e"], "x": [1]}).write_csv(tmp_path / "one.csv")
    (tmp_path / "two.xlsx").write_bytes(xlsx({"s": GRID}))
    for more, asked in (
        ({"also": ["two.xlsx"]}, "two.xlsx: 2 cells hold an error"),
        (
            {"join": [{"file": "three.xlsx", "by": "id"}]},
            "three.xlsx: 1 cell holds an error and is",
        ),
    ):
        (tmp_path / "three.xlsx").write_bytes(xlsx({"s": [["id", "z"], ["e", "#N/A"]]}))
        source = {"file": "one.csv", "decimal": ".", **more}
        plan = validated({"source": source, "variables": {"use": ["x"]}}, "p.toml")
        found = read_source(plan, tmp_path / "one.csv")
        assert isinstance(found, Table)
        assert any(caution.text.startswith(asked) for caution in found.cautions), found.cautions
