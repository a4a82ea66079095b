"""Loops along the joins of a tree, from the first to the last.

One body each, written for two speeds: interpreted for few cases, so that nothing has to be
compiled or loaded for them, and compiled for many. Both give the same numbers to the last bit.

left, right : (n - 1,) nodes, 0..n-1 the cases, n + k what join k made.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from gorvel.core.kernels.loading import worth_compiling


def _either(body: Callable[..., Any]) -> Callable[..., Any]:
    """Compiled where that pays: told by the length of the first argument, one for each join."""
    made: list[Any] = []

    def carried_out(left: Any, *others: Any) -> Any:
        if not worth_compiling(len(left)):
            return body(left, *others)
        if not made:
            from gorvel.core.kernels.compiled import kernel

            made.append(kernel(body))
        return made[0](left, *others)

    carried_out.__doc__ = body.__doc__
    return carried_out


@_either
def sizes(left, right):
    """(2n-1,) number of cases below each node."""
    n = len(left) + 1
    out = np.ones(2 * n - 1, np.int64)
    for k in range(n - 1):
        out[n + k] = out[left[k]] + out[right[k]]
    return out


@_either
def firsts(left, right):
    """(2n-1,) the earliest case below each node."""
    n = len(left) + 1
    out = np.arange(2 * n - 1)
    for k in range(n - 1):
        out[n + k] = min(out[left[k]], out[right[k]])
    return out


@_either
def starts(left, right, sizes):
    """(2n-1,) the position of each node's first leaf, left parts first. sizes : (2n-1,)."""
    n = len(left) + 1
    out = np.zeros(2 * n - 1, np.int64)
    for k in range(n - 2, -1, -1):
        out[left[k]] = out[n + k]
        out[right[k]] = out[n + k] + sizes[left[k]]
    return out


@_either
def masses(left, right, own):
    """(2n-1,) the mass of each node. own : (n,) of the cases."""
    n = len(left) + 1
    out = np.empty(2 * n - 1)
    out[:n] = own
    for k in range(n - 1):
        out[n + k] = out[left[k]] + out[right[k]]
    return out


@_either
def middles(left, right, own, given):
    """(2n-1,) a place for each node, midway between those of its parts.

    own : (n,) places of the cases; given : (2n-1,) places that are fixed, NaN for all others.
    """
    n = len(left) + 1
    out = np.empty(2 * n - 1)
    out[:n] = own
    for k in range(n - 1):
        at = given[n + k]
        out[n + k] = (out[left[k]] + out[right[k]]) / 2 if np.isnan(at) else at
    return out


@_either
def growths(left, right, begin, end, mean, mass, importance, out):
    """By how much the sum of squares within clusters grows at joins begin..end-1, into `out`.

    mean : (2n-1, p), those of the cases filled in; mass : (2n-1,); importance : (p,).
    """
    n = len(left) + 1
    for k in range(begin, end):
        a, b, c = left[k], right[k], n + k
        apart, share = 0.0, mass[b] / mass[c]
        for j in range(len(importance)):
            step = mean[b, j] - mean[a, j]
            mean[c, j] = mean[a, j] + step * share
            apart += importance[j] * (step * step)
        out[k] = mass[a] * mass[b] / mass[c] * apart


@_either
def products(left, right, begin, end, mean, size, spread, heights, level):
    """The sum of height - level times the squared distances of the pairs that meet at joins.

    The sum, over joins begin..end-1, of height - level times the squared distances between all
    cases of one part and all of the other: with parts of a and b cases, D between their means, and
    sums of squares S and T about them, these are a b D^2 + b S + a T.

    mean : (2n-1, p), those of the cases filled in; size : (2n-1,); spread : (2n-1,) 0 for cases.
    """
    n, total = len(left) + 1, 0.0
    for k in range(begin, end):
        one, other, c = left[k], right[k], n + k
        a, b = size[one], size[other]
        apart, share = 0.0, b / (a + b)
        for j in range(mean.shape[1]):
            step = mean[other, j] - mean[one, j]
            mean[c, j] = mean[one, j] + step * share
            apart += step * step
        spread[c] = spread[one] + spread[other] + a * share * apart
        between = a * b * apart + (b * spread[one] + a * spread[other])
        total += between * (heights[k] - level)
    return total


@_either
def spanned(ends, starts):
    """(2, n-1) nodes that edges of a spanning tree join, in order. ends, starts : cases."""
    n = len(ends) + 1
    parent, out = np.arange(2 * n - 1), np.empty((2, n - 1), np.int64)
    for k in range(n - 1):
        one, other = ends[k], starts[k]
        while parent[one] != one:
            parent[one] = parent[parent[one]]
            one = parent[one]
        while parent[other] != other:
            parent[other] = parent[parent[other]]
            other = parent[other]
        out[0, k], out[1, k] = one, other
        parent[one], parent[other] = n + k, n + k
    return out
