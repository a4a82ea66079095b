"""How the proximities of all clusters to a joined one are had, rule by rule."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from gorvel.core.linkage.rules import Linkage, Pair

Floats = NDArray[np.float64]


class Joining(Protocol):
    """Follows the clusters of one tree."""

    def join(self, i: int, j: int) -> Floats:
        """(n,) proximities of every cluster to rows i and j joined; infinity for dead ones."""
        ...


class _ByUpdate:
    """Rules that update proximities. work : (n, n); masses : (n,), both kept up to date by grow."""

    def __init__(self, linkage: Linkage, work: Floats, masses: Floats, beta: float) -> None:
        self._linkage, self._work, self._masses, self._beta = linkage, work, masses, beta

    def join(self, i: int, j: int) -> Floats:
        work, masses = self._work, self._masses
        assert self._linkage.recurrence is not None
        return self._linkage.recurrence(
            Pair(
                work[i], work[j], float(work[i, j]), masses, float(masses[i]), float(masses[j]),
                self._beta,
            )
        )  # fmt: skip


class _WithinAverage:
    """Means inside clusters, from exact sums: inside each cluster, and across each pair of them."""

    def __init__(self, work: Floats, masses: Floats) -> None:
        self._work, self._masses = work, masses
        across = np.where(np.isfinite(work), work, 0.0)
        self._across = across * masses[:, None] * masses
        self._inside = np.zeros(len(masses))
        self._pairs = np.zeros(len(masses))

    def join(self, i: int, j: int) -> Floats:
        across, inside, pairs, masses = self._across, self._inside, self._pairs, self._masses
        inside[i] += inside[j] + across[i, j]
        pairs[i] += pairs[j] + masses[i] * masses[j]
        across[i] += across[j]
        across[:, i] = across[i]
        joined = masses[i] + masses[j]
        new = (inside + inside[i] + across[i]) / (pairs + pairs[i] + masses * joined)
        new[np.isinf(self._work[i])] = np.inf
        return np.asarray(new)


class _Minimax:
    """For each cluster and case, the largest proximity of the case to a member.

    reach : (clusters, cases); owner : (n,) the row of each case's cluster.
    """

    def __init__(self, work: Floats) -> None:
        self._work = work
        self._reach = np.where(np.isfinite(work), work, 0.0)
        self._owner = np.arange(len(work))

    def join(self, i: int, j: int) -> Floats:
        reach, owner = self._reach, self._owner
        reach[i] = np.maximum(reach[i], reach[j])
        owner[owner == j] = i
        own = np.flatnonzero(owner == i)
        inside = np.maximum(reach[:, own], reach[i, own]).min(axis=1)
        cases = np.arange(len(owner))
        outside = np.full(len(owner), np.inf)
        np.minimum.at(outside, owner, np.maximum(reach[owner, cases], reach[i]))
        new = np.minimum(inside, outside)
        new[np.isinf(self._work[i])] = np.inf
        return np.asarray(new)


def joining_of(linkage: Linkage, work: Floats, masses: Floats, beta: float) -> Joining:
    """What follows the clusters under a rule.

    work : (n, n) with infinity on the diagonal and in dead rows; masses : (n,).
    """
    if linkage.members == "minimax":
        return _Minimax(work)
    if linkage.members is not None:
        return _WithinAverage(work, masses)
    return _ByUpdate(linkage, work, masses, beta)
