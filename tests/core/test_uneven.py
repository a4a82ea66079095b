"""The best uneven cut against all cuts there are."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.indices.uneven import uneven_of
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from gorvel.core.words.count import uneven_words
from studies import asked, study


def branches(grown: Grown, node: int, finest: set[int]) -> Iterator[list[int]]:
    """All partitions of what is below a node into nodes, none below the finest."""
    yield [node]
    if node in finest:
        return
    join = node - grown.tree.n
    left, right = int(grown.tree.left[join]), int(grown.tree.right[join])
    for one, other in product(branches(grown, left, finest), branches(grown, right, finest)):
        yield one + other


def cop(x: np.ndarray, parts: list[list[int]]) -> float:
    """A case alone counts 1."""
    total = 0.0
    for own in parts:
        if len(own) == 1:
            total += 1
            continue
        centroid = x[own].mean(axis=0)
        wide = np.sqrt(((x[own] - centroid) ** 2).sum(axis=1)).mean()
        others = [i for i in range(len(x)) if i not in own]
        far = np.sqrt(((x[others][:, None] - x[own]) ** 2).sum(axis=2)).max(axis=1)
        total += len(own) * wide / far.min() if far.min() > 0 else np.inf
    return total / len(x)


@given(
    st.integers(0, 10**6), st.integers(4, 14), st.integers(2, 5),
    st.sampled_from(["ward", "single", "average"]),
    st.sampled_from(["euclidean", "squared-euclidean"]),
)  # fmt: skip
def test_no_cut_is_better(seed: int, n: int, to: int, linkage: str, measure: str) -> None:
    x = np.random.default_rng(seed).normal(size=(n, 2))
    grown = study(x, measure, linkage)
    board = compute_indices(grown, asked(to=to, more=["cop"]))
    found = uneven_of(grown, board)
    assert found is not None
    finest = set(cut_at_count(grown.tree, board.counts[-1] + 1).roots.tolist())
    every = [parts for parts in branches(grown, 2 * n - 2, finest) if len(parts) > 1]
    members = [[grown.tree.members(node).tolist() for node in parts] for parts in every]
    least = min(cop(x, parts) for parts in members)
    assert found.value == pytest.approx(least)
    cut = cut_branches(grown.tree, found.level, found.split)
    assert cut.clusters == found.clusters
    own = [np.flatnonzero(cut.membership == c + 1).tolist() for c in range(cut.clusters)]
    assert cop(x, own) == pytest.approx(least)


def test_branches_of_several_heights_are_told_and_beat_the_even_cut() -> None:
    uneven = 0
    for seed in range(12):
        x = np.exp(np.random.default_rng(seed).normal(size=(60, 2)))
        grown = study(x, "euclidean")
        board = compute_indices(grown, asked(to=8, more=["cop"]))
        found, verdict = uneven_of(grown, board), board.verdicts["cop"]
        assert found is not None
        if found.split:
            uneven += 1
            assert not set(found.split) & set(range(grown.tree.joins - found.level + 1, 59))
        if min(board.smallest) > 1:  # a case alone counts 0 in the even cut
            assert verdict.best is not None
            assert found.value <= verdict.at(verdict.best) + 1e-12
        words = uneven_words(found, verdict)
        assert words.startswith(f"Branches cut at different heights: {found.clusters} clusters")
    assert uneven >= 2


def test_without_the_rule_there_is_none() -> None:
    x = np.random.default_rng(1).normal(size=(12, 2))
    grown = study(x, "euclidean")
    assert uneven_of(grown, compute_indices(grown, asked())) is None
    taxi = study(x, "city-block", "average")
    assert uneven_of(taxi, compute_indices(taxi, asked(more=["cop"]))) is None
    pairs = np.repeat(x[:3], 4, axis=0)
    same = study(pairs, "euclidean")
    found = uneven_of(same, compute_indices(same, asked(more=["cop"])))
    assert found is None or np.isfinite(found.value)
