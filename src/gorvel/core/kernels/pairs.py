"""Distances of all pairs: each measured once, and written to both sides of the diagonal."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import fused, kernel, parallel, prange

__all__ = ["BLOCK", "ROWS", "add_terms", "fill_square"]

BLOCK = 1024  # cases whose columns stay in the nearest cache
ROWS, COLUMNS = 128, 256  # of a tile that stays in the second cache


@fused
def _eight_squares(x, j, i, first, last, out):
    """Squares of eight variables from j on, all of importance 1."""
    m = last - first
    a, b, c, d = x[j, i], x[j + 1, i], x[j + 2, i], x[j + 3, i]
    e, f, g, h = x[j + 4, i], x[j + 5, i], x[j + 6, i], x[j + 7, i]
    xa, xb, xc, xd = (
        x[j, first:last],
        x[j + 1, first:last],
        x[j + 2, first:last],
        x[j + 3, first:last],
    )
    xe, xf, xg, xh = (
        x[j + 4, first:last], x[j + 5, first:last], x[j + 6, first:last], x[j + 7, first:last],
    )  # fmt: skip
    for k in range(m):
        q, r, s, t = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
        u, v, w, z = e - xe[k], f - xf[k], g - xg[k], h - xh[k]
        some = ((q * q + r * r) + (s * s + t * t)) + ((u * u + v * v) + (w * w + z * z))
        out[k] = some if j == 0 else out[k] + some


@fused
def _four_terms(x, v, kind, j, i, first, last, out):
    """Terms of four variables from j on."""
    m = last - first
    a, b, c, d = x[j, i], x[j + 1, i], x[j + 2, i], x[j + 3, i]
    va, vb, vc, vd = v[j], v[j + 1], v[j + 2], v[j + 3]
    xa, xb, xc, xd = (
        x[j, first:last],
        x[j + 1, first:last],
        x[j + 2, first:last],
        x[j + 3, first:last],
    )
    if kind == 0:
        for k in range(m):
            e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
            some = (va * (e * e) + vb * (f * f)) + (vc * (g * g) + vd * (h * h))
            out[k] = some if j == 0 else out[k] + some
    else:
        for k in range(m):
            e, f, g, h = abs(a - xa[k]), abs(b - xb[k]), abs(c - xc[k]), abs(d - xd[k])
            some = (va * e + vb * f) + (vc * g + vd * h)
            out[k] = some if j == 0 else out[k] + some


@fused
def add_terms(x, v, kind, i, first, last, out):
    """out[k] = sum_j v_j term(x_j[i] - x_j[first + k]) for k in 0..last-first-1.

    x : (p, n) a row for each variable; kind : 0 squares, 1 absolute differences. Slices keep the
    inner loops free of index checks, so that they are vectorised; eight or four variables a pass,
    always added up in the same order.
    """
    p, m = x.shape[0], last - first
    plain = kind == 0
    for j in range(p):
        plain = plain and v[j] == 1.0
    j = 0
    while plain and j + 8 <= p:
        _eight_squares(x, j, i, first, last, out)
        j += 8
    while j + 4 <= p:
        _four_terms(x, v, kind, j, i, first, last, out)
        j += 4
    if j == 0:
        for k in range(m):
            out[k] = 0.0
    while j < p:
        a, va, xa = x[j, i], v[j], x[j, first:last]
        if kind == 0:
            for k in range(m):
                e = a - xa[k]
                out[k] += va * (e * e)
        else:
            for k in range(m):
                out[k] += va * abs(a - xa[k])
        j += 1


@kernel
def _fill_rows(x, v, kind, root, top, out, tile):
    """Some rows from `top` on, right of the diagonal, and the same below it."""
    n = x.shape[1]
    bottom = min(top + ROWS, n)
    for first in range(top, n, COLUMNS):
        last = min(first + COLUMNS, n)
        for i in range(top, bottom):
            part = tile[i - top, : last - first]
            add_terms(x, v, kind, i, first, last, part)
            if root:
                for k in range(last - first):
                    part[k] = np.sqrt(part[k])
            row = out[i, first:last]
            for k in range(last - first):
                row[k] = part[k]
        for k in range(max(first, bottom), last):
            column = out[k, top:bottom]
            for i in range(bottom - top):
                column[i] = tile[i, k - first]
    for i in range(top, bottom):  # the rows of this piece among themselves
        for k in range(top, i):
            out[i, k] = out[k, i]
        out[i, i] = np.inf


@parallel
def fill_square(x, v, kind, root, begin, end, out):
    """Pieces begin..end-1 of the square matrix, each with its counterpart at the other end, which

    makes even work. x : (p, n); v : (p,); out : (n, n), infinity on the diagonal; there are
    (pieces + 1) // 2 pairs of pieces of ROWS rows.
    """
    n = x.shape[1]
    pieces = (n + ROWS - 1) // ROWS
    for r in prange(begin, end):
        tile = np.empty((ROWS, COLUMNS + 8))  # rows not a whole page apart
        top = np.int64(r)
        _fill_rows(x, v, kind, root, top * ROWS, out, tile)
        if pieces - 1 - top > top:
            _fill_rows(x, v, kind, root, (pieces - 1 - top) * ROWS, out, tile)
