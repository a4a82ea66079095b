"""What a compiled loop needs to know to measure pairs of cases."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

# how: sums of one kind of term over complete answers; terms over what both cases have; looking up
# the counts of yes/no answers; the chi-square of the table of a pair
SUMS, KNOWN, TABLE, CHI = range(4)
# terms of a variable; |x - y| / (|x| + |y|); |x - y| against |x + y|; the largest |x - y|
SQUARES, ABSOLUTE, UNEQUAL, UNEQUAL_UNLESS_ABSENT, RATIO, BOTH, LARGEST = range(7)


class Recipe(NamedTuple):
    """How pairs of n cases are measured by p variables.

    x : (p, n) answers, NaN where missing; gains : (p,) by which terms are multiplied; shares : (p,)
    what variables count for, `total` altogether; terms : (p,); mean : divided by what counts, where
    sums are otherwise scaled up to the total; factor, rooted : what follows; safe :
    nothing can come out but finite numbers; words : (n,) answers as
    bits; counts : (n,) of answers present; sums : (n,) of a case's answers; table : (m+1, m+1, m+1)
    distance by answers present in one, in the other, in both of m.
    """

    how: int
    x: Floats
    gains: Floats
    shares: Floats
    terms: NDArray[np.int64]
    total: float
    mean: bool
    factor: float
    rooted: bool
    safe: bool
    words: NDArray[np.uint64]
    counts: NDArray[np.int64]
    sums: Floats
    table: Floats

    def of(self, order: NDArray[np.int64]) -> Recipe:
        """The same of some cases, or in another order."""
        return self._replace(
            x=np.ascontiguousarray(self.x[:, order]),
            words=self.words[order] if len(self.words) else self.words,
            counts=self.counts[order] if len(self.counts) else self.counts,
            sums=self.sums[order] if len(self.sums) else self.sums,
        )
