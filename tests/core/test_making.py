"""Variables are made from others as defined, and no cell that cannot be turned is lost."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.derive.making import check_turned, completed
from gorvel.core.derive.numbers import the_number, the_numbers
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.table.levels import guess_level
from gorvel.core.table.table import Reading, Table
from reference import making as plain

Cell = str | None


def plan_of(*makes: dict[str, Any], **source: Any) -> Plan:
    return validated({"source": {"file": "t.csv", **source}, "make": list(makes)}, "p.toml")


def table_of(columns: dict[str, Sequence[Cell]], decimal: str = ".") -> Table:
    frame = pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String))
    return Table("t.csv", frame, Reading(decimal=decimal))


def made(columns: dict[str, Sequence[Cell]], make: dict[str, Any], decimal: str = ".") -> Table:
    table = completed(table_of(columns, decimal), plan_of(make))
    assert isinstance(table, Table)
    return table


def values(table: Table, column: str) -> list[float | None]:
    return [None if math.isnan(x) else x for x in table.numbers(column).values.tolist()]


def bad_rows(table: Table) -> list[int]:
    assert table.made is not None
    return sorted({row for one in table.made.unturned for row in one.rows.tolist()})


WORDS = ["Never", "now and then", "Often", "each day"]
GAPS = st.none()


@given(
    cells=st.lists(GAPS | st.sampled_from([*WORDS, "NEVER", "odd"]), max_size=12),
    count=st.integers(2, 4),
    reverse=st.booleans(),
)
def test_words_in_an_order(cells: list[Cell], count: int, reverse: bool) -> None:
    order = WORDS[:count]
    make = {"name": "y", "from": "x", "order": [f" {word} " for word in order], "reverse": reverse}
    table = made({"x": cells}, make)
    known = [word.lower() for word in order]
    wrong = [row for row, cell in enumerate(cells) if cell and cell.lower() not in known]
    assert bad_rows(table) == wrong
    right = [None if row in wrong else cell for row, cell in enumerate(cells)]
    assert values(table, "y") == plain.ordered(right, order, reverse)
    assert guess_level(table, "y") == "ordinal"
    assert table.names == ["x", "y"]
    assert all(cell is None or "." not in cell for cell in table.cells("y").values)


TICKS = st.lists(st.sampled_from(["Saw", "Drill", "Rule", "?"]), max_size=3)


@given(
    rows=st.lists(GAPS | TICKS, max_size=10),
    separator=st.sampled_from([";", " | ", ","]),
    options=st.none() | st.just(["Drill", "Saw", "Rule"]),
    empty=st.sampled_from(["none", "missing"]),
)
def test_several_answers_in_a_cell(
    rows: list[list[str] | None], separator: str, options: list[str] | None, empty: str
) -> None:
    cells = [separator.join(row) or None if row is not None else None for row in rows]
    make = {"name": "tools", "from": "x", "separator": separator, "empty": empty}
    table = made({"x": cells}, make | ({"options": options} if options else {}))
    wrong = [row for row, cell in enumerate(cells) if options and cell and "?" in cell]
    assert bad_rows(table) == wrong
    kept = ["Saw" if row in wrong else cell for row, cell in enumerate(cells)]
    wanted = plain.ticked(kept, separator.strip(), options, empty)
    assert table.names == ["x", *(f"tools: {option}" for option in wanted)]
    for option, column in wanted.items():
        right = [None if row in wrong else value for row, value in enumerate(column)]
        assert values(table, f"tools: {option}") == right
        assert guess_level(table, f"tools: {option}") == "binary"


NUMBER = st.floats(-1e9, 1e9, allow_nan=False).map(lambda x: round(x, 3))
CLOTHES = [
    "{}", "€{}", "€ {}", "{} %", "{}%", "{} EUR", "about {} euro", "EUR {}", "{} m2", "$ {} a year",
    " {} kg ", "({})",
]  # fmt: skip


@given(
    number=NUMBER, clothes=st.sampled_from(CLOTHES), decimal=st.sampled_from(".,"),
    blank=st.sampled_from(["", "mark", " ", "\u00a0", "\u202f", "\u2009"]),
    minus=st.sampled_from("-\u2212"),
)  # fmt: skip
def test_numbers_in_clothes(
    number: float, clothes: str, decimal: str, blank: str, minus: str
) -> None:
    other = "," if decimal == "." else "."
    digits = f"{abs(number):,.3f}" if blank else f"{abs(number):.3f}"
    written = digits.replace(",", "T").replace(".", decimal).replace("T", other)
    if blank not in ("", "mark"):
        written = written.replace(other, blank)
    sign = minus if number < 0 else ""
    table = made({"x": [clothes.format(sign + written)]}, NUMBERED, decimal)
    assert values(table, "y") == [pytest.approx(number, abs=1e-9)]


NUMBERED = {"name": "y", "from": "x", "number": True}


@pytest.mark.parametrize(
    ("cell", "value"),
    [
        ("€79,974", 79974), ("60 %", 60), ("12", 12), ("-€5", -5), ("€-5.5", -5.5), (".5 l", 0.5),
        ("- 3", -3), ("1e3", 1000), ("A-5", 5), ("no. 7.", 7), ("1,234,567.25", 1234567.25),
        ("12 000", 12000), ("3 m2", 3), ("+8", 8), ("£1,20,000", 120000), ("5h", 5),
        ("1,5", None), ("12 34", None), ("18-24", None), ("none", None), ("-", None),
        ("2026-02-15", None), ("1.2.3", None), ("5 or 6", None), ("Q1 Q2", None), ("1,2345", None),
    ],
)  # fmt: skip
def test_the_one_number_of_a_cell(cell: str, value: float | None) -> None:
    table = made({"x": [cell, None]}, NUMBERED)
    assert values(table, "y") == [value, None]
    assert bad_rows(table) == ([0] if value is None else [])


def test_numbers_are_read_back_exactly_and_whole_ones_have_no_point() -> None:
    cells = ["0.1", "3.0", "-0", "1e15", "123456789.125", "5"]
    table = made({"x": cells}, NUMBERED)
    assert table.cells("y").values.tolist()[:3] == ["0.1", "3", "0"]
    assert values(table, "y") == [float(cell) for cell in cells]
    turned = made({"x": ["1", "4", None]}, NUMBERED | {"reverse": [1, 5]})
    assert values(turned, "y") == [5, 2, None]


@st.composite
def band_cells(draw: st.DrawFn) -> str:
    low = draw(st.integers(0, 90))
    high = draw(st.integers(0, 99))
    form = draw(st.sampled_from(["{a}-{b}", "{a} – {b}", "{a} TO {b}", "{a}+", "{a} and over",
                                 "Under {a}", "{a} - {b}"]))  # fmt: skip
    return form.format(a=low, b=high)


@given(cells=st.lists(GAPS | band_cells(), max_size=8), kind=st.sampled_from(["middle", "order"]))
def test_bands(cells: list[Cell], kind: str) -> None:
    table = made({"x": cells}, {"name": "y", "from": "x", "bands": kind})
    right: list[Cell] = list(cells)
    while True:
        try:
            wanted = plain.banded(right, kind)
            break
        except plain.Unturned as error:
            right[error.row] = None
    assert bad_rows(table) == [row for row, cell in enumerate(cells) if cell and not right[row]]
    assert values(table, "y") == wanted
    assert guess_level(table, "y") == "interval"


def test_bands_as_surveys_write_them() -> None:
    cells = ["18-24", "25 to 34 years", "65+", "under 18", "€10,000–€20,000", "less than 5", "3",
             "65 or older", "40-30", "some", "18-", "1-2-3"]  # fmt: skip
    table = made({"x": cells}, {"name": "y", "from": "x", "bands": "middle"})
    assert values(table, "y") == [
        21, 29.5, 65 + 5000, 9, 15000, 2.5, 3, 65 + 5000, None, None, None, None,
    ]  # fmt: skip
    assert bad_rows(table) == [8, 9, 10, 11]
    table = made({"x": ["65+", "under 18"]}, {"name": "y", "from": "x", "bands": "middle"})
    assert values(table, "y") == [None, 9]  # without a closed band it has no width
    assert bad_rows(table) == [0]


DAY = st.dates(date(1990, 1, 1), date(2030, 12, 31))


@given(
    days=st.lists(GAPS | DAY, max_size=8),
    kind=st.sampled_from(["days", "year", "month", "weekday"]),
    written=st.sampled_from([None, "%d.%m.%Y", "%m/%d/%y", "%d %B %Y"]),
)
def test_dates(days: list[date | None], kind: str, written: str | None) -> None:
    cells = [None if d is None else d.strftime(written or "%Y-%m-%d") for d in days]
    make = {"name": "y", "from": "x", "date": kind} | ({"format": written} if written else {})
    table = made({"x": cells}, make)
    assert values(table, "y") == plain.dated(days, kind)
    assert not bad_rows(table)


def test_times_of_the_day_are_passed_over_and_no_day_is_a_fault() -> None:
    cells = ["2026-02-15T23:59:00+02:00", "2026-02-14 08:30", "2026-02-30", "15.2.2026", "x"]
    table = made({"x": cells}, {"name": "y", "from": "x", "date": "days"})
    assert values(table, "y") == [1, 0, None, None, None]
    assert bad_rows(table) == [2, 3, 4]


def clock(seconds: int, half: bool, short: bool) -> str:
    """A time as it is written, in 24 hours or in twice 12."""
    hours, rest = divmod(seconds, 3600)
    told = f"{hours % 12 or 12}" if half else f"{hours}"
    told += f":{rest // 60:02}" + ("" if short else f":{rest % 60:02}")
    return told + ((" pm" if hours >= 12 else " AM") if half else "")


@given(
    day=st.lists(GAPS | st.integers(0, 24 * 60 - 1), max_size=8), half=st.booleans(),
    kind=st.sampled_from(["hours", "minutes", "seconds"]), short=st.booleans(),
    second=st.integers(0, 59),
)  # fmt: skip
def test_times(day: list[int | None], half: bool, kind: str, short: bool, second: int) -> None:
    seconds = [None if one is None else 60 * one + (0 if short else second) for one in day]
    cells = [None if one is None else clock(one, half, short) for one in seconds]
    table = made({"x": cells}, {"name": "y", "from": "x", "time": kind})
    expected = plain.timed(seconds, kind)
    for got, wanted in zip(values(table, "y"), expected, strict=True):
        assert (got is None) == (wanted is None)
        assert wanted is None or got == pytest.approx(wanted, abs=1e-9)
    assert not bad_rows(table)


def test_what_takes_more_than_a_day_and_what_is_no_time() -> None:
    cells = ["100:30", "1h30", "00:00:01,5", "13:00 pm", "12:60", "8", "8:5", "x:10"]
    table = made({"x": cells}, {"name": "y", "from": "x", "time": "minutes"})
    assert values(table, "y") == [6030, 90, 0.025, None, None, None, None, None]
    assert bad_rows(table) == [3, 4, 5, 6, 7]


ITEMS = st.lists(st.tuples(*[st.none() | st.integers(1, 5).map(float)] * 3), max_size=8)


@given(
    rows=ITEMS, kind=st.sampled_from(["mean", "sum"]), at_least=st.none() | st.integers(1, 3),
    reverse=st.none() | st.just((1.0, 5.0)),
)  # fmt: skip
def test_means_and_sums_of_items(
    rows: list[tuple[float | None, ...]], kind: str, at_least: int | None,
    reverse: tuple[float, float] | None,
) -> None:  # fmt: skip
    names = ("a", "b", "c")
    rows = [(1.0, 1.0, 1.0), *rows]
    columns = {
        name: [None if row[k] is None else f"{row[k]:g}" for row in rows]
        for k, name in enumerate(names)
    }
    make: dict[str, Any] = {"name": "y", kind: names}
    if at_least is not None:
        make["at_least"] = at_least
    if reverse is not None:
        make["reverse"] = list(reverse)
    table = made(columns, make)
    wanted = plain.combined(rows, kind, at_least, reverse)
    assert values(table, "y") == [None if x is None else pytest.approx(x) for x in wanted]


def test_a_later_entry_uses_an_earlier_one() -> None:
    source = table_of({"q 1": ["no", "yes", None, "98"], "age": ["20", "30", "40", "x"]})
    plan = plan_of(
        {"name": "one", "from": "q 1", "order": ["no", "yes"]},
        {"name": "two", "formula": "one * 10 + (`q 1` is missing)"},
        {"name": "both", "mean": ["one", "two"]},
        missing_codes=["98", "1"],
    )
    table = completed(source, plan)
    assert isinstance(table, Table)
    assert values(table, "one") == [1, 2, None, None]  # the code 1 says nothing in what is made
    assert values(table, "two") == [10, 20, None, None]
    assert values(table, "both") == [5.5, 11, None, None]
    assert table.numbers("one", ("98", "1")).values[0] == 1
    assert source.names == ["q 1", "age"]
    assert completed(table, plan) is table
    assert completed(source, plan) is table
    assert completed(table, plan_of()) is source


def test_answers_that_are_corrected_are_turned() -> None:
    make = {"name": "y", "from": "x", "order": ["no", "yes"], "correct": {"Yess": "yes", "?": ""}}
    table = made({"x": ["no", "yess ", "?", "yes"]}, make)
    assert values(table, "y") == [1, 2, None, 2]
    assert not bad_rows(table)


def test_another_file_is_turned_like_the_first() -> None:
    plan = plan_of(
        {"name": "days", "from": "d", "date": "days"},
        {"name": "age", "from": "a", "bands": "middle"},
        {"name": "t", "from": "t_", "separator": ";"},
    )
    first = table_of({"d": ["2026-01-01", "2026-01-11"], "a": ["10-30", "65+"], "t_": ["x", "y;x"]})
    other = table_of({"d": ["2026-01-05", "2025-12-31"], "a": ["65+", "11-12"], "t_": ["y", "z"]})
    table = completed(other, plan, first)
    assert isinstance(table, Table)
    assert values(table, "days") == [4, -1]
    assert values(table, "age") == [75, 11.5]
    assert table.names[-2:] == ["t: x", "t: y"]
    assert bad_rows(table) == [1]


def test_a_cell_that_cannot_be_turned_stops_a_tree_and_says_where() -> None:
    source = table_of({"x": ["1 kg", "2 kg", "2 kg 3", "?"], "z": ["1", "2", "3", "4"]})
    plan = plan_of(NUMBERED).with_("variables", use=["y"])
    with pytest.raises(InputError) as caught:
        prepare(source, plan)
    said = 't.csv: row 3, column "x": "2 kg 3" (for [[make]] "y"); expected one number in the cell'
    assert str(caught.value) == said
    plan = plan_of({"name": "y", "formula": "log(z - 1)"}).with_("variables", use=["y"])
    with pytest.raises(InputError) as caught:
        check_turned(completed(source, plan))
    assert str(caught.value) == (
        't.csv: row 1: no finite log at character 1 of the formula of "0" (for [[make]] "y");'
        " expected a finite number"
    )


@pytest.mark.parametrize(
    ("makes", "said"),
    [
        ([{"name": "y"}], 'no way to make it; expected one of: order, separator'),
        ([{"name": "y", "from": "x", "number": True, "bands": "order"}], "number and bands; exp"),
        ([NUMBERED, NUMBERED], '"y": the name of two entries; expected a name of its own'),
        ([{"name": "y", "number": True}], "number without from; expected from"),
        ([{"name": "y", "from": "x", "mean": ["x"]}], "from beside mean"),
        ([NUMBERED | {"options": ["a"]}], "options with number; expected it left out"),
        ([NUMBERED | {"reverse": True}], "reverse = true; expected the lowest and the highest"),
        ([NUMBERED | {"reverse": [5, 1]}], "the ends to reverse; expected the lower one first"),
        ([{"name": "y", "from": "x", "order": ["a", "b"], "reverse": [1, 2]}], "two ends"),
        ([{"name": "y", "from": "x", "order": ["a", "A "]}], "each word once"),
        ([{"name": "y", "mean": ["x", "z"], "at_least": 3}], "at_least = 3; expected at most 2"),
        ([{"name": "y", "formula": "y + 1"}], '"y", which is made here; expected columns of the'),
        ([{"name": "y", "formula": "w + 1"}, {"name": "w", "formula": "x"}], "made later"),
        ([{"name": "y", "formula": "x +"}], "in the formula, the end; expected the name of a col"),
        ([{"name": "y", "from": "x", "date": "days", "format": "%d.%m"}], "one with %Y or %y"),
        ([{"name": "y", "from": "x", "date": "days", "format": "%Q"}], 'the format "%Q"'),
        ([{"name": "y", "from": "x", "bands": "wide"}], '"wide"; expected "middle" or "order"'),
        ([{"name": "y", "from": "x", "way": 1}], 'unknown key "way"'),
        ([NUMBERED | {"name": "z"}], 'the name "z", which another column already has'),
        ([NUMBERED | {"from": "xx"}], 'no column "xx"; expected a column (nearest: "x")'),
        ([{"name": "y", "mean": ["x", "word"]}], '"word", a column of text such as "a"'),
    ],
)  # fmt: skip
def test_a_wrong_entry_is_refused_by_name(makes: list[dict[str, Any]], said: str) -> None:
    source = table_of({"x": ["1", "2"], "z": ["1", "2"], "word": ["a", "b"]})

    def carry_out() -> None:
        completed(source, plan_of(*makes).with_("variables", use=["z"]))

    with pytest.raises(InputError) as caught:
        carry_out()
    assert said in str(caught.value)


def test_a_matrix_has_nothing_to_make_of() -> None:
    text = 'gorvel = 1\n[source]\nfile = "m.csv"\nkind = "proximities"\n[[make]]\nname = "y"\n'
    with pytest.raises(InputError, match="a variable created from a proximity matrix"):
        parse_plan(text + 'formula = "1"\n', "p.toml")


def test_a_plan_with_entries_is_written_and_read_again() -> None:
    plan = plan_of(
        {"name": "one", "from": "q 1", "order": ["no", "yes"], "reverse": True},
        {"name": "two", "from": "x", "number": True, "reverse": [1, 5], "correct": {"?": "3"}},
        {"name": "three", "sum": ["one", "two"], "at_least": 1},
    ).with_("variables", use=["three"])
    text = plan_text(plan)
    assert text.count("[[make]]") == 3
    assert parse_plan(text, "p.toml") == plan


def test_what_is_made_is_part_of_what_grows_the_tree() -> None:
    """As far as it is looked at: directly, or through others."""
    one = {"name": "one", "from": "x", "number": True}
    two, three = {"name": "two", "formula": "one"}, {"name": "three", "from": "x", "bands": "order"}
    plan = plan_of(one, two, three).with_("variables", use=["two"])
    again = plan_of(one, two).with_("variables", use=["two"])
    assert plan.grows_as(again)
    assert not plan.grows_as(
        plan_of(one | {"reverse": [0, 9]}, two).with_("variables", use=["two"])
    )
    coded = again.with_("variables", missing={"x": ["9"]})
    assert not plan.grows_as(coded)
    assert plan.grows_as(again.with_("variables", missing={"z": ["9"]}))


@given(days=st.integers(0, 5000))
def test_weekdays_are_those_of_the_calendar(days: int) -> None:
    day = date(2020, 1, 6) + timedelta(days)  # a Monday
    table = made({"x": [day.isoformat()]}, {"name": "y", "from": "x", "date": "weekday"})
    assert values(table, "y") == [days % 7 + 1]


def test_words_of_an_ordinal_column_have_the_order_that_the_plan_tells() -> None:
    source = table_of({"x": ["Often", "never", None, "now"], "z": ["1", "2", "3", "4"]})
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["x", "z"]\nordinal = ["x"]\n'
        '[missing]\nhandling = "mean"\n[variables.values.x]\nnever = ""\nnow = ""\noften = ""\n'
    )
    plan = parse_plan(text, "p.toml")
    assert prepare(source, plan).raw[:, 0].tolist() == [3, 1, 2, 2]
    other = parse_plan(text.replace('now = ""\n', "") + 'now = ""\n', "p.toml")
    assert not plan.grows_as(other)
    few = parse_plan(text.replace('now = ""\n', ""), "p.toml")
    with pytest.raises(InputError, match='row 4, column "x": "now"; expected one of: never, often'):
        prepare(source, few)


LIKE_NUMBERS = st.text("0123456789.,-€ e%aR\u00a0\u2212", max_size=9)


@given(answers=st.lists(LIKE_NUMBERS, max_size=8), decimal=st.sampled_from(".,"))
def test_many_numbers_are_those_one_by_one(answers: list[str], decimal: str) -> None:
    assert the_numbers(answers, decimal) == [the_number(answer, decimal) for answer in answers]


def test_what_many_entries_made_is_remembered_one_by_one() -> None:
    """Another entry costs what it makes itself, not what all the others make."""
    source = table_of({f"x{k}": ["1", "2"] for k in range(90)})
    makes = [{"name": f"y{k}", "from": f"x{k}", "number": True} for k in range(90)]
    completed(source, plan_of(*makes))
    first = {key: made for key, made in source.kept_makings.items() if key[0] == "entry"}
    more = {"name": "z", "formula": "y1 + y89"}
    completed(source, plan_of(*makes, more))
    now = {key: made for key, made in source.kept_makings.items() if key[0] == "entry"}
    assert len(now) == 91
    assert all(now[key] is made for key, made in first.items())
