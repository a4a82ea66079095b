"""Rules on squared geometry with proximities that are squares already."""

from __future__ import annotations

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.grow import algorithm
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.table import Reading, Table
from studies import plan

RULES = ("ward", "centroid", "median")
numbers = st.builds(
    lambda seed, n: np.random.default_rng(seed).normal(size=(n, 5)),
    st.integers(0, 10**6), st.integers(2, 25),
)  # fmt: skip


def asked(measure: str, linkage: str, are: str | None = None, scale: str = "none") -> Plan:
    tree = {"proximities_are": are} if are else {}
    made = plan(measure, linkage, 5).with_parts({"tree": tree})
    return made.with_("scale", method=scale, by="cases") if scale != "none" else made


def grown(x: np.ndarray, told: Plan) -> Grown:
    columns = {f"v{j}": [f"{value!r}" for value in x[:, j].tolist()] for j in range(x.shape[1])}
    frame = pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String))
    return analyse(Table("t.csv", frame), told)


def same(one: Grown, other: Grown, factor: float = 1.0) -> None:
    np.testing.assert_array_equal(one.tree.left, other.tree.left)
    np.testing.assert_array_equal(one.tree.right, other.tree.right)
    np.testing.assert_allclose(one.tree.heights, factor * other.tree.heights, rtol=1e-7)


@given(numbers, st.sampled_from(RULES), st.booleans())
def test_squares_in_a_matrix_are_squared_distances(
    x: np.ndarray, linkage: str, by_kernels: bool
) -> None:
    told = asked("squared-euclidean", linkage)
    wanted = grown(x, told)
    assert told.proximities_are == "squares"
    whole = wanted.pairs.block(np.arange(len(x)), np.arange(len(x)))
    labels = tuple(map(str, range(len(x))))
    matrix = ProximityTable("m.csv", labels, whole, Reading(",", ".", "utf-8"))
    as_matrix = Plan.model_validate({
        "source": {"file": "m.csv", "kind": "proximities"},
        "tree": {"linkage": linkage, "proximities_are": "squares"},
    })  # fmt: skip
    with pytest.MonkeyPatch.context() as patch:
        if by_kernels:
            patch.setattr(algorithm, "SMALL", 1)
        found = analyse(matrix, as_matrix)
    same(found, wanted)
    assert "linkage-geometry" not in {caution.code for caution in found.cautions}
    squared_again = analyse(matrix, as_matrix.with_("tree", proximities_are="distances"))
    assert "linkage-geometry" in {caution.code for caution in squared_again.cautions}


@given(numbers, st.sampled_from(RULES), st.booleans())
def test_correlation_as_squares_is_the_tree_of_scores_within_cases(
    x: np.ndarray, linkage: str, by_kernels: bool
) -> None:
    """1 - r of two cases is their squared distance on z-scores within cases, over 2 (p - 1)."""
    wanted = grown(x, asked("squared-euclidean", linkage, scale="zscore"))
    with pytest.MonkeyPatch.context() as patch:
        if by_kernels:
            patch.setattr(algorithm, "SMALL", 1)
        found = grown(x, asked("correlation", linkage, "squares"))
    same(found, wanted, 1 / 8)
    assert "linkage-geometry" not in {caution.code for caution in found.cautions}


@pytest.mark.parametrize("linkage", RULES)
@pytest.mark.parametrize("measure", ["squared-euclidean", "euclidean", "city-block", "cosine"])
def test_which_measures_are_cautioned(measure: str, linkage: str) -> None:
    x = np.random.default_rng(1).normal(size=(12, 5))
    codes = {c.code: c.text for c in grown(x, asked(measure, linkage)).cautions}
    right = measure in ("squared-euclidean", "euclidean")
    assert ("linkage-geometry" in codes) is not right
    if not right:
        offered = "taking the proximities as squares" in codes["linkage-geometry"]
        assert offered is MEASURES[measure].are_squares
    assert asked(measure, linkage).growth() != asked(measure, linkage, "squares").growth() or (
        measure == "squared-euclidean"
    )


def test_mahalanobis_distance_needs_no_caution() -> None:
    x = np.random.default_rng(1).normal(size=(12, 5))
    codes = {caution.code for caution in grown(x, asked("mahalanobis", "ward")).cautions}
    assert "linkage-geometry" not in codes


def test_other_rules_do_not_ask_what_proximities_are() -> None:
    one, other = asked("cosine", "average"), asked("cosine", "average", "squares")
    assert one.growth() == other.growth()
    x = np.random.default_rng(1).normal(size=(12, 5))
    same(grown(x, one), grown(x, other))


@pytest.mark.parametrize("measure", ["squared-euclidean", "euclidean"])
def test_what_is_said_against_the_measure_is_done(measure: str) -> None:
    """Squared distances may be squared again, and plain ones be taken for squares."""
    x = np.random.default_rng(2).normal(size=(30, 5))
    are = "distances" if measure == "squared-euclidean" else "squares"
    small = grown(x, asked(measure, "ward", are))
    whole = small.pairs.block(np.arange(30), np.arange(30))
    assert small.tree.heights[0] == pytest.approx(whole[whole > 0].min())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(algorithm, "SMALL", 1)
        same(grown(x, asked(measure, "ward", are)), small)
    assert not np.array_equal(small.tree.heights, grown(x, asked(measure, "ward")).tree.heights)
