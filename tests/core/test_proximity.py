"""Scalings and measures against slow code written from the definitions."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from gorvel.core.errors import InputError
from gorvel.core.proximity.formulas import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import all_pairs
from gorvel.core.scaling import SCALINGS, average_ranks, scale_cases, scale_variables
from reference import proximities as slow

NAN = math.nan


def answers(x: np.ndarray, v: np.ndarray, levels: list[str], asymmetric: list[bool]) -> Answers:
    return Answers.of(x, v, levels, asymmetric)


def table(seed: int, n: int, p: int, gaps: float) -> np.ndarray:
    rng = np.random.default_rng(seed)
    x = rng.choice([rng.normal(size=(n, p)), rng.integers(0, 3, (n, p)).astype(float)])
    x[rng.random((n, p)) < gaps] = NAN
    return x


tables = st.builds(
    table, st.integers(0, 10**6), st.integers(1, 9), st.integers(1, 4), st.sampled_from([0.0, 0.3])
)


def disjoint(x: np.ndarray, i: int, j: int) -> bool:
    return bool(np.isnan(x[i] - x[j]).all())


@pytest.mark.parametrize("key", sorted(slow.MEASURES))
@given(x=tables, seed=st.integers(0, 99))
def test_measures_of_numbers(key: str, x: np.ndarray, seed: int) -> None:
    n, p = x.shape
    v = np.random.default_rng(seed).choice([1.0, 0.5, 3.0], p)
    names = [f"c{i}" for i in range(n)]
    told = answers(x, v, ["interval"] * p, [False] * p)
    apart = [(i, j) for i in range(n) for j in range(i) if disjoint(x, i, j)]
    if apart:
        with pytest.raises(InputError, match="no variable that both have"):
            all_pairs(told, key, names)
        return
    d = all_pairs(told, key, names)
    for i in range(n):
        assert d[i, i] == 0
        for j in range(i):
            assert d[i, j] == d[j, i]
            assert d[i, j] == pytest.approx(slow.MEASURES[key](x[i], x[j], v), rel=1e-12)
            if np.array_equal(x[i], x[j]):
                assert d[i, j] == 0


@given(
    x=st.builds(table, st.integers(0, 10**6), st.integers(1, 9), st.just(4), st.just(0.2)),
    seed=st.integers(0, 99),
)
def test_gower_on_mixed_answers(x: np.ndarray, seed: int) -> None:
    x[:, 2:] = np.where(np.isnan(x[:, 2:]), NAN, (x[:, 2:] > 0).astype(float))
    levels, asymmetric = ["interval", "ordinal", "nominal", "binary"], [False, False, False, True]
    v = np.random.default_rng(seed).choice([1.0, 0.5, 3.0], 4)
    n = len(x)
    known = [[value for value in x[:, j] if not math.isnan(value)] for j in range(4)]
    ranges = [max(values) - min(values) if values else 0.0 for values in known]
    told = answers(x, v, levels, asymmetric)
    names = [str(i) for i in range(n)]
    try:
        expected = {
            (i, j): slow.gower(x[i], x[j], v, levels, asymmetric, ranges)
            for i in range(n)
            for j in range(i)
        }
    except ZeroDivisionError:
        with pytest.raises(InputError, match="no variable that both have"):
            all_pairs(told, "gower", names)
        return
    d = all_pairs(told, "gower", names)
    for (i, j), value in expected.items():
        assert d[i, j] == d[j, i] == pytest.approx(value, abs=1e-12)


def test_many_rows_come_in_blocks_that_fit_together() -> None:
    x = np.random.default_rng(1).normal(size=(700, 2))  # more rows than one block holds
    d = all_pairs(answers(x, np.ones(2), ["interval"] * 2, [False] * 2), "city-block", [""] * 700)
    np.testing.assert_allclose(d, np.abs(x[:, None] - x[None]).sum(axis=2), rtol=1e-13)


def test_a_distance_beyond_the_largest_number_names_both_cases() -> None:
    x = np.array([[1e200], [0.0], [-1e200]])
    told = answers(x, np.ones(1), ["interval"], [False])
    with pytest.raises(InputError, match=r'"a" and "b".*largest number'):
        all_pairs(told, "squared-euclidean", ["a", "b", "c"])


@pytest.mark.parametrize("method", sorted(SCALINGS))
@given(x=tables, seed=st.integers(0, 99), weighted=st.booleans())
def test_scalings(method: str, x: np.ndarray, seed: int, weighted: bool) -> None:
    n, p = x.shape
    w = np.random.default_rng(seed).uniform(1, 3, n)
    names = [f"v{j}" for j in range(p)]
    flat = [j for j in range(p) if len({value for value in x[:, j] if value == value}) < 2]
    if flat and method != "none":
        with pytest.raises(InputError, match=f'variable "v{flat[0]}": no spread'):
            scale_variables(x, names, method)
        return
    told = scale_variables(x, names, method, w if weighted else None)
    for j in range(p):
        expected = slow.scaled(x[:, j].tolist(), method, w.tolist() if weighted else None)
        np.testing.assert_allclose(told[:, j], expected, rtol=1e-9, atol=1e-12)


@given(x=tables)
def test_scaling_by_cases_is_scaling_the_transposed_table(x: np.ndarray) -> None:
    assume(all(len({v for v in row if v == v}) > 1 for row in x))
    names = [str(i) for i in range(len(x))]
    np.testing.assert_array_equal(
        scale_cases(x, names, "range01"), scale_variables(x.T.copy(), names, "range01").T
    )


@given(x=st.lists(st.sampled_from([1.0, 2.0, 2.5, NAN]), max_size=9))
def test_equal_values_share_a_rank(x: list[float]) -> None:
    np.testing.assert_allclose(average_ranks(np.array(x, dtype=float)), slow.ranks(x))


def test_every_record_tells_what_it_is() -> None:
    for record in (*MEASURES.values(), *SCALINGS.values()):
        assert all([record.key, record.name, record.formula, record.purpose, record.misleads])
    assert all(measure.source for measure in MEASURES.values())
