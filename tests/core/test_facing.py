"""Two trees face to face: crossings counted one by one, turning tried in every way there is."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.scene.arrangement import arrange
from gorvel.core.scene.tanglegram import Facing, crossings, turned, untangled
from gorvel.core.tree.tree import Tree
from studies import random_tree


def crossings_slowly(ends: list[float]) -> int:
    return sum(ends[i] > ends[j] for i in range(len(ends)) for j in range(i + 1, len(ends)))


def crossings_between(one: Tree, other: Tree, cases: np.ndarray, its: np.ndarray,
                      flips: np.ndarray, its_flips: np.ndarray) -> int:  # fmt: skip
    left, right = arrange(one, flips), arrange(other, its_flips)
    place = {int(a): int(b) for a, b in zip(cases, its, strict=True)}
    at = {int(case): k for k, case in enumerate(right.order)}
    return crossings_slowly([at[place[int(c)]] for c in left.order if int(c) in place])


@given(st.permutations(range(12)), st.integers(0, 12))
def test_lines_that_cross_are_counted_one_by_one(order: list[int], many: int) -> None:
    ends = np.array(order[:many], dtype=np.int64)
    assert crossings(ends) == crossings_slowly(ends.tolist())


def some_cases(rng: np.random.Generator, n: int, m: int) -> tuple[np.ndarray, np.ndarray]:
    """Places of m common cases in a tree of n, and in another of as many."""
    return rng.choice(n, m, replace=False), rng.choice(n, m, replace=False)


@given(st.integers(0, 10**6), st.integers(2, 8), st.integers(2, 8))
def test_no_way_of_turning_one_tree_has_fewer_crossings(seed: int, n: int, m: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = random_tree(seed, n), random_tree(seed + 1, n)
    cases, its = some_cases(rng, n, min(m, n))
    flips = rng.random(one.joins) < 0.5
    ends = np.full(n, np.nan)
    ends[its] = arrange(one, flips).starts[cases]
    begin = rng.random(other.joins) < 0.5
    found = turned(other, ends, begin)
    counts = {
        ways: crossings_between(one, other, cases, its, flips, np.array(ways, dtype=bool))
        for ways in product((False, True), repeat=other.joins)
    }
    assert counts[tuple(found.tolist())] == min(counts.values())
    assert turned(other, ends, found).tolist() == found.tolist()  # nothing for nothing


@given(st.integers(0, 10**6), st.integers(1, 40), st.integers(0, 40))
def test_crossings_told_are_those_of_the_trees_laid_out(seed: int, n: int, m: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = random_tree(seed, n), random_tree(seed + 1, n)
    cases, its = some_cases(rng, n, min(m, n))
    found = untangled(one, other, cases, its)
    plain = np.zeros(n - 1, dtype=bool)
    told = found.left.flipped, found.right.flipped
    assert found.before == crossings_between(one, other, cases, its, plain, plain)
    assert found.after == crossings_between(one, other, cases, its, *told)
    assert found.after <= found.before
    assert no_single_turn_helps(one, other, cases, its, found)


def no_single_turn_helps(one: Tree, other: Tree, cases: np.ndarray, its: np.ndarray,
                         found: Facing) -> bool:  # fmt: skip
    flips, its_flips = found.left.flipped, found.right.flipped
    for join in range(one.joins):
        for part in (0, 1):
            turns = [flips.copy(), its_flips.copy()]
            turns[part][join] = ~turns[part][join]
            if crossings_between(one, other, cases, its, *turns) < found.after:
                return False
    return True


@given(st.integers(0, 10**6), st.integers(2, 60))
def test_a_tree_turned_at_random_is_untangled_whole(seed: int, n: int) -> None:
    tree, rng = random_tree(seed, n), np.random.default_rng(seed)
    swapped = rng.random(tree.joins) < 0.5
    left, right = tree.left.copy(), tree.right.copy()
    left[swapped], right[swapped] = tree.right[swapped], tree.left[swapped]
    other = replace(tree, left=left, right=right)
    everyone = np.arange(n)
    assert untangled(tree, other, everyone, everyone).after == 0


def test_it_can_be_stopped() -> None:
    class Stopped(Exception):
        pass

    def stop(phase: object, share: float) -> None:
        raise Stopped

    tree, everyone = random_tree(1, 30), np.arange(30)
    with pytest.raises(Stopped):
        untangled(tree, random_tree(2, 30), everyone, everyone, stop)
