"""Whatever cases a plan leaves, none too, its variables can be looked at, or it is said why not."""

from __future__ import annotations

import contextlib
from typing import Any

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

import plans
from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.inspect.associations import correlation_map
from gorvel.core.inspect.close_up import close_up
from gorvel.core.inspect.gaps import find_gaps, outcome_words
from gorvel.core.inspect.outliers import find_outliers
from gorvel.core.inspect.screening import screen
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table

NONE = "a > 99"  # what no case of the tables meets


def _looks(table: Table, plan: Plan) -> None:
    """Every look at the variables of a plan that the Cases page takes."""
    with contextlib.suppress(InputError):
        gaps = find_gaps(table, plan)
        assert sum(pattern.cases for pattern in gaps.patterns) == gaps.cases
        assert 0 <= gaps.strangers <= gaps.cases * (gaps.cases - 1) // 2
        assert all(outcome_words(gaps, handling) for handling in HANDLINGS)
    with contextlib.suppress(InputError):
        found = correlation_map(table, plan)
        assert sorted(found.names) == sorted(plan.variables.use)
        known = found.values[~np.isnan(found.values)]
        assert np.all(np.abs(known) <= 1 + 1e-12)
    with contextlib.suppress(InputError):
        assert all(flag.column in table.names for flag in screen(table, plan))
    for first in plan.variables.use:
        for second in plan.variables.use:
            with contextlib.suppress(InputError):
                assert close_up(table, plan, list({first, second}), numeric=first != "word").title
    with contextlib.suppress(InputError):
        prepared = prepare(table, plan)
        assert all(1 <= one.case <= table.n for one in find_outliers(prepared, plan))


@given(
    seed=st.integers(0, 10**6),
    changes=st.lists(plans.change, max_size=3),
    keep=st.sampled_from([None, NONE, "a > 4"]),
    aside=st.lists(st.integers(1, 9), unique=True),
    use=st.lists(plans.name, unique=True),
)
@example(seed=1, changes=[], keep=NONE, aside=[], use=["a", "b"])
@example(seed=1, changes=[], keep=None, aside=list(range(1, 10)), use=["a", "word"])
@example(seed=1, changes=[], keep=None, aside=list(range(2, 10)), use=["a", "yes"])
@example(seed=1, changes=[], keep=None, aside=[], use=[])
def test_any_choice_of_cases_can_be_looked_at(
    seed: int, changes: list[tuple[str, str, Any]], keep: str | None, aside: list[int],
    use: list[str],
) -> None:  # fmt: skip
    plan = Plan.model_validate({"source": {"file": "t.csv"}, "variables": {"use": use or ["a"]}})
    with contextlib.suppress(InputError):
        plan = plan.with_("cases", keep=keep, set_aside=aside)
        plan = plan.using(use)
    for part, key, value in changes:
        with contextlib.suppress(InputError, ValueError):
            plan = plan.with_(part, **{key: value})
    _looks(plans.table(seed), plan)
