"""A header that stands below titles is found, and what stands above it is not looked at."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.plan.file import parse_plan
from gorvel.core.table.header import lines_above, rows_above
from gorvel.core.table.reading import begun, read_rows, read_table
from gorvel.core.table.table import Reading

TITLE = st.text(st.characters(codec="utf-8", exclude_characters='"\n\r\t;|,\x00'), max_size=30)
WORD = st.text("abcdefgh xyz", min_size=1, max_size=6).map(str.strip).filter(bool)


@given(
    titles=st.lists(TITLE, max_size=4), names=st.lists(WORD, min_size=3, max_size=6, unique=True),
    rows=st.integers(2, 30), delimiter=st.sampled_from([",", ";", "\t"]),
)  # fmt: skip
def test_a_header_below_titles_is_found(
    titles: list[str], names: list[str], rows: int, delimiter: str
) -> None:
    text = io.StringIO()
    text.writelines(f"{title}\n" for title in titles)
    writer = csv.writer(text, delimiter=delimiter, lineterminator="\n")
    writer.writerow(names)
    writer.writerows([[f"{row}.{k}" for k in range(len(names))] for row in range(rows)])
    assert lines_above(text.getvalue()) == len(titles)
    cells = [[title or None] + [None] * (len(names) - 1) for title in titles]
    body = [names, *([str(row)] * len(names) for row in range(rows))]
    assert rows_above([*cells, *body]) == len(titles)


@pytest.mark.parametrize(
    "text",
    ["", "a\n1\n2\n", "a,b\n1,2\n", "title\n", "1,2,3\n4,5,6\n", "a,b\n1,2,3\n4\n", "x,x\n1,2\n",
     "title\n\n1,2\n3,4\n"],
)  # fmt: skip
def test_nothing_is_skipped_where_no_header_stands_lower(text: str) -> None:
    assert lines_above(text) == 0


def test_lines_and_rows_above_are_passed_over(tmp_path: Path) -> None:
    text, book = tmp_path / "t.csv", tmp_path / "t.xlsx"
    text.write_bytes(b"Survey of 2026, draft\r\n\r\nid;size\r\na;1,5\r\nb;2,5\r\n")
    rows = [["Survey of 2026", None], [None, None], ["id", "size"], ["a", "1.5"], ["b", "2.5"]]
    pl.DataFrame(rows, schema=["x", "y"], orient="row").write_excel(book, include_header=False)
    for path in (text, book):
        above = begun(path).get("skip", 0)
        assert above == 2
        table = read_table(path, Reading("auto", "auto", "auto", skip=above))
        assert table.names == ["id", "size"]
        assert table.numbers("size").values.tolist() == [1.5, 2.5]
        assert table.reading.skip == 2
        found, _ = read_rows(path, Reading("auto", "auto", "auto", skip=2))
        assert found[0] == ["id", "size"]
        without = read_table(path, Reading("auto", "auto", "auto", header=False, skip=3))
        assert without.names == ["column_1", "column_2"]
        assert without.n == 2
        with pytest.raises(InputError, match=r"empty|nothing below"):
            read_table(path, Reading("auto", "auto", "auto", skip=9))
    assert begun(tmp_path / "none.csv") == {}


def test_files_without_lines_have_none_to_skip() -> None:
    text = 'gorvel = 1\n[source]\nfile = "t.parquet"\nskip = 2\n[variables]\nuse = ["a"]\n'
    with pytest.raises(InputError, match=r"\[source\] skip: 2; expected 0"):
        parse_plan(text, "p.toml")
    assert parse_plan(text.replace("parquet", "csv.gz"), "p.toml").source.skip == 2
