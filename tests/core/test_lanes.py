"""Clusters side by side and the members of one, against slow code."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import stdtrit

from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.members import members_of
from gorvel.core.profile.raw_answers import Question
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from reference import counts as slow_counts
from reference import profiles as slow
from studies import study


def told(rng: np.random.Generator, n: int, own: np.ndarray) -> list[Question]:
    gaps = np.where(rng.random(n) < 0.2, np.nan, rng.normal(size=n))
    return [
        Question("noise", "interval", "active", gaps),
        Question("group", "interval", "active", own + rng.normal(0, 0.1, n)),
        Question("car", "binary", "profile", rng.integers(0, 2, n).astype(float)),
        Question(
            "town", "nominal", "profile", rng.integers(0, 3, n).astype(float), ("a", "b", "c")
        ),
    ]


@given(st.integers(0, 10**6), st.integers(6, 24), st.integers(2, 4), st.booleans())
def test_lanes_hold_means_shares_and_intervals(seed: int, n: int, k: int, weighted: bool) -> None:
    rng = np.random.default_rng(seed)
    own = rng.permutation(np.append(np.arange(k), rng.integers(0, k, n - k)))
    w = rng.uniform(0.5, 2, n) if weighted else np.ones(n)
    answers = told(rng, n, own)
    lanes = lanes_of(answers, own, k, w)
    assert [lane.role for lane in lanes] == ["active"] * 2 + ["profile"] * 4
    effects = [lane.effect for lane in lanes]
    assert np.isnan(effects[0]) or not effects[0] < effects[1]
    if n > 4 * k:
        assert lanes[0].name == "group"
    at = next(place for place, lane in enumerate(lanes) if lane.name == "town")
    assert [lane.title for lane in lanes[at : at + 3]] == ["town: a", "town: b", "town: c"]
    for lane in lanes:
        one = next(t for t in answers if t.name == lane.name)
        x: list[float | None] = [None if math.isnan(v) else float(v) for v in one.values]
        if lane.word:
            level = one.words.index(lane.word)
            x = [None if v is None else float(v == level) for v in x]
        whole = slow.moments(x, [0] * n, w.tolist(), 0)["mean"]
        assert lane.whole == pytest.approx(whole)
        for c in range(k):
            rows = [i for i in range(n) if own[i] == c and x[i] is not None]
            mean = slow.moments(x, own.tolist(), w.tolist(), c)["mean"]
            if mean is None:
                assert math.isnan(lane.values[c])
                continue
            assert lane.values[c] == pytest.approx(mean)
            assert lane.n[c] == len(rows)
            if len(rows) < 2:
                assert math.isnan(lane.lower[c])
                continue
            mass = math.fsum(w[i] for i in rows)
            z = [w[i] * (x[i] - mean) / mass for i in rows]  # type: ignore[operator]
            se = math.sqrt(len(z) / (len(z) - 1) * math.fsum(v * v for v in z))
            reach = float(stdtrit(len(z) - 1, 0.975)) * se
            if len({x[i] for i in rows}) == 1:  # an interval of no width
                assert np.isnan(lane.upper[c])
                assert np.isnan(lane.lower[c])
                continue
            assert lane.upper[c] - lane.values[c] == pytest.approx(reach, abs=1e-9)
            assert lane.values[c] - lane.lower[c] == pytest.approx(reach, abs=1e-9)


@given(
    st.integers(0, 10**6), st.integers(2, 14), st.sampled_from(["squared-euclidean", "city-block"]),
    st.booleans(),
)  # fmt: skip
def test_members_are_as_defined(seed: int, n: int, measure: str, uneven: bool) -> None:
    x = np.random.default_rng(seed).normal(size=(n, 2))
    grown = study(x, measure, "average")
    cut = cut_at_count(grown.tree, min(3, n))
    if uneven and n > 3:
        cut = cut_branches(grown.tree, 2, [0])
    d = grown.pairs.block(np.arange(n), np.arange(n))
    roots = np.sqrt(d) if measure == "squared-euclidean" else d
    own = cut.membership.tolist()
    silhouettes = slow_counts.silhouettes(roots.tolist(), own)
    for cluster in range(1, cut.clusters + 1):
        found = members_of(grown, cut, cluster)
        rows = [i for i in range(n) if own[i] == cluster]
        assert sorted(found.typical.tolist()) == rows
        assert found.typical[0] == slow.medoid(d, rows, [1.0] * n)
        assert found.diameter == pytest.approx(max(d[i, j] for i in rows for j in rows))
        if len(rows) > 1:
            inside = [d[i, j] for i in rows for j in rows if i != j]
            assert found.mean == pytest.approx(np.mean(inside))
        assert found.silhouette == pytest.approx(np.mean([silhouettes[i] for i in rows]))
        lowest = [value for _, _, value in found.border]
        assert lowest == sorted(lowest)
        for case, leans, value in found.border:
            assert value == pytest.approx(silhouettes[case], abs=1e-12)
            far = {k: np.mean([roots[case, j] for j in range(n) if own[j] == k])
                   for k in range(1, cut.clusters + 1) if k != cluster}  # fmt: skip
            assert far[leans] == pytest.approx(min(far.values()))
        for other, far_off in found.nearest:
            both = [d[i, j] for i in rows for j in range(n) if own[j] == other]
            assert far_off == pytest.approx(np.mean(both))


def test_one_cluster_has_no_neighbours() -> None:
    grown = study(np.random.default_rng(1).normal(size=(5, 2)), "euclidean")
    found = members_of(grown, cut_at_count(grown.tree, 1), 1)
    assert (found.silhouette, found.border, found.nearest) == (None, [], [])
    assert found.mean is not None
