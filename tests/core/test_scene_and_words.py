"""Geometry that fits the tree, and sentences that are true of it."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.numbers import letters, number
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import load_plan
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.scene.arrangement import alike_side_by_side, arrange, branches_up_to, by_mean
from gorvel.core.scene.axis import SCALES, HeightScale, axis_of
from gorvel.core.scene.dendrogram import DendrogramScene, cut_share, drawn, hit, lower_cuts, owners
from gorvel.core.scene.heights import count_spans, largest_jumps, reached
from gorvel.core.scene.standardised import standing, standing_of_rows
from gorvel.core.sources.reading import read_source
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count, cut_at_height, cut_branches
from gorvel.core.tree.schedule import within_spread
from gorvel.core.tree.tree import Tree
from gorvel.core.words.plan import plan_phrases
from gorvel.core.words.tree import (
    describe_case,
    describe_cluster,
    describe_join,
    describe_pair,
    describe_tree,
)
from gorvel.main import DEMO
from studies import random_tree


@pytest.mark.parametrize("scale", sorted(SCALES))
@given(st.integers(0, 10**6), st.integers(2, 25), st.sampled_from(["average", "centroid"]))
def test_brackets_lie_where_the_tree_says(scale: HeightScale, seed: int, n: int, key: str) -> None:
    tree = random_tree(seed, n, key)
    ones = np.ones(n)
    spread = within_spread(tree, np.random.default_rng(seed).normal(size=(n, 2)), ones[:2], ones)
    axis = axis_of(tree, scale, spread)
    scene = DendrogramScene(arrange(tree), axis)
    assert sorted(scene.place[:n]) == [k + 0.5 for k in range(n)]
    ordered = key == "average"  # an inverted bracket may lie across another
    for k in range(tree.joins):
        node = n + k
        a, b = scene.place[tree.left[k]], scene.place[tree.right[k]]
        assert a < scene.place[node] < b
        inside = scene.place[tree.members(node)]
        assert inside.max() - inside.min() == len(inside) - 1  # members stand side by side
        if ordered and scale != "log":
            assert axis.height(float(scene.share[node])) == pytest.approx(tree.heights[k])
        found = hit(scene, float(scene.share[node]), float(scene.place[node]), 1e-6, 1e-6)
        assert found is not None
        if ordered:
            assert scene.share[n + found] == pytest.approx(scene.share[node], abs=1e-6)
    assert axis.joins.min() >= 0
    assert axis.joins.max() < 1
    assert hit(scene, 0.9999, 0.0, 1e-6, 1e-6) is None
    check_cuts(tree, scene, ordered and scale != "log")


def check_cuts(tree: Tree, scene: DendrogramScene, ordered: bool) -> None:
    n, axis = tree.n, scene.axis
    for clusters in range(1, n + 1):
        cut = cut_at_count(tree, clusters)
        owner = owners(tree, cut, np.arange(2 * n - 1))
        for node in range(2 * n - 1):
            numbers = set(cut.membership[tree.members(node)].tolist())
            below = node < n + cut.joins_kept
            assert owner[node] == (numbers.pop() if below and len(numbers) == 1 else 0)
        if ordered:
            at = axis.height(cut_share(scene, cut))
            assert cut_at_height(tree, at).clusters == clusters
    spans = count_spans(tree, axis.top * 1.01)
    assert np.all(spans.high > spans.low)
    counts, begin, end = scene.wide_spans
    wide = spans.high - spans.low > 1e-3 * axis.top if axis.scale == "plain" else []
    assert set(spans.clusters[wide]) <= set(counts.tolist()) <= set(spans.clusters.tolist())
    assert counts.tolist() == sorted(counts.tolist())
    for count, low, high in zip(counts.tolist(), begin, end, strict=True):
        own = [0.0, *reached(axis.joins), float(axis.share(axis.top))]
        assert (low, high) == (own[n - count] if n > count else axis.share(0.0), own[n - count + 1])
    for clusters, low, high in zip(spans.clusters, spans.low, spans.high, strict=True):
        assert cut_at_height(tree, (low + high) / 2).clusters == clusters
        assert spans.at((low + high) / 2) == (clusters, low, high)
    assert spans.high[1:].tolist() == spans.low[:-1].tolist()  # none lies over another
    assert spans.at(axis.top * 2) is None
    best = largest_jumps(tree, 1, n)
    if n > 2 and best:
        kept = n - best[0]
        jumps = np.diff(tree.heights)
        assert jumps[kept - 1] == jumps.max()


@given(st.integers(0, 10**6), st.integers(2, 25), st.integers(2, 12))
def test_any_order_keeps_clusters_together_and_folds_shrink_them(
    seed: int, n: int, size: int
) -> None:
    rng, tree = np.random.default_rng(seed), random_tree(seed, n)
    at = arrange(tree, rng.random(tree.joins) < 0.5)
    assert sorted(at.order) == list(range(n))
    for node in range(2 * n - 1):
        start = at.starts[node]
        held = set(at.order[start : start + tree.sizes[node]])
        assert held == set(tree.members(node))
    for position, apart in enumerate(at.apart_from):
        a, b = at.order[position : position + 2]
        for clusters in range(1, n + 1):
            numbers = cut_at_count(tree, clusters).membership
            assert (numbers[a] != numbers[b]) == (clusters >= apart)

    values = np.where(rng.random(n) < 0.3, np.nan, rng.normal(size=n))
    sorted_ = arrange(tree, by_mean(tree, values))
    for k in range(tree.joins):
        parts = sorted((tree.left[k], tree.right[k]), key=lambda node: sorted_.starts[node])
        means = [values[tree.members(node)] for node in parts]
        known = [m[~np.isnan(m)].mean() if (~np.isnan(m)).any() else np.inf for m in means]
        assert known[0] <= known[1] or known[0] == pytest.approx(known[1])

    x = rng.integers(0, 5, (n, 2)).astype(float)
    matrix = np.abs(x[:, None] - x[None]).sum(axis=2)
    pairs = Proximities(None, "city-block", matrix, [str(k) for k in range(n)])
    alike = arrange(tree, alike_side_by_side(tree, pairs))
    for k in range(tree.joins):
        spans = sorted(
            (alike.starts[node], alike.starts[node] + tree.sizes[node])
            for node in (tree.left[k], tree.right[k])
        )
        ends = [alike.order[[begin, end - 1]] for begin, end in spans]
        assert matrix[ends[0][1], ends[1][0]] == matrix[np.ix_(ends[0], ends[1])].min()

    branches = branches_up_to(tree, size)
    folded = arrange(tree, at.flipped, branches)
    assert folded.folded == set(branches)
    for node in branches:
        assert tree.sizes[node] <= size
        first, last = folded.span(node)
        assert last - first == pytest.approx(1 + np.log2(tree.sizes[node]) / 2)
        middle = folded.position((first + last) / 2)
        assert folded.unit(middle) == node
        inside = set(tree.members(node).tolist())
        assert all(folded.hidden[case] for case in inside)
    shown = [case for case in range(n) if not folded.hidden[case]]
    steps = np.diff(folded.edges)[folded.starts[shown]]
    np.testing.assert_allclose(steps, 1)
    assert arrange(tree, None, [2 * n - 2, *branches]).folded == {2 * n - 2}


@given(
    st.integers(0, 10**6), st.integers(2, 40), st.integers(0, 4), st.floats(0, 1), st.floats(0, 6)
)
def test_joins_in_sight_and_wide_enough_are_drawn(
    seed: int, n: int, folds: int, part: float, least: float
) -> None:
    rng, tree = np.random.default_rng(seed), random_tree(seed, n)
    at = arrange(tree, rng.random(n - 1) < 0.5, rng.integers(n, 2 * n - 1, folds).tolist())
    begin, end = sorted([part * at.length, float(rng.uniform(0, at.length))])
    found = drawn(DendrogramScene(at, axis_of(tree, "plain")), begin, end, least)
    spans = {node: at.span(node) for node in range(n, 2 * n - 1) if not at.hidden[node]}
    seen = {node for node, (first, last) in spans.items() if last > begin and first < end}
    wide = {node for node, (first, last) in spans.items() if last - first >= least}
    assert (found.joins + n).tolist() == sorted((seen & wide) - at.folded)
    assert sorted(found.folded.tolist()) == sorted(seen & at.folded)
    parts = {int(p) for k in found.joins for p in (tree.left[k], tree.right[k]) if p >= n}
    assert sorted(found.thin.tolist()) == sorted(parts - wide)


@given(st.integers(0, 10**6), st.integers(2, 25), st.integers(1, 25), st.integers(1, 25))
def test_clusters_keep_their_letters(seed: int, n: int, first: int, then: int) -> None:
    tree = random_tree(seed, n)
    lettered, cut = cut_at_count(tree, min(first, n)), cut_at_count(tree, min(then, n))
    names = identities(tree, lettered, cut)
    assert len({who.name for who in names}) == cut.clusters
    whole = {letters(k): set(tree.members(r)) for k, r in enumerate(lettered.roots.tolist(), 1)}
    for who, root in zip(names, cut.roots.tolist(), strict=True):
        held = set(tree.members(root).tolist())
        if "+" in who.name:
            told = [whole[name] for name in who.name.split("+") if name != "…"]
            assert all(part < held for part in told)
            assert whole[letters(who.hue)] < held
        else:
            own = whole[who.name.rstrip("12")]
            assert held == own if who.name in whole else held < own
            assert who.hue == list(whole).index(who.name.rstrip("12")) + 1
            assert (who.shade == 0) == (who.name in whole)
    assert [who.name for who in identities(tree, lettered, lettered)] == list(whole)


@given(st.integers(0, 10**6), st.integers(2, 25), st.integers(1, 25), st.integers(0, 4))
def test_branches_are_cut_lower(seed: int, n: int, clusters: int, times: int) -> None:
    rng, tree = np.random.default_rng(seed), random_tree(seed, n)
    clusters = min(clusters, n)
    split = rng.integers(0, tree.joins, times).tolist()
    cut = cut_branches(tree, clusters, split)
    below = n - clusters
    undone = [set(tree.members(n + join).tolist()) for join in split if join < below]
    for a in range(n):
        for b in range(a + 1, n):
            join = tree.meeting(a, b)
            held = set(tree.members(n + join).tolist())
            together = join < below and not any(held >= part for part in undone)
            assert (cut.membership[a] == cut.membership[b]) == together
            assert (owners(tree, cut, np.array([n + join]))[0] > 0) == together
    assert cut.level == clusters
    scene = DendrogramScene(arrange(tree), axis_of(tree, "plain"))
    for node, share in lower_cuts(scene, cut):
        above = scene.share[n + tree.used_at[node]]
        assert scene.share[node] <= share <= above
        assert any(set(tree.members(node).tolist()) < part for part in undone) or undone
    names = [who.name for who in identities(tree, cut_at_count(tree, clusters), cut)]
    assert len(set(names)) == cut.clusters
    if not undone:
        np.testing.assert_array_equal(cut.membership, cut_at_count(tree, clusters).membership)


@given(st.floats(1e-6, 1e6), st.sampled_from(["root", "plain", "log"]), st.integers(3, 12))
def test_ticks_are_round_apart_and_inside(top: float, scale: HeightScale, wanted: int) -> None:
    heights = np.array([top / 50, top])
    flags = np.zeros(2, dtype=bool)
    tree = Tree(3, np.array([0, 3]), np.array([1, 2]), heights, flags, flags)
    found = axis_of(tree, scale).ticks(wanted)
    assert 2 <= len(found) <= 2.5 * wanted + 2
    assert all(0 <= tick.share <= 1 for tick in found)
    assert [tick.share for tick in found] == sorted({tick.share for tick in found})
    for tick in found[1:]:
        digits = f"{float(tick.label.replace(',', '')):.6e}".split("e")[0].rstrip("0")
        assert len(digits.replace(".", "")) <= 3


@given(st.integers(0, 10**6), st.integers(1, 20))
def test_answers_stand_to_the_mean_of_all(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    values = np.where(rng.random((n, 3)) < 0.2, np.nan, rng.normal(size=(n, 3)))
    at = arrange(random_tree(seed, n)) if n > 1 else arrange(one_case())
    first = np.arange(n)
    shown = standing_of_rows(standing(values, at), first, first + 1)
    for j in range(3):
        known = values[~np.isnan(values[:, j]), j]
        for position, case in enumerate(at.order):
            own = shown[position, j]
            if np.isnan(values[case, j]):
                assert np.isnan(own)
            elif known.std() > 0:
                away = (values[case, j] - known.mean()) / known.std() / 2.5
                assert own == pytest.approx(np.clip(away, -1, 1), abs=1e-9)


def one_case() -> Tree:
    nothing = np.zeros(0, dtype=np.int64)
    flags = np.zeros(0, dtype=bool)
    return Tree(1, nothing, nothing, np.zeros(0), flags, flags)


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
        share = re.search(r"lowers R² by (less than )?([0-9.]+) percentage points", said)
        assert share
        assert grown.schedule.spread is not None
        cost = 100 * grown.schedule.spread.semipartial_r2[join]
        if share[1]:
            assert cost < float(share[2]) == 0.001
        else:
            assert float(share[2]) == pytest.approx(cost, rel=0.06)
        assert ("inversion" in said) == bool(tree.inversions[join])
        if grown.method.linkage == "single":
            pair = re.search(r"nearest members, (R\d+) and (R\d+)\.", said)
            assert pair
            a, b = (labels.index(name) for name in pair.groups())
            assert grown.pairs.matrix[a, b] == pytest.approx(tree.heights[join])
            assert tree.meeting(a, b) == join
        else:
            assert LINKAGES[grown.method.linkage].height_means in said


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
        assert said.startswith(f"Cluster {letters(cluster)}: {size} case")
    whole = describe_tree(grown, cut, (), 0.6649)
    assert "208 cases in 207 joins. Cut into 5 clusters: A " in whole
    assert "Cophenetic correlation 0.66 (" in whole
    assert "ophenetic" not in describe_tree(grown, cut)


def test_what_is_said_of_two_cases_is_true(grown: Grown) -> None:
    tree, d = grown.tree, grown.pairs.matrix
    above = np.triu_indices(tree.n, 1)
    for a, b in ((0, 1), (5, 150), (200, 3)):
        said = describe_pair(grown, a, b)
        assert f"have proximity {number(float(d[a, b]))} (" in said
        assert f" {np.count_nonzero(d[above] < d[a, b]):,} of the 21,528 pairs are nearer" in said
        met = next(k for k in range(tree.joins) if {a, b} <= set(tree.members(tree.n + k).tolist()))
        assert f"in join {met + 1}, at height {number(float(tree.heights[met]))}," in said
        assert f"when {tree.n - met - 1:,} cluster" in said


def test_the_plan_reads_as_a_sentence() -> None:
    plan = load_plan(DEMO / "readers.toml")
    assert "".join(p.text for p in plan_phrases(plan, 208)) == (
        "Group 208 cases by 11 variables on z-scores, measured by squared Euclidean distance,"
        " joined by Ward’s rule; missing answers exclude the case; unweighted."
    )
    changed = plan.with_("cases", weight="weight").with_("missing", handling="pairwise")
    told = "".join(p.text for p in plan_phrases(changed, 240))
    assert told.endswith("missing answers are excluded pairwise; weighted by weight.")


@pytest.mark.parametrize(
    ("value", "words"),
    [(0, "0"), (3, "3"), (0.5, "0.500"), (12.345, "12.35"), (1234.5, "1,234"), (2e7, "2e+07"),
     (1e-6, "1e−06"), (240.0, "240"), (462.81, "462.8")],
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
        for place in re.findall(r"`((?:core|desk|cli|paint)/[a-z_/]+(?:\.py|/))`", text):
            assert (root / "src" / "gorvel" / place).exists(), f"{document}: {place}"
        made = {path.name for room in ("src", "tests", "tools", "bench", "demo")
                for path in (root / room).rglob("*.py")}  # fmt: skip
        for module in re.findall(r"`(?:[\w/]+/)?(\w+\.py)`", text):
            assert module in made, f"{document}: {module}"
