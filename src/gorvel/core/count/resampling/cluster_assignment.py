"""Where cases belong by the tree of some of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Judge:
    """The tree of some rows of a study, which tells where others belong.

    rows : of the study, one for each case of the tree; times : how often each was drawn; finest :
    count up to which it is asked.
    """

    resampler: TreeResampler
    rows: Ints
    times: Ints
    tree: Tree
    finest: int

    @classmethod
    def of_rows(cls, resampler: TreeResampler, rows: Ints, finest: int) -> Judge:
        """Of different cases."""
        return cls(resampler, rows, np.ones_like(rows), resampler.of_rows(rows), finest)

    @classmethod
    def of_drawn(cls, resampler: TreeResampler, drawn: Ints, finest: int) -> Judge:
        """Of cases drawn with replacement, rising."""
        if not resampler.folds:
            return cls.of_rows(resampler, drawn, finest)
        cases, times = np.unique(drawn, return_counts=True)
        return cls(resampler, cases, times, resampler.of_rows(cases, times), finest)

    def assigned(self, others: Ints, counts: Sequence[int]) -> list[Ints | None]:
        """(others,) clusters at each count.

        By the nearest centroid under a Euclidean measure of complete numbers, else by the smallest
        mean proximity; None where there are not that many cases.
        """
        nested = nested_cuts(self.tree, min(self.finest, self.tree.n))
        order, times = self.rows[nested.order], self.times[nested.order]
        prepared = self.resampler.prepared
        flat = MEASURES[self.resampler.grown.method.measure].flat
        numeric = flat and prepared.measurable_spread and prepared.answers is not None
        if not numeric:
            block = Distances(self.resampler.grown.pairs).block(others, order) * times
            sums = np.add.reduceat(block, nested.bounds[:-1], axis=1)
        out: list[Ints | None] = []
        for count in counts:
            if count > nested.finest:
                out.append(None)
                continue
            begins = nested.bounds[nested.starts(count)]
            if numeric:
                far = self._from_centroids(others, order, times, begins)
            else:
                totals = np.add.reduceat(sums, nested.starts(count), axis=1)
                far = totals / np.add.reduceat(times, begins)
            out.append(far.argmin(axis=1))
        return out

    def _from_centroids(self, others: Ints, order: Ints, times: Ints, begins: Ints) -> Floats:
        """(others, clusters) squared distances; begins : where clusters begin in `order`."""
        answers = self.resampler.prepared.answers
        assert answers is not None
        points, masses = answers.points, self.resampler.masses[order] * times
        sums = np.add.reduceat(points[order] * masses[:, None], begins, axis=0)
        centroids = sums / np.add.reduceat(masses, begins)[:, None]
        return np.stack([((points[others] - c) ** 2).sum(axis=1) for c in centroids], axis=1)
