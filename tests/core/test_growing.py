"""Every way of growing a tree gives the same tree, whichever suits the size of the study."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import replace

import numba
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import Cancelled, InputError
from gorvel.core.base.memory import square_space
from gorvel.core.base.progress import Phase
from gorvel.core.cases.prepared import Variable
from gorvel.core.grow import algorithm
from gorvel.core.grow.algorithm import choose_algorithm
from gorvel.core.grow.growing import grown_tree
from gorvel.core.grow.grown import grow_prepared
from gorvel.core.linkage import centres, spanning
from gorvel.core.linkage import matrix_chain as large_studies
from gorvel.core.linkage.agglomerate import grow, working_proximities
from gorvel.core.linkage.merges import tree_of
from gorvel.core.linkage.rounds import grow_in_rounds
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities, all_pairs, square_pairs
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.tree import Tree
from studies import answers_for, plan, prepared, whole_correlation

# have no compiled loop for pairs with gaps: nothing new to be seen, and slow
BY_MATRIX = sorted(key for key, rule in LINKAGES.items() if rule.recurrence is not None)
BY_CENTRES = sorted(key for key, rule in LINKAGES.items() if rule.centres)
IN_ROUNDS = sorted(key for key, rule in LINKAGES.items() if rule.in_rounds)
SLOW_WITH_GAPS = frozenset(
    key
    for key, measure in MEASURES.items()
    if not measure.gaps or measure.undefined is not None or measure.kind == "binary"
)


@pytest.fixture(autouse=True)
def one_thread() -> Iterator[None]:
    """Small studies spend more time on waking threads than on work; one test asks for all."""
    before = numba.get_num_threads()
    numba.set_num_threads(1)
    yield
    numba.set_num_threads(before)


def assert_same(large: Tree, small: Tree) -> None:
    """Join for join, tie for tie."""
    assert large.left.tolist() == small.left.tolist()
    assert large.right.tolist() == small.right.tolist()
    most = float(np.abs(small.heights).max(initial=0.0))  # heights that cancel are small beside it
    np.testing.assert_allclose(large.heights, small.heights, rtol=1e-9, atol=1e-12 * most)
    assert large.tied.tolist() == small.tied.tolist()
    assert large.tie_matters.tolist() == small.tie_matters.tolist()


def points(seed: int, n: int, p: int, kind: str) -> np.ndarray:
    rng = np.random.default_rng(seed)
    if kind == "ratings":
        return rng.integers(1, 4, (n, p)).astype(float)
    x = rng.normal(size=(n, p))
    return x[rng.integers(0, max(n // 2, 1), n)] if kind == "repeated" else x


@pytest.mark.parametrize("linkage", BY_MATRIX)
@pytest.mark.parametrize("measure", ["squared-euclidean", "euclidean", "city-block", "canberra"])
@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 60),
    p=st.integers(1, 6),
    kind=st.sampled_from(["ratings", "smooth", "repeated"]),
    weighted=st.booleans(),
)
def test_large_studies_grow_the_tree_of_small_ones(
    measure: str, linkage: str, seed: int, n: int, p: int, kind: str, weighted: bool
) -> None:
    rng = np.random.default_rng(seed)
    weights = rng.uniform(0.5, 3, n) if weighted else None
    cases = prepared(points(seed, n, p, kind), rng.choice([1.0, 0.5, 3.0], p), weights)
    asked = plan(measure, linkage, p)
    small = grow_prepared(cases, asked, {})
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(algorithm, "SMALL", 1)
        assert choose_algorithm(cases, asked.method) != "matrix"
        large, pairs = grown_tree(cases, asked.method)
    assert_same(large, small.tree)
    told = cophenetic_correlation(large, pairs)
    assert told == pytest.approx(whole_correlation(small.tree, small.pairs), abs=1e-9)


@settings(max_examples=examples(120), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    measure=st.sampled_from(sorted(MEASURES)),
    linkage=st.sampled_from(BY_MATRIX),
    seed=st.integers(0, 10**6),
    n=st.integers(2, 40),
    p=st.integers(1, 10),
)
def test_every_measure_grows_and_refuses_alike_in_every_way(
    measure: str, linkage: str, seed: int, n: int, p: int
) -> None:
    rng = np.random.default_rng(seed)
    answers = answers_for(measure, rng, n, p)
    weights = rng.integers(1, 4, n).astype(float) if rng.random() < 0.4 else None
    cases = replace(
        prepared(answers.values, answers.importance, weights), answers=answers,
        variables=tuple(Variable(f"v{j}", level) for j, level in enumerate(answers.levels)),
    )  # fmt: skip
    asked = plan(measure, linkage, p)
    small = None
    with contextlib.suppress(InputError):
        small = grow_prepared(cases, asked, {})
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(algorithm, "SMALL", 1)
        if small is None:
            with pytest.raises(InputError):
                grown_tree(cases, asked.method)
            return
        large, pairs = grown_tree(cases, asked.method)
    assert_same(large, small.tree)
    told = cophenetic_correlation(large, pairs)
    assert told == pytest.approx(whole_correlation(small.tree, small.pairs), abs=1e-7)


@pytest.mark.parametrize("linkage", BY_CENTRES)
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 150),
    p=st.integers(1, 6),
    kind=st.sampled_from(["ratings", "smooth", "repeated", "years"]),
    weighted=st.booleans(),
    scale=st.sampled_from([1.0, 1e-12, 1e12, 1e-170]),
)
def test_centres_in_many_boxes_join_as_their_proximities_do(
    linkage: str, seed: int, n: int, p: int, kind: str, weighted: bool, scale: float
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(1950, 1955, (n, p)) * 1.0 if kind == "years" else points(seed, n, p, kind)
    x *= scale
    answers = Answers.of(x, rng.choice([1.0, 4.0], p), ("interval",) * p, (False,) * p)
    masses = rng.integers(1, 4, n).astype(float) if weighted else np.ones(n)
    work = all_pairs(answers, "squared-euclidean", [str(i) for i in range(n)])
    rule = LINKAGES[linkage]
    small = grow(working_proximities(work, rule, True, masses), linkage, masses)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(centres, "_LEAF", 6)
        patch.setattr(centres, "_JOINED", 1)
        large = centres.centre_tree(answers, masses, linkage)
    assert_same(large, small)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 150),
    p=st.integers(1, 5),
    most=st.integers(2, 9),
    kind=st.integers(0, 1),
    rooted=st.booleans(),
)
def test_levels_of_equal_edges_join_as_their_proximities_do(
    seed: int, n: int, p: int, most: int, kind: int, rooted: bool
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, most, (n, p)) / 4
    answers = Answers.of(x, rng.choice([1.0, 2.0], p), ("interval",) * p, (False,) * p)
    key = "city-block" if kind else "squared-euclidean"
    work = all_pairs(answers, key, [str(i) for i in range(n)])
    small = grow(np.sqrt(work) if rooted else work, "single")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(spanning, "_ROOM", 1)
        patch.setattr(spanning, "_MOST_NEAR", 10**6)
        large = spanning.single_tree(answers, kind, rooted)
        patch.setattr(spanning, "free_memory", lambda: 0.0)
        none = spanning.single_tree(answers, kind, rooted)
    assert large is not None
    assert_same(large, small)
    if none is None:  # pairs at one height are not kept where there is no memory for them
        assert np.isclose(small.heights[1:], small.heights[:-1]).any()
    else:
        assert_same(none, small)


def test_pairs_at_one_height_need_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    x = np.random.default_rng(3).integers(0, 6, (60, 2)).astype(float)
    answers = Answers.of(x, np.ones(2), ("interval",) * 2, (False,) * 2)
    assert spanning.single_tree(answers, 0, False) is not None
    monkeypatch.setattr(spanning, "free_memory", lambda: 0.0)
    assert spanning.single_tree(answers, 0, False) is None


@pytest.mark.parametrize("linkage", sorted(IN_ROUNDS))
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 90),
    tied=st.booleans(),
    beta=st.sampled_from([0.0, -0.01, -0.25, -1.0]),
)
def test_rounds_of_joins_end_in_the_same_tree(
    linkage: str, seed: int, n: int, tied: bool, beta: float
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, 4, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    w = rng.uniform(0.5, 3, n)
    cases, asked = prepared(x, np.ones(2), w), plan("euclidean", linkage, 2)
    asked = asked.model_copy(update={"tree": asked.tree.model_copy(update={"beta": beta})})
    small = grow_prepared(cases, asked, {}).tree
    assert cases.answers is not None
    square = square_pairs(cases.answers, "euclidean", cases.labels)
    masses = w if linkage in ("average", "flexible-average") else None
    large = grow_in_rounds(square, linkage, masses, beta=beta, few=3)
    if small.tie_matters.any():
        assert large is None
    if large is not None:
        assert large.left.tolist() == small.left.tolist()
        assert large.right.tolist() == small.right.tolist()
        np.testing.assert_allclose(large.heights, small.heights, rtol=1e-9)
        assert large.tied.tolist() == small.tied.tolist()


@pytest.mark.parametrize("measure", sorted(MEASURES))
def test_compiled_proximities_are_those_of_the_formulas(measure: str) -> None:
    rng = np.random.default_rng(1)
    n, p = 1100, 11  # more than one block of the compiled loops
    binary = MEASURES[measure].kind == "binary"
    x = rng.integers(0, 2, (n, p)).astype(float) if binary else rng.gamma(2.0, size=(n, p))
    levels = ("interval",) * 7 + ("nominal", "binary", "binary", "ordinal")
    if measure == "gower":
        x[:, 7:10] = rng.integers(0, 2, (n, 3))
    gaps = np.where(rng.random((n, p)) < 0.1, np.nan, x)
    importance = rng.uniform(0.5, 2, p) if MEASURES[measure].importances else np.ones(p)
    names = [str(i) for i in range(n)]
    for values in (x, gaps) if measure not in SLOW_WITH_GAPS else (x,):
        answers = Answers.of(values, importance, levels, (False,) * 9 + (True, False), 3.0)
        matrix = all_pairs(answers, measure, names)
        square = square_pairs(answers, measure, names)
        assert np.isinf(square.diagonal()).all()
        np.fill_diagonal(square, 0)
        np.testing.assert_allclose(square, matrix, rtol=1e-11, atol=1e-15)
        again = Proximities(answers, measure, None, names)
        rows, columns = np.array([3, 1099, 5]), np.array([5, 0, 1099, 3])
        np.testing.assert_allclose(
            again.block(rows, columns), matrix[np.ix_(rows, columns)], rtol=1e-11, atol=1e-15
        )


@pytest.mark.parametrize("last", [129, 199])
def test_only_pairs_that_cannot_be_measured_are_refused(last: int) -> None:
    x = np.random.default_rng(1).integers(0, 2, (200, 6)).astype(float)
    x[~x.any(axis=1), 0] = 1
    x[last] = 0  # nothing present, so it cannot be measured against itself
    answers = Answers.of(x, np.ones(6), ("binary",) * 6, (True,) * 6)
    names = [f"c{i}" for i in range(200)]
    square = square_pairs(answers, "gower", names)
    np.fill_diagonal(square, 0)
    np.testing.assert_allclose(square, all_pairs(answers, "gower", names), atol=1e-15)
    x[5] = 0
    with pytest.raises(InputError, match=f'cases "c5" and "c{last}": no variable'):
        square_pairs(answers, "gower", names)


@pytest.mark.slow
def test_a_thousand_cases_in_rounds_and_with_gaps_closed() -> None:
    x = np.random.default_rng(5).normal(size=(900, 3))
    cases = prepared(x, np.ones(3))
    for linkage in ("ward", "single", "average", "centroid"):
        asked = plan("euclidean", linkage, 3)
        small = grow_prepared(cases, asked, {})
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(algorithm, "SMALL", 1)
            patch.setattr(large_studies, "_BEHIND", 20)
            patch.setattr(large_studies, "_STEP", 1 << 15)
            large, pairs = grown_tree(cases, asked.method)
        assert large.left.tolist() == small.tree.left.tolist()
        np.testing.assert_allclose(large.heights, small.tree.heights, rtol=1e-9)
        told = cophenetic_correlation(large, pairs)
        assert told == pytest.approx(whole_correlation(small.tree, small.pairs), abs=1e-9)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("measure", "linkage", "tied"),
    [
        ("euclidean", "ward", False),
        ("euclidean", "single", False),
        ("euclidean", "average", False),
        ("euclidean", "median", False),
        ("squared-euclidean", "weighted-average", False),
        ("squared-euclidean", "average", True),
        ("city-block", "single", True),
        ("gower", "complete", True),
    ],
)
def test_the_number_of_threads_changes_nothing(measure: str, linkage: str, tied: bool) -> None:
    x = np.random.default_rng(7).normal(size=(3200, 3))
    x = np.round(5 * x) if tied else x
    cases, asked = prepared(x, np.ones(3)), plan(measure, linkage, 3)
    told, correlations = [], []
    for threads in (1, numba.config.NUMBA_NUM_THREADS):
        numba.set_num_threads(threads)
        told.append(grow_prepared(cases, asked, {}))
        correlations.append(cophenetic_correlation(told[-1].tree, told[-1].pairs))
    assert choose_algorithm(cases, asked.method) != "matrix"
    assert told[0].tree.left.tolist() == told[1].tree.left.tolist()
    assert told[0].tree.right.tolist() == told[1].tree.right.tolist()
    assert told[0].tree.heights.tolist() == told[1].tree.heights.tolist()
    assert correlations[0] == correlations[1]


def test_joins_of_one_height_are_ordered_by_their_first_cases() -> None:
    left, right = np.array([4, 2, 0, 6]), np.array([3, 1, 5, 7])
    tree = tree_of(5, left, right, np.array([1.0, 1.0 + 1e-13, 3.0, 4.0]))
    assert tree.left.tolist() == [1, 3, 0, 7]
    assert tree.right.tolist() == [2, 4, 6, 5]
    assert tree.tied.tolist() == [True, False, False, False]


@pytest.mark.parametrize(
    ("measure", "linkage", "tied"),
    [
        ("euclidean", "ward", False),
        ("euclidean", "single", False),
        ("euclidean", "average", False),
        ("squared-euclidean", "average", True),
        ("squared-euclidean", "ward", True),
    ],
)
def test_growing_is_stopped_between_reports(measure: str, linkage: str, tied: bool) -> None:
    told: list[float] = []

    def stop(phase: Phase, share: float) -> None:
        told.append(share)
        if len(told) > 2:
            raise Cancelled

    x = np.random.default_rng(1).normal(size=(400, 2))
    cases = prepared(np.round(3 * x) if tied else x, np.ones(2))
    asked = plan(measure, linkage, 2)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(algorithm, "SMALL", 1)
        patch.setattr("gorvel.core.linkage.centres._SEARCHED", 1000)
        patch.setattr("gorvel.core.linkage.spanning._STEP", 1000)
        patch.setattr("gorvel.core.linkage.matrix_chain._STEP", 1000)
        patch.setattr("gorvel.core.linkage.rounds._STEP", 1000)
        patch.setattr("gorvel.core.proximity.pairs._STEP", 1000)
        with pytest.raises(Cancelled):
            grown_tree(cases, asked.method, stop)
    assert len(told) == 3


@pytest.mark.parametrize("linkage", ["ward", "average", "single", "complete"])
def test_numbers_too_far_apart_are_refused_by_every_way(linkage: str) -> None:
    cases = prepared(np.random.default_rng(1).normal(size=(60, 3)) * 1e200, np.ones(3))
    with pytest.MonkeyPatch.context() as patch:
        for small in (2500, 1):
            patch.setattr(algorithm, "SMALL", small)
            with pytest.raises(InputError, match=r'cases "0" and "1": a distance beyond the larg'):
                grown_tree(cases, plan("squared-euclidean", linkage, 3).method)


def test_matrices_at_the_same_time_never_share_memory() -> None:
    with square_space(6) as one:
        one[:] = 1
        with square_space(5) as other:
            other[:] = 2
            assert (one == 1).all()
    with square_space(6) as again:
        again[:] = 3
        assert again.shape == (6, 6)
    assert not np.may_share_memory(one, other)
