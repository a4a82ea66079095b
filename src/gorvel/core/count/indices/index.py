"""What a rule is made of, and how it decides: the record of one that does not resample."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress
from gorvel.core.count.indices.nested import Nested
from gorvel.core.count.indices.pairsums import Distances, PairSums
from gorvel.core.count.indices.ranks import Ranked
from gorvel.core.count.indices.scatter import Scatters
from gorvel.core.count.indices.verdicts import NO_VALUE, Verdict
from gorvel.core.count.indices.within_ss import Spreads
from gorvel.core.proximity.answers import Answers
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
NONE = float("nan")


@dataclass(frozen=True, eq=False)
class Material:
    """What rules are worked out from; None where it cannot be had or was not asked for.

    counts : rising, from 2 on at the earliest where pairs are compared.
    """

    tree: Tree
    nested: Nested
    counts: tuple[int, ...]
    answers: Answers | None = None
    masses: Floats | None = None
    spreads: Spreads | None = None
    scatters: Scatters | None = None
    sums: PairSums | None = None
    ranked: Ranked | None = None

    @property
    def n(self) -> int:
        return self.tree.n

    @property
    def mass(self) -> float:
        """Sum of the case weights."""
        return float(self.n) if self.masses is None else float(self.masses.sum())

    @property
    def p(self) -> int:
        assert self.answers is not None
        return int(self.answers.values.shape[1])

    @property
    def spread(self) -> Spreads:
        assert self.spreads is not None
        return self.spreads

    @property
    def scatter(self) -> Scatters:
        assert self.scatters is not None
        return self.scatters

    @property
    def pairs(self) -> PairSums:
        assert self.sums is not None
        return self.sums

    def sum_within(self, count: int) -> float:
        """The sum of the distances of these pairs."""
        totals = self.pairs.to_clusters(count)
        own = np.repeat(np.arange(count), self.nested.cluster_sizes(count))
        return float(totals[np.arange(self.n), own].sum()) / 2


Basis = Literal["spread", "scatter", "heights", "pairs", "ranks", "cases"]  # rising in effort
Value = Callable[[Material, int], float]
Curve = Callable[[Material, Distances, Progress], Floats]  # at all counts at once


@dataclass(frozen=True)
class Bound:
    """The first count that keeps to it is best. of : (counts,) bounds; below : from which side."""

    of: Callable[[Material, tuple[int, ...]], Floats]
    below: bool = True

    def holds(self, found: Floats, bound: Floats) -> NDArray[np.bool_]:
        """(counts,) do values keep to it?"""
        return np.asarray(found <= bound if self.below else found >= bound)


@dataclass(frozen=True)
class Index:
    """How a rule is worked out and decides.

    basis : what it is made of; value : at a count; curve : at all counts, of rules that look around
    each case. The best count is that of the largest or smallest value, as the rule says, or else by
    `bound`, by the largest `merit`, or as `decides` says. alone : what one cluster comes to, where
    the rule can tell; no_value : why there is none, where no value is defined.
    """

    basis: Basis
    value: Value | None = None
    curve: Curve | None = None
    bound: Bound | None = None
    merit: Callable[[Material], Floats] | None = None
    decides: Callable[[Floats, Material], Verdict] | None = None
    alone: Callable[[Material], float] | None = None
    no_value: str = NO_VALUE

    def found(self, material: Material) -> Floats:
        """(counts,) values, of a rule that has one for each count."""
        assert self.value is not None
        return np.array([self.value(material, count) for count in material.counts])


def ratio(above: float, below: float) -> float:
    """A share of something positive, NaN where it is 0."""
    return above / below if below > 0 else NONE


def signed_ratio(above: float, below: float) -> float:
    """A share of something, NaN where it is 0."""
    return above / below if below != 0 else NONE
