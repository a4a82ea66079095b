"""An index of a tree beside those of trees of data without groups."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class NullComparison:
    """What both kinds of evidence tell.

    counts : rising; values : (counts,) of the tree; drawn : (draws, counts) of data without groups;
    sign : 1 where large values speak for groups, -1 where small ones do. A count at which any value
    is NaN has no standing.
    """

    counts: tuple[int, ...]
    values: Floats
    drawn: Floats
    sign: float = 1.0

    @property
    def draws(self) -> int:
        return len(self.drawn)

    @property
    def mean(self) -> Floats:
        """(counts,) of the draws."""
        return np.asarray(self.drawn.mean(axis=0))

    @property
    def sd(self) -> Floats:
        """(counts,) of the draws."""
        return np.asarray(self.drawn.std(axis=0, ddof=1))

    @property
    def standing(self) -> Floats:
        """(counts,) of the tree, in standard deviations on the side of groups from the mean."""
        return self._standing(self.values)

    def _standing(self, values: Floats) -> Floats:
        sd = self.sd
        return np.asarray(self.sign * (values - self.mean) / np.where(sd == 0, np.inf, sd))

    @property
    def by_count(self) -> Floats:
        """(counts,) p of each count by itself."""
        reach = (self.sign * self.drawn >= self.sign * self.values).sum(axis=0)
        p = (1 + reach) / (1 + self.draws)
        return np.asarray(np.where(np.isnan(self.values + self.mean), np.nan, p))

    @property
    def told(self) -> bool:
        """Is there a standing at any count?"""
        return self.draws > 1 and bool(np.isfinite(self.standing).any())

    @property
    def p(self) -> float | None:
        """Of the count that stands highest, all counts taken together; None without draws."""
        if not self.told:
            return None
        known = np.isfinite(self.standing)
        highest = self._standing(self.drawn)[:, known].max(axis=1)
        return float((1 + (highest >= self.standing[known].max()).sum()) / (1 + self.draws))

    @property
    def highest(self) -> int | None:
        """The count that stands highest."""
        return self.counts[int(np.nanargmax(self.standing))] if self.told else None


@dataclass(frozen=True, eq=False)
class IndexComparison(NullComparison):
    """An index beside the silhouette."""

    counts: tuple[int, ...]
    values: Floats
    drawn: Floats
    sign: float = 1.0
