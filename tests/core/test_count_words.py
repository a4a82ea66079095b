"""What is said of counts is what the numbers say; the small tree and silhouettes as drawn."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.indices.silhouettes import silhouettes_of
from gorvel.core.count.null.conclusion import Conclusion
from gorvel.core.count.null.evidence import Evidence, Peaks
from gorvel.core.count.null.structure import Finding
from gorvel.core.count.resampling.order_stability import random_orders
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.count.resampling.splits import split_tests
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan
from gorvel.core.scene.tree_top import summit_of
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.core.words.checks import orders_words, splits_words, structure_words
from gorvel.core.words.conclusion import basis_words, conclusion_sentence
from gorvel.core.words.count import choice_sentence, draft_reasons, verdict_words, why_not
from studies import asked, study

trees = st.builds(
    lambda seed, n, linkage: study(
        np.random.default_rng(seed).normal(size=(n, 2)), "euclidean", linkage
    ).tree,
    st.integers(0, 10**6), st.integers(2, 40), st.sampled_from(["ward", "single", "centroid"]),
)  # fmt: skip


@given(trees, st.integers(1, 12))
def test_the_small_tree_is_the_top_of_the_large_one(tree: Tree, clusters: int) -> None:
    summit = summit_of(tree, clusters)
    n, k = tree.n, min(clusters, tree.n)
    assert len(summit.leaves) == k
    assert len(summit.brackets) == len(summit.joins) == k - 1
    assert summit.leaves[0, 0] == 0
    assert summit.leaves[-1, 1] == 1
    np.testing.assert_allclose(summit.leaves[1:, 0], summit.leaves[:-1, 1])
    sizes = np.diff(summit.leaves, axis=1)[:, 0] * n
    roots = cut_at_count(tree, k).roots
    assert sorted(np.round(sizes).astype(int)) == sorted(tree.sizes[roots])
    heights = tree.heights
    for join, (a, b, left, right, top) in zip(summit.joins, summit.brackets, strict=True):
        assert 0 <= a < b <= 1
        assert top == pytest.approx(max(heights[join], 0) / heights.max())
        assert max(left, right) <= 1
    for count in range(2, k):  # a cut line lies between the joins beside it
        share = np.maximum(heights, 0) / heights.max()
        ends = sorted((share[n - count - 1], share[n - count]))
        assert ends[0] <= summit.lines[count] <= ends[1]


@given(st.integers(0, 10**6), st.integers(3, 30), st.integers(2, 6))
def test_silhouettes_stand_by_cluster_from_the_highest_down(seed: int, n: int, count: int) -> None:
    grown = study(np.random.default_rng(seed).normal(size=(n, 2)), "euclidean")
    board = compute_indices(grown, asked())
    if count not in board.counts or board.sums is None:
        return
    found = silhouettes_of(board.sums, count)
    own = cut_at_count(grown.tree, count).membership
    assert sorted(found.cases.tolist()) == list(range(n))
    assert found.own.tolist() == own[found.cases].tolist()
    assert found.own.tolist() == sorted(found.own.tolist())
    for cluster, end in enumerate(found.ends.tolist(), 1):
        begin = end - int((own == cluster).sum())
        values = found.values[begin:end]
        assert values.tolist() == sorted(values.tolist(), reverse=True)
        assert found.means[cluster - 1] == pytest.approx(values.mean())
    assert not np.any(found.leans == found.own)
    assert [found.values[row] for row in found.leaning] == sorted(v for v in found.values if v < 0)
    assert float(found.values.mean()) == pytest.approx(board.verdicts["silhouette"].at(count))


@pytest.fixture(scope="module")
def board() -> IndexTable:
    rng = np.random.default_rng(2)
    corners = [(0, 0), (9, 0), (0, 9)]
    x = np.concatenate([rng.normal(size=(20, 2)) + corner for corner in corners])
    grown = study(x, "euclidean")
    return compute_indices(grown, asked()).with_verdicts(resampled(grown, asked(resamples=5)))


def test_reasons_are_made_of_the_numbers(board: IndexTable) -> None:
    votes = board.votes()
    heard = sum(voice.votes for voice in board.voices().values())
    lowest = board.verdicts["bootstrap-jaccard"].lowest
    assert lowest is not None
    words = draft_reasons(board, 3)
    assert words.startswith(f"{votes[3]} of {heard} votes are for 3 (")
    assert "the smallest cluster has 20 cases" in words
    assert f"Jaccard index of {lowest[1]:.2f}" in words
    against = why_not(board, 6, 3)
    silhouette = board.verdicts["silhouette"]
    assert against.startswith("Against 6: ")
    assert f"{votes[3]} for 3" in against
    assert f"its smallest cluster has {board.smallest[4]} case" in against
    assert f"silhouette {silhouette.at(6):.2f}, not {silhouette.at(3):.2f}" in against
    without = [key for key in board.verdicts if COUNT_RULES[key].family != "heights"]
    alone = draft_reasons(board, 3, without)
    assert alone.startswith(("1 of 2 votes is for 3 ", "2 of 2 votes are for 3 "))
    assert draft_reasons(board, 3, list(board.verdicts)).startswith("No rule has a vote here;")
    assert draft_reasons(board, 6).startswith(f"None of the {heard} votes is for 6;")
    assert "3 is the current number" in why_not(board, 3, 3)
    best = board.verdicts["silhouette"]
    assert verdict_words(best).startswith(f"Best at 3 ({best.at(3):.3f}), then {best.runner_up}")
    noise = compute_indices(
        study(np.random.default_rng(1).normal(size=(80, 4)), "euclidean"), asked()
    )
    assert verdict_words(noise.verdicts["duda-hart"]).startswith(
        "One cluster: undivided, it meets the bound ("
    )
    jumps = study(np.random.default_rng(1).normal(size=(40, 3)), "city-block", "average")
    told = verdict_words(compute_indices(jumps, asked()).verdicts["trace-w"])
    assert (
        told == "No number: it compares sums of squares, and city-block distance is not Euclidean."
    )


def test_checks_and_the_choice_are_told_in_sentences() -> None:
    cloud = study(np.random.default_rng(3).normal(size=(40, 3)), "euclidean")
    tests = split_tests(cloud, 20, 1)
    assert tests.clusters == 1
    found = splits_words(tests)
    assert found.answer == "The first split is not significant"
    assert f"Against one normal distribution, p = {tests.tests[0].p:.3f}." in found.words
    assert "no proof of one cluster" in found.words
    orders = random_orders(cloud, (2, 3, 4), 3, 1)
    found = orders_words(orders, 0, 3)
    assert found.answer == "100.0% of pairs stay together"
    assert found.words.startswith(
        "No tie affects the tree. At 3 clusters, so many within-cluster pairs"
    )
    assert "(100.0% in the worst of 3)" in found.words
    assert "not reordered at 9" in orders_words(orders, 0, 9).words
    answer, found = structure_words(Finding(0.5, 0.4, 9), Finding(0.6, 0.3, 9), 0.55)
    assert answer == "No denser than noise"
    assert "no evidence against uniform noise" in found
    assert "No evidence that the variables are associated" in found
    assert "on average and reach it (p = 0.300, 9 trees)" in found
    few = structure_words(Finding(None, None, 0, "5 cases are too few"), None, None)
    assert few == ("Not computed", "Hopkins statistic: 5 cases are too few.")
    assert choice_sentence(CountPlan()) == ""
    taken = CountPlan(chosen=4, reasons="They last.")
    assert choice_sentence(taken) == "The tree was cut into 4 clusters. They last."


@pytest.mark.parametrize("name", ["age", "There are groups: yes"])
def test_what_the_verdict_rests_on_is_told_without_the_verdict(name: str) -> None:
    """Whatever variables are called: no sentence is taken apart to be told otherwise."""
    empty = np.empty((0, 2))
    evidence = Evidence((2, 3), np.zeros(2), np.zeros(2), empty, peaks=Peaks(name, 0.001))
    told = Conclusion("yes", 0.001, "peaks", None, 3, 2, 5, {3: 2})
    basis, whole = basis_words(told, evidence), conclusion_sentence(told, evidence)
    assert basis.startswith(f"The answers to {name} have more than one peak")
    assert whole.startswith(f"There are groups: the answers to {name} have")
    assert whole.endswith(basis[-20:])
    asked = replace(told, groups=None)
    assert basis_words(asked, None) == conclusion_sentence(asked, None)
