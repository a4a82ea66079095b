"""What differs between two plans is told, and nothing is told where nothing differs."""

from __future__ import annotations

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.words.differences import change_words, differences, tree_name
from plans import LEAST, change

PLAN = parse_plan(LEAST, "p.toml")


def changed(plan: Plan, changes: list[tuple[str, str, object]]) -> Plan:
    """What becomes of a plan by changes, those left out that do not fit."""
    for part, key, value in changes:
        try:
            plan = plan.with_(part, **{key: value})
        except InputError:
            continue
    return plan


@settings(max_examples=examples(60))
@given(st.lists(change, max_size=4), st.lists(change, min_size=1, max_size=4))
def test_every_plan_that_grows_another_tree_is_told_apart(before: list, after: list) -> None:
    one = changed(PLAN, before)
    other = changed(one, after)
    told = differences(one, other)
    assert all(told)
    assert len(set(told)) == len(told)
    if one.growth() == other.growth() and one.cases.split == other.cases.split:
        assert told == []
    else:
        assert told, (one, other)
    assert bool(change_words(one, other)) is (one != other)


@given(change)
def test_a_change_is_called_by_what_was_changed(one: tuple) -> None:
    part, key, value = one
    try:
        other = PLAN.with_(part, **{key: value})
    except InputError:
        assume(False)
    mine, its = ((p.counting if part == "count" else getattr(p, part)) for p in (PLAN, other))
    assume(getattr(mine, key) != getattr(its, key))
    words = {
        ("tree", "linkage"): "the linkage", ("tree", "of"): "what is grouped",
        ("tree", "beta"): "the linkage", ("scale", "method"): "the scale",
        ("scale", "by"): "the scale", ("proximity", "measure"): "the measure",
        ("proximity", "power"): "the measure", ("proximity", "root"): "the measure",
        ("cases", "split"): "the split", ("cases", "weight"): "the weight",
        ("cases", "label"): "the label", ("cases", "groups"): "known groups",
        ("cases", "keep"): "cases used", ("cases", "set_aside"): "cases used",
        ("cases", "place_set_aside"): "cases used", ("missing", "handling"): "missing answers",
        ("variables", "use"): "active variables", ("variables", "importance"): "importances",
        ("variables", "labels"): "wordings", ("variables", "values"): "wordings",
        ("variables", "cap"): "caps", ("variables", "trim"): "trimming",
        ("variables", "missing"): "missing codes", ("variables", "profile"): "roles",
        ("source", "missing_codes"): "missing codes", ("cut", "counts"): "cuts",
        ("source", "similarity"): "how the file is read", ("count", "chosen"): "the number chosen",
        ("count", "reasons"): "reasons",
    }  # fmt: skip
    assert change_words(PLAN, other) == words.get((part, key), "levels")


def test_many_changes_at_once_are_cut_short() -> None:
    other = PLAN.with_parts(
        {
            "tree": {"linkage": "single"}, "scale": {"method": "range01"},
            "proximity": {"measure": "euclidean"}, "missing": {"handling": "mean"},
        }
    )  # fmt: skip
    assert change_words(PLAN, other) == "missing answers, the scale, the measure …"
    assert change_words(PLAN, PLAN) == ""


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"tree": {"linkage": "flexible", "beta": -0.5}}, ["the flexible rule (β = −0.5)"]),
        ({"scale": {"method": "zscore", "by": "cases"}}, ["z-scores, within each case"]),
        ({"variables": {"use": ["a", "c", "d", "yes"]}}, ["with c, d, yes", "without b"]),
        ({"cases": {"keep": "a > 2", "weight": "d"}}, ["where a > 2", "weighted by d"]),
        ({"cases": {"set_aside": [3, 4]}}, ["2 set aside"]),
        ({"source": {"missing_codes": ["7"]}}, ["other missing codes"]),
        ({"missing": {"handling": "mean"}}, ["missing answers are replaced by the mean"]),
    ],
)
def test_differences_are_short_phrases(changes: dict, told: list[str]) -> None:
    other = PLAN.with_parts(changes)
    assert [phrase.lower() for phrase in differences(PLAN, other)] == [t.lower() for t in told]


def test_a_tree_is_called_by_its_plan() -> None:
    assert tree_name(PLAN) == "Ward’s rule"
    scaled = PLAN.with_parts({"scale": {"method": "zscore"}, "tree": {"linkage": "single"}})
    assert tree_name(scaled) == "Single linkage on z-scores"
