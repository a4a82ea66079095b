"""How far a tree depends on the order of the cases, which decides between equal proximities."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.count.agreement import cross_counts
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Orders:
    """Of the pairs that share a cluster, the share that does so in other orders too.

    counts; mean, lowest : (counts,) over the orders; orders : how many were tried.
    """

    counts: tuple[int, ...]
    mean: Floats
    lowest: Floats
    orders: int


@dataclass(frozen=True, eq=False)
class _Mixed:
    """(counts,) the share of pairs that stay together when the cases are reordered.

    own : clusters at each count.
    """

    resampler: TreeResampler
    counts: tuple[int, ...]
    own: tuple[NDArray[np.int64], ...]
    seed: int

    def run(self, number: int, progress: Progress) -> Floats:
        n = self.resampler.prepared.n
        mixed = np.random.default_rng([self.seed, number, 7]).permutation(n)
        again = nested_cuts(self.resampler.watched(progress).of_rows(mixed), self.counts[-1])
        pairs = zip(self.own, self.counts, strict=True)
        return np.array([_kept_together(one[mixed], again.clusters(k)) for one, k in pairs])


def random_orders(
    grown: Grown, counts: tuple[int, ...], orders: int, seed: int, progress: Progress = silent,
    engine: Engine | None = None,
) -> Orders:  # fmt: skip
    """Grow the tree again with the cases in random orders.

    progress : told "orders"; may stop the work by raising.
    """
    if not counts:
        return Orders((), np.zeros(0), np.zeros(0), 0)
    resampler = TreeResampler(grown)
    nested = nested_cuts(grown.tree, counts[-1])
    own = tuple(nested.clusters(count) for count in counts)
    task = _Mixed(resampler, counts, own, seed)
    stage = Stage(progress, Phase.ORDERS)
    found = np.array([*rounds_of(engine or resampler.engine, task, orders, stage)])
    return Orders(counts, found.mean(axis=0), found.min(axis=0), orders)


def _kept_together(one: NDArray[np.int64], other: NDArray[np.int64]) -> float:
    """The share of pairs together in `one` that are together in `other`; 1 where there are none."""
    table = cross_counts(one, other)
    sizes = table.sum(axis=1)
    together = int((sizes * (sizes - 1)).sum())
    return float((table * (table - 1)).sum() / together) if together else 1.0
