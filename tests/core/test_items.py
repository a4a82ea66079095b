"""Alpha and the correlations of items are those of their definitions, case by case."""

from __future__ import annotations

import math
import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.inspect.items import analyse_items

ROW = st.lists(st.none() | st.integers(1, 5).map(float), min_size=4, max_size=4)


def alpha_of(rows: list[list[float]]) -> float:
    """Through the mean of the covariances of all pairs: k c / (v + (k - 1) c)."""
    k = len(rows[0]) if rows else 0
    if len(rows) < 2 or k < 2:
        return math.nan
    columns = list(zip(*rows, strict=True))
    variance = statistics.fmean(statistics.variance(column) for column in columns)
    pairs = [
        statistics.covariance(columns[i], columns[j]) for i in range(k) for j in range(i)
    ]  # fmt: skip
    covariance = statistics.fmean(pairs)
    whole = variance + (k - 1) * covariance
    return k * covariance / whole if whole > 1e-12 else math.nan


@given(rows=st.lists(ROW, min_size=1, max_size=15), k=st.integers(2, 4))
def test_items_as_defined(rows: list[list[float | None]], k: int) -> None:
    items = [
        np.array([math.nan if row[j] is None else row[j] for row in rows]) for j in range(k)
    ]  # fmt: skip
    found = analyse_items(items)
    whole = [[float(x) for x in row[:k]] for row in rows if None not in row[:k]]  # type: ignore[arg-type]
    assert found.n == len(whole)
    assert found.alpha == pytest.approx(alpha_of(whole), nan_ok=True)
    for j in range(k):
        mine = [row[j] for row in whole]
        others = [[x for i, x in enumerate(row) if i != j] for row in whole]
        assert found.without[j] == pytest.approx(alpha_of(others), nan_ok=True)
        rest = [sum(row) for row in others]
        spread = len(whole) > 1 and len(set(mine)) > 1 and len(set(rest)) > 1
        wanted = statistics.correlation(mine, rest) if spread else math.nan
        assert found.rest[j] == pytest.approx(wanted, nan_ok=True)


def test_an_item_that_runs_against_the_rest_is_pointed_out() -> None:
    rng = np.random.default_rng(2)
    base = rng.normal(size=200)
    items = [base + rng.normal(size=200) for _ in range(3)]
    turned = analyse_items([*items[:2], -items[2]])
    right = analyse_items(items)
    assert turned.against == (2,)
    assert right.against == ()
    assert right.alpha > 0.6 > turned.alpha


def test_unrelated_items_are_not_said_to_run_against_each_other() -> None:
    rng = np.random.default_rng(3)
    said = sum(
        len(analyse_items(list(rng.integers(1, 6, (4, 300)).astype(float))).against)
        for _ in range(100)
    )
    assert said <= 0.05 * 400  # of one in two, before chance was thought of
