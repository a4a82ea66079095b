"""Distances of all pairs: each measured once, and written to both sides of the diagonal."""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner, kernel, parallel, prange
from gorvel.core.kernels.terms import measure

ROWS, COLUMNS = 128, 256  # of a tile that stays in the second cache


@inner
def _all_finite(values):
    strange = 0
    for k in range(len(values)):
        strange += not abs(values[k]) < np.inf
    return strange == 0


@inner
def _fill_rows(recipe, top, out, tile):
    """Some rows from `top` on, right of the diagonal, and the same below it; are all finite?"""
    n, sound = len(out), True
    bottom = min(top + ROWS, n)
    for first in range(top, n, COLUMNS):
        last = min(first + COLUMNS, n)
        for i in range(top, bottom):
            part = tile[i - top, : last - first]
            measure(recipe, i, first, last, part)
            row = out[i, first:last]
            for k in range(last - first):
                row[k] = part[k]
            if not recipe.safe:
                sound = _all_finite(part) and sound
        for k in range(max(first, bottom), last):
            column = out[k, top:bottom]
            for i in range(bottom - top):
                column[i] = tile[i, k - first]
    for i in range(top, bottom):  # the rows of this piece among themselves
        for k in range(top, i):
            out[i, k] = out[k, i]
        out[i, i] = np.inf
    return sound


@inner
def _fill_two(recipe, top, out, sound):
    pieces = (len(out) + ROWS - 1) // ROWS
    tile = np.empty((ROWS, COLUMNS + 8))  # rows not a whole page apart
    sound[top] = _fill_rows(recipe, top * ROWS, out, tile)
    if pieces - 1 - top > top:
        other = pieces - 1 - top
        sound[other] = _fill_rows(recipe, other * ROWS, out, tile)


@parallel
def fill_square(recipe, begin, end, out, sound):
    """Fill pieces of the square matrix.

    Pieces begin..end-1, each with its counterpart at the other end, which makes even work. out :
    (n, n), infinity on the diagonal; sound : (pieces,) is all finite? There are (pieces + 1) // 2
    pairs of pieces of ROWS rows.
    """
    for r in prange(begin, end):
        _fill_two(recipe, np.int64(r), out, sound)


@kernel
def fill_alone(recipe, begin, end, out, sound):
    """`fill_square` on one thread, beside others."""
    for top in range(begin, end):
        _fill_two(recipe, top, out, sound)
