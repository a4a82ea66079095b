"""Growing a tree, one join at a time, by the rule for equal proximities.

Among all pairs at the smallest proximity (relative tolerance 1e-12) the one is joined whose
earlier-numbered cluster comes first in the file, then whose other cluster comes first; a cluster
is numbered by its earliest case. A cluster lives in the row of that case, so the order of rows is
the order of clusters. For each row the nearest later row is kept and repaired after each join
(Anderberg 1973, stored nearest neighbours): exact for every rule, with or without ties.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.joining import Joining, joining_of
from gorvel.core.linkage.rules import LINKAGES, Linkage
from gorvel.core.tree.tree import TIE_TOLERANCE, Tree

_REPORT_EVERY = 32  # joins

Floats = NDArray[np.float64]


def heights_are_roots(linkage: Linkage, squares: bool) -> bool:
    """Does the rule square the proximities first, and take the root of its heights?

    squares : they are taken for squares already.
    """
    return linkage.squares and not squares


def working_proximities(
    proximities: Floats, linkage: Linkage, squares: bool, masses: Floats | None
) -> Floats:
    """A copy of the proximities in the geometry the rule works on; the joins consume it.

    squares : a rule on squared geometry takes them for squares already.
    Ward starts from 2 w_i w_j / (w_i + w_j) d^2, so that two single cases of weight 1 join at
    their own proximity.
    """
    to_square = heights_are_roots(linkage, squares)
    work = np.square(proximities) if to_square else proximities.copy()
    if linkage.of_losses and masses is not None:
        for i, mass in enumerate(masses):
            work[i] *= 2.0 * mass * masses / (mass + masses)
    return work


def chi_square_losses(distances: Floats, masses: Floats) -> Floats:
    """The chi-square that each two rows of a cross table lose when they are joined.

    w_i w_j / (w_i + w_j) d_ij^2, which Ward's update then keeps up to date.

    distances : (n, n) of `chi_square_distances`; masses : (n,) totals of the rows.

    References
    ----------
    Greenacre 1988, Clustering the rows and columns of a contingency table.
    """
    work = np.square(distances)
    for i, mass in enumerate(masses):
        work[i] *= mass * masses / (mass + masses)
    return work


@dataclass(frozen=True)
class _Nearest:
    """For each row the smallest proximity to a later row, and which row that is."""

    at: NDArray[np.int64]
    how_far: Floats

    @classmethod
    def of(cls, work: Floats) -> _Nearest:
        n = work.shape[0]
        nearest = cls(np.zeros(n, dtype=np.int64), np.full(n, np.inf))
        for row in range(n - 1):
            nearest.look_again(work, row)
        return nearest

    def look_again(self, work: Floats, row: int) -> None:
        """Search the row anew."""
        later = work[row, row + 1 :]
        if later.size == 0:
            self.how_far[row] = np.inf
            return
        place = int(later.argmin())
        self.at[row] = row + 1 + place
        self.how_far[row] = later[place]

    def repair(self, work: Floats, i: int, j: int) -> None:
        """Rows i and j became row i: mend the rows that pointed at either, or are nearer now."""
        self.how_far[j] = np.inf
        new = work[:i, i]
        pointed = (self.at[:i] == i) | (self.at[:i] == j)
        alive = np.isfinite(self.how_far[:i])
        nearer = new <= self.how_far[:i]
        take = np.flatnonzero(nearer & alive)
        self.at[take] = i
        self.how_far[take] = new[take]
        for row in np.flatnonzero(pointed & ~nearer & alive):
            self.look_again(work, int(row))
        between = np.flatnonzero((self.at[i + 1 : j] == j) & np.isfinite(self.how_far[i + 1 : j]))
        for row in between:
            self.look_again(work, i + 1 + int(row))
        self.look_again(work, i)


def join_rows(work: Floats, i: int, j: int, masses: Floats, joining: Joining) -> None:
    """Put the joined cluster into row i, and take row j out."""
    new = joining.join(i, j)
    new[i] = new[j] = np.inf
    work[i] = new
    work[:, i] = new
    work[j] = np.inf
    work[:, j] = np.inf
    masses[i] += masses[j]


def grow(
    work: Floats,
    key: str,
    masses: Floats | None = None,
    roots: bool = False,
    progress: Progress = silent,
    beta: float = 0.0,
) -> Tree:
    """Grow the tree of n cases.

    Parameters
    ----------
    work : (n, n) working proximities, symmetric (see `working_proximities`); is consumed.
    key : of the linkage; masses : (n,) case weights, default 1; roots : report root heights.
    progress : told the share of joins done; may stop the work by raising; beta : of flexible rules.

    References
    ----------
    Lance & Williams 1967, A general theory of classificatory sorting strategies.
    """
    linkage = LINKAGES[key]
    n = work.shape[0]
    masses = np.ones(n) if masses is None or not linkage.masses else masses.astype(np.float64)
    joins = max(n - 1, 0)
    left, right = np.zeros(joins, dtype=np.int64), np.zeros(joins, dtype=np.int64)
    heights = np.zeros(joins)
    tied, matters = np.zeros(joins, dtype=bool), np.zeros(joins, dtype=bool)
    node = np.arange(n, dtype=np.int64)  # what now lives in each row
    np.fill_diagonal(work, np.inf)
    nearest = _Nearest.of(work)
    joining = joining_of(linkage, work, masses, beta)
    for k in range(joins):
        if k % _REPORT_EVERY == 0:
            progress(Phase.JOINS, k / joins)
        low = float(nearest.how_far.min())
        bound = low + TIE_TOLERANCE * abs(low)
        rows = np.flatnonzero(nearest.how_far <= bound)
        i = int(rows[0])
        near_i = work[i] <= bound
        j = i + 1 + int(near_i[i + 1 :].argmax())
        matters[k] = np.count_nonzero(near_i) > 1 or np.count_nonzero(work[j] <= bound) > 1
        tied[k] = rows.size > 1 or matters[k]
        left[k], right[k], heights[k] = node[i], node[j], work[i, j]
        join_rows(work, i, j, masses, joining)
        node[i] = n + k
        nearest.repair(work, i, j)
    if roots:
        heights = np.sqrt(np.maximum(heights, 0.0))
    return Tree(n, left, right, heights, tied, matters)
