"""Two trees of the same source beside each other: at each count, and case by case at one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import letters
from gorvel.core.compare.partitions import Agreement, agreement, agreement_of, matching
from gorvel.core.count.agreement import cross_counts
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.core.tree.tree import Tree

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_NEARLY = 0.9  # of a cluster's cases: then another one holds nearly all of it


def common_places(one: Ints, other: Ints) -> tuple[Ints, Ints]:
    """(m,) places, in each of two lists of case numbers, of those in both; by number, rising."""
    _, mine, its = np.intersect1d(one, other, assume_unique=True, return_indices=True)
    return mine, its


@dataclass(frozen=True, eq=False)
class Pair:
    """Two trees. mine, its : (m,) places of the cases that both keep, in the one and the other."""

    one: Grown
    other: Grown
    mine: Ints
    its: Ints

    @classmethod
    def of(cls, one: Grown, other: Grown) -> Pair:
        """Two trees of one source, or of variables of the same names.

        Cases are the same by their numbers, variables by their labels.
        """
        if one.of == "variables" and other.of == "variables":
            place = {label: k for k, label in enumerate(other.prepared.labels)}
            both = [(k, place[label]) for k, label in enumerate(one.prepared.labels)
                    if label in place]  # fmt: skip
            found = np.array(both, dtype=np.int64).reshape(-1, 2)
            return cls(one, other, found[:, 0], found[:, 1])
        if one.of != other.of:
            nothing = np.empty(0, dtype=np.int64)
            return cls(one, other, nothing, nothing)
        return cls(one, other, *common_places(one.prepared.numbers, other.prepared.numbers))

    @property
    def common(self) -> int:
        """How many cases both keep."""
        return len(self.mine)


def over_counts(pair: Pair, to: int) -> dict[int, Agreement]:
    """Both trees cut into 2 to so many clusters, at most one fewer than common cases.

    The table of the finest cuts is made once; each count less adds up two of its rows, and two of
    its columns.
    """
    most, found = min(to, pair.common - 1), {}
    if most < 2:
        return {}
    trees = pair.one.tree, pair.other.tree
    cuts = [cut_at_count(tree, most) for tree in trees]
    own, its = (cut.membership[at] - 1 for cut, at in zip(cuts, (pair.mine, pair.its), strict=True))
    table = np.zeros((most, most), dtype=np.int64)
    counted = cross_counts(own, its)
    table[: counted.shape[0], : counted.shape[1]] = counted
    nodes = [cut.roots.tolist() for cut in cuts]
    for count in range(most, 1, -1):
        found[count] = agreement_of(table)
        table = _joined(_joined(table, trees[0], nodes[0]).T, trees[1], nodes[1]).T
    return dict(sorted(found.items()))


def _joined(table: Ints, tree: Tree, nodes: list[int]) -> Ints:
    """Rows of a table added up where the next join of a tree adds up clusters.

    nodes : of the rows, by their earliest case, of which one becomes that of the join.
    """
    join = tree.n - len(nodes)
    first, second = sorted(nodes.index(int(part[join])) for part in (tree.left, tree.right))
    table = table.copy()
    table[first] += table[second]
    nodes[first] = tree.n + join
    del nodes[second]
    return np.delete(table, second, axis=0)


@dataclass(frozen=True)
class Move:
    """Cases that are in one cluster here and in one that is not its partner there.

    Cases are places among the common ones; clusters count from 0.
    """

    here: int
    there: int
    cases: Ints


@dataclass(frozen=True, eq=False)
class Crossed:
    """Both trees cut into clusters.

    own, its : (m,) clusters from 0 of the common cases; table : (a, b) how many of them are in each
    pair of clusters; partner : (a,) the cluster of the other tree that each goes with, by the best
    one-to-one matching, -1 for none.
    """

    one: Cut
    other: Cut
    own: Ints
    its: Ints
    table: Ints
    partner: Ints
    agreement: Agreement

    @cached_property
    def partner_of_other(self) -> Ints:
        """(b,) the cluster of the one tree that each of the other goes with, -1 for none."""
        out = np.full(self.other.clusters, -1, dtype=np.int64)
        paired = self.partner >= 0
        out[self.partner[paired]] = np.flatnonzero(paired)
        return out

    @cached_property
    def moved(self) -> Flags:
        """(m,) is a common case in a cluster that is not the partner of its own?"""
        return np.asarray(self.partner[self.own] != self.its)

    @cached_property
    def joined(self) -> list[tuple[int, list[int]]]:
        """Clusters of the other tree that hold nearly all of two or more of the one, and these."""
        return _nearly_all(self.table.T)

    @cached_property
    def parted(self) -> list[tuple[int, list[int]]]:
        """Clusters of the one tree that hold nearly all of two or more of the other, and these."""
        return _nearly_all(self.table)

    @cached_property
    def moves(self) -> list[Move]:
        """The largest first."""
        at = np.flatnonzero(self.moved)
        pairs = sorted({*zip(self.own[at].tolist(), self.its[at].tolist(), strict=True)})
        found = [
            Move(a, b, np.flatnonzero(self.moved & (self.own == a) & (self.its == b)))
            for a, b in pairs
        ]
        return sorted(found, key=lambda move: -len(move.cases))


def _nearly_all(table: Ints) -> list[tuple[int, list[int]]]:
    """Rows that hold nearly all of two or more columns, and these."""
    whole = table.sum(axis=0)
    inside = (table >= _NEARLY * whole) & (whole > 0)
    held = [(row, np.flatnonzero(inside[row]).tolist()) for row in range(len(table))]
    return [(row, columns) for row, columns in held if len(columns) > 1]


def crossed(pair: Pair, one: Cut, other: Cut) -> Crossed:
    """Match the clusters of two cuts; those that share no case with their match have no partner.

    References
    ----------
    Kuhn 1955, The Hungarian method for the assignment problem.
    """
    own, its = one.membership[pair.mine] - 1, other.membership[pair.its] - 1
    table = np.zeros((one.clusters, other.clusters), dtype=np.int64)
    found = cross_counts(own, its)
    table[: found.shape[0], : found.shape[1]] = found
    partner = np.full(one.clusters, -1, dtype=np.int64)
    for a, b in matching(table):
        if table[a, b]:
            partner[a] = b
    return Crossed(one, other, own, its, table, partner, agreement(own, its))


def stands_at(pair: Pair, cut: Cut) -> list[tuple[int, int] | None]:
    """For each cluster of a cut, where the other tree has a cluster of the same cases.

    For each cluster of a cut of the one tree: from which to which count the other tree has a
    cluster of the same common cases; None where it never has, or where no common case is in it.
    """
    tree = pair.other.tree
    below = _below(tree, pair.its)
    own = cut.membership[pair.mine] - 1
    out: list[tuple[int, int] | None] = []
    for cluster in range(cut.clusters):
        members = pair.its[own == cluster]
        out.append(_counts(tree, below, members) if len(members) else None)
    return out


def _below(tree: Tree, cases: Ints) -> Ints:
    """(2n-1,) how many of some cases are below each node."""
    below = np.zeros(tree.n + tree.joins, dtype=np.int64)
    below[cases] = 1
    for join in range(tree.joins):
        below[tree.n + join] = below[tree.left[join]] + below[tree.right[join]]
    return below


def _counts(tree: Tree, below: Ints, members: Ints) -> tuple[int, int] | None:
    n = tree.n
    node = int(members[0])
    while below[node] < len(members) and tree.used_at[node] >= 0:
        node = n + int(tree.used_at[node])
    starts, size = tree.starts, int(tree.sizes[node])
    at = starts[members]
    inside = ((at >= starts[node]) & (at < starts[node] + size)).all()
    if below[node] != len(members) or not inside:
        return None
    most = n if node < n else n - (node - n) - 1
    while tree.used_at[node] >= 0 and below[n + int(tree.used_at[node])] == len(members):
        node = n + int(tree.used_at[node])
    least = 1 if tree.used_at[node] < 0 else n - int(tree.used_at[node])
    return least, most


def called_after(partners: Ints, names: Sequence[Identity]) -> list[Identity]:
    """What clusters are called that go with those of another tree: as these, in small letters.

    partners : the place in `names` of each cluster's partner, -1 for one without, which has a
    letter and a colour that are free.
    """
    out: list[Identity] = []
    taken = {who.name.lower() for who in names}
    beyond = max((who.hue for who in names), default=0)
    for partner in partners.tolist():
        if partner >= 0:
            who = names[partner]
            out.append(replace(who, name=who.name.lower(), title=""))
            continue
        beyond += 1
        while letters(beyond).lower() in taken:
            beyond += 1
        out.append(Identity(letters(beyond).lower(), beyond, 0))
    return out
