"""Sums over all pairs of proximity and height of meeting, without keeping either."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import parallel, prange
from gorvel.core.kernels.terms import BLOCK, measure


@parallel
def sums(recipe, weights, bounds, heights, middle, level, begin, end, out):
    """Sums from which the cophenetic correlation is made.

    For rows begin..end-1 and their counterparts at the other end: of d - middle the sum, the sum of
    squares, and the sum of products with height - level.

    recipe : of cases in leaf order; weights : (n,) how many each stands for, by whose products
    pairs count; bounds : (n - 1,) the join at which neighbouring leaves meet:
    two leaves meet at the latest join between them; heights : (joins,); out : (n, 3).
    """
    n = len(out)
    for r in prange(begin, end):
        for side in range(2):
            i = np.int64(r) if side == 0 else n - 1 - np.int64(r)
            if side == 1 and i <= r:
                continue
            far = np.empty(BLOCK)
            total, squares, products = 0.0, 0.0, 0.0
            join = np.int64(-1)
            height = 0.0
            for first in range(i + 1, n, BLOCK):
                size = min(BLOCK, n - first)
                part = far[:size]
                measure(recipe, i, first, first + size, part)
                for k in range(size):
                    d = part[k] - middle
                    at = bounds[first + k - 1]
                    if at > join:
                        join = at
                        height = heights[at] - level
                    weighed = weights[first + k] * d
                    total += weighed
                    squares += weighed * d
                    products += weighed * height
            out[i, 0] = weights[i] * total
            out[i, 1], out[i, 2] = weights[i] * squares, weights[i] * products
