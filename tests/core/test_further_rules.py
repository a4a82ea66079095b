"""Rules a plan can ask for by name, against their definitions."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import fdtr

from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.plan.count_rules import COUNT_RULES, FURTHER
from reference import counts as slow
from reference import further_counts as further
from studies import asked, clusters, distances, study

ASKED = asked(more=FURTHER)
TEN = np.array(
    [(0, 0), (0, 1), (1, 0), (1, 1), (6, 0), (6, 2), (7, 1), (3, 6), (4, 7), (2, 7)], dtype=float
)

cases = st.builds(
    lambda seed, n, p, steps: (
        np.random.default_rng(seed).integers(0, steps, (n, p)).astype(float)
        if steps
        else np.random.default_rng(seed).normal(size=(n, p))
    ),
    st.integers(0, 10**6), st.integers(2, 22), st.integers(1, 4), st.sampled_from([0, 0, 2, 4]),
)  # fmt: skip


def told(board: IndexTable, key: str) -> list[float | None]:
    return [None if math.isnan(value) else float(value) for value in board.verdicts[key].values]


def agree(found: list[float | None], wanted: list[float | None]) -> None:
    for one, other in zip(found, wanted, strict=True):
        assert (one is None) == (other is None), (found, wanted)
        if one is not None and other is not None:
            assert one == pytest.approx(other, rel=1e-8, abs=1e-9), (found, wanted)


def test_ten_cases_have_the_values_known_of_them() -> None:
    board = compute_indices(study(TEN, "euclidean", "ward"), ASKED)
    values = {key: board.verdicts[key].at(3) for key in FURTHER if key in board.verdicts}
    rows = TEN.tolist()
    det = slow_det(TEN, clusters(study(TEN, "euclidean", "ward"), 1))
    assert values["tau"] == pytest.approx(0.632456, abs=5e-7)
    assert values["g-plus"] == 0
    assert values["cop"] == pytest.approx(0.136082, abs=5e-7)
    assert values["density"] == pytest.approx(0.764327, abs=5e-7)
    assert values["ccc"] == pytest.approx(5.341336, abs=5e-7)
    assert values["marriott"] * det == pytest.approx(121)
    assert values["scott-symons"] == pytest.approx(58.865172, abs=5e-7)
    whole = distances(study(TEN, "euclidean", "ward"))
    own = [0, 0, 0, 0, 1, 1, 1, 2, 2, 2]
    assert further.outside_share(whole, own, 3) == pytest.approx(1 / 3)
    assert further.sum_of_mean_within(whole, own) == pytest.approx(4.357023, abs=5e-7)
    assert further.weighted_spread(rows, own) == pytest.approx(10 / 3)


def slow_det(x: np.ndarray, c: list[int]) -> float:
    return float(np.linalg.det(further.within_matrix(x, np.ones(len(x)), c)))


@given(
    cases,
    st.sampled_from(["squared-euclidean", "euclidean", "city-block"]),
    st.sampled_from(["ward", "single", "average", "centroid"]),
)
def test_rules_on_pairs_are_as_defined(x: np.ndarray, measure: str, linkage: str) -> None:
    grown = study(x, measure, linkage)
    board, d = compute_indices(grown, ASKED), distances(grown)
    cuts = [clusters(grown, count) for count in board.counts]
    agree(told(board, "tau"), [further.tau(d, c) for c in cuts])
    agree(told(board, "g-plus"), [further.g_plus(d, c) for c in cuts])
    agree(told(board, "density"), [further.density(d, c, x.shape[1]) for c in cuts])
    if cuts:
        nearest = min(10, len(x) - 1)
        outside = [further.outside_share(d, c, nearest) for c in cuts]
        within = [further.sum_of_mean_within(d, c) for c in cuts]
        agree(told(board, "cvnn"), [
            a / (max(outside) or 1) + b / (max(within) or 1)
            for a, b in zip(outside, within, strict=True)
        ])  # fmt: skip
    if measure == "city-block":
        assert board.verdicts["cop"].answer is None
        assert np.isnan(board.verdicts["cop"].values).all()
    else:
        agree(told(board, "cop"), [further.cop(x.tolist(), c) for c in cuts])


@given(cases, st.booleans(), st.sampled_from(["ward", "average"]), st.integers(0, 10**6))
def test_rules_on_scatter_are_as_defined(
    x: np.ndarray, weighted: bool, linkage: str, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    n, p = x.shape
    w = rng.uniform(0.5, 3, n) if weighted else None
    v = rng.choice([0.5, 1.0, 2.0], p)
    grown = study(x, "euclidean", linkage, v, w)
    board, mass = compute_indices(grown, ASKED), np.ones(n) if w is None else w
    points = x * np.sqrt(v)
    total = further.within_matrix(points, mass, [0] * n)
    spread = np.linalg.eigvalsh(total)
    for k in board.counts:
        c = clusters(grown, k)
        inside = further.within_matrix(points, mass, c)
        least = np.linalg.eigvalsh(inside)[0]
        if spread[-1] < 1e-18 or spread[0] <= 1e-6 * spread[-1] or least <= 1e-5 * spread[0]:
            continue  # singular, or close to it
        share = np.linalg.det(inside) / np.linalg.det(total)
        assert board.verdicts["marriott"].at(k) == pytest.approx(k * k * share)
        wanted = -mass.sum() * np.log(share)
        assert board.verdicts["scott-symons"].at(k) == pytest.approx(wanted, abs=1e-8)
        wanted = further.normal_bic(points, mass, c)
        assert board.verdicts["bic"].at(k) == pytest.approx(wanted, rel=1e-6)
        if not weighted:
            wanted = further.cubic_criterion(points, np.array(c))
            assert board.verdicts["ccc"].at(k) == pytest.approx(wanted, rel=1e-6, abs=1e-7)


@given(cases, st.sampled_from(["ward", "average"]))
def test_rules_on_spread_are_as_defined(x: np.ndarray, linkage: str) -> None:
    n, p = x.shape
    grown = study(x, "euclidean", linkage)
    board = compute_indices(grown, ASKED)
    ones = [1.0] * n
    w = [math.inf] + [slow.within(x.tolist(), [1.0] * p, ones, clusters(grown, k)) / (n * p)
                      for k in range(1, min(8, n) + 1)]  # fmt: skip
    for k in board.counts:
        if w[k] > 1e-9 * w[1]:
            before = 0.0 if k == 1 else w[k - 1] ** (-p / 2)
            assert board.verdicts["jump"].at(k) == pytest.approx(w[k] ** (-p / 2) - before)
        before, after = clusters(grown, k), clusters(grown, k + 1)
        split = next(c for c in set(before) if len({a for a, b in zip(after, before, strict=True)
                                                    if b == c}) == 2)  # fmt: skip
        m = before.count(split)
        verdict = board.verdicts["beale"]
        if verdict.bound is not None and m > 2:
            bound = verdict.bound[board.counts.index(k)]
            assert fdtr(p, (m - 2) * p, bound) == pytest.approx(0.95)
        ratio = board.verdicts["duda-hart"].at(k)
        if m > 2 and ratio > 1e-9:
            chance = (m - 1) / (m - 2) * 2 ** (2 / p) - 1
            assert verdict.at(k) == pytest.approx((1 / ratio - 1) / chance)


def clouds(groups: int, seed: int, n: int = 90) -> np.ndarray:
    rng = np.random.default_rng(seed)
    own = rng.integers(0, groups, n)
    return rng.normal(size=(n, 3)) + 9 * np.eye(4, 3)[own]


TELLS_ONE = ("beale", "bic", "ccc", "jump", "marriott")
QUICK = [key for key in FURTHER if "resamples" not in COUNT_RULES[key].needs]


@pytest.mark.parametrize("key", [key for key in QUICK if key != "scott-symons"])
def test_clear_groups_are_counted(key: str) -> None:
    """Of three as far from each other Beale's test splits none."""
    groups = 2 if key == "beale" else 3
    answers = [
        compute_indices(study(clouds(groups, seed), "euclidean", "ward"), ASKED)
        .verdicts[key]
        .answer
        for seed in range(6)
    ]
    assert answers.count(groups) >= 5


@pytest.mark.parametrize("key", TELLS_ONE)
def test_one_cloud_is_one_cluster(key: str) -> None:
    answers = [
        compute_indices(study(clouds(1, seed), "euclidean", "ward"), ASKED).verdicts[key].answer
        for seed in range(8)
    ]
    assert answers.count("one") >= 5, answers


def test_rods_are_found_by_density_under_single_linkage() -> None:
    rng = np.random.default_rng(5)
    rods = np.column_stack([rng.uniform(0, 20, 240), rng.normal(0, 0.2, 240)])
    rods[:, 1] += 4 * rng.integers(0, 3, 240)
    board = compute_indices(study(rods, "euclidean", "single"), ASKED)
    assert board.verdicts["density"].answer == 3
    assert board.verdicts["silhouette"].answer != 3


def test_what_cannot_be_worked_out_says_why() -> None:
    board = compute_indices(study(np.ones((6, 2)), "euclidean", "ward"), ASKED)
    for key in ("marriott", "ccc", "bic", "scott-symons", "jump", "beale", "cop"):
        assert board.verdicts[key].answer is None
        assert board.verdicts[key].why


def test_a_criterion_of_one_cluster_is_none() -> None:
    board = compute_indices(
        study(TEN, "euclidean", "ward"), asked(from_=1, more=("ccc", "density"))
    )
    assert board.counts[0] == 1
    assert np.isnan(board.verdicts["ccc"].values[0])
    assert np.isnan(board.verdicts["density"].values[0])
