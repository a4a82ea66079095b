"""Two trees of the shelf beside each other: what is known of them, and the work behind it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress
from gorvel.core.cases.prepare import prepare
from gorvel.core.compare.coassociation import CoAssociation, together
from gorvel.core.compare.consensus import average_tree, in_all, shared_branches
from gorvel.core.compare.pair import Crossed, Move, Pair, over_counts
from gorvel.core.compare.partitions import Agreement
from gorvel.core.compare.trees import Comparison, compare_trees
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.lanes import Lane, lanes_of
from gorvel.core.profile.raw_answers import Question, read_answers
from gorvel.core.scene.tanglegram import Facing, untangled
from gorvel.core.study.groups import GrownGroups, grow_groups
from gorvel.core.study.kept import KeptTree, grown_again
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

Key = tuple[int, str | None]  # of a tree: its entry, and the group of a split

CONSENSUS = -1  # in the place of an entry: the average of several trees
_COUNTS = 10  # up to which two trees are compared, where the plan does not say


@dataclass(frozen=True, eq=False)
class Side:
    """A tree of the study as it is known.

    key : of its entry, and of a split the group, the wanted one where none is grown; grown : where
    it is on the screen; kept : where it was grown before; neither for one that is to be grown; of :
    trees whose average it is.
    """

    key: Key
    plan: Plan
    grown: Grown | None = None
    kept: KeptTree | None = None
    of: tuple[Grown, ...] = ()

    @property
    def tree(self) -> Tree | None:
        """Where it was grown."""
        if self.grown is not None:
            return self.grown.tree
        return None if self.kept is None else self.kept.tree

    @property
    def about(self) -> tuple[Any, ...]:
        """What a comparison of it depends on."""
        if self.of:
            return self.key, *(grown.tree for grown in self.of)
        return self.key, self.plan if self.tree is None else self.tree


@dataclass(frozen=True, eq=False)
class TreePair:
    """Two trees beside each other, whatever their cuts.

    left, right : which they are; counts : how much they agree at each; told : the answers of
    the left one's cases, none where there are none; new : trees that were grown for it, by id, with
    those of all groups of a split; of : how many trees the right one is the average of, with the
    branches that most and that all have; 0 where it is none.
    """

    left: Key
    right: Key
    pair: Pair
    plans: tuple[Plan, Plan]
    whole: Comparison
    counts: dict[int, Agreement]
    facing: Facing
    told: list[Question]
    new: dict[int, tuple[Plan, Grown, GrownGroups | None]]
    of: tuple[int, int, int] = (0, 0, 0)


@dataclass(frozen=True, eq=False)
class PairAtCut:
    """Two trees at the cuts in hand.

    names, others : of the clusters of the left and the right one; stands : of each of the left
    one's, from which to which count the right one has it; move, lanes : the cases most worth a
    word, and what they answer beside those that stay in their cluster.
    """

    faced: TreePair
    crossed: Crossed
    names: list[Identity]
    others: list[Identity]
    stands: list[tuple[int, int] | None]
    move: Move | None
    lanes: list[Lane]

    def places_in(self, grown: Grown | None) -> Ints | None:
        """(m,) of the common cases in one of the two trees; None in any other."""
        pair = self.faced.pair
        return pair.mine if grown is pair.one else pair.its if grown is pair.other else None


def lanes_of_move(faced: TreePair, found: Crossed, move: Move) -> list[Lane]:
    """Those of a move, those that stay in its cluster, and all others."""
    n = faced.pair.one.tree.n
    groups = np.full(n, 2, dtype=np.int64)
    groups[found.one.membership - 1 == move.here] = 1
    groups[faced.pair.mine[found.moved & (found.own == move.here)]] = 2
    groups[faced.pair.mine[move.cases]] = 0
    weights = faced.pair.one.prepared.weights
    return lanes_of(faced.told, groups, 3, np.ones(n) if weights is None else weights)


def standing(grown: Grown, cut: Cut, others: Sequence[Pair]) -> CoAssociation:
    """How often cases of each cluster of a cut are together in other trees, cut into as many."""
    groups = []
    for pair in others:
        tree = pair.other.tree
        own = np.full(grown.tree.n, -1, dtype=np.int64)
        own[pair.mine] = cut_at_count(tree, min(cut.clusters, tree.n)).membership[pair.its] - 1
        groups.append(own)
    return together(cut.membership - 1, cut.clusters, groups)


# the work, which is on a thread of its own


def pair_trees(source: Source, left: Side, right: Side, progress: Progress) -> TreePair:
    """Grow what is not grown yet, compare, and turn the two so that few lines cross."""
    most = max((g.tree.n for g in (left.grown, right.grown) if g is not None), default=0)
    with at_hand(max(most, source.n if isinstance(source, Table) else 0)):
        (one, ones), (other, others) = (_grown(source, side, progress) for side in (left, right))
        pair = Pair.of(one, other)
        whole = compare_trees(one.tree, other.tree, pair.mine, pair.its, progress)
    asked = left.plan.count
    counts = over_counts(pair, asked.to if asked is not None else _COUNTS)
    facing = untangled(one.tree, other.tree, pair.mine, pair.its, progress)
    told: list[Question] = []
    if isinstance(source, Table) and one.of == "cases":
        try:
            told = read_answers(source, left.plan, one.prepared)
        except InputError:  # which the Profiles page tells
            told = []
    new = {
        side.key[0]: (side.plan, grown, groups)
        for side, grown, groups in ((left, one, ones), (right, other, others))
        if side.tree is None and not side.of
    }
    plans = left.plan, right.plan
    return TreePair(
        _key(left, one), _key(right, other), pair, plans, whole, counts, facing, told, new,
        _shared(right.of),
    )  # fmt: skip


def _shared(trees: Sequence[Grown]) -> tuple[int, int, int]:
    """How many trees these are, and how many branches most of them and all of them have."""
    if not trees:
        return 0, 0, 0
    common = in_all([grown.prepared.numbers for grown in trees])
    places = [(grown.tree, np.searchsorted(grown.prepared.numbers, common)) for grown in trees]
    branches = shared_branches(places)
    return len(trees), len(branches), sum(branch.share == 1 for branch in branches)


def beside(source: Source, mine: Grown, others: list[Side], progress: Progress) -> dict[int, Pair]:
    """A tree with each of some others, by the id of that."""
    found = {}
    for done, side in enumerate(others):
        progress(Phase.COMPARE, done / len(others))
        found[side.key[0]] = Pair.of(mine, _grown(source, side, progress)[0])
    return found


def _key(side: Side, grown: Grown) -> Key:
    return side.key[0], grown.key.group if not side.of else None


def _grown(source: Source, side: Side, progress: Progress) -> tuple[Grown, GrownGroups | None]:
    """The tree, and where all those of a split had to be grown, these."""
    if side.of:
        return average_tree(side.of, None, source.name, progress)[0], None
    if side.grown is not None:
        return side.grown, None
    if side.kept is not None:
        return grown_again(source, side.kept, None, progress), None
    if side.plan.cases.split is not None and isinstance(source, Table):
        groups = grow_groups(source, side.plan, side.key[1], progress)
        return groups.grown, groups
    return grow_prepared(prepare(source, side.plan), side.plan, {}, progress), None
