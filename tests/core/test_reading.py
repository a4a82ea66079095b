"""Files in, cells out; files that are not tables are refused with the place."""

from __future__ import annotations

import csv
import gzip
import io
import math
import re
import zipfile
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any, Literal

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError
from gorvel.core.table.file_kind import Asked
from gorvel.core.table.levels import binary_codes
from gorvel.core.table.matrix import read_matrix
from gorvel.core.table.reading import names_in, preview_table, read_as, read_table
from gorvel.core.table.sheets import read_sheet, typed_frame
from gorvel.core.table.table import Reading, Table, parse_number

CELLS = st.text(st.sampled_from('ab1,;"\n\té '), max_size=6)


def written(directory: Path, data: str | bytes, name: str = "t.csv") -> Path:
    path = directory / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1"])
@given(rows=st.lists(st.tuples(CELLS, CELLS, st.floats(-1e6, 1e6)), min_size=2, max_size=6))
def test_what_was_written_is_read(
    tmp_path_factory: pytest.TempPathFactory,
    delimiter: str,
    encoding: str,
    rows: list[tuple[str, str, float]],
) -> None:
    text = io.StringIO()
    decimal = "," if delimiter == ";" else "."
    writer = csv.writer(text, delimiter=delimiter, quoting=csv.QUOTE_ALL)
    writer.writerow(["naïve", "b", "number"])
    writer.writerows([(a, b, repr(x).replace(".", decimal)) for a, b, x in rows])
    directory = tmp_path_factory.mktemp("read")
    table = read_table(written(directory, text.getvalue().encode(encoding)))
    assert table.names == ["naïve", "b", "number"]
    for k, name in enumerate(["naïve", "b"]):
        told = table.cells(name).values.tolist()
        assert told == [row[k].strip() or None for row in rows]
    assert table.numbers("number").values.tolist() == [x for _, _, x in rows]


def test_gaps_codes_and_blank_lines(tmp_path: Path) -> None:
    path = written(tmp_path, "id,q,w\n1,98,2\n\n2,,98.0\n3, 4 ,1e1\n\n")
    table = read_table(path)
    assert table.n == 3
    np.testing.assert_array_equal(table.numbers("q", ["98"]).values, [np.nan, np.nan, 4])
    np.testing.assert_array_equal(table.numbers("w", ["98"]).values, [2, np.nan, 10])
    assert not table.numbers("q", ["98"]).bad_cell


ANSWERS = (
    "1", "2", "98", "98.0", "9.8e1", "+98", "98.", "abc", " y", "-0", "0", "nan", "inf", "1,5",
    "98,0", "NA", "", "·", None,
)  # fmt: skip


@settings(max_examples=examples(200))
@given(
    st.lists(st.sampled_from(ANSWERS), max_size=12),
    st.lists(st.sampled_from([cell for cell in ANSWERS if cell is not None]), max_size=5),
    st.sampled_from(".,"),
)
def test_a_code_is_a_gap_however_its_number_is_written(
    cells: list[str | None], codes: list[str], decimal: Literal[".", ","]
) -> None:
    frame = pl.DataFrame({"q": cells}, schema={"q": pl.String})
    numbers = {number for number in map(parse_number, codes) if not math.isnan(number)}
    wanted = [
        None if cell in codes or parse_number(cell or "", decimal) in numbers else cell
        for cell in cells
    ]
    assert Table("t", frame, Reading(decimal=decimal)).series("q", codes).to_list() == wanted


def test_columns_of_spaces(tmp_path: Path) -> None:
    table = read_table(written(tmp_path, "a   b  c\n1  22   3\n10 2    3 \n", "t.txt"))
    assert table.reading.delimiter == "space"
    assert table.numbers("b").values.tolist() == [22, 2]


@pytest.mark.parametrize(
    ("cells", "present"),
    [("yes No YES", [1, 0, 1]), ("1 2 1", [0, 1, 0]), ("a b a", [0, 1, 0]), ("9 10 9", [0, 1, 0]),
     ("true false true", [1, 0, 1]), ("n n n", [0, 0, 0])],
)  # fmt: skip
def test_two_values_become_present_and_absent(
    tmp_path: Path, cells: str, present: list[float]
) -> None:
    table = read_table(written(tmp_path, "x\n" + cells.replace(" ", "\n")))
    values, cautions = binary_codes(table, "x")
    assert values.tolist() == present
    assert [c.code for c in cautions] == (["binary-1-2"] if cells == "1 2 1" else [])


@pytest.mark.parametrize(
    ("data", "place"),
    [
        (b"", "empty file"),
        (b"a,b\n", "no cases"),
        (b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 9, "binary data"),
        (b"a,b\n1,2\n1,2,3\n", "row 2: 3 cells; expected 2"),
        (b"a,b,a\n1,2,3\n", 'header row: the column name "a" more than once (columns 1, 3)'),
        (b"a,b\n1\n", "row 1: 1 cell; expected 2"),
    ],
)
def test_what_is_no_table_is_refused_with_the_place(
    tmp_path: Path, data: bytes, place: str
) -> None:
    path = written(tmp_path, data)
    with pytest.raises(InputError) as caught:
        read_table(path)
    assert str(caught.value).startswith("t.csv: ")
    assert place in str(caught.value)


def refusal(read: Callable[[Any], object], held: Path | bytes) -> str | None:
    try:
        read(held)
    except InputError as error:
        return str(error)
    return None


@given(data=st.binary(max_size=300))
def test_no_bytes_crash_the_reader(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = written(tmp_path_factory.mktemp("fuzz"), data)
    for read in (read_table, read_matrix):
        error = refusal(read, path)
        assert error is None or re.fullmatch(r"t\.csv: .+", error)


@pytest.mark.parametrize("read", [read_as, preview_table])
def test_nothing_may_be_left_below_the_lines_passed_over(
    tmp_path: Path, read: Callable[..., object]
) -> None:
    path = written(tmp_path, "a,b\n1,2\n")
    with pytest.raises(InputError, match="nothing below these lines; expected a header row"):
        read(path, Asked(Reading("auto", "auto", "auto", skip=5)))
    with pytest.raises(InputError, match="an empty file"):
        read(written(tmp_path, "\n\n"), Asked())


def test_a_text_that_is_utf8_but_for_some_bytes_is_said(tmp_path: Path) -> None:
    good = "name,x\nZoë,1\nÅse,2\nJosé,3\n"
    (caution,) = read_table(written(tmp_path, good.encode() + b"Ren\xe9,4\n")).cautions
    assert caution.code == "mixed-encoding"
    assert "line 5 has bytes that are none, so it was read as cp1252" in caution.text
    (caution,) = read_table(written(tmp_path, "name,x\nZoë,1\n".encode() + b"Ren\xe9,4\n")).cautions
    assert "line 3 has bytes that are none" in caution.text  # one of each kind
    by_chance = "name,x\nJosé,1\nÅse,2\nRenée,3\nZoë,4\nñandú,5\nÖÄÜß,6\nCAFÉ…,7\n"
    assert read_table(written(tmp_path, by_chance.encode("cp1252"))).cautions == ()
    for plain in (good.encode(), good.encode("cp1252"), good.encode("latin-1"), b"a,b\n1,\xe9\n"):
        assert read_table(written(tmp_path, plain)).cautions == ()


def ods(rows: list[list[str]]) -> bytes:
    """A small workbook in the open format, written by hand."""
    space = "urn:oasis:names:tc:opendocument:xmlns:"
    cells = "".join(
        "<table:table-row>"
        + "".join(
            '<table:table-cell office:value-type="string">'
            f"<text:p>{cell}</text:p></table:table-cell>"
            for cell in row
        )
        + "</table:table-row>"
        for row in rows
    )
    content = (
        "<office:document-content"
        + "".join(f' xmlns:{name}="{space}{name}:1.0"' for name in ("office", "table", "text"))
        + f'><office:body><office:spreadsheet><table:table table:name="one">{cells}'
        "</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr("content.xml", content)
    return out.getvalue()


@pytest.mark.slow
def test_workbooks_parquet_and_packed_text_read_alike(tmp_path: Path) -> None:
    columns = {"id": ["007", " x", None], "n": [1, 98, None], "f": [0.25, -1e-9, 3.0]}
    frame = pl.DataFrame(columns)
    frame.write_parquet(tmp_path / "t.parquet")
    frame.write_excel(tmp_path / "t.xlsx", worksheet="first")
    rows = [["id", "n", "f"], ["007", "1", "0.25"], [" x", "98", "-1e-9"], ["", "", "3"]]
    (tmp_path / "t.ods").write_bytes(ods(rows))
    text = "\n".join(",".join(row) for row in rows)
    (tmp_path / "t.csv.gz").write_bytes(gzip.compress(text.encode()))
    for name in ("t.parquet", "t.xlsx", "t.ods", "t.csv.gz"):
        table = read_table(tmp_path / name)
        assert table.names == ["id", "n", "f"], name
        assert table.cells("id").values.tolist() == ["007", "x", None], name
        np.testing.assert_array_equal(table.numbers("n", ["98"]).values, [1, np.nan, np.nan])
        np.testing.assert_array_equal(table.numbers("f").values, [0.25, -1e-9, 3])
    assert read_table(tmp_path / "t.xlsx", sheet="first").n == 3
    for name in ("t.xlsx", "t.ods", "t.csv.gz"):  # the first row can be a case like the others
        table = read_table(tmp_path / name, Reading("auto", "auto", "auto", header=False))
        assert table.names == ["column_1", "column_2", "column_3"], name
        assert table.cells("column_2").values.tolist() == ["n", "1", "98", None], name
    with pytest.raises(InputError, match='no sheet "second"; expected one of: first'):
        read_table(tmp_path / "t.xlsx", sheet="second")


def test_a_matrix_in_a_workbook(tmp_path: Path) -> None:
    (tmp_path / "m.ods").write_bytes(ods([["", "a", "b"], ["a", "0", "2"], ["b", "2", "0"]]))
    assert read_matrix(tmp_path / "m.ods").values.tolist() == [[0, 2], [2, 0]]


@pytest.mark.slow
def test_a_workbook_that_swells_is_refused_unopened(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "bomb.xlsx", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b" " * (80 << 20))
    with pytest.raises(InputError, match=r"unpacks from 0\.1 to 80 MiB"):
        read_table(tmp_path / "bomb.xlsx")


@pytest.mark.parametrize("kind", ["parquet", "arrow"])
def test_columns_that_hold_no_answers_are_named_and_left_out(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"t.{kind}"
    write = {"parquet": pl.DataFrame.write_parquet, "arrow": pl.DataFrame.write_ipc}[kind]
    held = {
        "List": pl.Series([[1, 2]]), "Struct": pl.Series([{"x": 1}]), "Bin": pl.Series([b"x"]),
        "Duration": pl.Series([timedelta(seconds=3)]),
        "Array": pl.Series([[1, 2]], dtype=pl.Array(pl.Int64, 2)),
    }  # fmt: skip
    others = {f"of {type_}": cells for type_, cells in held.items()}
    write(pl.DataFrame({"a": [1], **others, "c": ["x"]}), path)
    table = read_table(path)
    assert table.names == ["a", "c"]
    (caution,) = table.cautions
    assert caution.code == "unusable-columns"
    for type_ in held:
        assert f"of {type_} ({type_}" in caution.text
    write(pl.DataFrame(others), path)
    with pytest.raises(InputError, match='column "of List": cells of type List'):
        read_table(path)


cell_text = st.text('ab,;"\n\t é', max_size=6)


@given(st.lists(st.lists(cell_text, min_size=3, max_size=3), min_size=1, max_size=14),
       st.sampled_from([",", ";", "\t"]))  # fmt: skip
def test_a_preview_of_any_cells_is_the_beginning_of_the_table(
    tmp_path_factory: pytest.TempPathFactory, rows: list[list[str]], delimiter: str
) -> None:
    """Line breaks, quotes and delimiters within cells, as answers to open questions have them."""
    path = tmp_path_factory.mktemp("p") / "t.csv"
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, delimiter=delimiter, lineterminator="\n")
        writer.writerow(["a", "b", "c"])
        writer.writerows([["x", *row[1:]] for row in rows])
    asked = Reading(delimiter={",": ",", ";": ";", "\t": "tab"}[delimiter], decimal=".",
                    encoding="auto")  # fmt: skip
    whole = read_table(path, asked)
    assert preview_table(path, Asked(asked)).frame.equals(whole.frame.head(10))


@pytest.mark.slow
@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "latin-1"])
def test_a_preview_is_the_beginning_of_the_table(tmp_path: Path, encoding: str) -> None:
    lines = ["na\u00efve,b"] + [f'"x, {k}",{k}.5' for k in range(40_000)]
    path = written(tmp_path, "\n".join(lines).encode(encoding))
    shown, whole = preview_table(path, rows=9), read_table(path)
    assert shown.frame.equals(whole.frame.head(9))
    assert shown.reading == whole.reading
    pl.DataFrame({"a": range(30)}).write_excel(tmp_path / "t.xlsx", worksheet="one")
    assert preview_table(tmp_path / "t.xlsx", rows=9).n == 9
    assert names_in(tmp_path / "t.xlsx") == ["one"]


def damaged(whole: bytes, data: st.DataObject) -> bytes:
    """Some bytes changed, the end cut off."""
    out = bytearray(whole)
    for _ in range(data.draw(st.integers(0, 6))):
        out[data.draw(st.integers(0, len(out) - 1))] = data.draw(st.integers(0, 255))
    return bytes(out[: data.draw(st.integers(0, len(out)))])


@given(data=st.data())
def test_no_damaged_text_crashes_its_reader(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    held = damaged(gzip.compress(b"a,b\n1,2\n"), data)
    path = written(tmp_path_factory.mktemp("fuzz"), held, "t.csv.gz")
    error = refusal(read_table, path)
    assert error is None or re.fullmatch(r"t\.[a-z.]+: .+", error)


@pytest.mark.parametrize("kind", [".xlsx", ".ods", ".parquet"])
@given(data=st.data())
def test_no_damaged_workbook_crashes_its_reader(kind: str, data: st.DataObject) -> None:
    """What a child does with it; see test_apart.py for those that break it down."""
    if kind == ".parquet":
        refusal(lambda held: typed_frame(held, "Parquet"), damaged(WHOLE_PARQUET, data))
        return
    whole = WHOLE_XLSX if kind == ".xlsx" else ods([["a", "b"], ["1", "2"]])
    refusal(lambda held: read_sheet(held, None), damaged(whole, data))


def _whole(write: Callable[[pl.DataFrame, io.BytesIO], object]) -> bytes:
    out = io.BytesIO()
    write(pl.DataFrame({"a": [1, 2], "b": ["x", None]}), out)
    return out.getvalue()


WHOLE_XLSX = _whole(lambda frame, out: frame.write_excel(out))
WHOLE_PARQUET = _whole(lambda frame, out: frame.write_parquet(out))
SQUARE = ",a,b,c\na,0,1,2\nb,1,0,3\nc,2,3,0\n"


@pytest.mark.parametrize(
    "text", [SQUARE, ",a,b,c\na,,,\nb,1,,\nc,2,3,\n", "x;a;b;c\na\nb;1\nc;2;3\n"]
)
def test_square_and_lower_triangular_matrices(tmp_path: Path, text: str) -> None:
    read = read_matrix(written(tmp_path, text))
    assert read.labels == ("a", "b", "c")
    assert read.values.tolist() == [[0, 1, 2], [1, 0, 3], [2, 3, 0]]


def test_similarities_become_distances(tmp_path: Path) -> None:
    text = ",a,b,c\na,10,,\nb,7,10,\nc,1,4,10\n"
    read = read_matrix(written(tmp_path, text), similarity=True)
    assert read.values.tolist() == [[0, 3, 9], [3, 0, 6], [9, 6, 0]]


@pytest.mark.parametrize(
    ("old", "new", "place"),
    [
        ("c,2,3,0", "c,2,4,0", 'row 2 ("b"), column "c": 3, and 4 on the other side'),
        ("b,1,0,3", "b,x,0,3", 'row 2 ("b"), column "a": "x"'),
        ("b,1,0,3", "b,1,0,", 'row 2 ("b"), column "c": an empty cell'),
        ("b,1,0,3", "z,1,0,3", 'row 2: the label "z"'),
        ("c,2,3,0\n", "", "3 labels in the first row and 2 rows"),
        ("a,0,1,2", "a,5,1,2", "5 on the diagonal"),
        ("a,0,1,2\nb,1", "a,0,-1,2\nb,-1", "a distance of 0 or more"),
    ],
)
def test_what_is_no_matrix_is_refused(tmp_path: Path, old: str, new: str, place: str) -> None:
    with pytest.raises(InputError) as caught:
        read_matrix(written(tmp_path, SQUARE.replace(old, new)))
    assert place in str(caught.value)


@settings(max_examples=examples(40))
@given(
    values=st.lists(st.sampled_from(["", "1", "2", "2.0", "-3e5", "x"]), min_size=1, max_size=30),
    look=st.integers(1, 8),
)
def test_a_column_is_looked_at_before_it_is_read(values: list[str], look: int) -> None:
    table = Table(
        "t.csv", pl.DataFrame({"a": [v or None for v in values]}, schema={"a": pl.String})
    )
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("gorvel.core.table.table._LOOK", look)
        known = [v for v in values if v][:look]
        assert table.looks_numeric("a") is (
            bool(known) and 2 * sum(v != "x" for v in known) > len(known)
        )
        numbers = {float(v) for v in values if v not in ("", "x")}
        assert table.numbers("a").two_valued is (len(numbers) <= 2)
