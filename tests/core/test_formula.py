"""Formulas mean what plain arithmetic means, row by row; rows without a result are told."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError
from gorvel.core.language.formula import parse_formula
from gorvel.core.language.tokens import renamed
from gorvel.core.table.table import Table

Row = dict[str, float | None]
COLUMNS = ("a", "b", "size of it", "log")


class Gap(Exception):
    """A column that is named has no answer."""


@dataclass(frozen=True)
class Said:
    """A formula as text, how tightly it binds, and what it means for a row.

    The meaning raises ArithmeticError or ValueError where there is no finite result.
    """

    text: str
    bind: int
    meaning: Callable[[Row], float]
    columns: frozenset[str] = frozenset()

    def within(self, bind: int) -> str:
        return self.text if self.bind >= bind else f"({self.text})"


def table_of(rows: list[Row]) -> Table:
    """Each column begins with a number of its own row 0, so that it is one of numbers."""
    cells = {c: [None if (x := row[c]) is None else f"{x:.17g}" for row in rows] for c in COLUMNS}
    return Table("t.csv", pl.DataFrame(cells, schema=dict.fromkeys(COLUMNS, pl.String)))


def _column(name: str) -> Said:
    def meaning(row: Row) -> float:
        value = row[name]
        if value is None:
            raise Gap
        return value

    text = f"`{name}`" if " " in name else name
    return Said(text, 9, meaning, frozenset({name}))


def _finite(value: float | complex) -> float:
    if isinstance(value, complex) or not math.isfinite(value):
        raise ArithmeticError
    return value


def _two(sign: str, bind: int, left: Said, right: Said) -> Said:
    work: dict[str, Callable[[float, float], float]] = {
        "+": lambda x, y: x + y, "-": lambda x, y: x - y, "*": lambda x, y: x * y,
        "/": lambda x, y: x / y, "^": lambda x, y: x**y,
        "<": lambda x, y: float(x < y), "<=": lambda x, y: float(x <= y),
        ">": lambda x, y: float(x > y), "=": lambda x, y: float(x == y),
        "!=": lambda x, y: float(x != y),
    }  # fmt: skip
    to_the_right = sign == "^"
    one = left.within(bind + 1 if to_the_right or bind == 0 else bind)
    two = right.within(bind if to_the_right else bind + 1)
    return Said(
        f"{one} {sign} {two}", bind,
        lambda row: _finite(work[sign](left.meaning(row), right.meaning(row))),
        left.columns | right.columns,
    )  # fmt: skip


def _minus(inner: Said) -> Said:
    return Said(f"-{inner.within(3)}", 3, lambda row: -inner.meaning(row), inner.columns)


def _round(x: float) -> float:
    return float(Decimal(x).quantize(Decimal(1), rounding=ROUND_HALF_UP))


ONE: dict[str, Callable[[float], float]] = {
    "log": math.log, "log10": math.log10, "log1p": math.log1p, "exp": math.exp,
    "sqrt": math.sqrt, "abs": abs, "round": _round,
}  # fmt: skip
MANY: dict[str, Callable[[list[float]], float]] = {
    "min": min, "max": max, "mean": lambda x: sum(x) / len(x)
}  # fmt: skip


def _one(name: str, inner: Said) -> Said:
    return Said(
        f"{name}({inner.text})", 9, lambda row: _finite(ONE[name](inner.meaning(row))),
        inner.columns,
    )  # fmt: skip


def _many(name: str, inner: list[Said]) -> Said:
    return Said(
        f"{name} ({', '.join(one.text for one in inner)})", 9,
        lambda row: _finite(MANY[name]([one.meaning(row) for one in inner])),
        frozenset().union(*(one.columns for one in inner)),
    )  # fmt: skip


SIGNS = {"+": 1, "-": 1, "*": 2, "/": 2, "^": 4, "<": 0, "<=": 0, ">": 0, "=": 0, "!=": 0}
NUMBERS = st.sampled_from([0.0, 0.5, 1.0, 2.0, 2.5, 3.0, 10.0])
LEAVES = st.one_of(
    st.sampled_from(COLUMNS).map(_column), NUMBERS.map(lambda x: Said(f"{x:g}", 9, lambda row: x))
)
FORMULAS = st.recursive(
    LEAVES,
    lambda inner: st.one_of(
        st.builds(lambda s, a, b: _two(s, SIGNS[s], a, b), st.sampled_from(sorted(SIGNS)), inner,
                  inner),
        st.builds(_minus, inner),
        st.builds(_one, st.sampled_from(sorted(ONE)), inner),
        st.builds(_many, st.sampled_from(sorted(MANY)), st.lists(inner, min_size=1, max_size=3)),
    ),
    max_leaves=7,
)  # fmt: skip
CELL = st.none() | st.sampled_from([-2.5, -1.0, 0.0, 0.5, 1.0, 1.5, 2.0, 7.0])
ROWS = st.lists(st.fixed_dictionaries(dict.fromkeys(COLUMNS, CELL)), max_size=5)
FIRST: Row = dict.fromkeys(COLUMNS, 1.0)


@settings(max_examples=examples(120))
@given(said=FORMULAS, rows=ROWS)
def test_any_formula_means_what_it_says(said: Said, rows: list[Row]) -> None:
    rows = [FIRST, *rows]
    values, faults = parse_formula(said.text).values(table_of(rows))
    at_fault = sorted(row for fault in faults for row in fault.rows.tolist())
    assert len(set(at_fault)) == len(at_fault)
    for place, row in enumerate(rows):
        if any(row[name] is None for name in said.columns):
            assert math.isnan(values[place])
            assert place not in at_fault
            continue
        try:
            wanted = said.meaning(row)
        except (ArithmeticError, ValueError):
            assert place in at_fault
            assert math.isnan(values[place])
            continue
        assert place not in at_fault, said.text
        assert values[place] == pytest.approx(wanted, rel=1e-12, abs=1e-300)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("-2^2", -4), ("2^3^2", 512), ("2^-1", 0.5), ("-a^2 + 1", 0), ("8/4/2", 1), ("7-2-1", 4),
        ("round(2.5) + round(-2.5) + round(0.49999999999999994)", 0), ("log(exp(2))", 2),
        ("(a = 1) + (a <> 1) + (a == 1 and not a > 3)", 2), ("1 + 2 * 3 > 6", 1),
        ("`size of it` + mean(a, 2, 3)", 3), ("MAX(a, .5e1)", 5), ("log", 1), ("+a - -a", 2),
        ("(a in (1, -2)) + (a between 0 and 1) + (a is missing)", 2),
    ],
)  # fmt: skip
def test_signs_bind_as_is_said(text: str, value: float) -> None:
    found, faults = parse_formula(text).values(table_of([FIRST]))
    assert not faults
    assert found.tolist() == pytest.approx([value])


def test_a_column_asked_whether_it_is_missing_makes_no_gap() -> None:
    rows: list[Row] = [FIRST, FIRST | {"a": None}, FIRST | {"b": None}]
    found, _ = parse_formula("b * (a is missing)").values(table_of(rows))
    assert found[:2].tolist() == [0, 1]
    assert math.isnan(found[2])


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a +", "the end; expected the name of a column"),
        ("a b", '"b" at character 3; expected a sign such as + or the end'),
        ("log(a, b)", '2 inputs of "log" at character 1; expected one'),
        ("log(a", 'the end; expected "," or ")"'),
        ("a + 'x'", "a text at character 5; expected a number"),
        ("'x'", "a text at character 1; expected a number"),
        ("a and b", "no comparison at character 1"),
        ("nix * 2", 'no column "nix" at character 1; expected a column (nearest:'),
        ("2 * word", 'word at character 5, a column of text such as "Elm"; expected a column of'),
        ("(" * 61 + "a" + ")" * 61, "brackets nested more than 60 deep"),
        ("-" * 5000 + "a", "nested more than 60 deep"),
        ("a % 2", '"%" at character 3'),
    ],
)
def test_a_wrong_formula_says_where(text: str, said: str) -> None:
    table = table_of([FIRST])
    frame = table.frame.with_columns(pl.Series("word", ["Elm"]))
    with pytest.raises(InputError) as caught:
        parse_formula(text).values(Table("t.csv", frame))
    assert said in str(caught.value)


def test_each_kind_of_fault_is_told_with_its_rows_and_cells() -> None:
    cells = {"x": ["1", "0", "oops", "-1", None, "0"], "y": ["1", "2", "3", "4", "5", None]}
    table = Table("t.csv", pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String)))
    values, faults = parse_formula("log(x) + y / x").values(table)
    assert values[0] == 1
    assert np.isnan(values[1:]).all()
    told = [(fault.rows.tolist(), fault.cells, fault.found, fault.at) for fault in faults]
    assert told == [([2], ("oops",), 'a cell of "x"', 4), ([1, 3], ("0", "-1"), "no finite log", 0)]
    _, faults = parse_formula("y / x").values(table)
    assert [(f.rows.tolist(), f.found, f.at) for f in faults] == [
        ([2], 'a cell of "x"', 4), ([1], "a division by 0", 4),
    ]  # fmt: skip


@pytest.mark.slow
def test_a_long_text_takes_no_long() -> None:
    """Its parts are gone through once: a list of 100,000 numbers, a sum of 20,000 terms."""
    table = table_of([FIRST])
    values, _ = parse_formula(f"a in ({', '.join(map(str, range(100_000)))})").values(table)
    assert values.tolist() == [1]
    values, _ = parse_formula("+".join(["a"] * 20_000)).values(table)
    assert values.tolist() == [20_000]


def test_columns_can_be_called_otherwise() -> None:
    text = "log(log) + `a b`*a - 'a' in ('a')"
    assert renamed(text, {"a": "x y", "a b": "c", "log": "lg"}) == (
        "log(lg) + c*`x y` - 'a' in ('a')"
    )
    assert parse_formula("log (a) + a").columns == ("a",)
