"""The first plan suits what is active, and says why; one click takes the other way."""

from __future__ import annotations

import polars as pl
import pytest

from gorvel.core.cases.method_advice import fit_notes, refitted
from gorvel.core.cases.prepare import prepare
from gorvel.core.column_detection.first_plan import propose_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.plan.remedies import remedies_of
from gorvel.core.table.table import Table

RATINGS = {"a": ["1", "5", "3", "2"], "b": ["2", "4", "4", "5"], "c": ["1", "2", "5", "4"]}
YES_NO = {"x": ["yes", "no", "no", "yes"], "y": ["no", "no", "yes", "yes"]}
AMOUNTS = {"km": ["1.5", "20", "3", "800"]}
WORDS = {"stop": ["Elm", "Fell", "Elm", "Mill"]}


def table_of(*parts: dict[str, list[str]]) -> Table:
    columns = {name: cells for part in parts for name, cells in part.items()}
    return Table("t.csv", pl.DataFrame(columns))


def method(plan: Plan) -> tuple[str, str, str]:
    return plan.scale.method, plan.proximity.measure, plan.tree.linkage


@pytest.mark.parametrize(
    ("table", "wanted"),
    [
        (table_of(RATINGS), ("none", "squared-euclidean", "ward")),
        (table_of(YES_NO), ("none", "simple-matching", "average")),
        (table_of(RATINGS, YES_NO), ("zscore", "squared-euclidean", "ward")),
        (table_of(RATINGS, AMOUNTS), ("zscore", "squared-euclidean", "ward")),
        (table_of({"a": ["1", "5", "3", "2"], "b": ["1", "90", "4", "5"]}),
         ("zscore", "squared-euclidean", "ward")),
        (table_of({"a": ["1", "5", "3", "2"], "b": ["2", "9", "4", "10"]}),
         ("zscore", "squared-euclidean", "ward")),
    ],
)  # fmt: skip
def test_the_first_plan_suits_what_is_active(table: Table, wanted: tuple[str, str, str]) -> None:
    plan = propose_plan(table)
    assert method(plan) == wanted
    prepare(table, plan)  # and it can be carried out


def noted(table: Table, plan: Plan) -> list[str]:
    prepared = prepare(table, plan)
    assert prepared.raw is not None
    return [note.code for note in fit_notes(plan, prepared.variables, prepared.raw)]


def test_why_is_said_and_the_other_way_is_a_click() -> None:
    table = table_of(RATINGS)
    plan = propose_plan(table)
    assert noted(table, plan) == ["fit-as-they-are"]
    (scaled,) = remedies_of("fit-as-they-are", plan)
    assert scaled.change(plan).scale.method == "zscore"
    assert noted(table, scaled.change(plan)) == ["fit-scaled"]
    (back,) = remedies_of("fit-scaled", scaled.change(plan))
    assert back.change(scaled.change(plan)) == plan
    assert noted(table, plan.with_("scale", method="rank")) == []

    table = table_of(YES_NO)
    plan = propose_plan(table)
    assert noted(table, plan) == []
    euclidean = plan.with_("proximity", measure="euclidean")
    assert noted(table, euclidean) == ["fit-presence"]
    measures = [
        r.change(euclidean).proximity.measure for r in remedies_of("fit-presence", euclidean)
    ]
    assert measures == ["simple-matching", "jaccard"]
    assert noted(table_of(AMOUNTS, RATINGS), propose_plan(table_of(AMOUNTS, RATINGS))) == []


def test_another_method_follows_what_becomes_active_unless_it_was_chosen() -> None:
    table = table_of(RATINGS, WORDS, YES_NO)
    plan = propose_plan(table_of(RATINGS))
    wider = plan.using(["a", "b", "stop"])
    after = refitted((table, plan), (table, wider))
    assert method(after) == ("none", "gower", "average")
    yes_no = plan.using(["x", "y"], binary=["x", "y"], ordinal=[])
    assert method(refitted((table, plan), (table, yes_no))) == (
        "none",
        "simple-matching",
        "average",
    )
    chosen = plan.with_("tree", linkage="complete")
    kept = refitted((table, chosen), (table, chosen.using(["a", "b", "stop"])))
    assert method(kept) == ("none", "squared-euclidean", "complete")
