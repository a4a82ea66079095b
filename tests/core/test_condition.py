"""Conditions choose the rows that plain Python chooses, and wrong ones say where they are wrong."""

from __future__ import annotations

import operator
from collections.abc import Callable

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.language.condition import TESTS, one_test, parse_condition
from gorvel.core.table.table import Table

CELLS = {
    "visits": ["1", "2", "3", "98", None, "2.5"],
    "stop": ["Elm", "Fell", "elm", None, "Elm", "o'Dell"],
    "a b": ["1", "1", "2", "2", "3", "3"],
}
TABLE = Table("t.csv", pl.DataFrame(CELLS, schema=dict.fromkeys(CELLS, pl.String)))
CODES = {"visits": ["98"]}


def rows(text: str) -> list[int]:
    found = parse_condition(text).rows(TABLE, lambda name: CODES.get(name, []))
    return [row + 1 for row, chosen in enumerate(found) if chosen]


@pytest.mark.parametrize(
    ("text", "chosen"),
    [
        ("visits > 2", [3, 6]),
        ("visits >= 2 and visits < 3", [2, 6]),
        ("visits between 2 and 2.5", [2, 6]),
        ("visits not between 2 and 2.5", [1, 3]),
        ("not visits > 2", [1, 2]),  # missing is neither
        ("visits is missing", [4, 5]),
        ("visits IS NOT missing AND stop = 'Elm'", [1]),
        ("stop in ('Elm', \"o'Dell\")", [1, 5, 6]),
        ("stop not in ('Elm')", [2, 3, 6]),
        ("stop != 'Elm' or visits = 1", [1, 2, 3, 6]),
        ("`a b` == 3 or (visits <= 1 and not stop is missing)", [1, 5, 6]),
        ("visits > 1e0 and visits <> 3", [2, 6]),
        ("stop < 'F'", [1, 5]),
        ("visits > 2 or stop = 'Elm'", [1, 3, 5, 6]),  # true or unknown is true
    ],
)
def test_rows_are_chosen(text: str, chosen: list[int]) -> None:
    assert rows(text) == chosen


@given(
    row=st.integers(0, 5),
    test=st.sampled_from(sorted(TESTS)),
    column=st.sampled_from(sorted(CELLS)),
)
def test_a_test_put_together_by_clicks_is_understood(row: int, test: str, column: str) -> None:
    """A value of the table itself: the row it comes from is chosen by what it is, and not else."""
    cell = CELLS[column][row]
    missing = cell is None or cell in CODES.get(column, [])
    number = column != "stop"
    value: str | float = float(cell or 0) if number else cell or "x"
    wanted = 2 if test == "is between" else 0 if test in ("is missing", "is answered") else 1
    chosen = row + 1 in rows(one_test(column, test, [value] * wanted))
    holds = {"is", "is one of", "is at least", "is at most", "is between", "is answered"}
    assert chosen == ((test in holds) if not missing else test == "is missing")


def test_what_no_condition_can_hold_is_refused() -> None:
    for column, value in (("a`b", "x"), ("stop", "both ' and \"")):
        with pytest.raises(InputError, match="expected"):
            one_test(column, "is", [value])
    with pytest.raises(InputError, match="no value"):
        one_test("stop", "is one of", [])
    assert one_test("visits", "is above", [0.1 + 0.2]) == "visits > 0.30000000000000004"
    assert one_test("and", "is between", [1.0, 2.5]) == "`and` between 1 and 2.5"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "the end; expected the name of a column"),
        ("visits", "the end; expected a comparison"),
        ("visits > ", "the end; expected a number, a column or a text in quotes"),
        ("visits > 2 stop = 'Elm'", '"stop" at character 12; expected "and", "or" or the end'),
        ("visits > 2 and", "the end; expected the name"),
        ("(visits > 2", 'the end; expected ")"'),
        ("visits ? 2", '"?" at character 8'),
        ("visits = Elm", 'no column "Elm" at character 10; expected a column'),
        ("vists > 2", 'no column "vists" at character 1; expected a column (nearest: "visits")'),
        ("stop = 3", "the number 3 compared with stop, a column of text"),
        ("visits not 3", '"3" at character 12; expected "in" or "between"'),
    ],
)
def test_a_wrong_condition_says_where(text: str, said: str) -> None:
    with pytest.raises(InputError) as caught:
        rows(text)
    assert said in str(caught.value)


Meaning = Callable[[float | None], bool | None]
SIGNS = {"<": operator.lt, ">=": operator.ge, "=": operator.eq, "!=": operator.ne}


def _test(sign: str, value: int) -> tuple[str, Meaning]:
    return f"x {sign} {value}", lambda x: None if x is None else SIGNS[sign](x, value)


def _negation(inner: tuple[str, Meaning]) -> tuple[str, Meaning]:
    text, meaning = inner
    return f"not ({text})", lambda x: None if (m := meaning(x)) is None else not m


def _join(word: str, a: tuple[str, Meaning], b: tuple[str, Meaning]) -> tuple[str, Meaning]:
    decisive = word == "or"

    def meaning(x: float | None) -> bool | None:
        both = (a[1](x), b[1](x))
        if decisive in both:
            return decisive
        return None if None in both else not decisive

    return f"({a[0]}) {word} ({b[0]})", meaning


CONDITIONS = st.recursive(
    st.builds(_test, st.sampled_from(sorted(SIGNS)), st.integers(-2, 2)),
    lambda inner: st.one_of(
        st.builds(_negation, inner), st.builds(_join, st.sampled_from(["and", "or"]), inner, inner)
    ),
    max_leaves=6,
)


@given(condition=CONDITIONS, cells=st.lists(st.none() | st.integers(-3, 3), max_size=8))
def test_any_condition_means_what_it_says(
    condition: tuple[str, Meaning], cells: list[int | None]
) -> None:
    text, meaning = condition
    column = ["0", *(None if c is None else str(c) for c in cells)]
    table = Table("t.csv", pl.DataFrame({"x": column}, schema={"x": pl.String}))
    told = parse_condition(text).rows(table).tolist()
    assert told == [meaning(None if c is None else float(c)) is True for c in column]
