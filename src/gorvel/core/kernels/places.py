"""Steps that bring the distances of places in the plane nearer to given ones."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import parallel, prange, summing

PARTS = 16  # into which the points are dealt out, whatever the number of threads


@summing
def _row(far, x, y, mine, own, across_of, along_of):
    """Of one point at (mine, own) and those after it: the sum of d e, and how they pull it.

    What it pulls them by is added to across_of, along_of.
    """
    none = mine - mine  # of the kind of number that the places are, so that no loop widens
    both, across, along = none, none, none
    for j in range(len(x)):
        dx, dy = mine - x[j], own - y[j]
        apart = np.sqrt(dx * dx + dy * dy)
        both += far[j] * apart
        ratio = far[j] / apart if apart > none else none
        across += ratio * dx
        along += ratio * dy
        across_of[j] -= ratio * dx
        along_of[j] -= ratio * dy
    return both, across, along


@parallel
def majorise(far, x, y, across, along, both):
    """How each point is pulled, in parts that add up.

    far : (n, n); x, y : (n,); across, along : (PARTS, n), 0 each; both : (PARTS,), 0 each, sums of
    d e over pairs. All but `both` are of one kind, float64 or float32.
    """
    n, parts = len(x), len(both)
    for r in prange(parts):
        part = np.int64(r)
        for i in range(part, n, parts):
            found = _row(
                far[i, i + 1 :],
                x[i + 1 :],
                y[i + 1 :],
                x[i],
                y[i],
                across[part, i + 1 :],
                along[part, i + 1 :],
            )
            both[part] += found[0]
            across[part, i] += found[1]
            along[part, i] += found[2]
