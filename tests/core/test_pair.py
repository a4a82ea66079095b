"""Two cuts beside each other, and clusters that stand whatever the tree, against slow code."""

from __future__ import annotations

from itertools import combinations, permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.compare.coassociation import together
from gorvel.core.compare.pair import Pair, crossed, over_counts, stands_at
from gorvel.core.compare.partitions import agreement
from gorvel.core.tree.cuts import cut_at_count
from studies import study


def two(seed: int, n: int, m: int) -> tuple[Pair, np.random.Generator]:
    """Two trees of n cases each, of which they have m in common."""
    rng = np.random.default_rng(seed)
    x = np.round(rng.normal(size=(n, 2)), 1)
    one, other = study(x), study(x + rng.normal(size=x.shape), "euclidean", "complete")
    both = np.sort(rng.choice(n, m, replace=False))
    return Pair(one, other, both, both), rng


@given(st.integers(0, 10**6), st.integers(2, 14), st.integers(2, 14))
def test_clusters_are_matched_as_well_as_they_can_be(seed: int, n: int, m: int) -> None:
    pair, rng = two(seed, n, min(m, n))
    a, b = (int(rng.integers(1, min(n, 5) + 1)) for _ in range(2))
    found = crossed(pair, cut_at_count(pair.one.tree, a), cut_at_count(pair.other.tree, b))
    own, its = found.own.tolist(), found.its.tolist()
    for i in range(a):
        for j in range(b):
            wanted = sum(x == i and y == j for x, y in zip(own, its, strict=True))
            assert found.table[i, j] == wanted
    paired = [p for p in found.partner.tolist() if p >= 0]
    assert len(paired) == len(set(paired)) <= min(a, b)
    assert all(found.table[i, j] > 0 for i, j in enumerate(found.partner.tolist()) if j >= 0)
    kept = sum(found.partner[i] == j for i, j in zip(own, its, strict=True))
    wide = max(a, b)
    ways = (sum(found.table[i, p[i]] for i in range(a) if p[i] < b)
            for p in permutations(range(wide), a))  # fmt: skip
    assert kept == max(ways)
    assert found.moved.sum() == pair.common - kept == found.agreement.moved
    for j, back in enumerate(found.partner_of_other.tolist()):
        assert back == -1 or found.partner[back] == j
    for name, table in (("joined", found.table.T), ("parted", found.table)):
        held = {row: [k for k in range(table.shape[1])
                      if table[:, k].sum() and table[row, k] >= 0.9 * table[:, k].sum()]
                for row in range(len(table))}  # fmt: skip
        assert dict(getattr(found, name)) == {r: ks for r, ks in held.items() if len(ks) > 1}
    told = [case for move in found.moves for case in move.cases.tolist()]
    assert sorted(told) == np.flatnonzero(found.moved).tolist()
    for move in found.moves:
        assert all(own[c] == move.here and its[c] == move.there for c in move.cases.tolist())


@given(st.integers(0, 10**6), st.integers(2, 12), st.integers(1, 12))
def test_where_a_cluster_stands_in_the_other_tree(seed: int, n: int, m: int) -> None:
    pair, rng = two(seed, n, min(m, n))
    cut = cut_at_count(pair.one.tree, int(rng.integers(1, n + 1)))
    own = cut.membership[pair.mine] - 1
    for cluster, told in enumerate(stands_at(pair, cut)):
        mine = {int(case) for case in pair.its[own == cluster]}
        counts = []
        for count in range(1, n + 1):
            its = cut_at_count(pair.other.tree, count).membership
            groups = [{int(c) for c in pair.its if its[c] == k} for k in range(1, count + 1)]
            if mine and mine in groups:
                counts.append(count)
        if told is None:
            assert not counts
        else:
            assert counts == list(range(told[0], told[1] + 1))


def test_agreement_over_counts_is_that_of_each_cut() -> None:
    pair, _ = two(3, 12, 9)
    found = over_counts(pair, 30)
    assert list(found) == list(range(2, 9))
    for count, told in found.items():
        own, its = (cut_at_count(tree, count).membership[pair.mine] - 1
                    for tree in (pair.one.tree, pair.other.tree))  # fmt: skip
        assert told == agreement(own, its)


@given(st.integers(0, 10**6), st.integers(1, 12), st.integers(1, 4), st.integers(0, 4))
def test_shares_of_pairs_that_stay_together(seed: int, n: int, k: int, trees: int) -> None:
    rng = np.random.default_rng(seed)
    own = rng.integers(0, k, n)
    others = [rng.integers(-1, 3, n) for _ in range(trees)]
    found = together(own, k, others)

    def share(pairs: list[tuple[int, int]]) -> float:
        kept = [groups[i] == groups[j] for groups in others for i, j in pairs
                if groups[i] >= 0 and groups[j] >= 0]  # fmt: skip
        return float(np.mean(kept)) if kept else float("nan")

    for case in range(n):
        pairs = [(case, j) for j in range(n) if j != case and own[j] == own[case]]
        assert found.cases[case] == pytest.approx(share(pairs), nan_ok=True)
    for cluster in range(k):
        members = np.flatnonzero(own == cluster).tolist()
        wanted = share(list(combinations(members, 2)))
        assert found.clusters[cluster] == pytest.approx(wanted, nan_ok=True)
        across = [(i, j) for i in members for j in range(n) if own[j] != cluster]
        assert found.strangers[cluster] == pytest.approx(share(across), nan_ok=True)
    assert found.trees == trees


def test_trees_of_other_things_have_nothing_in_common() -> None:
    x = np.random.default_rng(1).normal(size=(6, 3))
    one = study(x)
    assert Pair.of(one, study(x[:4])).common == 4
    assert over_counts(Pair.of(one, study(x[:2])), 9) == {}
