"""Two trees of the same cases face to face, turned so that few lines between them cross."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.scene.arrangement import Arrangement, arrange, by_mean
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_SWEEPS = 4  # of barycentres, before branches are turned exactly
_ROUNDS = 30  # of turning one tree after the other, at most
_REPORT_EVERY = 1024  # joins


@dataclass(frozen=True, eq=False)
class Facing:
    """left, right : the trees laid out; before, after : crossings as they were grown, and now."""

    left: Arrangement
    right: Arrangement
    before: int
    after: int


def crossings(places: Ints) -> int:
    """Pairs of lines that cross. places : (m,) where the lines end, in the order they begin in.

    Counted bit by bit from the largest on: among ends that are alike so far, a one before a nought
    is a crossing.
    """
    m = len(places)
    if m < 2:
        return 0
    ranks = np.argsort(np.argsort(places, kind="stable"), kind="stable")
    total = 0
    for bit in range(int(m - 1).bit_length() - 1, -1, -1):
        alike, one = ranks >> (bit + 1), (ranks >> bit) & 1
        ones = np.cumsum(one)
        begins = np.flatnonzero(np.append(True, alike[1:] != alike[:-1]))
        before = np.repeat(ones[begins] - one[begins], np.diff(np.append(begins, m)))
        total += int((ones - before)[one == 0].sum())
        ranks = ranks[np.argsort(ranks >> bit, kind="stable")]
    return total


def turned(
    tree: Tree, places: Floats, flipped: Flags, progress: Progress = silent
) -> Flags:  # fmt: skip
    """The flips of a tree at which the fewest lines cross; each join counts by itself.

    Parameters
    ----------
    places : (n,) where each case's line ends on the other side, NaN for a case without one;
    flipped : (n-1,) kept where both ways cross as often; progress : told "untangle".

    References
    ----------
    Fernau, Kaufmann & Poths 2010, Comparing trees via crossing minimization.
    """
    below: list[Floats | None] = [
        np.empty(0) if np.isnan(place) else np.array([place]) for place in places.tolist()
    ]
    out = flipped.copy()
    for k, (left, right) in enumerate(zip(tree.left.tolist(), tree.right.tolist(), strict=True)):
        if k % _REPORT_EVERY == 0:
            progress(Phase.UNTANGLE, k / max(tree.joins, 1))
        one, other = below[left], below[right]
        assert one is not None
        assert other is not None
        below[left] = below[right] = None
        pairs = len(one) * len(other)
        if len(one) > len(other):
            at = np.searchsorted(one, other)
            crossed = pairs - int(at.sum())  # with the left part first
            both = np.insert(one, at, other)
        else:
            at = np.searchsorted(other, one)
            crossed = int(at.sum())
            both = np.insert(other, at, one)
        below.append(both)
        if 2 * crossed != pairs:
            out[k] = 2 * crossed > pairs
    return out


def untangled(
    one: Tree, other: Tree, cases: Ints, its_cases: Ints, progress: Progress = silent
) -> Facing:
    """Turn branches of both trees until turning one of them alone helps no more.

    Twice: from the trees as they were grown, and from sweeps in which the parts of each join are
    put in the order of their mean ends on the other side; the better one is taken. The least number
    of crossings over both trees at once is not promised, which nobody can work out in general.

    Parameters
    ----------
    cases, its_cases : (m,) places of the same cases in the one and in the other tree.

    References
    ----------
    Sugiyama, Tagawa & Toda 1981, Methods for visual understanding of hierarchical system structures
    (barycentres).
    Fernau, Kaufmann & Poths 2010, Comparing trees via crossing minimization.
    """
    plain = np.zeros(one.joins, dtype=bool), np.zeros(other.joins, dtype=bool)
    ends = _Ends(one, other, cases, its_cases)
    before = ends.crossed(*plain)
    best, least = plain, before
    for begin in (plain, ends.by_means(*plain)):
        mine, its = begin
        crossed = ends.crossed(mine, its)
        for _ in range(_ROUNDS):
            if crossed == 0:
                break
            its = turned(other, ends.of_other(mine), its, progress)
            mine = turned(one, ends.of_one(its), mine, progress)
            now = ends.crossed(mine, its)
            if now >= crossed:
                break
            crossed = now
        if crossed < least:
            best, least = (mine, its), crossed
    return Facing(arrange(one, best[0]), arrange(other, best[1]), before, least)


@dataclass(frozen=True, eq=False)
class _Ends:
    """Where lines end. mine, its : (m,) the same cases in the one and in the other tree."""

    one: Tree
    other: Tree
    mine: Ints
    its: Ints

    def crossed(self, flips: Flags, its_flips: Flags) -> int:
        """Crossings with both trees turned so."""
        return _crossed(arrange(self.one, flips), arrange(self.other, its_flips),
                        self.mine, self.its)  # fmt: skip

    def of_one(self, its_flips: Flags) -> Floats:
        """(n,) where the lines of the one tree's cases end in the other, NaN without one."""
        out = np.full(self.one.n, np.nan)
        out[self.mine] = arrange(self.other, its_flips).starts[self.its]
        return out

    def of_other(self, flips: Flags) -> Floats:
        """(n,) where the lines of the other tree's cases end in the one."""
        out = np.full(self.other.n, np.nan)
        out[self.its] = arrange(self.one, flips).starts[self.mine]
        return out

    def by_means(self, flips: Flags, its_flips: Flags) -> tuple[Flags, Flags]:
        """Parts in the order of their mean ends, in turn."""
        for _ in range(_SWEEPS):
            its_flips = by_mean(self.other, self.of_other(flips))
            flips = by_mean(self.one, self.of_one(its_flips))
        return flips, its_flips


def _crossed(left: Arrangement, right: Arrangement, cases: Ints, its_cases: Ints) -> int:
    """Crossings of the lines between the same cases of two trees laid out."""
    order = np.argsort(left.starts[cases], kind="stable")
    return crossings(right.starts[its_cases[order]])
