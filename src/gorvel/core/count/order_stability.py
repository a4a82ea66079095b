"""How far a tree depends on the order of the cases, which decides between equal proximities."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.agreement import cross_counts
from gorvel.core.count.nested import nested_cuts
from gorvel.core.count.resampling_engine import ProgressStage, TreeResampler, in_order
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


def random_orders(
    grown: Grown, counts: tuple[int, ...], orders: int, seed: int, progress: Progress = silent
) -> Orders:
    """Grow the tree again with the cases in random orders.

    progress : told "orders"; may stop the work by raising.
    """
    n = grown.tree.n
    if not counts:
        return Orders((), np.zeros(0), np.zeros(0), 0)
    pulse = ProgressStage(progress, Phase.ORDERS)
    regrower = TreeResampler(grown, pulse)
    nested = nested_cuts(grown.tree, counts[-1])
    own = [nested.clusters(count) for count in counts]

    def kept(number: int) -> Floats:
        mixed = np.random.default_rng([seed, number, 7]).permutation(n)
        again = nested_cuts(regrower.of_rows(mixed), counts[-1])
        return np.array(
            [
                _kept_together(one[mixed], again.clusters(k))
                for one, k in zip(own, counts, strict=True)
            ]
        )

    shares = []
    for share in in_order(kept, orders, regrower.workers):
        shares.append(share)
        pulse.tell(len(shares) / orders)
    found = np.array(shares)
    return Orders(counts, found.mean(axis=0), found.min(axis=0), orders)


def _kept_together(one: NDArray[np.int64], other: NDArray[np.int64]) -> float:
    """The share of pairs together in `one` that are together in `other`; 1 where there are none."""
    table = cross_counts(one, other)
    sizes = table.sum(axis=1)
    together = int((sizes * (sizes - 1)).sum())
    return float((table * (table - 1)).sum() / together) if together else 1.0
