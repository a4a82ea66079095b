"""Answers in words are taken for what they are, and all that is proposed can be carried out."""

from __future__ import annotations

import random
from collections.abc import Sequence

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.column_detection.columns import look_at, numbered
from gorvel.core.column_detection.first_plan import propose_plan
from gorvel.core.column_detection.proposals import Proposal, applied, proposed, with_reversed
from gorvel.core.column_detection.vocabulary import Scale, vocabulary
from gorvel.core.derive.making import completed
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Reading, Table

Cell = str | None
SCALES = vocabulary().scales


def table_of(columns: dict[str, Sequence[Cell]], decimal: str = ".") -> Table:
    frame = pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String))
    return Table("t.csv", frame, Reading(decimal=decimal))


def proposals_of(columns: dict[str, Sequence[Cell]], decimal: str = ".") -> list[Proposal]:
    table = table_of(columns, decimal)
    return proposed(table, propose_plan(table))


def made(table: Table, proposals: Sequence[Proposal]) -> tuple[Plan, Table]:
    plan = applied(propose_plan(table), proposals, table.names)
    out = completed(table, plan)
    assert isinstance(out, Table)
    return plan, out


def test_what_is_listed_is_sound() -> None:
    languages = {scale.language for scale in SCALES}
    assert languages == {"en", "de", "fr", "es", "it", "nl", "pl"}
    for language in languages:
        about = {scale.about for scale in SCALES if scale.language == language}
        assert about == {"agreement", "frequency", "satisfaction", "importance", "likelihood",
                         "quality", "amount"}  # fmt: skip
    for scale in SCALES:
        words = [word for step in scale.steps for word in step]
        assert 3 <= len(scale.steps) <= 11
        assert len(set(words)) == len(words)
        assert all(word and word == word.casefold() for word in words)


@given(scale=st.sampled_from(SCALES), data=st.data())
def test_ordered_words_in_any_language(scale: Scale, data: st.DataObject) -> None:
    """Each step in one of its words, as it may be written; each answer gets its step."""
    write = data.draw(st.sampled_from([str.title, str.upper, str.capitalize, str]))
    words = [write(data.draw(st.sampled_from(step))) for step in scale.steps]
    places = data.draw(st.lists(st.integers(0, len(words) - 1), max_size=20))
    places = [*range(len(words)), *places]
    table = table_of({"q": [words[place] for place in places]})
    (proposal,) = proposed(table, propose_plan(table))
    assert proposal.becomes == "order"
    assert proposal.sure
    assert list(proposal.words) == words
    plan, out = made(table, [proposal])
    (name,) = out.names[1:]
    assert name == f"q (1–{len(words)})"
    assert out.numbers(name).values.tolist() == [place + 1 for place in places]
    assert name in plan.variables.use
    assert plan.variables.labels[name] == "q"
    assert plan.variables.values[name] == {str(k): word for k, word in enumerate(words, 1)}


def test_columns_of_one_scale_are_one_proposal_though_some_steps_are_not_taken() -> None:
    strong, weak = ["Strongly disagree", "Disagree"], ["Agree", "Strongly agree"]
    found = proposals_of(
        {
            "a": [*strong, *weak, None, "Agree"],
            "x": ["1", "2", "3", "4", "5", "6"],
            "b": ["Disagree", "Neither", *weak, "agree", "Don't know"],
        }
    )
    assert [(p.columns, p.words) for p in found] == [
        (("a", "b"), (*strong, "Neither", *weak)),
    ]  # fmt: skip
    assert found[0].missing == {"b": ("Don't know",)}
    turned = with_reversed(found[0], "b", True)
    _, out = made(table_of({"a": [*strong, None], "b": ["Neither", "Agree", "Don't know"]}),
                  [turned])  # fmt: skip
    assert out.cells("b (1–5)").values.tolist() == ["3", "2", None]
    assert out.cells("a (1–5)").values.tolist() == ["1", "2", None]
    assert with_reversed(turned, "b", False) == found[0]


@given(
    low=st.integers(0, 1), steps=st.integers(3, 10), form=st.sampled_from(
        ["{n} = {w}", "{n}: {w}", "({n}) {w}", "{n} {w}", "{w} ({n})", "{w} = {n}", "{n} – {w}"]
    ), ends=st.booleans(), seed=st.randoms(use_true_random=False),
)  # fmt: skip
def test_words_with_numbers_are_ordered_by_them(
    low: int, steps: int, form: str, ends: bool, seed: random.Random
) -> None:
    words = ["zero", "much", "alpha", "of it", "more", "last", "one", "end", "up", "down"]
    answers = [
        str(low + k) if ends and 0 < k < steps - 1 else form.format(n=low + k, w=words[k])
        for k in range(steps)
    ]
    cells = answers * 2
    seed.shuffle(cells)
    (found,) = proposals_of({"q": cells})
    assert found.becomes == "order"
    assert list(found.words) == answers
    assert numbered(answers) == {low + k: answer for k, answer in enumerate(answers)}


OPTIONS = ["Drill", "Saw", "Spirit level", "Hammer", "Tape"]


@given(
    rows=st.lists(st.sets(st.sampled_from(OPTIONS), max_size=5), min_size=12, max_size=40),
    separator=st.sampled_from(["; ", " | ", ", ", "/"]),
)
def test_several_answers_in_a_cell(rows: list[set[str]], separator: str) -> None:
    rows += [{"Drill", "Saw"}, {"Saw", "Tape"}, {"Drill", "Tape"}, {"Hammer", "Drill"}]
    rows += [{"Hammer", "Spirit level"}, {"Spirit level", "Saw"}]
    cells = [separator.join(sorted(row)) or None for row in rows]
    cells[0] = separator.join(["Drill", "Other: a long rope"])
    rows[0] = {"Drill"}
    table = table_of({"tools": cells})
    (found,) = proposed(table, propose_plan(table))
    assert found.becomes == "several"
    assert set(found.options) == {*OPTIONS, "Other: *"}
    _, out = made(table, [found])
    assert out.made is not None
    assert not out.made.unturned
    for option in OPTIONS:
        ticked = [str(int(option in row)) for row in rows]
        assert out.cells(f"tools: {option}").values.tolist() == ticked
    assert out.cells("tools: Other").values.tolist() == ["1"] + ["0"] * (len(rows) - 1)


def test_a_checklist_spread_over_columns() -> None:
    columns = {"t [1]": ["Drill", None, None], "t [2]": [None, "Saw", "Saw"],
               "c": ["same", "same", "same"]}  # fmt: skip
    table = table_of(columns)
    (found,) = proposed(table, propose_plan(table))
    assert (found.becomes, found.columns, found.options) == (
        "checklist", ("t [1]", "t [2]"), ("Drill", "Saw"),
    )  # fmt: skip
    plan, out = made(table, [found])
    assert out.cells("t [1]: Drill").values.tolist() == ["1", "0", "0"]
    assert out.cells("t [2]: Saw").values.tolist() == ["0", "1", "1"]
    assert plan.variables.use == ("t [1]: Drill", "t [2]: Saw")


@pytest.mark.parametrize(
    ("cells", "becomes", "kind"),
    [
        (["€79,974", "€1,200", "€900.50", "Prefer not to say"], "number", ""),
        (["60 %", "7 %", "100 %"], "number", ""),
        (["12 km", "3 km", "about 7 km"], "number", ""),
        (["18-24", "25-34", "65+", "18-24", "n/a"], "bands", "middle"),
        (["under 20", "20 to 30", "30 to 40"], "bands", "middle"),
        (["2026-02-15", "2025-12-01", "2026-01-31"], "date", "days"),
        (["15.02.2026", "01.12.2025", "31.01.2026"], "date", "days"),
        (["2026-02-15 10:00", "2025-12-01 09:30", "2026-01-31 23:59"], "date", "days"),
        (["14:35", "9:05", "23:59:30"], "time", "hours"),
        (["2:05 pm", "12:00 am", "n/a"], "time", "hours"),
        (["14h30", "15h10", "16h45"], "time", "hours"),
        (["ja", "nein", "nein", "ja", "keine Angabe"], "yes-no", ""),
        (["3", "4", "n/a", "5", "6", "-"], "missing", ""),
        (["No", "Yes", "Refused", "Yes"], "missing", ""),
        ([f"I find {'so ' * k}many of these far too long" for k in range(30)], "text", ""),
    ],
)
def test_single_columns(cells: list[Cell], becomes: str, kind: str) -> None:
    table = table_of({"id": [f"R{k}" for k in range(len(cells))], "q": cells})
    (found,) = proposed(table, propose_plan(table))
    assert (found.becomes, found.kind) == (becomes, kind)
    plan, out = made(table, [found])
    assert out.made is None or not out.made.unturned
    gone = {"Prefer not to say", "n/a", "keine Angabe", "Refused", "-"}
    assert set(plan.variables.missing.get("q", ())) == gone & {c for c in cells if c}
    for name in out.names[2:]:
        gaps = out.series(name, plan.codes(name)).null_count()
        assert gaps == (0 if becomes == "yes-no" else sum(cell in gone for cell in cells)) or (
            becomes == "yes-no" and gaps == 1
        )


@pytest.mark.parametrize(
    "cells",
    [
        ["1", "2", "3"], ["yes", "no", "yes"], ["Elm", "Fell", "Elm"], ["x", "x", "x"],
        [None, None, None], ["1.5", "oops", "2.5"], ["Stop 12", "Stop 3", "Mill 4 a"],
    ],
)  # fmt: skip
def test_where_nothing_is_to_be_made_nothing_is_proposed(cells: list[Cell]) -> None:
    assert not [p for p in proposals_of({"q": cells}) if p.becomes not in ("text", "number")]


def test_names_are_no_numbers() -> None:
    found = proposals_of({"n": ["1", "5", "2"], "id": ["R001", "R002", "R003"]})
    assert not found  # it names the cases already
    table = table_of({"id": ["R001", "R002", "R003"]})
    (found_alone,) = proposed(table, Plan(source=SourcePlan(file="t.csv")))
    assert found_alone.becomes == "identifier"
    plan = applied(Plan(source=SourcePlan(file="t.csv")), [found_alone], table.names)
    assert plan.cases.label == "id"
    assert not plan.make


@pytest.mark.parametrize(
    ("cells", "kind"),
    [([f"Region {k}" for k in range(1, 21)], "identifier"),
     ([f"The Valleys of Upper Number {k}" for k in range(1, 21)], "identifier"),
     ([f"Region {k % 9}" for k in range(20)], "clothes"),  # they come again
     ([f"about {1000 + 250 * k}" for k in range(20)], "clothes"),  # amounts, by their size
     ([f"EUR {k}" for k in range(20)], "clothes"), ([f"{k} km" for k in range(20)], "clothes")],
)  # fmt: skip
def test_names_that_end_in_a_number_are_names(cells: list[str], kind: str) -> None:
    table = table_of({"a": cells, "b": [str(k % 7) for k in range(20)]})
    assert look_at(table, "a", ())[1].kind == kind
    if kind == "identifier":
        plan = propose_plan(table)
        assert plan.cases.label == "a"
        assert proposed(table, plan) == []


def test_unknown_words_that_columns_share_wait_for_an_order() -> None:
    one, two = ["blue", "red", "green", "red"], ["green", "red", "blue", None]
    found = proposals_of({"a": one, "b": two, "c": ["red", "red", None, "blue"]})
    assert [(p.becomes, p.columns, p.sure) for p in found] == [("words", ("a", "b", "c"), False)]
    assert set(found[0].words) == {"red", "green", "blue"}
    assert found[0].answers[0] == "red"
    assert found[0].counts == (5, 3, 2) or sum(found[0].counts) == 10


def test_nothing_is_proposed_twice_and_nothing_is_applied_unseen() -> None:
    table = table_of({"q": ["never", "often", "always", "rarely", "sometimes"], "x": list("42315")})
    plan = propose_plan(table)
    assert not plan.make
    (found,) = proposed(table, plan)
    again = applied(plan, [found], table.names)
    assert not proposed(table, again)
    assert again.variables.use == ("x", "q (1–5)")
    taken = table_of({"q": list("abc"), "q (1–5)": list("abc")})
    assert found.makes(taken.names)[0].name == "q (1–5) 2"


CELL = st.none() | st.text(max_size=12) | st.sampled_from(
    ["yes", "18-24", "65+", "€5", "5 %", "Agree", "Disagree", "a; b", "b; c", "2026-01-01", "n/a"]
)  # fmt: skip


@given(cells=st.lists(CELL, min_size=1, max_size=12), decimal=st.sampled_from(".,"))
def test_any_cells_can_be_looked_at_and_what_is_proposed_carried_out(
    cells: list[Cell], decimal: str
) -> None:
    stripped = [None if cell is None else cell.strip() or None for cell in cells]
    table = table_of({"q": stripped}, decimal)
    look_at(table, "q")
    plan = Plan(source=SourcePlan(file="t.csv"))
    found = proposed(table, plan)
    out = completed(table, applied(plan, found, table.names))
    assert isinstance(out, Table)
    assert out.n == len(cells)
