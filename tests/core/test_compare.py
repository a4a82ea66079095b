"""Trees against trees, and groupings against groupings: slow code from the definitions."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.compare import trees as trees_module
from gorvel.core.compare.partitions import agreement, matching
from gorvel.core.compare.trees import compare_trees
from gorvel.core.tree.tree import Tree
from reference import comparisons as slow
from studies import random_tree

seeds = st.integers(0, 10**6)


def joins(tree: Tree) -> list[tuple[int, int]]:
    return list(zip(tree.left.tolist(), tree.right.tolist(), strict=True))


@given(
    seeds, st.integers(1, 12), st.sampled_from(["average", "single", "centroid"]), st.booleans(),
    st.integers(0, 4), st.booleans(), st.booleans(),
)  # fmt: skip
def test_trees_are_compared_as_defined(
    seed: int, n: int, key: str, same: bool, lacking: int, few_at_a_time: bool, compiled: bool
) -> None:
    rng = np.random.default_rng(seed)
    one = random_tree(seed, n)
    other = one if same else random_tree(seed + 1, n, key)
    kept = np.sort(rng.permutation(n)[: max(n - lacking, 1)])  # cases that are in both
    turned = rng.permutation(n)  # the other tree knows them by other places
    its_kept = turned[kept]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(trees_module, "worth_compiling", lambda cases: compiled)
        if few_at_a_time:
            patch.setattr(trees_module, "_CELLS", 3 * n)
        found = compare_trees(one, other, kept, its_kept)
    pairs = list(combinations(range(len(kept)), 2))
    mine, its = slow.meeting(n, joins(one)), slow.meeting(n, joins(other))
    a = [mine[tuple(sorted((kept[i], kept[j])))] for i, j in pairs]
    b = [its[tuple(sorted((its_kept[i], its_kept[j])))] for i, j in pairs]
    heights = [[float(tree.heights[k]) for k in met] for tree, met in ((one, a), (other, b))]
    assert found.cases == len(kept)
    wanted = {
        "pearson": slow.correlation(*heights) if len(kept) > 2 else None,
        "spearman": slow.correlation(*map(slow.average_ranks, heights)) if len(kept) > 2 else None,
        "gamma": slow.baker_gamma(a, b) if len(kept) > 2 else None,
    }
    for name, value in wanted.items():
        assert getattr(found, name) == (None if value is None else pytest.approx(value, abs=1e-9))
    sets = slow.branches(n, joins(one), kept.tolist())
    back = {int(its_kept[k]): int(kept[k]) for k in range(len(kept))}
    its_sets = {
        frozenset(back[case] for case in below)
        for below in slow.branches(n, joins(other), its_kept.tolist())
    }
    assert found.branches == (len(sets), len(its_sets))
    assert found.shared == len(sets & its_sets)


def test_a_tree_is_wholly_like_itself() -> None:
    tree = random_tree(3, 40)
    everyone = np.arange(40)
    found = compare_trees(tree, tree, everyone, everyone)
    assert found.pearson == pytest.approx(1)
    assert found.spearman == pytest.approx(1)
    assert found.gamma == 1
    assert found.branches == (38, 38)
    assert found.shared == 38


@given(seeds, st.integers(1, 12), st.integers(1, 5), st.integers(1, 5), st.booleans())
def test_groupings_agree_as_defined(seed: int, n: int, a: int, b: int, same: bool) -> None:
    rng = np.random.default_rng(seed)
    one = np.unique(rng.integers(0, a, n), return_inverse=True)[1]
    other = np.unique(one if same else rng.integers(0, b, n), return_inverse=True)[1]
    if same:
        other = rng.permutation(int(one.max()) + 1)[one]
    found, wanted = agreement(one, other), slow.agreement(one.tolist(), other.tolist())
    for name, value in wanted.items():
        assert getattr(found, name) == pytest.approx(value, abs=1e-9), name
    if same:
        assert found.moved == 0
        assert found.rand == found.adjusted_rand == found.normalised_mi == 1


@given(seeds, st.integers(1, 6), st.integers(1, 6), st.integers(1, 30))
def test_the_matching_holds_the_most(seed: int, a: int, b: int, most: int) -> None:
    from itertools import permutations

    table = np.random.default_rng(seed).integers(0, most, (a, b))
    found = matching(table)
    assert len(found) == min(a, b)
    assert len({i for i, _ in found}) == len({j for _, j in found}) == min(a, b)
    wide = table if a <= b else table.T
    best = max(sum(wide[i, j] for i, j in enumerate(p))
               for p in permutations(range(wide.shape[1]), wide.shape[0]))  # fmt: skip
    assert sum(table[i, j] for i, j in found) == best
