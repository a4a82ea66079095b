"""Are the clusters of one group of a split found in another one, too?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.compare.pair import common_places
from gorvel.core.compare.partitions import matching
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.assigning import assign
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count

Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Replication:
    """The cases of one group in the clusters of another group’s tree, and in those of their own.

    cases : that have both; agreement : adjusted Rand index, NaN for fewer than 2; table : (k, k)
    how many are in each cluster of the other’s tree, by their own; method : by which distance they
    were given to it.
    """

    cases: int
    agreement: float
    table: Ints
    method: str

    @property
    def facing(self) -> list[int]:
        """Own clusters in the order of those of the other’s tree that they go with.

        The rest last; from 0, by the best one-to-one matching.
        """
        partners = dict(matching(self.table))
        faced = [partners[row] for row in range(len(self.table)) if row in partners]
        return faced + [column for column in range(self.table.shape[1]) if column not in faced]


def found_again(
    table: Table, plan: Plan, trees: Mapping[str, Grown], count: int, progress: Progress = silent
) -> dict[tuple[str, str], Replication]:
    """How far clusters of each group are found again in those of every other.

    Cut the tree of each group into as many clusters, and give the cases of each to those of every
    other: to the nearest centroid, or under other measures to the cluster of the smallest mean
    proximity, on the scales of the group whose tree it is. A tree of fewer cases than that is cut
    into as many clusters as it has cases.

    Parameters
    ----------
    plan : that grew them; trees : by group; count : of clusters; progress : may stop the work.

    Returns
    -------
    By the group whose tree it is, and the one whose cases are given.

    Raises
    ------
    InputError : see `assign`.

    References
    ----------
    McIntyre & Blashfield 1980, A nearest-centroid technique for evaluating the minimum-variance
    clustering procedure; Breckenridge 2000, Validating cluster analysis: consistent replication
    and symmetry.
    """
    out, pairs = {}, [(one, other) for one in trees for other in trees if one != other]
    for done, (one, other) in enumerate(pairs):
        progress(Phase.ASSIGN, done / len(pairs))
        tree, own = trees[one].tree, trees[other]
        clusters = min(count, tree.n), min(count, own.tree.n)
        given = assign(table, plan, trees[one], table, [clusters[0]], other)
        at, mine = common_places(np.array(given.cases), own.prepared.numbers)
        theirs = given.by_count[clusters[0]].cluster[at]
        known = theirs > 0
        found = theirs[known] - 1, cut_at_count(own.tree, clusters[1]).membership[mine][known] - 1
        counts = np.zeros(clusters, dtype=np.int64)
        some = cross_counts(*found)
        counts[: some.shape[0], : some.shape[1]] = some
        cases = int(known.sum())
        agreement = adjusted_rand(some) if cases > 1 else float("nan")
        out[one, other] = Replication(cases, agreement, counts, given.method)
    return out
