"""Sheets and files below each other, columns beside, databases, lines, fixed widths."""

from __future__ import annotations

import json
import sqlite3
import stat
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.sources.reading import read_source
from gorvel.core.sources.stacking import joined, stacked
from gorvel.core.table.table import Table

Cell = str | None


def read(folder: Path, beside: Path | None = None, **source: Any) -> Table:
    plan = plan_of(**source)
    found = read_source(plan, folder / plan.source.file, beside=beside)
    assert isinstance(found, Table)
    return found


def plan_of(**source: Any) -> Plan:
    plan = validated({"source": source, "variables": {"use": ["x"]}}, "p.toml")
    return plan.whole(plan.model_dump(by_alias=True, exclude_unset=True))


def write(folder: Path, **files: str) -> None:
    for name, text in files.items():
        (folder / f"{name}.csv").write_text(text)


def rows(table: Table) -> list[tuple[Cell, ...]]:
    return [tuple(row) for row in table.frame.rows()]


def codes(table: Table) -> list[str]:
    return [caution.code for caution in table.cautions]


def table_of(name: str, columns: dict[str, Sequence[Cell]]) -> Table:
    return Table(name, pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String)))


def test_files_stand_below_each_other(tmp_path: Path) -> None:
    write(tmp_path, one="id,x\na,1\nb,2\n", two="x,y,id\n3,p,c\n", three="id,x\nd,4\n")
    table = read(tmp_path, file="one.csv", also=["two.csv", "three.csv"])
    assert table.names == ["id", "x", "y", "file"]
    assert rows(table) == [
        ("a", "1", None, "one.csv"), ("b", "2", None, "one.csv"), ("c", "3", "p", "two.csv"),
        ("d", "4", None, "three.csv"),
    ]  # fmt: skip
    (caution,) = table.cautions
    assert caution.code == "stacked-gaps"
    assert caution.text == "1 column is not in all 3 files, and empty in the others: y."
    told = prepare(table, plan_of(file="one.csv")).cautions
    assert caution in told


@pytest.mark.slow
def test_sheets_stand_below_each_other(tmp_path: Path) -> None:
    import xlsxwriter

    book = xlsxwriter.Workbook(tmp_path / "t.xlsx")
    for name, cases in (("2025", [["id", "x"], ["a", 1]]), ("notes", [["n", "m"], ["-", "-"]]),
                        ("2026", [["id", "x"], ["b", 2], ["c", 3]])):  # fmt: skip
        sheet = book.add_worksheet(name)
        for row, cells in enumerate(cases):
            sheet.write_row(row, 0, cells)
    book.close()
    table = read(tmp_path, file="t.xlsx", sheets=["2026", "2025"])
    assert rows(table) == [("b", "2", "2026"), ("c", "3", "2026"), ("a", "1", "2025")]
    assert table.names == ["id", "x", "sheet"]
    assert not table.cautions
    with pytest.raises(InputError, match="sheet notes: no column in common with 2025"):
        read(tmp_path, file="t.xlsx", sheets="all")
    with pytest.raises(InputError, match='no sheet "2024"; expected one of: 2025, notes, 2026'):
        read(tmp_path, file="t.xlsx", sheets=["2024"])


PART = st.dictionaries(st.sampled_from("abcd"), st.just(None), min_size=1)


@given(parts=st.lists(st.tuples(PART, st.integers(1, 3)), min_size=2, max_size=4))
def test_any_tables_are_stacked_as_defined(parts: list[tuple[dict[str, None], int]]) -> None:
    tables = []
    for k, (names, size) in enumerate(parts):
        cells = {name: [f"{name}{k}{row}" for row in range(size)] for name in names}
        tables.append((f"part {k}", table_of(f"part {k}", cells)))
    first = set(parts[0][0])
    if any(not first & set(names) for names, _ in parts[1:]):
        with pytest.raises(InputError, match="no column in common"):
            stacked(tables, "file")
        return
    found = stacked(tables, "file")
    wanted = [
        {name: f"{name}{k}{row}" for name in names} | {"file": f"part {k}"}
        for k, (names, size) in enumerate(parts)
        for row in range(size)
    ]
    everywhere = set.intersection(*(set(names) for names, _ in parts))
    anywhere = list(dict.fromkeys(name for names, _ in parts for name in names))
    assert found.names == [*anywhere, "file"]
    for row, told in zip(found.frame.rows(named=True), wanted, strict=True):
        assert {name: cell for name, cell in row.items() if cell is not None} == told
    assert bool(found.cautions) is (everywhere != set(anywhere))


KEYS = st.none() | st.sampled_from(["k1", "k2", "k3", "01", "1"])


@given(left=st.lists(KEYS, min_size=1, max_size=6), right=st.lists(KEYS, min_size=1, max_size=4))
def test_any_tables_are_joined_as_defined(left: list[Cell], right: list[Cell]) -> None:
    table = table_of("l", {"key": left, "x": [str(k) for k in range(len(left))]})
    other = table_of("r", {"y": [f"y{k}" for k in range(len(right))], "key": right})
    known = [key for key in right if key is not None]
    if len(set(known)) < len(known):
        with pytest.raises(InputError, match="expected each key once"):
            joined(table, other, "key", "r.csv")
        return
    found = joined(table, other, "key", "r.csv")
    beside = {key: f"y{k}" for k, key in enumerate(right) if key is not None}
    assert rows(found) == [
        (key, str(k), beside.get(key) if key is not None else None) for k, key in enumerate(left)
    ]
    alone = sum(key not in beside for key in left)
    assert [c.text for c in found.cautions] == (
        [] if not alone else
        [f"{alone} {'case has' if alone == 1 else 'cases have'} no partner in r.csv (by key):"
         " missing answers in its columns."]
    )  # fmt: skip


def test_columns_of_another_file_are_put_beside(tmp_path: Path) -> None:
    write(tmp_path, one="id;x\na;1,5\nb;2,5\n", two="id,y\nb,1.5\na,2\nz,9\n", three="id,z\na,7\n")
    joins = [{"file": "two.csv", "by": "id"}, {"file": "three.csv", "by": "id"}]
    table = read(tmp_path, file="one.csv", join=joins)
    assert table.names == ["id", "x", "y", "z"]
    assert rows(table) == [("a", "1,5", "2", "7"), ("b", "2,5", "1.5", None)]
    assert codes(table) == ["joined-gaps"]
    assert table.numbers("x").values.tolist() == [1.5, 2.5]


@pytest.mark.parametrize(
    ("source", "said"),
    [
        ({"file": "one.csv", "also": ["none.csv"]}, "none.csv: file not found"),
        ({"file": "one.csv", "also": ["marked.csv"]}, 'marked.csv: a column "file"'),
        ({"file": "one.csv", "join": [{"file": "twice.csv", "by": "id"}]},
         '[[source.join]] twice.csv: the key "a" in rows 1, 3; expected each id once'),
        ({"file": "one.csv", "join": [{"file": "same.csv", "by": "id"}]},
         'the column "x", which is there already; expected another name'),
        ({"file": "one.csv", "join": [{"file": "other.csv", "by": "id"}]},
         'no column "id" in other.csv; expected a key column of both'),
        ({"file": "one.csv", "sheets": ["a"]}, "[source] sheets: a sheet; expected none"),
        ({"file": "t.xlsx", "sheets": ["a"], "also": ["b.xlsx"]}, "sheets beside also"),
        ({"file": "t.xlsx", "sheets": ["a"], "sheet": "b"}, "sheets beside sheet"),
        ({"file": "t.db"}, "neither table nor query; expected one of the two"),
        ({"file": "t.db", "table": "t", "query": "select 1"}, "table and query; expected one"),
        ({"file": "one.csv", "table": "t"}, "a table of a file that is no database"),
        ({"file": "t.dat"}, "[source] codebook: a fixed-width file without one"),
        ({"file": "one.csv", "codebook": "b.xml"}, "a file that is not fixed-width"),
        ({"file": "one.csv", "join": [{"file": "two.csv"}]}, "[source] join.by: nothing; expected"),
    ],
)  # fmt: skip
def test_what_does_not_go_together_is_refused_with_its_place(
    tmp_path: Path, source: dict[str, Any], said: str
) -> None:
    write(tmp_path, one="id,x\na,1\n", marked="id,file\na,1\n", twice="id,y\na,1\nb,2\na,3\n",
          same="id,x\na,1\n", other="k,y\na,1\n")  # fmt: skip
    with pytest.raises(InputError) as caught:
        read(tmp_path, **source)
    assert said in str(caught.value)


def test_files_with_other_decimal_marks_are_not_mixed(tmp_path: Path) -> None:
    write(tmp_path, one="id;x\na;1.5\n", two="id;x\nb;2,5\n")
    with pytest.raises(InputError, match=r'file two\.csv: the decimal mark ","; expected "\."'):
        read(tmp_path, file="one.csv", also=["two.csv"])


def database(path: Path) -> None:
    connection = sqlite3.connect(path)
    connection.executescript(
        'create table answers (id text, x real, n integer, "a b" text);'
        "insert into answers values ('a', 1.5, 2, ' u '), ('b', 2.0, null, ''),"
        "('c', 1e300, -7, 'v');"
        "create table other (id text); create view few as select id, x from answers where n > 0;"
    )
    connection.close()


def test_a_database_is_read_and_never_written(tmp_path: Path) -> None:
    path = tmp_path / "t.sqlite"
    database(path)
    path.chmod(stat.S_IRUSR)
    before = path.read_bytes()
    table = read(tmp_path, file="t.sqlite", table="answers")
    assert table.names == ["id", "x", "n", "a b"]
    assert rows(table) == [("a", "1.5", "2", "u"), ("b", "2", None, None),
                           ("c", "1e+300", "-7", "v")]  # fmt: skip
    assert rows(read(tmp_path, file="t.sqlite", table="few")) == [("a", "1.5")]
    query = "with big as (select * from answers where x > 1.6) select id, x as y from big"
    assert rows(read(tmp_path, file="t.sqlite", query=query)) == [("b", "2"), ("c", "1e+300")]
    for query, said in (
        ("delete from answers", "does more than read"), ("select 1; select 2", "one statement"),
        ("attach 'x.db' as y", "does more than read"), ("vacuum", "does more than read"),
        ("pragma writable_schema = 1", "does more than read"),
        ("create table z (a)", "does more than read"),
        ("insert into other values ('x')", "does more than read"), ("selec 1", "syntax error"),
        ("", "gives no columns"), ("select id, id from answers", "more than once"),
        ("select load_extension('x')", "query"),
        ("with q as (select 1) delete from answers", "does more than read"),
        ("select x'00ff' as b", "a cell of bytes"), ("select id from few where id = 'q'", "no cas"),
    ):  # fmt: skip
        with pytest.raises(InputError) as caught:
            read(tmp_path, file="t.sqlite", query=query)
        assert said in str(caught.value)
    with pytest.raises(InputError, match=r'no table "answer"; expected a table \(nearest: "answe'):
        read(tmp_path, file="t.sqlite", table="answer")
    (tmp_path / "no.db").write_text("a,b\n1,2\n" * 100)
    with pytest.raises(InputError, match=r"no\.db: no database that can be read"):
        read(tmp_path, file="no.db", table="t")
    assert path.read_bytes() == before
    assert {p.name for p in tmp_path.iterdir()} == {"t.sqlite", "no.db"}


VALUE = st.one_of(
    st.none(), st.booleans(), st.integers(-(10**20), 10**20),
    st.text(st.characters(categories=("L", "N", "P", "Zs")), max_size=5),
    st.floats(allow_nan=False, allow_infinity=False),
)  # fmt: skip


@given(cases=st.lists(st.dictionaries(st.sampled_from(["x", "y", "z"]), VALUE), max_size=6))
def test_json_lines_keep_what_they_hold(
    tmp_path_factory: pytest.TempPathFactory, cases: list[dict[str, Any]]
) -> None:
    folder = tmp_path_factory.mktemp("lines")
    cases = [{"x": "first"}, *cases]
    text = "\n\n".join(json.dumps(case) for case in cases)
    (folder / "t.jsonl").write_text(text + "\n")
    table = read(folder, file="t.jsonl")
    assert table.names == list(dict.fromkeys(name for case in cases for name in case))
    for row, case in zip(table.frame.rows(named=True), cases, strict=True):
        for name, cell in row.items():
            value = case.get(name)
            wanted = None if value is None else (
                str(value).lower() if isinstance(value, bool) else json.dumps(value)
                if not isinstance(value, str) else value.strip() or None
            )  # fmt: skip
            assert cell == wanted


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('{"x": 1}\n[1]\n', "line 2: [1]; expected an object"),
        ('{"x": 1}\n{"x": {"y": 1}}', 'line 2, key "x": a value that holds others'),
        ('{"x": 1}\n{"x": 1', "line 2: not JSON"), ("\n\n", "no lines"),
    ],
)  # fmt: skip
def test_wrong_lines_are_named(tmp_path: Path, text: str, said: str) -> None:
    (tmp_path / "t.ndjson").write_text(text)
    with pytest.raises(InputError) as caught:
        read(tmp_path, file="t.ndjson")
    assert said in str(caught.value)


@pytest.mark.slow
def test_arrow_files_are_tables(tmp_path: Path) -> None:
    frame = pl.DataFrame({"x": [1, None, 3], "y": ["a", "b", None], "z": [1.5, float("nan"), 2.0]})
    frame.write_ipc(tmp_path / "t.arrow")
    frame.write_ipc(tmp_path / "t.feather", compression="zstd")
    for name in ("t.arrow", "t.feather"):
        table = read(tmp_path, file=name)
        assert rows(table) == [("1", "a", "1.5"), (None, "b", None), ("3", None, "2.0")]
    (tmp_path / "no.arrow").write_bytes(b"no")
    with pytest.raises(InputError, match="not an Arrow file that can be read"):
        read(tmp_path, file="no.arrow")


BOOK = """<codeBook xmlns="ddi:codebook:2_5"><dataDscr>
<var name="id"><location StartPos="1" EndPos="3"/></var>
<var name="x"><location StartPos="5" width="2"/></var>
<var name="né"><location width="3"/></var>
</dataDscr></codeBook>"""


def test_columns_of_fixed_width_stand_where_the_code_book_says(tmp_path: Path) -> None:
    (tmp_path / "b.xml").write_text(BOOK)
    (tmp_path / "t.dat").write_text("title\na1  12äöü\n\nb 2 34\n c3 5  x\n", encoding="latin-1")
    table = read(tmp_path, file="t.dat", codebook="b.xml", skip=1)
    assert table.names == ["id", "x", "né"]
    assert rows(table) == [("a1", "12", "äöü"), ("b 2", "34", None), ("c3", "5", "x")]
    for book, said in (
        (BOOK.replace(' width="2"', ""), 'b.xml: variable "x": no place'),
        (BOOK.replace('StartPos="5"', 'StartPos="five"'), '"five"; expected a whole number'),
        (BOOK.replace('EndPos="3"', 'EndPos="0"'), '"0"; expected a whole number from 1'),
        (BOOK.replace('StartPos="1"', 'StartPos="4"'), "StartPos 4 after EndPos 3"),
        (BOOK.replace('"né"', '"x"'), "a duplicate name"), ("<codeBook/>", "no variables"),
    ):  # fmt: skip
        (tmp_path / "b.xml").write_text(book)
        with pytest.raises(InputError) as caught:
            read(tmp_path, file="t.dat", codebook="b.xml")
        assert said in str(caught.value)
    with pytest.raises(InputError, match=r"none\.xml: file not found"):
        read(tmp_path, file="t.dat", codebook="none.xml")


@given(
    cells=st.lists(st.tuples(*[st.text("abcä ", max_size=3)] * 3), min_size=1, max_size=6),
    gaps=st.tuples(*[st.integers(0, 2)] * 3),
)
def test_any_fixed_widths(
    tmp_path_factory: pytest.TempPathFactory, cells: list[tuple[str, ...]], gaps: tuple[int, ...]
) -> None:
    folder = tmp_path_factory.mktemp("fixed")
    starts, at = [], 1
    for gap in gaps:
        starts.append(at + gap)
        at += gap + 3
    book = "".join(
        f'<var name="v{k}"><location StartPos="{start}" EndPos="{start + 2}"/></var>'
        for k, start in enumerate(starts)
    )
    (folder / "b.xml").write_text(f"<codeBook>{book}</codeBook>")
    lines = ["".join(" " * g + c.ljust(3) for g, c in zip(gaps, row, strict=True)) for row in cells]
    kept = [k for k, line in enumerate(lines) if line.strip()]
    (folder / "t.asc").write_text("\n".join(lines), encoding="utf-8")
    if not kept:
        with pytest.raises(InputError, match="empty file"):
            read(folder, file="t.asc", codebook="b.xml")
        return
    table = read(folder, file="t.asc", codebook="b.xml")
    assert rows(table) == [tuple(c.strip() or None for c in cells[k]) for k in kept]


def test_other_files_are_looked_for_beside_the_plan(tmp_path: Path) -> None:
    there = tmp_path / "there"
    there.mkdir()
    write(tmp_path, one="id,x\na,1\n")
    write(there, two="id,x\nb,2\n")
    table = read(tmp_path, there, file="one.csv", also=["two.csv"])
    assert [row[-1] for row in rows(table)] == ["one.csv", "two.csv"]
