"""The cophenetic correlation in closed form, over folded rows and over all pairs is one number."""

from __future__ import annotations

from dataclasses import replace
from unittest import mock

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.grow import growing
from gorvel.core.grow.growing import grown_tree
from gorvel.core.kernels import upward
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree import cophenetic
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.tree import Tree
from studies import answers_for, plan, prepared, whole_correlation


def correlated(tree: Tree, pairs: Proximities) -> tuple[float | None, bool]:
    """The correlation, and whether it was had in closed form."""
    with mock.patch.object(cophenetic, "_over_pairs", side_effect=cophenetic._over_pairs) as passed:
        return cophenetic_correlation(tree, pairs), not passed.called


def points(seed: int, n: int, p: int, kind: str) -> np.ndarray:
    rng = np.random.default_rng(seed)
    x = rng.normal(size=(n, p))
    if kind in ("ties", "repeated"):
        x = np.round(x)
    if kind == "repeated":
        x = x[rng.integers(0, max(n // 4, 1), n)]
    scale, offset = {"far": (1.0, 1e9), "tiny": (1e-160, 0.0), "huge": (1e70, 0.0)}.get(
        kind, (1.0, 0.0)
    )
    return x * scale + offset


@pytest.mark.parametrize("linkage", ["ward", "single", "average", "centroid", "complete"])
@settings(max_examples=examples(40))
@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 80),
    p=st.integers(1, 7),
    kind=st.sampled_from(["smooth", "ties", "repeated", "far", "tiny", "huge"]),
    weighted=st.booleans(),
)
def test_the_closed_form_is_the_pass_over_pairs(
    linkage: str, seed: int, n: int, p: int, kind: str, weighted: bool
) -> None:
    rng = np.random.default_rng(seed)
    weights = rng.uniform(0.5, 3, n) if weighted else None
    cases = prepared(points(seed, n, p, kind), rng.choice([1.0, 0.25, 3.0], p), weights)
    tree, pairs = grown_tree(cases, plan("squared-euclidean", linkage, p).method)
    told, closed = correlated(tree, pairs)
    if kind == "huge":  # products of squares leave the range of the test, scaled ones do not
        small = prepared(cases.answers.values / 1e70, cases.answers.importance)
        pairs = Proximities(small.answers, pairs.key, None, pairs.names)
    if kind == "tiny":
        small = prepared(cases.answers.values * 1e160, cases.answers.importance)
        pairs = Proximities(small.answers, pairs.key, None, pairs.names)
    if kind in ("tiny", "huge"):
        high = tree.heights.max()
        heights = tree.heights / high if high > 0 else tree.heights
        tree = Tree(tree.n, tree.left, tree.right, heights, tree.tied, tree.tie_matters)
    whole = whole_correlation(tree, pairs)
    assert told == (None if whole is None else pytest.approx(whole, abs=1e-9))
    if n > 8 and kind == "smooth" and p < 4:
        assert closed


def test_the_closed_form_leaves_what_is_all_alike_to_the_pass() -> None:
    corners = 3.7 * np.eye(6)  # all pairs equally far
    tree, pairs = grown_tree(
        prepared(corners, np.ones(6)), plan("squared-euclidean", "ward", 6).method
    )
    assert correlated(tree, pairs) == (None, False)
    nearly = corners + 1e-4 * np.random.default_rng(1).normal(size=(6, 6))
    tree, pairs = grown_tree(
        prepared(nearly, np.ones(6)), plan("squared-euclidean", "ward", 6).method
    )
    told, closed = correlated(tree, pairs)
    assert not closed
    assert told == pytest.approx(whole_correlation(tree, pairs), abs=1e-9)


@settings(max_examples=examples(120))
@given(
    measure=st.sampled_from(sorted(MEASURES)),
    linkage=st.sampled_from(["single", "average", "complete", "flexible", "within-average"]),
    seed=st.integers(0, 10**6),
    n=st.integers(2, 40),
    kept=st.booleans(),
)
def test_equal_rows_count_as_often_as_they_are_there(
    measure: str, linkage: str, seed: int, n: int, kept: bool
) -> None:
    """By compiled loops and by blocks, with and without a matrix, folded or not."""
    rng = np.random.default_rng(seed)
    answers = answers_for(measure, rng, n, int(rng.integers(1, 6)))
    twice = answers.values[rng.integers(0, n, 3 * n)]
    cases = prepared(twice, answers.importance)
    cases = replace(cases, answers=replace(answers, values=twice))
    try:
        tree, pairs = grown_tree(cases, plan(measure, linkage, twice.shape[1]).method)
    except growing.InputError:
        return  # pairs that cannot be measured
    if not kept:
        pairs = Proximities(cases.answers, measure, None, cases.labels)
    told = cophenetic_correlation(tree, pairs)
    whole = whole_correlation(tree, pairs)
    assert told == (None if whole is None else pytest.approx(whole, abs=1e-7))


def test_rows_are_folded_where_equal_ones_join_first() -> None:
    x = np.random.default_rng(3).integers(0, 3, (400, 3)).astype(float)
    tree, pairs = grown_tree(prepared(x, np.ones(3)), plan("euclidean", "average", 3).method)
    runs = cophenetic._Runs.of(tree, pairs)
    assert len(runs.cases) == len(np.unique(x, axis=0)) < 28
    assert runs.weights.sum() == 400
    # equal rows that do not join first are left alone: here the last join is that of two equal ones
    heights = np.array([1.0, 0.0])
    odd = Tree(3, np.array([0, 3]), np.array([1, 2]), heights, *np.zeros((2, 2), dtype=bool))
    twins = prepared(np.array([[1.0], [2.0], [2.0]]), np.ones(1))
    pairs = Proximities(twins.answers, "euclidean", None, twins.labels)
    assert len(cophenetic._Runs.of(odd, pairs).cases) == 3


def test_it_can_be_stopped() -> None:
    cases = prepared(np.random.default_rng(1).normal(size=(60, 2)), np.ones(2))
    for measure in ("squared-euclidean", "city-block"):
        tree, pairs = grown_tree(cases, plan(measure, "average", 2).method)

        def stop(phase: Phase, share: float) -> None:
            assert phase is Phase.CORRELATION
            raise Cancelled

        with pytest.raises(Cancelled):
            cophenetic_correlation(tree, pairs, stop)


@settings(max_examples=examples(30))
@given(seed=st.integers(0, 10**6), n=st.integers(1, 60), p=st.integers(1, 4))
def test_interpreted_and_compiled_loops_agree_to_the_last_bit(seed: int, n: int, p: int) -> None:
    rng = np.random.default_rng(seed)
    nodes, left, right = list(range(n)), [], []
    for k in range(n - 1):  # any tree
        one, other = rng.choice(len(nodes), 2, replace=False).tolist()
        left.append(nodes[one])
        right.append(nodes[other])
        nodes = [v for v in nodes if v not in (nodes[one], nodes[other])] + [n + k]
    one, other = np.array(left, dtype=np.int64), np.array(right, dtype=np.int64)
    values, own = rng.normal(size=(n, p)), rng.uniform(0.1, 5, n)

    def all_loops() -> list[bytes]:
        sizes = upward.sizes(one, other)
        mass = upward.masses(one, other, own)
        mean, growth = np.zeros((2 * n - 1, p)), np.zeros(n - 1)
        mean[:n] = values
        again, spread = mean.copy(), np.zeros(2 * n - 1)
        upward.growths(one, other, 0, n - 1, mean, mass, np.arange(1.0, p + 1), growth)
        total = upward.products(
            one, other, 0, n - 1, again, sizes.astype(float), spread, np.arange(n - 1.0), 0.3
        )
        ends = np.arange(1, n), np.array([int(own[k] * k) % k for k in range(1, n)], dtype=np.int64)
        arrays = (
            sizes, upward.firsts(one, other), upward.starts(one, other, sizes), mass, mean, growth,
            again, spread, np.array(total, dtype=float), upward.spanned(*ends),
        )  # fmt: skip
        return [np.asarray(array).tobytes() for array in arrays]

    slow = all_loops()
    with mock.patch.object(upward, "worth_compiling", return_value=True):
        assert all_loops() == slow
