"""Correlations against the definition, and planted groups that stand together."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.inspect.associations import correlation_map
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
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
    plan = Plan.model_validate(
        {"source": {"file": "t"}, "variables": {"use": ("a", "b", "c", "d", "flat")}}
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


@given(
    rows=st.lists(
        st.tuples(st.sampled_from("xyz"), st.sampled_from("pqr"), st.sampled_from(["1", "2", "7"])),
        min_size=3,
        max_size=20,
    )
)
def test_categories_are_associated_by_their_definitions(rows: list[tuple[str, str, str]]) -> None:
    names = ("x", "y", "n")
    cells = {name: [row[k] for row in rows] for k, name in enumerate(names)}
    plan = Plan.model_validate({"source": {"file": "t"}, "variables": {"use": names}})
    told = correlation_map(Table("t", pl.DataFrame(cells)), plan)

    def at(one: str, other: str) -> tuple[float, str]:
        i, j = told.names.index(one), told.names.index(other)
        assert told.values[i, j] == told.values[j, i] or math.isnan(told.values[i, j])
        return float(told.values[i, j]), told.coefficients[i][j]

    n = len(rows)
    a, b = set(cells["x"]), set(cells["y"])
    v, name = at("x", "y")
    assert name == "Cramér’s V"
    if min(len(a), len(b)) < 2:
        assert math.isnan(v)
    else:
        chi2 = 0.0
        for p in a:
            for q in b:
                e = cells["x"].count(p) * cells["y"].count(q) / n
                chi2 += (sum(row[:2] == (p, q) for row in rows) - e) ** 2 / e
        assert v == pytest.approx(math.sqrt(chi2 / n / (min(len(a), len(b)) - 1)))
    numbers = [float(row[2]) for row in rows]
    mean = math.fsum(numbers) / n
    total = math.fsum((x - mean) ** 2 for x in numbers)
    ratio, name = at("n", "x")
    assert name == "correlation ratio"
    if len(a) < 2 or total == 0:
        assert math.isnan(ratio)
        return
    between = 0.0
    for p in a:
        own = [x for x, row in zip(numbers, rows, strict=True) if row[0] == p]
        between += len(own) * (math.fsum(own) / len(own) - mean) ** 2
    assert ratio == pytest.approx(math.sqrt(between / total), abs=1e-7)


def test_the_doubled_variable_of_the_demo_is_a_group() -> None:
    plan = load_plan(DEMO / "readers.toml")
    plan = plan.with_("variables", use=[*plan.variables.use, "renewals"])
    source = read_source(plan, DEMO / "readers.csv")
    assert isinstance(source, Table)
    told = correlation_map(source, plan)
    assert {"loans", "renewals"} in [set(group) for group in told.groups]
    k = told.names.index("uses_app")  # binary: as 0 and 1
    assert told.coefficients[k][k - 1] == "r"
    few = correlation_map(source, plan.with_("variables", use=["loans"]))
    assert few.values.tolist() == [[1.0]]
