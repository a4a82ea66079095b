"""Outlyingness against slow definitions, and planted outliers found first."""

from __future__ import annotations

import math
import statistics

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.prepare import prepare
from gorvel.core.inspect.outliers import (
    find_outliers,
    neighbour_distances,
    robust_distances,
    robust_z,
)
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.main import DEMO
from reference import proximities as slow

COLUMN = st.lists(st.sampled_from([0.0, 1.0, 1.0, 2.0, 7.5, math.nan]), min_size=1, max_size=9)


@given(column=COLUMN)
def test_robust_z_follows_its_definition(column: list[float]) -> None:
    told = robust_z(np.array(column)[:, None])[:, 0]
    known = [v for v in column if not math.isnan(v)]
    if not known:
        assert np.isnan(told).all()
        return
    middle = statistics.median(known)
    away = [abs(v - middle) for v in known]
    mad = statistics.median(away) / statistics.NormalDist().inv_cdf(0.75)
    scale = mad or statistics.fmean(away) * math.sqrt(math.pi / 2)
    expected = [(v - middle) / scale if scale else v * 0 for v in column]
    np.testing.assert_allclose(told, expected, atol=1e-9)


@pytest.mark.parametrize("measure", ["euclidean", "city-block"])
@given(st.integers(0, 10**6), st.integers(2, 12))
def test_neighbours_are_the_nearest_others(measure: str, seed: int, n: int) -> None:
    x = np.random.default_rng(seed).integers(0, 4, (n, 2)).astype(float)
    cells = {name: [repr(v) for v in x[:, k].tolist()] for k, name in enumerate("ab")}
    plan = Plan.model_validate(
        {
            "source": {"file": "t"},
            "variables": {"use": ("a", "b")},
            "proximity": {"measure": measure},
        }
    )
    told = neighbour_distances(prepare(Table("t", pl.DataFrame(cells)), plan), plan, 3)
    for i in range(n):
        others = sorted(slow.MEASURES[measure](x[i], x[j], [1.0, 1.0]) for j in range(n) if j != i)
        assert told[i] == pytest.approx(statistics.fmean(others[:3]))


def test_robust_distances_see_through_a_crowd_of_outliers() -> None:
    rng = np.random.default_rng(5)
    covariance = np.array([[1.0, 0.8, 0.1], [0.8, 2.0, 0.3], [0.1, 0.3, 0.5]])
    clean = rng.multivariate_normal([3, -1, 10], covariance, size=3000)
    told = robust_distances(clean)
    assert told is not None
    classical = np.sqrt(
        np.einsum("ij,jk,ik->i", clean - clean.mean(0), np.linalg.inv(np.cov(clean.T)),
                  clean - clean.mean(0))
    )  # fmt: skip
    assert np.corrcoef(told, classical)[0, 1] > 0.99
    assert np.median(told / classical) == pytest.approx(1, abs=0.06)
    # a quarter of the cases in one far place pulls mean and covariance to itself
    crowd = np.vstack([clean[:800], rng.normal([3, -12, 10], 0.7, (270, 3))])
    away = crowd - crowd.mean(0)
    masked = np.sqrt(np.einsum("ij,jk,ik->i", away, np.linalg.inv(np.cov(crowd.T)), away))
    assert np.median(masked[800:]) < 2.5  # the usual distance does not see them
    told = robust_distances(crowd)
    assert told is not None
    assert told[800:].min() > told[:800].max()
    assert np.median(told[:800] / classical[:800]) == pytest.approx(1, abs=0.35)
    # shifting, scaling and swapping columns changes nothing
    moved = robust_distances(crowd[:, ::-1] * [10, 0.1, -3] + 7)
    np.testing.assert_allclose(moved, told, rtol=1e-6)
    assert robust_distances(np.zeros((20, 2))) is None
    assert robust_distances(clean[:4]) is None
    line = np.column_stack([clean[:50, 0], 2 * clean[:50, 0]])
    assert robust_distances(line) is None


@given(st.integers(0, 10**6), st.sampled_from([1, 2, 4]))
def test_robust_distances_are_scaled_by_chi_square(seed: int, p: int) -> None:
    """Half of them lie within the median of chi-square: closed forms for 1, 2 and 4 variables."""
    x = np.random.default_rng(seed).normal(size=(60, p))
    found = robust_distances(x)
    assert found is not None
    middle = float(np.median(found**2))
    if p == 1:
        assert middle == pytest.approx(statistics.NormalDist().inv_cdf(0.75) ** 2, rel=1e-9)
    elif p == 2:
        assert middle == pytest.approx(2 * math.log(2), rel=1e-9)
    else:
        assert math.exp(-middle / 2) * (1 + middle / 2) == pytest.approx(0.5, rel=1e-9)


def test_planted_readers_without_a_type_come_first() -> None:
    plan = load_plan(DEMO / "readers.toml")
    source = read_source(plan, DEMO / "readers.csv")
    assert isinstance(source, Table)
    prepared = prepare(source, plan)
    found = find_outliers(prepared, plan)
    assert sorted(o.case for o in found) == prepared.numbers.tolist()
    assert [o.apart for o in found] == sorted((o.apart for o in found), reverse=True)
    types = source.cells("known_type").values
    first = [types[o.case - 1] for o in found[:8]]
    assert first.count("no type") >= 6
    assert found[0].reasons
    for reason in found[0].reasons:
        told = source.clean_numbers(reason.variable)[found[0].case - 1]
        assert reason.answer == told
        assert abs(reason.z) >= 2.5
