"""Whatever cases a plan leaves, none too, its variables can be looked at, or it is said why not."""

from __future__ import annotations

import contextlib
from typing import Any

from hypothesis import example, given
from hypothesis import strategies as st

import plans
from gorvel.core.base.errors import InputError
from gorvel.core.plan.plan import Plan
from looks import take_all

NONE = "a > 99"  # what no case of the tables meets


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
    take_all(plans.table(seed), plan)
