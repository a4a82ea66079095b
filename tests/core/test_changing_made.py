"""Made variables are renamed and removed everywhere, or not at all; names are completed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.derive.making import completed
from gorvel.core.language.completing import completions
from gorvel.core.language.parser import parse
from gorvel.core.language.syntax import Column, parts
from gorvel.core.plan.changing_made import users_of, with_entry, without_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.study.study import study_of
from gorvel.core.table.table import Table
from gorvel.core.words.differences import change_words, differences


def entry(**keys: Any) -> MakePlan:
    return MakePlan.model_validate(keys)


ONE = entry(name="one", formula="x")
PLAN = validated(
    {
        "source": {"file": "t.csv"},
        "make": [
            {"name": "one", "formula": "x"},
            {"name": "two", "mean": ["one", "y"]},
            {"name": "three", "formula": "log(one) + `one` * two"},
            {"name": "t", "from": "word", "separator": ";"},
        ],
        "cases": {"weight": "one", "split": "one", "keep": "one > 1 and word in ('one')"},
        "variables": {
            "use": ["one", "three", "t: a"], "ordinal": ["one"], "importance": {"one": 2.0},
            "labels": {"one": "One"}, "profile": ["two"], "cap": {"one": [1.0, 99.0]},
        },
        "design": {"strata": "one"},
        "trees": [{"name": "b", "use": ["one"], "weight": "one", "importance": {"one": 3.0}}],
    },
    "p.toml",
)  # fmt: skip


def test_a_name_is_changed_wherever_it_stands() -> None:
    plan = with_entry(PLAN, ONE, entry(name="a new one", formula="x"))
    told = str(plan.model_dump(exclude_unset=True))
    assert plan.make[1].mean == ("a new one", "y")
    assert plan.make[2].formula == "log(`a new one`) + `a new one` * two"
    assert plan.cases.keep == "`a new one` > 1 and word in ('one')"
    assert plan.variables.use == ("a new one", "three", "t: a")
    assert plan.variables.importance == {"a new one": 2.0}
    assert plan.trees[0].importance == {"a new one": 3.0}
    assert told.count("'one'") == 1  # the text in the condition
    back = with_entry(plan, plan.make[0], ONE)
    assert back.make[2].formula == "log(one) + one * two"
    assert back.model_copy(update={"make": PLAN.make}) == PLAN


def test_what_is_needed_stays_and_what_is_not_goes_with_all_that_was_said_of_it() -> None:
    assert users_of(PLAN, PLAN.make[0]) == [
        "it is active", "it weights them", "it splits them", "cases are chosen by it",
        "“two” is created from it", "“three” is created from it",
    ]  # fmt: skip
    with pytest.raises(InputError) as caught:
        without_entry(PLAN, PLAN.make[0])
    assert "“one” is needed: it weights them" in caught.value.said
    fewer = without_entry(without_entry(PLAN, PLAN.make[2]), PLAN.make[1])
    assert [make.name for make in fewer.make] == ["one", "t"]
    assert fewer.variables.use == ("one", "t: a")
    assert fewer.variables.profile == ()
    without = without_entry(fewer, fewer.make[1])
    assert without.variables.use == ("one",)


def test_a_new_entry_becomes_active_and_another_takes_its_place() -> None:
    table = Table("t.csv", pl.DataFrame({"x": ["1", "2"], "y": ["3", "4"], "word": ["a", "b"]}))
    plan = Plan(source=PLAN.source)
    more = with_entry(plan, None, ONE)
    assert more.variables.use == ("one",)
    other = with_entry(more, ONE, entry(name="one", formula="x * 2"))
    made = completed(table, other)
    assert isinstance(made, Table)
    assert made.cells("one").values.tolist() == ["2", "4"]
    with pytest.raises(InputError, match="the name of two entries"):
        with_entry(more, None, ONE)


NAMES = ["people", "log income", "a", "size", "`odd"]


@given(before=st.text("ab +(*2", max_size=5), half=st.text("peolgsizn a", max_size=4))
def test_what_completes_a_word_is_understood(before: str, half: str) -> None:
    """It stands where the half was, and names one of the columns, or begins a function."""
    for quoted in ("", "`"):
        text = before + quoted + half
        for one in completions(text, len(text), NAMES):
            whole = text[: one.start] + one.text
            assert one.text.strip("`(") in (*NAMES, "log", "log10", "log1p", "exp", "sqrt", "abs",
                                            "round", "min", "max", "mean")  # fmt: skip
            word = text[one.start :].strip("`").casefold()
            assert word in one.text.casefold()
            alone = one.text + ("1)" if one.text.endswith("(") else "")
            columns = [p.name for p in parts(parse(alone, test=False)) if isinstance(p, Column)]
            assert columns == ([] if one.text.endswith("(") else [one.words])
            assert whole.startswith(text[: one.start])


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("pe", ["people"]), ("log", ["log income", "log( )", "log10( )", "log1p( )"]),
        ("log10(`log i", ["log income"]), 
        ("log10(`log income`) + s", ["size", "sqrt( )"]),
        ("a = 'pe", []), ("", []), ("2 + ", []), ("3", []),
    ],
)  # fmt: skip
def test_names_that_fit(text: str, words: list[str]) -> None:
    found = [one.words for one in completions(text, len(text), ["people", "log income", "size"])]
    assert found == words


def test_options_are_called_otherwise_together() -> None:
    old = entry(**{"name": "t", "from": "word", "separator": ";"}, options=["a", "Other: *"])
    plan = validated(
        {"source": {"file": "t.csv"}, "make": [old.model_dump(by_alias=True, exclude_unset=True)],
         "variables": {"use": ["t: a", "t: Other"], "importance": {"t: a": 2.0}}}, "p.toml",
    )  # fmt: skip
    new = old.model_copy(update={"name": "things", "options": ("b", "a", "Other: *")})
    changed = with_entry(plan, plan.make[0], new)
    assert changed.variables.use == ("things: a", "things: Other")
    assert changed.variables.importance == {"things: a": 2.0}
    assert new.named == ("things: b", "things: a", "things: Other")


def test_other_trees_have_what_is_made_but_for_what_they_are_made_of() -> None:
    table = Table("t.csv", pl.DataFrame({"x": ["1", "2", "4"], "y": ["3", "1", "4"]}))
    first = with_entry(Plan(source=PLAN.source), None, ONE)
    study = study_of(table, Path("t.csv"), first).keep()
    two = entry(name="two", formula="y * 2")
    more = with_entry(with_entry(first, None, two), ONE, entry(name="one", formula="x + 1"))
    study = study.planned(more.with_("variables", use=["one"], profile=["two"]))
    kept, begun = study.trees
    assert [make.formula for make in kept.plan.make] == ["x", "y * 2"]
    assert [make.formula for make in begun.plan.make] == ["x + 1", "y * 2"]
    assert kept.plan.variables.profile == ("two",)
    assert prepare(table, kept.plan).raw[:, 0].tolist() == [1, 2, 4]  # type: ignore[index]
    assert differences(kept.plan, begun.plan) == ["one created differently"]
    assert change_words(first, more) == "created variables, active variables"
    source = study.source_for(kept.plan)
    assert isinstance(source, Table)
    assert source.names == ["x", "y", "one", "two"]
