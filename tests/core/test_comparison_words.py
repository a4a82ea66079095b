"""What is said of two trees is true of their numbers."""

from __future__ import annotations

import numpy as np
import pytest

from gorvel.core.compare.coassociation import CoAssociation
from gorvel.core.compare.pair import Pair, called_after, crossed, over_counts, stands_at
from gorvel.core.compare.trees import compare_trees
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.raw_answers import Question
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.comparison import (
    agree_words,
    counts_words,
    largest_move,
    moves_words,
    same_words,
    set_apart,
    standing_words,
    trees_words,
    whole_words,
)
from studies import study


def blocks(*means: float, each: int = 10) -> np.ndarray:
    """Cases on a line, in tight blocks."""
    rng = np.random.default_rng(1)
    return np.concatenate([rng.normal(m, 0.1, (each, 1)) for m in means])


def names_of(pair: Pair, count: int) -> list[str]:
    cut = cut_at_count(pair.one.tree, count)
    return [who.name for who in identities(pair.one.tree, cut, cut)]


def test_a_tree_beside_itself() -> None:
    grown = study(blocks(0, 5, 10))
    everyone = np.arange(30)
    pair = Pair(grown, grown, everyone, everyone)
    cut = cut_at_count(grown.tree, 3)
    found = crossed(pair, cut, cut)
    assert agree_words(found) == "At 3 clusters both trees have the same clusters."
    names = names_of(pair, 3)
    assert same_words(found, names, stands_at(pair, cut)) == ""
    assert moves_words(found, names, names) == ""
    assert whole_words(found, names, names) == ""
    assert largest_move(found) is None
    counts = over_counts(pair, 6)
    assert counts_words(counts, 4) == "From 2 to 6 clusters, agreement is highest here (1.00)."
    whole = trees_words(compare_trees(grown.tree, grown.tree, everyone, everyone))
    assert whole.startswith("Cophenetic distances correlate at 1.00; Baker’s gamma is 1.00")
    assert whole.endswith("28 of 28 branches are in both.")


def test_clusters_that_are_joined_parted_and_moved() -> None:
    """Two variables: one tree sees four blocks, the other three, with four cases elsewhere."""
    x = np.hstack([blocks(0, 5, 20, 25), np.zeros((40, 1))])
    y = x.copy()
    y[10:20, 0] = blocks(0, each=10)[:, 0]  # B where A is
    y[20:24, 0] = 0.05  # four of C there, too
    one, other = study(x), study(y)
    everyone = np.arange(40)
    pair = Pair(one, other, everyone, everyone)
    cuts = cut_at_count(one.tree, 4), cut_at_count(other.tree, 3)
    found = crossed(pair, *cuts)
    names = names_of(pair, 4)
    others = [who.name for who in called_after(
        found.partner_of_other, identities(one.tree, cuts[0], cuts[0])
    )]  # fmt: skip
    words = whole_words(found, names, others)
    assert "combines A and B" in words
    move = largest_move(found)
    assert move is not None
    assert len(move.cases) == 4
    assert names[move.here] == "C"
    assert "4 of C in" in moves_words(found, names, others)
    same = same_words(found, names, stands_at(pair, cuts[0]))
    assert "D is the same in both." in same
    assert "At no number of clusters does it have" in same
    told = [Question("size", "interval", "active", np.where(np.arange(40) < 24, 9.0, 1.0))]
    groups = np.full(40, 2)
    groups[24:30], groups[20:24] = 1, 0
    lanes = lanes_of(told, groups, 3, np.ones(40))
    apart = set_apart(move, lanes, names, others)
    assert "The 4 of C that are in" in apart
    assert "higher on size (9 against 1)" in apart
    level = lanes_of([Question("same", "interval", "active", np.arange(40) % 2.0)], groups, 3,
                     np.ones(40))  # fmt: skip
    assert "differ from the rest of it in no question" in set_apart(move, level, names, others)


def test_no_case_in_common_is_said() -> None:
    one, other = study(blocks(0, 5)), study(blocks(0, 5))
    nothing = np.empty(0, dtype=np.int64)
    found = compare_trees(one.tree, other.tree, nothing, nothing)
    assert trees_words(found) == "The trees have no case in common."


@pytest.mark.parametrize(
    ("inside", "across", "words"),
    [
        ([1.0, 0.2], [0.0, 0.0], "A is stable across trees; B falls apart"),
        ([0.95, 0.95], [0.5, 0.6], "A and B stay together, but often joined with others"),
        ([0.7, 0.6], [0.0, 0.0], "No cluster keeps 90% of its pairs together"),
        ([float("nan"), 1.0], [0.0, 0.0], "B is stable across trees; A is a single case."),
    ],
)
def test_which_clusters_stand(inside: list[float], across: list[float], words: str) -> None:
    found = CoAssociation(3, np.ones(4), np.array(inside), np.array(across))
    assert words in standing_words(found, ["A", "B"])
