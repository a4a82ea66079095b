"""What columns hold at first sight, against plain counting."""

from __future__ import annotations

import math
from collections import Counter

import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.table.stripping import may_need_stripping, stripped
from gorvel.core.table.table import Reading, Table, parse_number

CELLS = st.one_of(
    st.none(), st.sampled_from(["1", "2", "1.0", "2,5", "inf", "nan", "a", "b", "Agree"]),
    st.integers(0, 99).map(str),
)  # fmt: skip


def column_of(kind: st.SearchStrategy[str | None], n: int) -> st.SearchStrategy[list[str | None]]:
    return st.lists(kind, min_size=n, max_size=n)


@given(
    data=st.integers(1, 150).flatmap(
        lambda n: st.tuples(
            column_of(CELLS, n), column_of(st.none(), n),
            column_of(st.integers(0, 300).map(str), n), column_of(st.sampled_from("abc"), n),
            column_of(st.integers(0, 200).map("w{}".format), n),
        )
    ),
    decimal=st.sampled_from(".,"),
)  # fmt: skip
def test_an_overview_counts_as_plain_code_does(
    data: tuple[list[str | None], ...], decimal: str
) -> None:
    frame = pl.DataFrame(
        {str(k): cells for k, cells in enumerate(data)}, schema_overrides={"1": pl.String}
    ).cast(pl.String)
    table = Table("t", frame, Reading(decimal=decimal))
    table.read_numbers()
    for name, cells in zip(table.names, data, strict=True):
        known = [cell for cell in cells if cell is not None]
        finite = [cell for cell in known if not math.isnan(parse_number(cell, decimal))]
        seen = table.overview[name]
        assert (seen.answered, seen.finite) == (len(known), len(finite))
        times = Counter(known)  # keeps the order of appearance
        assert seen.different == len(times)
        if known and len(finite) == len(known):
            assert seen.tally is None
            continue
        assert seen.tally is not None
        assert (seen.tally.answered, seen.tally.different) == (len(known), len(times))
        told = zip(seen.tally.answers, seen.tally.counts, strict=True)
        assert list(told) == times.most_common(60)


EDGES = 'a1,"\n\t é€\u00a0\u2003\u3000\u0085\u201c\u1680\u2028'


@settings(max_examples=examples(200))
@given(
    cells=st.lists(st.text(EDGES, max_size=4), min_size=1, max_size=8),
    far=st.integers((1 << 16) - 12, (1 << 16) + 4),
)
def test_text_that_needs_no_stripping_has_no_white_space_around_its_cells(
    cells: list[str], far: int
) -> None:
    """Also where two pieces that are looked at meet."""
    cells = [cell.replace('"', "").replace(",", "").replace("\n", "") for cell in cells]
    line = ",".join(cells)
    for data in (line, f'"{line}"', "x" * far + "," + line):
        if not may_need_stripping(data.encode(), ","):
            held = data.replace('"', "").split(",")
            frame = pl.DataFrame({"v": held}, schema={"v": pl.String})
            assert stripped(frame)["v"].to_list() == [cell or None for cell in held]


def test_plain_text_is_not_stripped() -> None:
    """So that it is quick: numbers, words with blanks in them, amounts, quotes, umlauts."""
    text = 'a,b c\n1,"x,y"\n€12,très bien\nfür,"q"'
    assert not may_need_stripping(text.encode(), ",")
    for text in ("a, b", "a ,b", " a,b", "a,b ", 'a,""', "a,\u00a0b", '"a "\tb'):
        assert may_need_stripping(text.encode(), ","), text
