"""Has a variable more than one peak: Hartigan and Hartigan's dip test."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

# quantiles of sqrt(n) times the dip of even noise, by n, at these p-values; 10,000 replicates each,
# made by tools/dip_table.py. Even noise is the unimodal distribution with the largest dips.
LEVELS = (0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001)
TABLE: dict[int, tuple[float, ...]] = {
    10: (0.3098, 0.3764, 0.4134, 0.4409, 0.4763, 0.5003, 0.5277, 0.5433, 0.5518),
    20: (0.3283, 0.3972, 0.4359, 0.4703, 0.5051, 0.5364, 0.5626, 0.5865, 0.6015),
    50: (0.3469, 0.4144, 0.4576, 0.4977, 0.5418, 0.5762, 0.6008, 0.6616, 0.6830),
    100: (0.3540, 0.4275, 0.4716, 0.5096, 0.5616, 0.5992, 0.6267, 0.6545, 0.6975),
    200: (0.3613, 0.4342, 0.4803, 0.5202, 0.5689, 0.6001, 0.6318, 0.6804, 0.7038),
    500: (0.3688, 0.4413, 0.4871, 0.5278, 0.5808, 0.6134, 0.6530, 0.6891, 0.7070),
}


def dip(values: Floats) -> float:
    """The least distance of the empirical distribution of (n,) values from a unimodal one.

    Where the largest convex curve below the steps and the smallest concave one above them are
    furthest apart, the modal interval ends; what the steps rise above the curves outside of it is
    twice the dip; and so on inside, as long as the curves are further apart than that.

    Returns
    -------
    Between 1 / (2 n) and 1 / 4; 0 for fewer than 2 different values.

    References
    ----------
    Hartigan & Hartigan 1985, The dip test of unimodality, Annals of Statistics 13; Hartigan 1985,
    Computation of the dip statistic to test for unimodality, Applied Statistics 34.
    """
    x, counts = np.unique(values, return_counts=True)
    if len(x) < 2:
        return 0.0
    after = np.cumsum(counts) / len(values)
    before = after - counts / len(values)
    low, high, found = 0, len(x) - 1, 1 / len(values)
    while low < high:
        part = slice(low, high + 1)
        convex = low + _hull(x[part], before[part])
        concave = low + _hull(x[part], -after[part])
        below = np.interp(x[part], x[convex], before[convex])
        above = np.interp(x[part], x[concave], after[concave])
        at_convex = (above - before[part])[convex - low]
        at_concave = (after[part] - below)[concave - low]
        if max(at_convex.max(), at_concave.max()) <= found:
            break
        if at_convex.max() > at_concave.max():
            new_low = int(convex[at_convex.argmax()])
            new_high = int(concave[np.searchsorted(concave, new_low)])
        else:
            new_high = int(concave[at_concave.argmax()])
            new_low = int(convex[np.searchsorted(convex, new_high, side="right") - 1])
        left = (after[part] - below)[: new_low - low]
        right = (above - before[part])[new_high - low + 1 :]
        found = max(found, *left, *right)
        if (new_low, new_high) == (low, high):
            break
        low, high = new_low, new_high
    return float(found) / 2


def dip_p(value: float, n: int) -> float:
    """How often even noise of n values has at least this dip; no smaller than the table goes.

    Between the numbers of the table sqrt(n) times the dip hardly changes with n.
    """
    sizes = np.array(list(TABLE))
    rows = np.array(list(TABLE.values()))
    at = np.log(min(max(n, int(sizes[0])), int(sizes[-1])))
    quantiles = [np.interp(at, np.log(sizes), column) for column in rows.T]
    return float(np.exp(np.interp(np.sqrt(n) * value, quantiles, np.log(LEVELS))))


def at_table_end(p: float) -> bool:
    """Is this the smallest p that the table tells, so that the true one is at most this?"""
    return p <= min(LEVELS) * (1 + 1e-9)


def _hull(x: Floats, y: Floats) -> NDArray[np.int64]:
    """Places of the corners of the largest convex curve below points, x rising."""
    hull = [0]
    for k in range(1, len(x)):
        while len(hull) > 1:
            i, j = hull[-2], hull[-1]
            if (y[j] - y[i]) * (x[k] - x[i]) < (y[k] - y[i]) * (x[j] - x[i]):
                break
            hull.pop()
        hull.append(k)
    return np.array(hull)
