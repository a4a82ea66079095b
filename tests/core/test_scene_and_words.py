"""Geometry that fits the tree, and sentences that are true of it."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.analysis import Grown, analyse, read_source
from gorvel.core.cuts import cut_at_count, cut_at_height, letters
from gorvel.core.linkage.agglomerate import grow
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.planfile import load_plan
from gorvel.core.scene.axis import HeightAxis, HeightScale, ticks
from gorvel.core.scene.dendrogram import cut_share, hit, join_owners, lay_out
from gorvel.core.scene.heights import count_spans, largest_jumps
from gorvel.core.sentences import (
    describe_case,
    describe_cluster,
    describe_join,
    describe_pair,
    describe_tree,
    number,
    plan_phrases,
)
from gorvel.core.tree import Tree
from gorvel.main import DEMO

SCALES: list[HeightScale] = ["root", "plain"]


def random_tree(seed: int, n: int, key: str = "average") -> Tree:
    x = np.random.default_rng(seed).normal(size=(n, 2))
    return grow(((x[:, None] - x[None]) ** 2).sum(axis=2), key)


@pytest.mark.parametrize("scale", SCALES)
@given(st.integers(0, 10**6), st.integers(2, 25), st.sampled_from(["average", "centroid"]))
def test_brackets_lie_where_the_tree_says(scale: HeightScale, seed: int, n: int, key: str) -> None:
    tree = random_tree(seed, n, key)
    axis = HeightAxis.over(tree.heights, scale)
    scene = lay_out(tree, axis)
    assert sorted(scene.place[:n]) == [k + 0.5 for k in range(n)]
    for k in range(tree.joins):
        node = n + k
        a, b = scene.place[tree.left[k]], scene.place[tree.right[k]]
        assert a < scene.place[node] < b
        inside = scene.place[tree.members(node)]
        assert inside.max() - inside.min() == len(inside) - 1  # members stand side by side
        assert axis.height(float(scene.share[node])) == pytest.approx(tree.heights[k])
        found = hit(scene, float(scene.share[node]), float(scene.place[node]), 1e-6, 1e-6)
        assert found is not None
        if key == "average":  # an inverted bracket may lie across another
            assert scene.share[n + found] == pytest.approx(scene.share[node], abs=1e-6)
    assert hit(scene, 0.999, 0.0, 1e-6, 1e-6) is None

    for clusters in range(1, n + 1):
        cut = cut_at_count(tree, clusters)
        owner = join_owners(tree, cut)
        for node in range(2 * n - 1):
            numbers = set(cut.membership[tree.members(node)].tolist())
            below = node < n + cut.joins_kept
            assert owner[node] == (numbers.pop() if below and len(numbers) == 1 else 0)
        if key == "average":
            at = axis.height(cut_share(scene, cut))
            assert cut_at_height(tree, at).clusters == clusters
    spans = count_spans(tree, axis.top)
    assert np.all(spans.high > spans.low)
    for clusters, low, high in zip(spans.clusters, spans.low, spans.high, strict=True):
        assert key != "average" or cut_at_height(tree, (low + high) / 2).clusters == clusters
        assert key != "average" or spans.at((low + high) / 2) == (clusters, low, high)
    assert spans.at(axis.top * 2) is None
    best = largest_jumps(tree, 1, n)
    if n > 2 and best:
        kept = n - best[0]
        jumps = np.diff(tree.heights)
        assert jumps[kept - 1] == jumps.max()


@given(st.floats(1e-6, 1e6), st.sampled_from(SCALES), st.integers(3, 12))
def test_ticks_are_round_apart_and_inside(top: float, scale: HeightScale, wanted: int) -> None:
    axis = HeightAxis(0.0, top, scale)
    found = ticks(axis, wanted)
    assert 2 <= len(found) <= 2.5 * wanted + 2
    assert found == sorted(set(found))
    assert found[0] == 0
    assert found[-1] <= top * (1 + 1e-9)
    for tick in found[1:]:
        digits = f"{tick:.6e}".split("e")[0].rstrip("0").replace(".", "")
        assert len(digits) <= 3


@pytest.fixture(scope="module", params=sorted(LINKAGES))
def grown(request: pytest.FixtureRequest) -> Grown:
    plan = load_plan(DEMO / "readers.toml").with_("tree", linkage=request.param)
    return analyse(read_source(plan, DEMO / "readers.csv"), plan)


def test_what_is_said_of_a_join_is_true(grown: Grown) -> None:
    tree, labels = grown.tree, grown.prepared.labels
    cut = cut_at_count(tree, 4)
    for join in [0, 1, tree.joins // 2, *range(tree.joins - 6, tree.joins)]:
        said = describe_join(grown, join, cut)
        assert said.startswith(f"Join {join + 1} brings ")
        assert f"at height {number(float(tree.heights[join]))}." in said
        left = tree.n - join
        assert f"It turns {left:,} clusters into {left - 1:,}" in said
        share = re.search(r"costs ([-0-9.e]+) % of the variance", said)
        assert share
        assert grown.schedule.spread is not None
        cost = 100 * grown.schedule.spread.semipartial_r2[join]
        assert float(share[1]) == pytest.approx(cost, rel=0.06)
        assert ("inversion" in said) == bool(tree.inversions[join])
        if grown.plan.tree.linkage == "single":
            pair = re.search(r"nearest members, (R\d+) and (R\d+)\.", said)
            assert pair
            a, b = (labels.index(name) for name in pair.groups())
            assert grown.proximities[a, b] == pytest.approx(tree.heights[join])
            assert tree.meeting(a, b) == join
        else:
            assert LINKAGES[grown.plan.tree.linkage].height_means in said


def test_what_is_said_of_cases_clusters_and_the_tree_is_true(grown: Grown) -> None:
    tree = grown.tree
    cut = cut_at_count(tree, 5)
    for case in (0, 17, tree.n - 1):
        said = describe_case(grown, case, cut)
        assert said.startswith(grown.prepared.labels[case])
        assert f"in cluster {letters(int(cut.membership[case]))} " in said
        join = int(tree.used_at[case])
        assert f"in join {join + 1} at height {number(float(tree.heights[join]))}." in said
    for cluster in range(1, 6):
        size = int((cut.membership == cluster).sum())
        said = describe_cluster(grown, cut, cluster)
        assert said.startswith(f"Cluster {letters(cluster)} holds {size} case")
    whole = describe_tree(grown, cut)
    assert "207 joins bring 208 cases together. The cut leaves 5 clusters" in whole
    assert f"{grown.cophenetic:.2f}" in whole


def test_what_is_said_of_two_cases_is_true(grown: Grown) -> None:
    tree, d = grown.tree, grown.proximities
    above = np.triu_indices(tree.n, 1)
    for a, b in ((0, 1), (5, 150), (200, 3)):
        said = describe_pair(grown, a, b)
        assert f"are {number(float(d[a, b]))} apart" in said
        assert f" {np.count_nonzero(d[above] < d[a, b]):,} of the 21,528 pairs are nearer" in said
        met = next(k for k in range(tree.joins) if {a, b} <= set(tree.members(tree.n + k).tolist()))
        assert f"in join {met + 1}, at height {number(float(tree.heights[met]))}," in said
        assert f"when {tree.n - met - 1:,} cluster" in said


def test_the_plan_reads_as_a_sentence() -> None:
    plan = load_plan(DEMO / "readers.toml")
    assert "".join(p.text for p in plan_phrases(plan, 208)) == (
        "Group 208 cases by 11 answers on z-scores, measured by squared Euclidean distance, joined"
        " by Ward’s rule; missing answers drop the case; unweighted."
    )
    changed = plan.with_("cases", weight="weight").with_("missing", handling="pairwise")
    told = "".join(p.text for p in plan_phrases(changed, 240))
    assert told.endswith("missing answers are left out pair by pair; weighted by weight.")


@pytest.mark.parametrize(
    ("value", "words"),
    [(0, "0"), (3, "3"), (0.5, "0.500"), (12.345, "12.35"), (1234.5, "1,234"), (2e7, "2e+07"),
     (1e-6, "1e-06"), (240.0, "240"), (462.81, "462.8")],
)  # fmt: skip
def test_numbers_for_reading(value: float, words: str) -> None:
    assert number(value) == words


def test_letters_go_on_after_z() -> None:
    assert [letters(k) for k in (1, 26, 27, 52, 53, 703)] == ["A", "Z", "AA", "AZ", "BA", "AAA"]


def test_pictures_and_links_of_the_readme_are_there() -> None:
    root = Path(__file__).parents[2]
    for document in ("README.md", "ARCHITECTURE.md", "CONTRIBUTING.md", "docs/architecture.md"):
        text = (root / document).read_text(encoding="utf-8")
        for link in re.findall(r"\]\(([^)#:]+)\)", text):
            assert ((root / document).parent / link).exists(), f"{document}: {link}"
        for module in re.findall(r"`((?:core|desk|cli)/[a-z_/]+\.py)`", text):
            assert (root / "src" / "gorvel" / module).exists(), f"{document}: {module}"
