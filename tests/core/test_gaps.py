"""Gaps are counted as Python would count them, and what is foretold of a handling comes true."""

from __future__ import annotations

import itertools
from unittest import mock

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.grow.grown import analyse
from gorvel.core.inspect.missing_patterns import (
    Pattern,
    allowed_handlings,
    find_gaps,
    outcome_words,
)
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table

ROWS = st.lists(st.tuples(*[st.sampled_from([None, "1", "2", "9"])] * 3), min_size=2, max_size=8)


@given(
    rows=ROWS,
    handling=st.sampled_from(["drop", "stop", "mean", "mode", "pairwise"]),
    at_once=st.sampled_from([1, 5, 1 << 20]),  # pairs of patterns, to the same end
)
def test_what_is_foretold_of_a_handling_comes_true(
    rows: list[tuple[str | None, ...]], handling: str, at_once: int
) -> None:
    names = ("a", "b", "c")
    columns = dict(zip(names, zip(*rows, strict=True), strict=True))
    table = Table("t.csv", pl.DataFrame(columns, schema=dict.fromkeys(names, pl.String)))
    plan = Plan.model_validate(
        {
            "source": {"file": "t.csv", "missing_codes": ("9",)},
            "variables": {"use": names, "interval": names},
            "missing": {"handling": handling},
        }
    )
    with mock.patch("gorvel.core.inspect.missing_patterns._CELLS", at_once):
        gaps = find_gaps(table, plan)
    answered = [tuple(cell not in (None, "9") for cell in row) for row in rows]
    assert sorted(p.cases for p in gaps.patterns) == sorted(
        answered.count(flags) for flags in set(answered)
    )
    assert all(answered.count(p.answered) == p.cases for p in gaps.patterns)
    assert gaps.missing == tuple(sum(not row[k] for row in answered) for k in range(3))
    strangers = sum(
        not any(x and y for x, y in zip(p, q, strict=True))
        for p, q in itertools.combinations(answered, 2)
    )
    assert gaps.strangers == strangers

    foretold = outcome_words(gaps, handling)
    try:
        kept = analyse(table, plan).tree.n
    except InputError:
        empty = handling in ("mean", "mode") and len(rows) in gaps.missing
        assert empty or "does not run" in foretold or foretold.startswith("0 of")
        return
    assert "does not run" not in foretold
    if handling == "drop" and gaps.cells:
        assert foretold == f"{kept} of {len(rows)} cases used"
    else:
        assert kept == len(rows)


def test_only_cases_chosen_are_looked_at() -> None:
    table = Table("t.csv", pl.DataFrame({"a": ["1", None, "3", None], "g": ["x", "x", "y", "y"]}))
    plan = Plan.model_validate(
        {
            "source": {"file": "t.csv"},
            "variables": {"use": ("a",)},
            "cases": {"keep": "g = 'x'", "set_aside": (2,)},
        }
    )
    gaps = find_gaps(table, plan)
    assert gaps.patterns == (Pattern((True,), 1),)
    assert outcome_words(gaps, "drop") == "the only case is complete"


@pytest.mark.parametrize(("measure", "fills"), [("gower", False), ("euclidean", True)])
def test_gower_fills_no_gaps(measure: str, fills: bool) -> None:
    plan = Plan.model_validate(
        {"source": {"file": "t"}, "variables": {"use": ("a",)}, "proximity": {"measure": measure}}
    )
    assert ("mean" in allowed_handlings(plan)) == fills


def test_of_one_case_and_of_none_it_is_told_as_such() -> None:
    table = Table("t.csv", pl.DataFrame({"a": ["1", None], "b": ["1", "2"]}))

    def told(handling: str, *aside: int) -> str:
        plan = Plan.model_validate(
            {
                "source": {"file": "t.csv"},
                "variables": {"use": ("a", "b")},
                "cases": {"set_aside": aside},
            }
        )
        return outcome_words(find_gaps(table, plan), handling)

    assert told("stop") == "does not run: 1 case with a missing answer"
    assert told("mean") == "all 2 cases stay; 1 answer (25.0%) is imputed"
    assert told("mean", 1) == "the only case stays; 1 answer (50.0%) is imputed"
    assert told("drop", 2) == "the only case is complete"
    assert {told(handling, 1, 2) for handling in HANDLINGS} == {"no case is used"}
