"""What a study keeps is taken for an answer exactly where asking again would give the same."""

from __future__ import annotations

import dataclasses
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.progress import silent
from gorvel.core.count.checks import CHECKS
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.plan.parts import CountPlan
from gorvel.core.study.kept import Drawn, same_check
from studies import asked, study


def plain(value: Any) -> Any:
    """All that is in it, to be compared."""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {f.name: plain(getattr(value, f.name)) for f in dataclasses.fields(value)}
    if isinstance(value, np.ndarray):
        return np.where(np.isnan(value), None, value).tolist() if value.dtype.kind == "f" else (
            value.tolist())  # fmt: skip
    if isinstance(value, list | tuple):
        return [plain(one) for one in value]
    if isinstance(value, dict):
        return {key: plain(one) for key, one in value.items()}
    return None if isinstance(value, float) and np.isnan(value) else value


def found(name: str, plan: CountPlan) -> Any:
    """A check of fourteen cases."""
    grown = study(np.random.default_rng(3).normal(size=(14, 3)))
    return plain(CHECKS[name](grown, plan, silent, None))


@pytest.mark.parametrize("name", ["groups", "structure", "orders"])
@given(st.sampled_from(["axes", "straight"]), st.sampled_from([1, 2]))
@settings(max_examples=examples(4))
def test_a_check_is_kept_where_it_would_be_the_same(name: str, box: str, seed: int) -> None:
    one, other = asked(resamples=4, seed=1, box="axes"), asked(resamples=4, seed=seed, box=box)
    if same_check(name, one, other):
        assert found(name, one) == found(name, other)
    if seed == 1:  # another box, and nothing else
        assert same_check(name, one, other) == (name != "structure" or box == "axes")
    assert not same_check(name, None, other)


@pytest.mark.parametrize(("rules", "kept"), [(["gap"], False), (["bootstrap-jaccard"], True)])
def test_what_was_drawn_is_kept_unless_its_box_is_another(rules: list[str], kept: bool) -> None:
    grown = study(np.random.default_rng(3).normal(size=(14, 3)))
    one, other = (asked(resamples=4, rules=rules, box=box) for box in ("axes", "straight"))
    drawn = Drawn(one, tuple(resampled(grown, one, None, silent)))
    assert drawn.answers(other) == kept
    if kept:
        assert plain(drawn.verdicts) == plain(tuple(resampled(grown, other, None, silent)))
