"""One law behind every door: what goes together in a plan, and what makes its tree."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any, Literal

import numpy as np
import pytest
from hypothesis import given, note, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from effort import examples
from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.grow.grown import Grown, analyse, relabelled
from gorvel.core.inspect.missing_patterns import allowed_handlings
from gorvel.core.plan.consistency import misfits
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.parts import SourcePlan, TreePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.study.study import study_of
from gorvel.core.table.table import Table
from plans import LEAST, change, names, table


class Doors(RuleBasedStateMachine):
    """However a plan is changed, window and file agree on what it may be."""

    def __init__(self) -> None:
        super().__init__()
        self.plan = parse_plan(LEAST, "p.toml")

    @rule(change=change)
    def one_key(self, change: tuple[str, str, Any]) -> None:
        part, key, value = change
        with suppress(InputError):
            self.plan = self.plan.with_(part, **{key: value})

    @rule(use=names)
    def variables(self, use: list[str]) -> None:
        profile = [name for name in self.plan.variables.profile if name not in use]
        self.plan = self.plan.using(use, profile=profile)

    @rule(handling=st.sampled_from(HANDLINGS))
    def what_is_offered_can_be_had(self, handling: str) -> None:
        if handling in allowed_handlings(self.plan):
            self.plan = self.plan.with_("missing", handling=handling)
        else:
            with pytest.raises(InputError, match="handling"):
                self.plan.with_("missing", handling=handling)

    @invariant()
    def the_file_takes_what_the_window_takes(self) -> None:
        text = plan_text(self.plan)
        if self.plan.open_choice:
            with pytest.raises(InputError, match="no variables"):
                parse_plan(text, "p.toml")
            return
        assert not list(misfits(self.plan))
        read = parse_plan(text, "p.toml")
        assert read.understood() == self.plan.understood()
        assert read.growth() == self.plan.growth()


TestDoors = pytest.mark.slow(Doors.TestCase)
TestDoors.settings = settings(max_examples=40, stateful_step_count=25)


def grown(source: Table, plan: Plan) -> Grown | str:
    """The tree, or why there is none."""
    try:
        return analyse(source, plan)
    except GorvelError as error:
        return str(error)


@given(st.integers(0, 50), st.lists(change, max_size=6), st.lists(change, min_size=1, max_size=2))
@settings(max_examples=examples(60))
def test_plans_of_one_growth_grow_one_tree(
    seed: int, first: list[tuple[str, str, Any]], then: list[tuple[str, str, Any]]
) -> None:
    plan = parse_plan(LEAST, "p.toml")
    states = [plan]
    for part, key, value in [*first, *then]:
        try:
            plan = plan.with_(part, **{key: value})
        except InputError:
            continue
        states.append(plan)
    one, other = states[max(0, len(states) - 1 - len(then))], states[-1]
    source = table(seed)
    before, after = grown(source, one), grown(source, other)
    note(f"{one!r}\n{other!r}")
    if one.growth() == other.growth():
        if isinstance(before, str) or isinstance(after, str):
            assert isinstance(before, str) == isinstance(after, str)  # it may name a case
            return
        again = relabelled(before, source, other)
        assert again.tree is before.tree
        assert again.pairs.names == again.prepared.labels
        for key in ("left", "right", "heights", "tied"):
            np.testing.assert_array_equal(getattr(before.tree, key), getattr(after.tree, key))
        assert again.prepared.labels == after.prepared.labels
        assert again.prepared.dropped == after.prepared.dropped
        np.testing.assert_array_equal(before.schedule.mass, after.schedule.mass)


@pytest.mark.parametrize(
    ("part", "changed"),
    [
        ("variables", {"labels": {"a": "How often?"}}),
        ("variables", {"values": {"a": {"1": "never"}}}),
        ("variables", {"profile": ["c"]}),
        ("variables", {"nominal": ["word"]}),
        ("variables", {"missing": {"c": ["9"]}}),
        ("cases", {"label": "word"}),
        ("cases", {"groups": "word"}),
        ("cases", {"place_set_aside": True}),
        ("cases", {"split": "word"}),
        ("cut", {"counts": [3]}),
        ("count", {"chosen": 3}),
        ("proximity", {"power": 3.0}),
        ("tree", {"beta": 0.0}),
        ("scale", {"by": "cases"}),
    ],
)
def test_what_is_said_of_a_tree_does_not_make_it(part: str, changed: dict[str, Any]) -> None:
    plan = parse_plan(LEAST, "p.toml")
    assert plan.with_(part, **changed).growth() == plan.growth()


@pytest.mark.parametrize(
    ("part", "changed"),
    [
        ("variables", {"use": ["b", "a"]}),
        ("variables", {"ordinal": ["a"]}),
        ("variables", {"missing": {"a": ["9"]}}),
        ("variables", {"importance": {"a": 2.0}}),
        ("variables", {"cap": {"a": [5, 95]}}),
        ("variables", {"trim": {"a": [5, 95]}}),
        ("source", {"missing_codes": ["9"]}),
        ("source", {"decimal": ","}),
        ("cases", {"weight": "d"}),
        ("cases", {"keep": "d > 1"}),
        ("cases", {"set_aside": [2]}),
        ("missing", {"handling": "mean"}),
        ("scale", {"method": "zscore"}),
        ("proximity", {"measure": "gower"}),
        ("tree", {"linkage": "single"}),
        ("tree", {"of": "variables"}),
    ],
)
def test_what_makes_a_tree_is_in_its_key(part: str, changed: dict[str, Any]) -> None:
    plan = parse_plan(LEAST, "p.toml")
    other = plan.with_(part, **changed)
    assert other.growth() != plan.growth()
    assert hash(other.growth()) != hash(plan.growth())
    assert other.growth("x") != other.growth("y")
    kept = plan.with_("cases", keep="d > 1")
    assert kept.with_("variables", missing={"d": ["9"]}).growth() != kept.growth()


def test_a_tree_needs_variables() -> None:
    plan = parse_plan(LEAST, "p.toml").using([])
    assert plan.open_choice == "No variable is active yet: choose some on the Cases page."
    with pytest.raises(InputError, match=r"\[variables\] use: no variables"):
        analyse(table(1), plan)


# what a study may begin with, whatever its file was taken for before
SOURCES = st.fixed_dictionaries(
    {"kind": st.sampled_from(["table", "proximities", "counts"])},
    optional={
        "similarity": st.booleans(), "header": st.booleans(), "also": st.just(("u.csv",)),
        "join": st.just(({"file": "u.csv", "by": "a"},)), "missing_codes": st.just(("9",)),
        "skip": st.integers(0, 2), "decimal": st.sampled_from(["auto", ","]),
    },
)  # fmt: skip


@given(told=SOURCES, kind=st.sampled_from(["table", "proximities", "counts"]))
def test_a_file_taken_for_another_kind_has_a_plan_that_fits(
    told: dict[str, Any], kind: Literal["table", "proximities", "counts"]
) -> None:
    source = SourcePlan(file="t.csv", **told).of_kind(kind)
    assert source.kind == kind
    assert source.missing_codes == told.get("missing_codes", ())
    plan = Plan(source=source, tree=TreePlan(linkage="ward"))
    assert study_of(table(3), Path("t.csv"), plan).plan == plan
    if kind == "table" and told.get("similarity"):
        loose = plan.model_copy(
            update={"source": source.model_copy(update={"similarity": told["similarity"]})}
        )
        with pytest.raises(InputError, match="similarity"):
            study_of(table(3), Path("t.csv"), loose)
