"""Cases that move to the nearest centroid: from a cut, and from many starts (k-means)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cuts import cut_at_count

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MANY_MOVE = 0.1  # of the cases: more than that is told of
_ROUNDS = 100
_DRAW = 1e-12  # relative: distances this close are equal
_BLOCK = 1 << 22  # cells of a block


@dataclass(frozen=True, eq=False)
class Relocation:
    """Where cases of a cut go that may go to the nearest centroid.

    before, after : (n,) clusters from 0, with the cut's numbers; rounds in which a case moved;
    w_before, w_after : sums of squares inside clusters; emptied : clusters that end without cases.
    """

    before: Ints
    after: Ints
    rounds: int
    w_before: float
    w_after: float
    emptied: int

    @property
    def moved(self) -> int:
        """Cases that end elsewhere."""
        return int((self.before != self.after).sum())

    @property
    def agreement(self) -> float:
        """Adjusted Rand index of the two."""
        return adjusted_rand(cross_counts(self.before, self.after))


@dataclass(frozen=True)
class Best:
    """The best of k-means at one count.

    w : smallest sum of squares over the starts; w_tree : that of the cut; agreement : adjusted Rand
    index of the best with the cut.
    """

    count: int
    w: float
    w_tree: float
    agreement: float


def why_not(grown: Grown) -> str:
    """Why cases cannot move between centroids; "" where they can."""
    if grown.prepared.measurable_spread:
        return ""
    return "Centroids need numbers without missing answers."


def reassigned(grown: Grown, count: int) -> Relocation:
    """Let cases move to the nearest centroid until nobody moves.

    Give each case to the nearest centroid of a cut, take the centroids anew, and so on until nobody
    moves, or for 100 rounds. The lower number on a draw; a cluster left empty keeps its centroid.

    References
    ----------
    Forgy 1965, Cluster analysis of multivariate data: efficiency versus interpretability of
    classifications. Lloyd 1982, Least squares quantization in PCM.
    """
    points, masses = _points(grown)
    before = cut_at_count(grown.tree, count).membership - 1
    after, rounds = _moved(points, masses, before, _centroids(points, masses, before, count))
    emptied = count - len(np.unique(after))
    return Relocation(
        before, after, rounds, _within(points, masses, before, count),
        _within(points, masses, after, count), emptied,
    )  # fmt: skip


def k_means(
    grown: Grown, counts: Sequence[int], starts: int, seed: int, progress: Progress = silent
) -> list[Best]:
    """The best k-means of many starts, at each count.

    Starts are the cut, and `starts` - 1 times as many different cases drawn as centroids. progress
    : told "kmeans".

    References
    ----------
    MacQueen 1967, Some methods for classification and analysis of multivariate observations.
    """
    points, masses = _points(grown)
    n, out = len(points), []
    for done, count in enumerate(counts):
        moved = reassigned(grown, count)
        best, w = moved.after, moved.w_after
        for start in range(1, starts):
            progress(Phase.KMEANS, (done + start / starts) / len(counts))
            drawn = np.random.default_rng([seed, count, start]).choice(n, count, replace=False)
            own, _ = _moved(points, masses, np.full(n, -1), points[np.sort(drawn)])
            found = _within(points, masses, own, count)
            if found < w:
                best, w = own, found
        agreement = adjusted_rand(cross_counts(moved.before, best))
        out.append(Best(count, w, moved.w_before, agreement))
    return out


def _points(grown: Grown) -> tuple[Floats, Floats]:
    """(n, p) answers, scaled, with the roots of the importances; (n,) masses."""
    prepared = grown.prepared
    assert prepared.answers is not None
    points = prepared.answers.values * np.sqrt(prepared.answers.importance)
    return points, np.ones(prepared.n) if prepared.weights is None else prepared.weights


def _moved(points: Floats, masses: Floats, own: Ints, centroids: Floats) -> tuple[Ints, int]:
    """(n,) where cases end that begin at `own`, and the rounds in which one moved."""
    now = own
    for rounds in range(_ROUNDS):
        after = _nearest(points, centroids)
        if np.array_equal(after, now):
            return now, rounds
        now = after
        new = _centroids(points, masses, now, len(centroids))
        centroids = np.where(np.isnan(new), centroids, new)
    return now, _ROUNDS


def _nearest(points: Floats, centroids: Floats) -> Ints:
    out = np.empty(len(points), dtype=np.int64)
    step = max(1, _BLOCK // max(centroids.size, 1))
    for begin in range(0, len(points), step):
        some = points[begin : begin + step]
        away = ((some[:, None, :] - centroids) ** 2).sum(axis=2)
        least = away.min(axis=1, keepdims=True)
        out[begin : begin + step] = (away <= least * (1 + _DRAW)).argmax(axis=1)
    return out


def _centroids(points: Floats, masses: Floats, own: Ints, count: int) -> Floats:
    """(count, p) weighted means; NaN for a cluster without cases."""
    middle = points.mean(axis=0)  # about the mean of all, so that little is lost
    off = (points - middle) * masses[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        sums = np.stack([np.bincount(own, column, count) for column in off.T], axis=1)
        return np.asarray(middle + sums / np.bincount(own, masses, count)[:, None])


def _within(points: Floats, masses: Floats, own: Ints, count: int) -> float:
    """Sum of squares of the cases about the centroids of their clusters."""
    off = points - _centroids(points, masses, own, count)[own]
    return float((masses * (off**2).sum(axis=1)).sum())
