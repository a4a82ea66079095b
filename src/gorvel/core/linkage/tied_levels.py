"""Single linkage where edges of the spanning tree are equally long: levels of one height.

All joins of a level are known from the spanning tree, but not their order. By the rule for equal
proximities a group of clusters that hang together at a level is joined as a whole, beginning with
the one that comes first in the file, and always taking in the neighbour that comes first. Who is
whose neighbour is looked up only in groups of three and more clusters.
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# of some cases, with the cluster of each case, to a bound: pairs of cases of different clusters
# that are no further apart, and how far they are
Near = Callable[[Ints, Ints, float], tuple[Ints, Ints, Floats]]
Edge = tuple[int, int, float]
_BETWEEN = 2000  # joins between two reports


class _Forest:
    """Clusters of cases; one keeps the number of its larger part."""

    def __init__(self, n: int) -> None:
        self.of_case = np.arange(n)
        self.members = [[case] for case in range(n)]
        self.first, self.node = list(range(n)), list(range(n))

    def join(self, one: int, other: int, node: int) -> int:
        """The number of two clusters joined."""
        if len(self.members[one]) < len(self.members[other]):
            one, other = other, one
        moved = self.members[other]
        self.of_case[moved] = one
        self.members[one].extend(moved)
        self.members[other] = []
        self.first[one] = min(self.first[one], self.first[other])
        self.node[one] = node
        return one


class _Growing:
    """The joins so far."""

    def __init__(self, n: int, progress: Progress) -> None:
        self.n, self.made = n, 0
        self._progress = progress
        self.forest = _Forest(n)
        self.left, self.right = np.zeros((2, n - 1), dtype=np.int64)
        self.heights, self.flags = np.zeros(n - 1), np.zeros((2, n - 1), dtype=bool)

    def tell(self, step: int) -> None:
        """Report now and then."""
        if step % _BETWEEN == 0:
            self._progress(Phase.TIES, self.made / self.n)

    def join(self, one: int, other: int, height: float, tied: bool, matters: bool) -> int:
        """Note a join; returns the number of the cluster made."""
        forest, k = self.forest, self.made
        self.tell(k)
        if forest.first[other] < forest.first[one]:
            one, other = other, one
        self.left[k], self.right[k] = forest.node[one], forest.node[other]
        self.heights[k] = height
        self.flags[0, k], self.flags[1, k] = tied, matters
        self.made += 1
        return forest.join(one, other, self.n + k)


def levels_joined(
    n: int, edges: list[Edge], tolerance: float, near: Near, progress: Progress
) -> Tree:
    """The tree of a spanning tree.

    Parameters
    ----------
    n : cases, at least 2; edges : n - 1 of two cases and their distance, rising; tolerance :
    relative, up to which edges are equally long; near : see `Near`; progress : told "ties".
    """
    growing, begin = _Growing(n, progress), 0
    while begin < len(edges):
        low = edges[begin][2]
        bound, end = low + tolerance * low, begin + 1
        while end < len(edges) and edges[end][2] <= bound:
            end += 1
        _join_level(growing, edges[begin:end], bound, near)
        begin = end
    return Tree(n, growing.left, growing.right, growing.heights, *growing.flags)


def _join_level(growing: _Growing, edges: list[Edge], bound: float, near: Near) -> None:
    forest, left = growing.forest, len(edges)
    links = _links(growing, edges)
    groups = _groups(growing, links)
    asking = [group for group in groups if len(group) > 2]
    if asking:
        links |= _neighbours(growing, asking, bound, near)
    for group in groups:
        here = group[0]
        for made, (other, height) in enumerate(_in_order(forest, links, group), 2):
            here = growing.join(here, other, height, left > 1, made < len(group))
            left -= 1


Links = dict[int, dict[int, float]]  # of each cluster its neighbours, and how far they are


def _links(growing: _Growing, edges: list[Edge]) -> Links:
    """Neighbours by the spanning tree alone."""
    forest, links = growing.forest, defaultdict[int, dict[int, float]](dict)
    for k, (a, b, length) in enumerate(edges):
        growing.tell(k)
        one, other = int(forest.of_case[a]), int(forest.of_case[b])
        links[one][other] = links[other][one] = length
    return links


def _groups(growing: _Growing, links: Links) -> list[list[int]]:
    """Clusters that hang together; groups, and clusters in them, by who comes first in the file."""

    def first(cluster: int) -> int:
        return growing.forest.first[cluster]

    groups: list[list[int]] = []
    seen: set[int] = set()
    for k, cluster in enumerate(sorted(links, key=first)):
        growing.tell(k)
        if cluster in seen:
            continue
        group, ahead = [], [cluster]
        seen.add(cluster)
        while ahead:
            here = ahead.pop()
            group.append(here)
            fresh = [other for other in links[here] if other not in seen]
            seen.update(fresh)
            ahead.extend(fresh)
        groups.append(sorted(group, key=first))
    return groups


def _neighbours(growing: _Growing, groups: list[list[int]], bound: float, near: Near) -> Links:
    """Who of each group is no further than the bound from whom; the largest is not asked."""
    forest, asking = growing.forest, list[int]()
    for group in groups:
        largest = max(group, key=lambda cluster: len(forest.members[cluster]))
        for cluster in group:
            if cluster != largest:
                asking += forest.members[cluster]
    ones, others, lengths = near(np.array(sorted(asking)), forest.of_case, bound)
    n = len(forest.of_case)
    keys = forest.of_case[ones] * n + forest.of_case[others]
    order = np.lexsort((lengths, keys))
    keys, lengths = keys[order], lengths[order]
    nearest = np.flatnonzero(np.diff(keys, prepend=-1))
    links: Links = defaultdict(dict)
    found = zip(keys[nearest].tolist(), lengths[nearest].tolist(), strict=True)
    for k, (key, length) in enumerate(found):
        growing.tell(k)
        one, other = divmod(key, n)
        links[one][other] = links[other][one] = length
    return links


def _in_order(forest: _Forest, links: Links, group: list[int]) -> Iterator[tuple[int, float]]:
    """What the first cluster of a group takes in, one after the other, and at what height."""
    apart: dict[int, float] = {}
    ahead: list[tuple[int, int]] = []
    here, inside = group[0], {group[0]}
    firsts = {cluster: forest.first[cluster] for cluster in group}
    while len(inside) < len(group):
        for other, length in links[here].items():
            if other not in inside:
                if other not in apart:
                    heapq.heappush(ahead, (firsts[other], other))
                apart[other] = min(length, apart.get(other, length))
        here = heapq.heappop(ahead)[1]
        inside.add(here)
        yield here, apart[here]
