"""Tables of views, for a spreadsheet, a file and a word processor."""

from __future__ import annotations

import math
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.numbers import number
from gorvel.core.export.membership import save_table
from gorvel.core.results.table import ResultTable

CELLS = st.one_of(st.none(), st.floats(allow_infinity=False, width=32))


@given(st.lists(st.tuples(st.integers(-9, 9), CELLS), min_size=1, max_size=5))
def test_numbers_are_whole_on_the_clipboard_and_read_well_elsewhere(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[int, float | None]]
) -> None:
    table = ResultTable(("n", "mean"), rows)
    pasted = [line.split("\t")[1] for line in table.tsv().splitlines()[1:]]
    file = tmp_path_factory.mktemp("t") / "t.csv"
    save_table(table, Path(file))
    saved = pl.read_csv(file, schema={"n": pl.Int64, "mean": pl.Float64})
    assert saved["n"].to_list() == [n for n, _ in rows]
    words = table.html()
    for (_, value), plain, kept in zip(rows, pasted, saved["mean"], strict=True):
        if value is None or math.isnan(value):
            assert plain == ""
            assert kept is None
            assert "<td></td>" in words
            continue
        assert float(plain) == value
        assert kept == pytest.approx(value, rel=1e-5, abs=1e-300)
        assert float(f"{kept:.6g}") == pytest.approx(kept, rel=1e-15)
        assert f"<td>{number(value)}</td>" in words
