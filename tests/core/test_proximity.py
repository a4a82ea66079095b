"""Scalings and measures against slow code written from the definitions."""

from __future__ import annotations

import math
import re
import statistics
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import all_pairs, square_pairs
from gorvel.core.proximity.profiles import whitening_of
from gorvel.core.proximity.scaling import SCALINGS, average_ranks, scale_cases, scale_variables
from reference import proximities as slow

NAN = math.nan


def measured(told: Answers, key: str, names: list[str]) -> np.ndarray:
    """By the formulas; the compiled loops must say the same, where they refuse as well."""
    try:
        out = all_pairs(told, key, names)
    except InputError as refused:
        with pytest.raises(InputError, match=re.escape(str(refused))):
            square_pairs(told, key, names)
        raise
    square = square_pairs(told, key, names)
    assert np.isinf(square.diagonal()).all()
    np.fill_diagonal(square, 0)
    assert np.array_equal(square, square.T)
    np.testing.assert_allclose(square, out, rtol=1e-11, atol=1e-14)
    assert np.array_equal(square == 0, out == 0)
    return out


def answers(x: np.ndarray, v: np.ndarray, levels: list[str], asymmetric: list[bool]) -> Answers:
    return Answers.of(x, v, levels, asymmetric)


def table(seed: int, n: int, p: int, gaps: float) -> np.ndarray:
    rng = np.random.default_rng(seed)
    x = rng.choice([rng.normal(size=(n, p)), rng.integers(0, 3, (n, p)).astype(float)])
    x[rng.random((n, p)) < gaps] = NAN
    return x


tables = st.builds(
    table, st.integers(0, 10**6), st.integers(1, 9), st.integers(1, 10), st.sampled_from([0.0, 0.3])
)


def disjoint(x: np.ndarray, i: int, j: int) -> bool:
    return bool(np.isnan(x[i] - x[j]).all())


@pytest.mark.parametrize("key", sorted(slow.MEASURES))
@given(x=tables, seed=st.integers(0, 99))
def test_measures_of_numbers(key: str, x: np.ndarray, seed: int) -> None:
    n, p = x.shape
    measure = MEASURES[key]
    x = np.abs(x) if measure.kind == "counts" else x
    v = np.random.default_rng(seed).choice([1.0, 0.5, 3.0], p)
    v = v if measure.importances else np.ones(p)
    names = [f"c{i}" for i in range(n)]
    told = Answers.of(x, v, ["interval"] * p, [False] * p, 3.5, 1.5)
    expected, wrong = {}, False
    for i in range(n):
        for j in range(i):
            try:
                if disjoint(x, i, j):
                    raise ZeroDivisionError
                expected[i, j] = slow.MEASURES[key](x[i], x[j], v)
            except ZeroDivisionError:
                wrong = True
    if wrong:
        with pytest.raises(InputError, match=r"no variable that both have|only|sum to 0"):
            measured(told, key, names)
        return
    d = measured(told, key, names)
    assert not d.diagonal().any()
    for (i, j), value in expected.items():
        assert d[i, j] == d[j, i] == pytest.approx(value, rel=1e-11, abs=1e-14)
        if np.array_equal(x[i], x[j]):
            assert d[i, j] == 0


@pytest.mark.parametrize("key", [m.key for m in MEASURES.values() if m.kind == "binary"])
@given(
    st.lists(
        st.lists(st.sampled_from([0.0, 1.0, NAN]), min_size=4, max_size=4), min_size=2, max_size=8
    )
)
def test_measures_of_yes_and_no(key: str, rows: list[list[float]]) -> None:
    x, n = np.array(rows), len(rows)
    told = answers(x, np.ones(4), ["binary"] * 4, [False] * 4)
    if any(disjoint(x, i, j) for i in range(n) for j in range(i)):
        with pytest.raises(InputError, match="no variable that both have"):
            measured(told, key, [str(i) for i in range(n)])
        return
    d = measured(told, key, [str(i) for i in range(n)])
    for i in range(n):
        assert d[i, i] == 0
        for j in range(i):
            assert d[i, j] == d[j, i] == pytest.approx(slow.presence(key, x[i], x[j]), abs=1e-12)


@given(st.integers(0, 10**6), st.integers(6, 14))
def test_mahalanobis_by_the_inverse_covariance(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    x = rng.normal(size=(n, 3)) @ rng.normal(size=(3, 3)) * [1, 1e3, 1e-3] + [0, 1e6, 1]
    x[1] = x[0]
    covariance = np.zeros((3, 3))
    means = x.sum(axis=0) / n
    for row in x:
        covariance += np.outer(row - means, row - means) / (n - 1)
    inverse = np.linalg.inv(covariance)
    whitening, dependent = whitening_of(x)
    assert not dependent
    told = replace(answers(x, np.ones(3), ["interval"] * 3, [False] * 3), whitening=whitening)
    d = measured(told, "mahalanobis", [""] * n)
    assert d[0, 1] == 0
    for i in range(n):
        for j in range(n):
            step = x[i] - x[j]
            assert d[i, j] == pytest.approx(math.sqrt(max(step @ inverse @ step, 0)), rel=1e-5)


def test_variables_that_depend_on_each_other_are_found() -> None:
    rng = np.random.default_rng(2)
    x = rng.normal(size=(20, 4))
    x[:, 3] = x[:, 0] - 2 * x[:, 1] + 7
    assert whitening_of(x)[1] == [0, 1, 3]
    x[:, 3] = 5
    assert whitening_of(x)[1] == [3]
    assert whitening_of(x[:2, :3])[1]  # two cases can tell of one variable at most


@pytest.mark.parametrize(
    ("key", "rows", "said"),
    [
        ("cosine", [[1, 2], [0, 0]], 'case "b": only zeros; expected an answer other than 0'),
        ("bray-curtis", [[0, 0], [0, 0]], 'case "a": only zeros'),
        ("correlation", [[1, 2], [3, 3]], 'case "b": only equal answers'),
        ("spearman", [[4, 4], [1, 2]], 'case "a": only equal answers'),
        ("chi-square", [[1, 2], [0, 0]], 'case "b": counts that sum to 0'),
        ("phi-square", [[0, 0], [0, 1]], 'case "a": counts that sum to 0'),
        ("cosine", [[0, NAN], [1, 1]], 'case "a": only zeros'),
    ],
)
def test_a_case_that_cannot_be_placed_is_named(
    key: str, rows: list[list[float]], said: str
) -> None:
    told = answers(np.array(rows, dtype=float), np.ones(2), ["interval"] * 2, [False] * 2)
    with pytest.raises(InputError) as caught:
        measured(told, key, ["a", "b"])
    assert said in str(caught.value)
    assert MEASURES[key].name in str(caught.value)


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
            measured(told, "gower", names)
        return
    d = measured(told, "gower", names)
    for (i, j), value in expected.items():
        assert d[i, j] == d[j, i] == pytest.approx(value, abs=1e-12)


def test_many_rows_come_in_blocks_that_fit_together() -> None:
    x = np.random.default_rng(1).normal(size=(700, 2))  # more rows than one block holds
    d = measured(answers(x, np.ones(2), ["interval"] * 2, [False] * 2), "city-block", [""] * 700)
    np.testing.assert_allclose(d, np.abs(x[:, None] - x[None]).sum(axis=2), rtol=1e-13)


def test_a_distance_beyond_the_largest_number_names_both_cases() -> None:
    x = np.array([[1e200], [0.0], [-1e200]])
    told = answers(x, np.ones(1), ["interval"], [False])
    with pytest.raises(InputError, match=r'"a" and "b".*largest number'):
        measured(told, "squared-euclidean", ["a", "b", "c"])


@pytest.mark.parametrize("method", sorted(SCALINGS))
@given(x=tables, seed=st.integers(0, 99), weighted=st.booleans())
def test_scalings(method: str, x: np.ndarray, seed: int, weighted: bool) -> None:
    n, p = x.shape
    w = np.random.default_rng(seed).uniform(1, 3, n)
    names = [f"v{j}" for j in range(p)]
    known = [[value for value in x[:, j] if value == value] for j in range(p)]
    flat = [j for j in range(p) if len(set(known[j])) < 2]
    if method == "robust":
        middles = [statistics.median(values or [0]) for values in known]
        away = [[abs(v - m) for v in values] for values, m in zip(known, middles, strict=True)]
        flat = [j for j in range(p) if j in flat or statistics.median(away[j]) == 0]
    if method == "mean1":
        whole = w if weighted else np.ones(n)
        means = [math.fsum(q for q in whole * x[:, j] if q == q) for j in range(p)]
        flat = [j for j in range(p) if j in flat or means[j] == 0]
    if flat and method != "none":
        with pytest.raises(InputError, match=f'variable "v{flat[0]}": (constant|half|a mean of 0)'):
            scale_variables(x, names, method, w if weighted else None)
        return
    told = scale_variables(x, names, method, w if weighted else None)
    for j in range(p):
        expected = slow.scaled(x[:, j].tolist(), method, w.tolist() if weighted else None)
        np.testing.assert_allclose(told[:, j], expected, rtol=1e-8, atol=1e-12)


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
