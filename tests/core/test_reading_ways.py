"""The fast way to read delimited text and the slow one give the same table, or the same refusal."""

from __future__ import annotations

import csv
import io

import polars as pl
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError
from gorvel.core.table import text as reader
from gorvel.core.table.stripping import stripped
from gorvel.core.table.table import Reading

# what is hard about cells: quotes, marks, blanks, line ends, signs of other alphabets
cell = st.one_of(
    st.sampled_from(
        ["", " ", "a", "12", "1,5", "1.5", "-3", "é", "漢", 'say "so"', "a\nb", "x;y", "\t"]
    ),
    st.text("ab;, \"\n'é€\u00a0\u2003\u201c", max_size=6),
)
DELIMITERS = (",", ";", "\t", "|")


@st.composite
def tables(draw: st.DrawFn) -> tuple[str, str, list[str], list[list[str]]]:
    """Text as a program would write it, its delimiter, names and rows."""
    wide = draw(st.integers(1, 5))
    names = [f"v{k}" for k in range(wide)]
    rows = draw(st.lists(st.lists(cell, min_size=wide, max_size=wide), max_size=8))
    delimiter = draw(st.sampled_from(DELIMITERS))
    out = io.StringIO(newline="")
    quoting = draw(st.sampled_from([csv.QUOTE_MINIMAL, csv.QUOTE_ALL]))
    ends = draw(st.sampled_from(["\n", "\r\n"]))
    writer = csv.writer(out, delimiter=delimiter, quoting=quoting, lineterminator=ends)
    writer.writerow(names)
    writer.writerows(rows)
    return out.getvalue(), delimiter, names, rows


def opened(text: str, delimiter: str) -> reader.TextFile:
    """Text as it is opened, the delimiter told."""
    asked = Reading("tab" if delimiter == "\t" else delimiter, "auto", "utf-8")
    return reader.open_text(text.encode(), asked)


def told(frame: pl.DataFrame) -> list[list[str]]:
    """Rows of cells without white space around them, an empty one as ""."""
    return [[c or "" for c in row] for row in stripped(frame).rows()]


@settings(max_examples=examples(150))
@given(tables())
@example(('v0\n""\n', ",", ["v0"], [[""]]))
def test_what_a_program_writes_is_read_alike_and_as_it_was(
    made: tuple[str, str, list[str], list[list[str]]],
) -> None:
    text, delimiter, names, rows = made
    file = opened(text, delimiter)
    slow = reader._read_slowly(file, names)
    assert slow.columns == names
    quick = reader.text_frame(file, names)
    assert quick.columns == names
    assert told(quick) == told(slow)
    if len(names) > 1:
        assert told(slow) == [[c.strip() for c in row] for row in rows] or any(
            "\n" in c or "\r" in c for row in rows for c in row
        )


@settings(max_examples=examples(150))
@given(st.text('ab1,;"\n ', max_size=60), st.sampled_from([",", ";"]))
def test_any_text_is_read_alike_or_refused_alike(text: str, delimiter: str) -> None:
    data = f"v0{delimiter}v1\n{text}"
    file = opened(data, delimiter)
    names = ["v0", "v1"]
    try:
        slow: object = told(reader._read_slowly(file, names))
    except InputError as error:
        slow = error.place
    try:
        quick: object = told(reader.text_frame(file, names))
    except InputError as error:
        quick = error.place
    assert quick == slow


def test_the_row_that_does_not_fit_is_named() -> None:
    file = opened("a,b\n1,2\n1\n", ",")
    assert reader.text_header(file) == ["a", "b"]
    with pytest.raises(InputError, match=r"row 2: 1 cell; expected 2, as in the header"):
        reader.text_frame(file, ["a", "b"])
