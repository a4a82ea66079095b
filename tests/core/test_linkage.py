"""Every linkage against agglomeration written from the definitions."""

from __future__ import annotations

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.linkage.agglomerate import grow, working_proximities
from gorvel.core.linkage.members import grow_by_members
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count, cut_at_height
from gorvel.core.tree.schedule import make_schedule, within_spread
from gorvel.core.tree.tree import Tree, agglomerative_coefficient
from reference import trees

BY_MEMBERS = sorted(key for key, rule in LINKAGES.items() if rule.recurrence is None)
RATINGS = st.integers(1, 8).flatmap(
    lambda n: st.lists(st.lists(st.integers(1, 3), min_size=2, max_size=2), min_size=n, max_size=n)
)
linkages = pytest.mark.parametrize("key", sorted(LINKAGES))


def squared(points: list[list[int]]) -> list[list[Fraction]]:
    return [
        [Fraction(sum((a - b) ** 2 for a, b in zip(x, y, strict=True))) for y in points]
        for x in points
    ]


def grown(
    d: list[list[Fraction]] | np.ndarray, key: str, weights: list[int], beta: float = -0.25
) -> Tree:
    d = np.array(d, dtype=float).reshape(len(weights), len(weights))
    masses = np.array(weights, dtype=float)
    work = working_proximities(d, LINKAGES[key], True, masses)
    return grow(work, key, masses, beta=beta)


def check_same(tree: Tree, joins: list[trees.Join]) -> None:
    assert tree.joins == len(joins)
    for k, join in enumerate(joins):
        assert sorted(tree.members(int(tree.left[k])).tolist()) == sorted(join.left)
        assert sorted(tree.members(int(tree.right[k])).tolist()) == sorted(join.right)
        assert tree.heights[k] == pytest.approx(float(join.height), rel=1e-9, abs=1e-12)
        assert bool(tree.tied[k]) == join.tied
        assert bool(tree.tie_matters[k]) == join.matters


@linkages
@given(points=RATINGS, data=st.data())
def test_tied_ratings_join_as_the_tie_rule_says(
    key: str, points: list[list[int]], data: st.DataObject
) -> None:
    n = len(points)
    weights = data.draw(
        st.one_of(st.just([1] * n), st.lists(st.integers(1, 4), min_size=n, max_size=n))
    )
    used = weights if LINKAGES[key].masses else [1] * n
    beta = data.draw(st.sampled_from([Fraction(-1), Fraction(-1, 4), Fraction(0), Fraction(1, 2)]))
    joins = trees.agglomerate(squared(points), [Fraction(w) for w in used], key, beta)
    check_same(grown(squared(points), key, weights, float(beta)), joins)


@linkages
@given(st.integers(0, 10**6), st.integers(2, 14))
def test_random_points_and_all_that_follows_from_a_tree(key: str, seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    x, v, w = rng.normal(size=(n, 3)), rng.uniform(0.5, 2, 3), rng.uniform(0.5, 3, n)
    d = np.array([[float(v @ (a - b) ** 2) for b in x] for a in x])
    used = w.tolist() if LINKAGES[key].masses else [1.0] * n
    joins = trees.agglomerate(d.tolist(), used, key, Fraction(-1, 4))
    tree = grown(d, key, w)
    check_same(tree, joins)

    for k in range(1, n + 1):
        assert cut_at_count(tree, k).membership.tolist() == trees.cut(joins, n, n - k)
    height = float(np.median(tree.heights))
    kept = max(k for k, join in enumerate(joins, 1) if tree.heights[k - 1] <= height)
    assert cut_at_height(tree, height).membership.tolist() == trees.cut(joins, n, kept)

    pairs = np.triu_indices(n, 1)
    met = np.array(trees.cophenetic(joins, tree.heights.tolist(), n))
    for i, j in zip(*pairs, strict=True):
        assert tree.heights[tree.meeting(int(i), int(j))] == met[i, j]
    if n > 2:
        told = cophenetic_correlation(tree, Proximities(None, "matrix", d, ()))
        assert told == pytest.approx(trees.pearson(d[pairs].tolist(), met[pairs].tolist()))
    first = [next(j.height for j in joins if (i,) in (j.left, j.right)) for i in range(n)]
    coefficient = 1 - math.fsum(first) / n / joins[-1].height
    assert agglomerative_coefficient(tree) == pytest.approx(coefficient)

    spread = within_spread(tree, x, v, w)
    rows = make_schedule(tree, w, spread)
    total = trees.within_ss([1] * n, x.tolist(), v.tolist(), w.tolist())
    for k, join in enumerate(joins):
        cases = list(join.left + join.right)
        within = trees.within_ss(trees.cut(joins, n, k + 1), x.tolist(), v.tolist(), w.tolist())
        assert spread.within[k] == pytest.approx(within, rel=1e-9)
        assert spread.r2[k] == pytest.approx(1 - within / total, abs=1e-9)
        assert rows.size[k] == len(cases)
        assert rows.mass[k] == pytest.approx(w[cases].sum())
        assert rows.clusters[k] == n - 1 - k
        made = [j + 1 for j in range(k) if set(joins[j].left + joins[j].right) == set(join.left)]
        assert rows.left_made_at[k] == (made[-1] if made else 0)
        later = [
            j + 1
            for j in range(k + 1, n - 1)
            if tuple(sorted(cases)) in (joins[j].left, joins[j].right)
        ]
        assert rows.used_at[k] == (later[0] if later else 0)
    assert spread.semipartial_r2.sum() == pytest.approx(1)


@pytest.mark.parametrize("key", sorted(BY_MEMBERS))
@given(st.integers(0, 10**6), st.integers(2, 40), st.booleans())
def test_compiled_rules_on_members_join_to_the_last_bit(
    key: str, seed: int, n: int, ties: bool
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, 3, (n, 2)).astype(float) if ties else rng.normal(size=(n, 2))
    d = np.sqrt(((x[:, None] - x) ** 2).sum(axis=2))
    masses = rng.integers(1, 4, n).astype(float) if seed % 2 else rng.uniform(0.5, 3, n)
    slow = grow(d.copy(), key, masses)
    np.fill_diagonal(d, np.inf)
    for tree in (grow_by_members(d.copy(), key, masses), grow_by_members(d.copy(), key)):
        assert tree.heights.tobytes() == slow.heights.tobytes()
        for name in ("left", "right", "tied", "tie_matters"):
            assert getattr(tree, name).tolist() == getattr(slow, name).tolist()
        slow = grow(np.where(np.isinf(d), 0.0, d), key)


@given(st.integers(0, 10**6), st.integers(2, 30))
def test_single_linkage_heights_are_the_edges_of_a_minimum_spanning_tree(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    d = rng.integers(1, 9, (n, n)).astype(float)
    d = np.triu(d, 1) + np.triu(d, 1).T
    inside, edges = {0}, []
    while len(inside) < n:
        length, new = min((d[i, j], j) for i in inside for j in set(range(n)) - inside)
        inside.add(new)
        edges.append(length)
    assert sorted(edges) == grown(d, "single", [1] * n).heights.tolist()


@pytest.mark.parametrize("key", ["average", "centroid", "complete", "minimax", "single", "ward"])
@given(st.integers(0, 10**6), st.sampled_from([1e-12, 1.0, 1e12]))
def test_scale_and_repeated_rows(key: str, seed: int, scale: float) -> None:
    rng = np.random.default_rng(seed)
    x = rng.normal(size=(6, 2)) * scale
    times = rng.integers(1, 4, 6)
    copies = np.repeat(x, times, axis=0)

    def distances(y: np.ndarray) -> np.ndarray:
        return np.array([[float(((a - b) ** 2).sum()) for b in y] for a in y])

    folded = grown(distances(x), key, times.tolist())
    unfolded = grown(distances(copies), key, [1] * len(copies))
    extra = len(copies) - 6
    assert np.all(unfolded.heights[:extra] == 0)
    assert np.isfinite(unfolded.heights).all()
    np.testing.assert_allclose(unfolded.heights[extra:], folded.heights, rtol=1e-7)


@linkages
@given(st.integers(0, 10**6), st.sampled_from([1e-12, 1e12]))
def test_another_unit_gives_the_same_tree(key: str, seed: int, scale: float) -> None:
    x = np.random.default_rng(seed).normal(size=(9, 2))
    d = np.array([[float(((a - b) ** 2).sum()) for b in x] for a in x])
    one, other = grown(d, key, [1] * 9), grown(d * scale, key, [1] * 9)
    assert one.left.tolist() == other.left.tolist()
    assert one.right.tolist() == other.right.tolist()
    np.testing.assert_allclose(one.heights * scale, other.heights, rtol=1e-9, atol=1e-12 * scale)


@linkages
def test_equal_cases_meet_at_exactly_zero(key: str) -> None:
    tree = grown(np.zeros((5, 5)), key, [1, 2, 3, 1, 2])
    assert tree.heights.tolist() == [0.0] * 4
    assert tree.order.tolist() == [0, 1, 2, 3, 4]
    assert tree.tied.tolist() == [True, True, True, False]
    assert agglomerative_coefficient(tree) is None
    nothing = Proximities(None, "matrix", np.zeros((5, 5)), ())
    assert cophenetic_correlation(tree, nothing) is None


def test_an_inversion_is_kept_counted_and_cut_through() -> None:
    points = np.array([[0.0, 0.0], [1.0, 0.0], [0.5, 0.9]])  # the third is nearer to the middle
    d = np.array([[float(((a - b) ** 2).sum()) for b in points] for a in points])
    tree = grown(d, "centroid", [1, 1, 1])
    assert tree.heights.tolist() == pytest.approx([1.0, 0.81])
    assert tree.inversions.tolist() == [False, True]
    # the second join is the last one not above 0.9, so both count
    assert cut_at_height(tree, 0.9).clusters == 1
    assert cut_at_height(tree, 0.5).clusters == 3
