"""Correlations against the definition, and planted groups that stand together."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import polars as pl
import pytest

from gorvel.core.analysis import read_source
from gorvel.core.correlations import correlation_map
from gorvel.core.plan import Plan
from gorvel.core.planfile import load_plan
from gorvel.core.table.table import Table
from gorvel.main import DEMO
from reference import proximities as slow
from reference.trees import pearson


@pytest.mark.parametrize("kind", ["moment", "rank"])
def test_pairs_are_correlated_over_the_cases_that_have_both(
    kind: Literal["moment", "rank"],
) -> None:
    rng = np.random.default_rng(4)
    x = rng.normal(size=(40, 4))
    x[:, 3] = -2 * x[:, 1] + rng.normal(0, 0.2, 40)
    x[rng.random((40, 4)) < 0.1] = math.nan
    cells = {
        name: [None if math.isnan(v) else repr(v) for v in x[:, k].tolist()]
        for k, name in enumerate("abcd")
    }
    cells["flat"] = ["3"] * 40
    cells["stop"] = ["x", "y"] * 20
    plan = Plan.model_validate(
        {"source": {"file": "t"}, "variables": {"use": ("a", "b", "c", "d", "flat", "stop")}}
    )
    told = correlation_map(Table("t", pl.DataFrame(cells)), plan, kind)
    assert sorted(told.names) == ["a", "b", "c", "d", "flat"]
    for i, first in enumerate(told.names):
        for j, second in enumerate(told.names):
            if "flat" in (first, second):
                assert i == j or math.isnan(told.values[i, j])
                continue
            pair = x[:, ["abcd".index(first), "abcd".index(second)]]
            pair = pair[~np.isnan(pair).any(axis=1)]
            a, b = pair[:, 0].tolist(), pair[:, 1].tolist()
            expected = pearson(slow.ranks(a), slow.ranks(b)) if kind == "rank" else pearson(a, b)
            assert told.values[i, j] == pytest.approx(expected)
    assert [set(group) for group in told.groups] == [{"b", "d"}]
    assert abs(told.names.index("b") - told.names.index("d")) == 1


def test_the_doubled_variable_of_the_demo_is_a_group() -> None:
    plan = load_plan(DEMO / "readers.toml")
    plan = plan.with_("variables", use=[*plan.variables.use, "renewals"])
    source = read_source(plan, DEMO / "readers.csv")
    assert isinstance(source, Table)
    told = correlation_map(source, plan)
    assert {"loans", "renewals"} in [set(group) for group in told.groups]
    assert "uses_app" not in told.names
    few = correlation_map(source, plan.with_("variables", use=["loans"]))
    assert few.values.tolist() == [[1.0]]
