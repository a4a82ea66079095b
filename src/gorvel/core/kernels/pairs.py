"""Distances of all pairs, condensed: row after row of the upper triangle."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import kernel, parallel, prange

__all__ = ["BLOCK", "add_terms", "fill", "row_start"]

BLOCK = 1024  # cases whose columns stay in the nearest cache


@kernel
def row_start(n: int, i: int) -> int:
    """Where in the condensed array row i would have its column 0."""
    return i * (2 * n - i - 1) // 2 - i - 1


@kernel
def add_terms(x, v, kind, i, first, last, out):
    """out[k] = sum_j v_j term(x_j[i] - x_j[first + k]) for k in 0..last-first-1.

    x : (p, n) a row for each variable; kind : 0 squares, 1 absolute differences. Slices keep the
    inner loops free of index checks, so that they are vectorised; four variables a pass, always
    added up in the same order.
    """
    p, m = x.shape[0], last - first
    j = 0
    while j < p:
        left = p - j
        a, va, xa = x[j, i], v[j], x[j, first:last]
        if left >= 4:
            b, c, d = x[j + 1, i], x[j + 2, i], x[j + 3, i]
            vb, vc, vd = v[j + 1], v[j + 2], v[j + 3]
            xb, xc, xd = x[j + 1, first:last], x[j + 2, first:last], x[j + 3, first:last]
            if kind == 0:
                if j == 0:
                    for k in range(m):
                        e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
                        out[k] = (va * (e * e) + vb * (f * f)) + (vc * (g * g) + vd * (h * h))
                else:
                    for k in range(m):
                        e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
                        out[k] += (va * (e * e) + vb * (f * f)) + (vc * (g * g) + vd * (h * h))
            elif j == 0:
                for k in range(m):
                    e, f, g, h = abs(a - xa[k]), abs(b - xb[k]), abs(c - xc[k]), abs(d - xd[k])
                    out[k] = (va * e + vb * f) + (vc * g + vd * h)
            else:
                for k in range(m):
                    e, f, g, h = abs(a - xa[k]), abs(b - xb[k]), abs(c - xc[k]), abs(d - xd[k])
                    out[k] += (va * e + vb * f) + (vc * g + vd * h)
            j += 4
            continue
        if j == 0:
            for k in range(m):
                out[k] = 0.0
        if kind == 0:
            for k in range(m):
                e = a - xa[k]
                out[k] += va * (e * e)
        else:
            for k in range(m):
                out[k] += va * abs(a - xa[k])
        j += 1


@kernel
def _fill_row(x, v, kind, root, i, out):
    n = x.shape[1]
    start = row_start(n, i)
    first = i + 1
    while first < n:
        last = min(first + BLOCK, n)
        part = out[start + first : start + last]
        add_terms(x, v, kind, i, first, last, part)
        if root:
            for k in range(last - first):
                part[k] = np.sqrt(part[k])
        first = last


@parallel
def fill(x, v, kind, root, begin, end, out):
    """Rows begin..end-1 from the top, and as many from the bottom: together they are even work.

    x : (p, n); v : (p,); out : condensed, n (n - 1) / 2; begin, end : below (n + 1) // 2.
    """
    n = x.shape[1]
    for r in prange(begin, end):
        top = np.int64(r)
        _fill_row(x, v, kind, root, top, out)
        bottom = n - 1 - top
        if bottom > top:
            _fill_row(x, v, kind, root, bottom, out)
