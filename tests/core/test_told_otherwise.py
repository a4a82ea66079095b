"""The same study told otherwise gives the same tree: rows, columns, units, weights, importances."""

from __future__ import annotations

from typing import Any

import numpy as np
import polars as pl
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import GorvelError
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.table import Table
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count

NUMBERS = [key for key, measure in MEASURES.items() if measure.kind == "numbers"]
# rules under which a case that stands twice is a case of twice the weight
REPEATED = ["single", "complete", "average", "ward", "centroid"]
SHIFTED = ("euclidean", "squared-euclidean", "city-block", "chebyshev", "minkowski", "power")


def study(values: np.ndarray, **columns: list[Any]) -> Table:
    """Columns v0, v1 … of numbers, and others."""
    cells = {f"v{j}": [repr(float(x)) for x in values[:, j]] for j in range(values.shape[1])}
    cells |= {name: [str(cell) for cell in column] for name, column in columns.items()}
    return Table("t.csv", pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String)))


def plan_of(p: int, measure: str, linkage: str, **parts: dict[str, Any]) -> Plan:
    """A plan of the first p columns."""
    use = tuple(f"v{j}" for j in range(p))
    whole = {
        "source": {"file": "t.csv"}, "variables": {"use": use},
        "proximity": {"measure": measure}, "tree": {"linkage": linkage},
    }  # fmt: skip
    for name, part in parts.items():
        whole[name] = whole.get(name, {}) | part
    return validated(whole, "p.toml")


def grown(values: np.ndarray, plan: Plan, **columns: list[Any]) -> Grown:
    """The tree, where this study has one."""
    try:
        return analyse(study(values, **columns), plan)
    except GorvelError:
        assume(False)
        raise


def partitions(tree: Any, cases: int) -> list[frozenset[frozenset[int]]]:
    """The clusters of the first so many cases at each count of them, as sets."""
    out = []
    for count in range(1, tree.n + 1):
        member = cut_at_count(tree, count).membership[:cases]
        sets = (frozenset(np.flatnonzero(member == k).tolist()) for k in np.unique(member))
        out.append(frozenset(sets))
    return list(dict.fromkeys(out))


@st.composite
def clouds(draw: st.DrawFn, ties: bool = False) -> np.ndarray:
    """Smooth points without equal proximities, or ratings with many."""
    rng = np.random.default_rng(draw(st.integers(0, 10**6)))
    n, p = draw(st.integers(4, 12)), draw(st.integers(2, 4))
    if ties:
        return rng.integers(1, 5, (n, p)).astype(float)
    return rng.normal(size=(n, p)) + rng.integers(0, 3, (n, 1))


either = st.booleans().flatmap(lambda ties: clouds(ties))
rules = st.sampled_from(sorted(LINKAGES))


@given(either, st.sampled_from(NUMBERS), rules, st.randoms(use_true_random=False))
def test_columns_in_another_order(x: np.ndarray, measure: str, linkage: str, rng: Any) -> None:
    plan = plan_of(x.shape[1], measure, linkage)
    names = list(plan.variables.use)
    one = grown(x, plan)
    rng.shuffle(names)
    other = grown(x, plan.with_("variables", use=names))
    assert np.allclose(one.tree.heights, other.tree.heights, rtol=1e-9, atol=1e-12)
    if not one.tree.tied.any():
        assert partitions(one.tree, len(x)) == partitions(other.tree, len(x))


@given(clouds(), st.sampled_from(NUMBERS), rules, st.integers(0, 10**6))
def test_rows_in_another_order(x: np.ndarray, measure: str, linkage: str, seed: int) -> None:
    mixed = np.random.default_rng(seed).permutation(len(x))
    plan = plan_of(x.shape[1], measure, linkage)
    one, other = grown(x, plan), grown(x[mixed], plan)
    assume(not one.tree.tied.any() and not other.tree.tied.any())
    assert np.allclose(one.tree.heights, other.tree.heights, rtol=1e-9, atol=1e-12)
    back = [
        frozenset(frozenset(int(mixed[k]) for k in part) for part in clusters)
        for clusters in partitions(other.tree, len(x))
    ]
    assert partitions(one.tree, len(x)) == back


@given(
    clouds(), st.sampled_from(SHIFTED), rules, st.sampled_from(["zscore", "range01", "sd1"]),
    st.sampled_from([0.001, 3.7, 1000.0]), st.sampled_from([-50.0, 0.0, 9.0]),
)  # fmt: skip
def test_another_unit_of_one_variable_is_scaled_away(
    x: np.ndarray, measure: str, linkage: str, scale: str, factor: float, shift: float
) -> None:
    plan = plan_of(x.shape[1], measure, linkage, scale={"method": scale})
    told = x.copy()
    told[:, 0] = told[:, 0] * factor + shift
    one, other = grown(x, plan), grown(told, plan)
    assert np.allclose(one.tree.heights, other.tree.heights, rtol=1e-6, atol=1e-9)
    assume(not one.tree.tied.any())
    assert partitions(one.tree, len(x)) == partitions(other.tree, len(x))


@given(clouds(), st.sampled_from(["euclidean", "squared-euclidean", "city-block"]), rules)
def test_an_importance_of_two_is_a_variable_that_stands_twice(
    x: np.ndarray, measure: str, linkage: str
) -> None:
    p = x.shape[1]
    twice = np.column_stack([x, x[:, 0]])
    one = grown(x, plan_of(p, measure, linkage, variables={"importance": {"v0": 2.0}}))
    other = grown(twice, plan_of(p + 1, measure, linkage))
    assert np.allclose(one.tree.heights, other.tree.heights, rtol=1e-9, atol=1e-12)
    assume(not one.tree.tied.any())
    assert partitions(one.tree, len(x)) == partitions(other.tree, len(x))


@settings(max_examples=examples(80))
@given(
    clouds(), st.sampled_from(["euclidean", "squared-euclidean"]), st.sampled_from(REPEATED),
    st.data(),
)  # fmt: skip
def test_a_weight_of_three_is_a_case_that_stands_three_times(
    x: np.ndarray, measure: str, linkage: str, data: st.DataObject
) -> None:
    n, p = x.shape
    w = data.draw(st.lists(st.integers(1, 3), min_size=n, max_size=n))
    uses = LINKAGES[linkage].masses
    plan = plan_of(p, measure, linkage)
    heavy = plan.with_("cases", weight="w") if uses else plan
    one = grown(x, heavy, w=w)
    order = np.concatenate([np.arange(n), np.repeat(np.arange(n), np.array(w) - 1)])
    other = grown(x[order], plan)
    assume(not one.tree.tied.any())
    above = other.tree.heights[other.tree.heights > 1e-9]
    assert np.allclose(one.tree.heights, above, rtol=1e-7)
    assert partitions(one.tree, n) == partitions(other.tree, n)


@given(clouds(), rules)
def test_what_is_said_of_a_tree_does_not_depend_on_the_unit(x: np.ndarray, linkage: str) -> None:
    plan = plan_of(x.shape[1], "euclidean", linkage)
    one, other = grown(x, plan), grown(x * 2.0**7, plan)  # a power of two rounds nothing
    assert np.array_equal(one.tree.heights * 2.0**7, other.tree.heights)
    assert np.array_equal(one.tree.left, other.tree.left)
    mine, its = (cophenetic_correlation(g.tree, g.pairs) for g in (one, other))
    assert (mine is None) is (its is None)
    assert mine is None or mine == pytest.approx(its, abs=1e-12)
    assert one.agglomerative == pytest.approx(other.agglomerative, abs=1e-12)
    if one.schedule.spread is not None and other.schedule.spread is not None:
        assert np.allclose(one.schedule.spread.r2, other.schedule.spread.r2, equal_nan=True)


@given(clouds(), st.sampled_from(["single", "complete"]))
def test_single_and_complete_linkage_follow_the_order_of_proximities_alone(
    x: np.ndarray, linkage: str
) -> None:
    one = grown(x, plan_of(x.shape[1], "euclidean", linkage))
    other = grown(x, plan_of(x.shape[1], "squared-euclidean", linkage))
    assert np.allclose(one.tree.heights**2, other.tree.heights, rtol=1e-9)
    assert partitions(one.tree, len(x)) == partitions(other.tree, len(x))
