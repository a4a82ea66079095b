"""Is there structure, do splits and branches hold, does the order of the cases matter."""

from __future__ import annotations

import math
from itertools import combinations
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gorvel.core.count.groups import check_of, known_groups
from gorvel.core.count.null.structure import hopkins, permuted_cophenetic
from gorvel.core.count.resampling.order_stability import random_orders
from gorvel.core.count.resampling.resampling_engine import NoiseBox
from gorvel.core.count.resampling.splits import shrunk_spreads, split_tests
from gorvel.core.count.resampling.support import branch_support, unbiased
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from reference import counts as slow
from studies import study


def planted(seed: int, groups: int = 3, p: int = 4, apart: float = 7.0, size: int = 25) -> Grown:
    rng = np.random.default_rng(seed)
    centres = rng.permutation(np.eye(p))[:groups] * apart
    return study(
        np.concatenate([rng.normal(size=(size, p)) + centre for centre in centres]), "euclidean"
    )


def cloud(seed: int, n: int = 75, p: int = 4) -> Grown:
    return study(np.random.default_rng(seed).normal(size=(n, p)), "euclidean")


def test_hopkins_is_as_defined_and_tells_noise_from_clusters() -> None:
    grown = planted(1, apart=4.0)
    x = grown.prepared.answers.values  # type: ignore[union-attr]
    n, p = x.shape
    found = []
    for number in range(3):
        random = np.random.default_rng([5, number, 3])
        noise = NoiseBox.of(x).draw(random, n // 10)
        some = random.choice(n, n // 10, replace=False)
        u = sum(min(math.dist(a, b) for b in x) ** p for a in noise)
        w = sum(min(math.dist(x[i], x[j]) for j in range(n) if j != i) ** p for i in some)
        found.append(u / (u + w))
    told = hopkins(grown, 3, 5)
    assert told.value == pytest.approx(float(np.median(found)))
    m, h = n // 10, float(np.median(found))
    above = sum(math.comb(2 * m - 1, j) * h**j * (1 - h) ** (2 * m - 1 - j) for j in range(m))
    assert told.p == pytest.approx(above)
    assert told.value is not None
    assert told.value > 0.7
    even = study(np.random.default_rng(2).uniform(size=(300, 2)), "euclidean")
    flat = hopkins(even, 9, 1)
    assert flat.value is not None
    assert 0.35 < flat.value < 0.65
    assert flat.p is not None
    assert flat.p > 0.05


def test_hopkins_keeps_its_level_for_even_noise_in_a_straight_box() -> None:
    """20 studies of six variables: along the axes each is called denser than noise."""
    noise = [study(np.random.default_rng(seed).uniform(size=(100, 6))) for seed in range(20)]
    straight = [hopkins(grown, 9, 1, box="straight").p or 0.0 for grown in noise]
    assert sum(p <= 0.05 for p in straight) <= 2
    assert sum((hopkins(grown, 9, 1).p or 0.0) <= 0.05 for grown in noise) == 20


def test_shuffled_answers_make_trees_as_faithful_as_noise_but_not_as_clusters() -> None:
    grown = planted(2)
    told = permuted_cophenetic(grown, 19, 3)
    assert told.p == pytest.approx(1 / 20)
    values = grown.prepared.answers.values  # type: ignore[union-attr]
    again = []
    for number in range(19):
        mixed = np.random.default_rng([3, number, 4]).permuted(values, axis=0)
        other = study(mixed, "euclidean")
        again.append(cophenetic_correlation(other.tree, other.pairs))
    assert told.value == pytest.approx(np.mean(again))
    noise = permuted_cophenetic(cloud(3), 19, 3)
    assert noise.p is not None
    assert noise.p > 0.1
    one = permuted_cophenetic(study(values[:, :1], "euclidean"), 5, 1)
    assert one.value is None
    assert "variable" in one.why


@pytest.mark.slow
def test_splits_hold_for_planted_groups_and_not_for_one_cloud() -> None:
    x = planted(4).prepared.answers.values  # type: ignore[union-attr]
    grown = study(x, "euclidean")
    told = split_tests(grown, 40, 1)
    assert told.clusters == 3
    first = told.tests[0]
    assert (first.join, first.cases, first.level) == (grown.tree.joins - 1, 75, 0.05)
    ones = [1.0] * 4
    halves = slow.within(x.tolist(), ones, [1.0] * 75, cut_at_count(grown.tree, 2).membership)
    whole = slow.within(x.tolist(), ones, [1.0] * 75, [0] * 75)
    assert first.index == pytest.approx(halves / whole)
    for test in told.tests[1:]:
        above = grown.tree.used_at[grown.tree.n + test.join]
        assert next(t for t in told.tests if t.join == above).holds
        assert test.level == pytest.approx(0.05 * (test.cases - 1) / 74)


@pytest.mark.slow
def test_splits_keep_their_level_and_see_groups_that_lie_near() -> None:
    """16 clouds, and 10 pairs of groups that the unshrunk covariance hides.

    5 % of clouds are expected to split: four or more once in 140 such tests. Groups are four
    standard deviations apart.
    """

    def rejected(x: np.ndarray) -> bool:
        return split_tests(study(x, "euclidean"), 20, 1).clusters > 1

    clouds = [np.random.default_rng(seed).normal(size=(60, 4)) for seed in range(16)]
    assert sum(map(rejected, clouds)) <= 3
    apart = np.zeros((100, 6))
    apart[::2, 0] = 4.0
    pairs = [np.random.default_rng(seed).normal(size=(100, 6)) + apart for seed in range(10)]
    assert sum(map(rejected, pairs)) >= 5


@given(st.integers(0, 10**6), st.integers(2, 30), st.integers(1, 6))
def test_the_covariance_is_shrunk_as_defined(seed: int, n: int, p: int) -> None:
    """Case by case, from the paper: S shrunk to m I by the share b2 / d2."""
    x = np.random.default_rng(seed).normal(size=(n, p)) * np.arange(1, p + 1)
    rows = x - x.mean(axis=0)
    s = sum(np.outer(row, row) for row in rows) / n

    def norm(a: np.ndarray) -> float:
        return float((a * a).sum()) / p

    m = np.trace(s) / p
    d2 = norm(s - m * np.eye(p))
    b2 = min(sum(norm(np.outer(row, row) - s) for row in rows) / n**2, d2)
    share = b2 / d2 if d2 > 1e-12 * m * m else 1.0
    wanted = np.linalg.eigvalsh(share * m * np.eye(p) + (1 - share) * s)[::-1]
    np.testing.assert_allclose(shrunk_spreads(x) ** 2, wanted, rtol=1e-6, atol=1e-9 * m)


@pytest.mark.parametrize(
    ("linkage", "measure", "word"),
    [
        ("single", "euclidean", "Ward"),
        ("average", "euclidean", "Ward"),
        ("ward", "city-block", "Euclidean"),
    ],
)
def test_splits_are_tested_only_where_that_is_defined(
    linkage: str, measure: str, word: str
) -> None:
    told = split_tests(study(np.random.default_rng(1).normal(size=(30, 2)), measure, linkage), 9, 1)
    assert told.tests == ()
    assert word in told.why


def branches(tree: Tree) -> list[frozenset[int]]:
    return [frozenset(tree.members(tree.n + j).tolist()) for j in range(tree.joins)]


@given(
    st.integers(0, 10**6), st.integers(4, 14), st.sampled_from(["ward", "single", "minimax"]),
)  # fmt: skip
@settings(max_examples=15)
def test_with_few_variables_cases_are_drawn(seed: int, n: int, linkage: str) -> None:
    """Every branch against every branch of each new tree, as sets of the cases drawn."""
    x = np.random.default_rng(seed).normal(size=(n, 3))
    grown = study(x, "euclidean", linkage)
    told = branch_support(grown, 4, 2)
    assert told.of == "cases"
    back, tried = np.zeros(grown.tree.joins), np.zeros(grown.tree.joins)
    for number in range(4):
        drawn = np.sort(np.random.default_rng([2, number, 10]).integers(0, n, n))
        other = study(x[drawn], "euclidean", linkage).tree
        new = [frozenset(drawn[sorted(branch)].tolist()) for branch in branches(other)]
        for join, branch in enumerate(branches(grown.tree)):
            mine = branch & frozenset(drawn.tolist())
            if len(mine) >= 2:
                best = max(len(mine & b) / len(mine | b) for b in new if len(b) >= 1)
                back[join] += best >= 0.75
                tried[join] += 1
    with np.errstate(invalid="ignore"):
        wanted = back / tried
    wanted[-1] = np.nan
    np.testing.assert_allclose(told.plain, wanted)
    np.testing.assert_array_equal(told.shown, told.plain)
    assert np.isnan(told.unbiased).all()


def test_planted_groups_come_back_and_those_of_noise_do_not() -> None:
    rng = np.random.default_rng(6)
    x = np.concatenate([rng.normal(size=(20, 3)), rng.normal(size=(20, 3)) + 6])
    grown = study(x, "euclidean")
    told = branch_support(grown, 20, 2)
    groups = [set(range(20)), set(range(20, 40))]
    assert [told.shown[j] for j, b in enumerate(branches(grown.tree)) if b in groups] == [1.0, 1.0]
    noise = study(rng.normal(size=(60, 3)), "euclidean")
    found = branch_support(noise, 20, 2).shown
    large = noise.tree.sizes[noise.tree.n :] >= 5
    assert np.nanmean(found[large] >= 0.95) < 0.1


def test_support_is_how_often_branches_come_back() -> None:
    rng = np.random.default_rng(6)
    x = np.concatenate([rng.normal(size=(6, 30)), rng.normal(size=(6, 30)) + 6])
    grown = study(x, "euclidean", "average")
    told = branch_support(grown, 8, 2)
    assert told.of == "variables"
    scale = 5  # as many variables as there are
    counts = np.zeros(grown.tree.joins)
    for draw in range(8):
        columns = np.random.default_rng([2, draw, 6, scale]).integers(0, 30, 30)
        again = set(branches(study(x[:, columns], "euclidean", "average").tree))
        counts += [branch in again for branch in branches(grown.tree)]
    np.testing.assert_allclose(told.plain[:-1], counts[:-1] / 8)
    assert math.isnan(told.plain[-1])
    both = [
        j for j, b in enumerate(branches(grown.tree)) if b in (set(range(6)), set(range(6, 12)))
    ]
    assert len(both) == 2
    assert all(told.unbiased[j] > 0.9 for j in both)


def test_unbiased_support_takes_signed_distance_and_curvature_apart() -> None:
    """Shares made from a known distance and curvature give 1 - normal(distance - curvature)."""
    normal, ratios = NormalDist(), np.arange(5, 15) / 10
    for distance, curvature in ((-1.0, 0.3), (0.5, 0.2), (-2.0, -0.4)):
        z = distance * np.sqrt(ratios) + curvature / np.sqrt(ratios)
        shares = np.array([1 - normal.cdf(value) for value in z])
        told = unbiased(shares, ratios, np.full(10, 100.0))
        assert told == pytest.approx(1 - normal.cdf(distance - curvature), abs=1e-9)
    assert unbiased(np.ones(10), ratios, np.full(10, 9.0)) == 1.0
    assert unbiased(np.zeros(10), ratios, np.full(10, 9.0)) == 0.0


def test_other_orders_keep_together_what_ties_do_not_decide() -> None:
    told = random_orders(planted(5), (2, 3, 4, 5, 6), 5, 1)
    assert told.mean.tolist() == [1.0] * len(told.counts)
    x = np.random.default_rng(3).integers(0, 3, (24, 2)).astype(float)
    grown = study(x, "euclidean", "complete")
    told = random_orders(grown, (2, 3, 4), 6, 9)
    for place, count in enumerate((2, 3, 4)):
        own = cut_at_count(grown.tree, count).membership
        shares = []
        for number in range(6):
            mixed = np.random.default_rng([9, number, 7]).permutation(24)
            other = study(x[mixed], "euclidean", "complete").tree
            back = np.empty(24, dtype=np.int64)
            back[mixed] = cut_at_count(other, count).membership
            pairs = [(i, j) for i, j in combinations(range(24), 2) if own[i] == own[j]]
            shares.append(np.mean([back[i] == back[j] for i, j in pairs]))
        assert told.mean[place] == pytest.approx(np.mean(shares))
        assert told.lowest[place] == pytest.approx(min(shares))
    assert told.mean.min() < 1  # ratings on three steps: ties decide


def test_known_groups_are_counted_against_clusters() -> None:
    grown = planted(7)
    answers: list[str | None] = [*["north"] * 25, *["south"] * 25, *["east"] * 20, *[None] * 5]
    groups = known_groups("region", answers)
    assert groups is not None
    for count in (2, 3, 5):
        cut = cut_at_count(grown.tree, count)
        told = check_of(groups, cut)
        assert told.table.shape == (count, 3)
        assert told.unknown == 5
        for c in range(count):
            for g, name in enumerate(groups.groups):
                cases = [i for i in range(75) if cut.membership[i] == c + 1 and answers[i] == name]
                assert told.table[c, g] == len(cases)
        labels = [str(answer) for answer in answers[:70]]
        clusters = cut.membership[:70].tolist()
        codes = [groups.groups.index(label) for label in labels]
        assert told.rand == pytest.approx(slow.adjusted_rand(clusters, codes))
        shared = slow.normalised_mutual_information(clusters, codes)
        assert told.information == pytest.approx(shared)
    assert check_of(groups, cut_at_count(grown.tree, 3)).rand > 0.95
    assert known_groups("same", ["a", "a", None]) is None
