"""Where the answers of a variable are cut off."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def ends_of(values: NDArray[np.float64], percents: Sequence[float]) -> tuple[float, float]:
    """Two percentiles of the known answers. values : (n,), NaN where missing.

    Where none is known nothing lies beyond them.
    """
    known = values[~np.isnan(values)]
    if not len(known):
        return -np.inf, np.inf
    low, high = np.percentile(known, percents).tolist()
    return low, high
