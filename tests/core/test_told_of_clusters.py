"""Colours along the tree, portraits, two waves, outlines of points, design effects: slow code."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.design import Design
from gorvel.core.grow.assigning import Given
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.plan import validated
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.sample_comparison import waves_of
from gorvel.core.scene import points as points_module
from gorvel.core.scene.points import apart, outline, splits_next
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.portrait import portrait
from studies import random_tree

seeds = st.integers(0, 10**6)
PLAN = {"source": {"file": "t.csv"}, "variables": {"use": ["a"]}}


@given(seeds, st.integers(2, 25), st.integers(1, 25), st.integers(1, 25), st.integers(0, 4))
def test_a_colour_goes_to_the_cluster_and_its_parts(
    seed: int, n: int, first: int, then: int, times: int
) -> None:
    rng, tree = np.random.default_rng(seed), random_tree(seed, n)
    lettered, cut = cut_at_count(tree, min(first, n)), cut_at_count(tree, min(then, n))
    nodes = rng.integers(0, 2 * n - 1, times).tolist()
    colours = {node: f"#{node:06x}" for node in nodes}
    plain, found = identities(tree, lettered, cut), identities(tree, lettered, cut, None, colours)
    held = {node: set(tree.members(node).tolist()) for node in nodes}
    seen: dict[str, list[int]] = {}
    for who, as_was, root in zip(found, plain, cut.roots.tolist(), strict=True):
        mine = set(tree.members(root).tolist())
        around = [node for node in nodes if mine <= held[node]]
        assert (who.name, who.hue, who.title) == (as_was.name, as_was.hue, as_was.title)
        if around:  # of the smallest of the coloured ones that hold it
            closest = min(around, key=lambda node: len(held[node]))
            assert who.colour == colours[closest]
            assert (who.shade == 0) == (mine == held[closest])
            seen.setdefault(who.colour, []).append(who.shade)
        else:
            letter = int(lettered.roots[who.hue - 1])
            assert who.colour == colours.get(letter, "")
            assert who.shade == as_was.shade
    assert all(len(set(shades)) == len(shades) for shades in seen.values())


def test_a_plan_says_something_of_each_cluster() -> None:
    plan = validated(
        PLAN | {"cut": {"colours": {"2": ["#12aBcd", ""]}, "notes": {"1": ["x"]}}}, "p"
    )
    assert plan.cut.colours == {"2": ("#12aBcd", "")}
    other = plan.without_decisions()
    assert not other.cut.colours
    assert not other.cut.notes
    assert plan.decided
    assert not other.decided
    for bad in ({"colours": {"2": ["red", ""]}}, {"notes": {"2": ["x"]}}, {"portraits": {"0": []}}):
        with pytest.raises(InputError, match=r"\[cut\]"):
            check_fit(validated(PLAN | {"cut": bad}, "p"))


def lanes(rng: np.random.Generator, n: int, own: np.ndarray) -> list:
    told = [
        Question(
            f"q{j}", "interval", "active" if j < 4 else "profile", rng.normal(size=n) + own * j
        )
        for j in range(6)
    ]
    return lanes_of(told, own, int(own.max()) + 1, np.ones(n))


@given(seeds, st.integers(2, 4))
def test_a_portrait_names_what_marks_a_cluster_out(seed: int, k: int) -> None:
    rng = np.random.default_rng(seed)
    own = rng.permutation(np.append(np.arange(k), rng.integers(0, k, 30)))
    found = lanes(rng, len(own), own)
    for cluster in range(k):
        said = portrait(found, cluster)
        strong = [lane for lane in found if abs(lane.away[cluster]) >= 0.5]
        if not strong:
            assert said.startswith("Close to all cases")
        for role in ("active", "profile"):
            for sign, word in ((1, "high"), (-1, "low")):
                mine = [lane for lane in strong
                        if lane.role == role and lane.away[cluster] * sign > 0]  # fmt: skip
                mine.sort(key=lambda lane: -abs(lane.away[cluster]))
                places = [said.find(f"{lane.title} (") for lane in mine[:3]]
                assert all(place >= 0 for place in places)
                assert places == sorted(places)
                assert all(f"{lane.title} (" not in said for lane in mine[3:])
                assert not mine or word in said.lower()
        for lane in found:
            if lane not in strong:
                assert f"{lane.title} (" not in said


@given(seeds, st.integers(1, 4), st.integers(1, 40), st.integers(0, 40))
def test_waves_are_compared_as_tables_are(seed: int, k: int, n: int, m: int) -> None:
    rng = np.random.default_rng(seed)
    own = rng.permutation(np.append(np.arange(k), rng.integers(0, k, n)))
    cluster = rng.integers(0, k + 1, m)  # 0 : given to none
    far = rng.random(m) < 0.3
    empty = np.zeros(m)
    found = waves_of(own, k, Given(cluster, empty, cluster, empty, far))
    second = [int((cluster == c + 1).sum()) for c in range(k)]
    assert found.second.tolist() == second
    assert found.ungiven == int((cluster == 0).sum())
    assert found.far.tolist() == [int((far & (cluster == c + 1)).sum()) for c in range(k)]
    if not sum(second) or k < 2:
        assert math.isnan(found.p)
        return
    first = [int((own == c).sum()) for c in range(k)]
    whole = sum(first) + sum(second)
    chi2 = 0.0
    for row in (first, second):
        for c in range(k):
            expected = sum(row) * (first[c] + second[c]) / whole
            chi2 += (row[c] - expected) ** 2 / expected
    assert found.chi2 == pytest.approx(chi2, abs=1e-9)
    assert found.df == k - 1
    for c in range(k):
        change = second[c] / sum(second) - first[c] / sum(first)
        assert found.change[c] == pytest.approx(change)
        assert found.lower[c] < found.upper[c]
    if k == 2 and 0 < first[0] + second[0] < whole:  # one test, twice: the z is the chi-square
        smaller = min(sum(first), sum(second))
        sure = [smaller * (first[c] + second[c]) / whole >= 5 for c in (0, 1)]  # cases expected
        p = min(sum(sure) * math.erfc(math.sqrt(chi2 / 2)), 1) if sure[0] else math.nan
        assert found.p_each[0] == pytest.approx(p, abs=1e-9, nan_ok=True)


def test_intervals_of_a_change_hold_it() -> None:
    rng, hits = np.random.default_rng(1), 0
    for _ in range(1_000):
        own, new = rng.random(80) < 0.3, rng.random(60) < 0.45
        given_ = new.astype(np.int64) + 1
        empty = np.zeros(60)
        own = np.append(own, [0, 1]).astype(np.int64)
        found = waves_of(own, 2, Given(given_, empty, given_, empty, empty > 0))
        hits += found.lower[1] <= 0.15 <= found.upper[1]
    assert 930 <= hits <= 975  # of 1,000 changes of 15 points; 95 % and its error


@given(seeds, st.integers(1, 14), st.booleans())
def test_an_outline_is_the_smallest_convex_shape(seed: int, n: int, tied: bool) -> None:
    rng = np.random.default_rng(seed)
    points = rng.integers(0, 4, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    found = outline(points)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(points_module, "_MANY", 2)
        np.testing.assert_array_equal(outline(points), found)  # inner points left out before
    corners = {tuple(corner) for corner in found.tolist()}
    assert len(corners) == len(found)
    assert corners <= {tuple(point) for point in points.tolist()}
    different = np.unique(points, axis=0)

    def turn(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> float:
        return float((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))

    flat = all(abs(turn(*three)) < 1e-12 for three in combinations(different, 3))
    if flat:
        assert len(found) == min(len(different), 2)
        return
    for k in range(len(found)):  # every point lies to the left of every side, or on it
        a, b = found[k], found[(k + 1) % len(found)]
        assert all(turn(a, b, point) >= -1e-12 for point in points)
    for k in range(len(found)):  # and no corner lies between its neighbours
        assert turn(found[k - 1], found[k], found[(k + 1) % len(found)]) > 0


@given(seeds, st.integers(1, 40), st.integers(1, 20))
def test_equal_answers_are_set_apart_and_stay_nearest_to_their_own(
    seed: int, n: int, k: int
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, k, n).astype(float) * 2.5
    x[rng.random(n) < 0.1] = np.nan
    found = apart(x)
    np.testing.assert_array_equal(np.isnan(found), np.isnan(x))
    different = np.unique(x[~np.isnan(x)])
    if found is x:
        assert len(different) > 12 or len(different) in (0, n)
        return
    for old, new in zip(x, found, strict=True):
        if not math.isnan(old):
            assert different[np.abs(different - new).argmin()] == old
    known = found[~np.isnan(found)]
    assert len(np.unique(known)) == len(known)


@given(seeds, st.integers(2, 25), st.integers(1, 24))
def test_the_next_count_parts_one_cluster(seed: int, n: int, count: int) -> None:
    tree = random_tree(seed, n)
    count = min(count, n - 1)
    own, finer = (cut_at_count(tree, c).membership - 1 for c in (count, count + 1))
    found = splits_next(own, finer)
    assert len(found) == 2
    assert found[0][1] == found[1][1]
    both = [np.flatnonzero(finer == part).tolist() for part, _ in found]
    assert sorted(both[0] + both[1]) == np.flatnonzero(own == found[0][1]).tolist()


@given(seeds, st.integers(12, 30))
def test_design_effects_compare_with_cases_drawn_one_by_one(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    own, x, w = rng.integers(0, 2, n), rng.normal(size=n), rng.uniform(0.5, 2, n)
    town = rng.integers(0, 3, n).astype(float)
    psu, stratum = rng.integers(0, 6, n), np.array([0, 0, 0, 1, 1, 1])
    sample = Design(w, psu, stratum, "stop", None, np.empty(0), 4.0)
    told = [
        Question("x", "interval", "active", x),
        Question("t", "nominal", "profile", town, tuple("abc")),
    ]
    for lane in lanes_of(told, own, 2, w, sample):
        y = x if lane.name == "x" else (town == "abc".index(lane.word)).astype(float)
        for c in range(2):
            rows = np.flatnonzero(own == c)
            if len(rows) < 2:
                assert math.isnan(lane.deff[c])
                continue
            mean = float(np.average(y[rows], weights=w[rows]))
            z = [w[i] * (y[i] - mean) / w[rows].sum() if own[i] == c else 0.0 for i in range(n)]
            v = 0.0
            for h in range(2):
                totals = [math.fsum(z[i] for i in range(n) if psu[i] == u)
                          for u in range(6) if stratum[u] == h]  # fmt: skip
                centre = math.fsum(totals) / 3
                v += 1.5 * math.fsum((t - centre) ** 2 for t in totals)
            plain = float(np.average((y[rows] - mean) ** 2, weights=w[rows])) / (len(rows) - 1)
            if plain < 1e-12:
                continue
            assert lane.deff[c] == pytest.approx(v / plain, rel=1e-6)
    assert all(np.isnan(lane.deff).all() for lane in lanes_of(told, own, 2, w))
