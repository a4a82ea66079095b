"""The distances of one case to a run of others, by the recipe of the measure.

Slices keep the inner loops free of index checks, so that they are vectorised.
"""

from __future__ import annotations

import numpy as np

from gorvel.core.kernels.compiled import inner
from gorvel.core.kernels.recipe import (
    ABSOLUTE,
    BOTH,
    KNOWN,
    LARGEST,
    RATIO,
    SQUARES,
    SUMS,
    TABLE,
    UNEQUAL,
)  # fmt: skip

BLOCK = 1024  # cases whose columns stay in the nearest cache


@inner
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
        some = q * q if j == 0 else out[k] + q * q
        some = some + r * r + s * s + t * t + u * u + v * v + w * w + z * z
        out[k] = some


@inner
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
    if kind == SQUARES:
        for k in range(m):
            e, f, g, h = a - xa[k], b - xb[k], c - xc[k], d - xd[k]
            some = va * (e * e) if j == 0 else out[k] + va * (e * e)
            out[k] = some + vb * (f * f) + vc * (g * g) + vd * (h * h)
    else:
        for k in range(m):
            e, f, g, h = abs(a - xa[k]), abs(b - xb[k]), abs(c - xc[k]), abs(d - xd[k])
            some = va * e if j == 0 else out[k] + va * e
            out[k] = some + vb * f + vc * g + vd * h


@inner
def add_terms(x, v, kind, i, first, last, out):
    """out[k] = sum_j v_j term(x_j[i] - x_j[first + k]) for k in 0..last-first-1.

    x : (p, n) a row for each variable; kind : squares or absolute differences; eight or four
    variables a pass, always added up in the same order.
    """
    p, m = x.shape[0], last - first
    plain = kind == SQUARES
    for j in range(p):
        plain = plain and v[j] == 1.0
    j = np.int64(0)
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
        if kind == SQUARES:
            for k in range(m):
                e = a - xa[k]
                out[k] += va * (e * e)
        else:
            for k in range(m):
                out[k] += va * abs(a - xa[k])
        j += 1


@inner
def _add_known_term(term, a, own, gain, share, out, used):
    """Add what one variable says of a case with answer a and others, where both have it."""
    m = len(out)
    if term == SQUARES:
        for k in range(m):
            d = a - own[k]
            out[k] += gain * (d * d) if d == d else 0.0
            used[k] += share if d == d else 0.0
    elif term == ABSOLUTE:
        for k in range(m):
            d = abs(a - own[k])
            out[k] += gain * d if d == d else 0.0
            used[k] += share if d == d else 0.0
    elif term == RATIO:
        for k in range(m):
            d, below = abs(a - own[k]), abs(a) + abs(own[k])
            out[k] += gain * (d / (below if below > 0.0 else 1.0)) if d == d else 0.0
            used[k] += share if d == d else 0.0
    elif term == BOTH:
        for k in range(m):
            d = abs(a - own[k])
            out[k] += gain * d if d == d else 0.0
            used[k] += share * abs(a + own[k]) if d == d else 0.0
    elif term == LARGEST:
        for k in range(m):
            d = gain * abs(a - own[k])
            out[k] = d if d > out[k] else out[k]
            used[k] += share if d == d else 0.0
    else:
        absent = a == 0.0 and term != UNEQUAL
        for k in range(m):
            d = a - own[k]
            counts = d == d and not (absent and d == 0.0)
            out[k] += gain if counts and d != 0.0 else 0.0
            used[k] += share if counts else 0.0


@inner
def _add_known(recipe, i, first, last, out):
    """Terms over the variables that both cases have; NaN where there is none."""
    m = last - first
    used = np.zeros(m)
    for k in range(m):
        out[k] = 0.0
    for j in range(recipe.x.shape[0]):
        a = recipe.x[j, i]
        if a == a:
            _add_known_term(
                recipe.terms[j], a, recipe.x[j, first:last], recipe.gains[j], recipe.shares[j],
                out, used,
            )  # fmt: skip
    total = recipe.total
    if recipe.mean:
        for k in range(m):
            out[k] /= used[k]  # 0 / 0 is not a number
    elif recipe.terms[0] == LARGEST:
        for k in range(m):
            out[k] = out[k] if used[k] > 0.0 else np.nan
    else:
        for k in range(m):
            scaled = out[k] * (total / used[k])
            out[k] = out[k] if used[k] == total else scaled


@inner
def _ones(bits):
    """How many bits are set, of 64."""
    bits -= (bits >> np.uint64(1)) & np.uint64(0x5555555555555555)
    bits = (bits & np.uint64(0x3333333333333333)) + (
        (bits >> np.uint64(2)) & np.uint64(0x3333333333333333)
    )
    bits = (bits + (bits >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return np.int64((bits * np.uint64(0x0101010101010101)) >> np.uint64(56))


@inner
def _look_up(recipe, i, first, last, out):
    """Distances by how many yes/no answers are present in one, in the other, in both."""
    own, rows = recipe.words[i], recipe.table[recipe.counts[i]]
    words, counts = recipe.words[first:last], recipe.counts[first:last]
    for k in range(last - first):
        out[k] = rows[counts[k], _ones(own & words[k])]


@inner
def _add_chi(recipe, i, first, last, out):
    """sum_j (x Y - y X)^2 / ((x + y) X Y), X and Y being what the cases sum to."""
    m, mine = last - first, recipe.sums[i]
    theirs = recipe.sums[first:last]
    for k in range(m):
        out[k] = 0.0
    for j in range(recipe.x.shape[0]):
        a, own = recipe.x[j, i], recipe.x[j, first:last]
        for k in range(m):
            column, e = a + own[k], a * theirs[k] - own[k] * mine
            out[k] += e * e / (column if column > 0.0 else 1.0)
    for k in range(m):
        out[k] /= mine * theirs[k]
    if recipe.mean:
        for k in range(m):
            out[k] /= mine + theirs[k]


@inner
def measure(recipe, i, first, last, out):
    """How far some cases are from another one.

    out[k] : how far case first + k is from case i, for k in 0..last-first-1; not a number where
    they have no variable in common.
    """
    if recipe.how == SUMS:
        add_terms(recipe.x, recipe.gains, recipe.terms[0], i, first, last, out)
    elif recipe.how == KNOWN:
        _add_known(recipe, i, first, last, out)
    elif recipe.how == TABLE:
        _look_up(recipe, i, first, last, out)
    else:
        _add_chi(recipe, i, first, last, out)
    if recipe.factor != 1.0:
        for k in range(last - first):
            out[k] *= recipe.factor
    if recipe.rooted:
        for k in range(last - first):
            out[k] = np.sqrt(out[k])
