"""How measures are compiled: as sums of terms, over gaps, or looked up by counts of yes/no answers.

A measure without a recipe is measured by its formula, block by block.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.recipe import (
    ABSOLUTE,
    BOTH,
    CHI,
    KNOWN,
    LARGEST,
    RATIO,
    SQUARES,
    SUMS,
    TABLE,
    UNEQUAL,
    UNEQUAL_UNLESS_ABSENT,
    Recipe,
)  # fmt: skip
from gorvel.core.proximity.answers import Answers, Matrix
from gorvel.core.proximity.differences import whitened
from gorvel.core.proximity.presence import DISTANCES, Counts
from gorvel.core.proximity.profiles import READY
from gorvel.core.table.levels import NUMERIC

_SUMMED = {"squared-euclidean": SQUARES, "euclidean": SQUARES, "city-block": ABSOLUTE}
_OTHER_TERMS = {"canberra": RATIO, "bray-curtis": BOTH, "chebyshev": LARGEST}
_MOST_LOOKED_UP = 64  # yes/no answers that go into one word


def recipe_of(answers: Answers, key: str) -> Recipe | None:
    """How a compiled loop measures all pairs; None for measures, and gaps, that have none.

    answers : n cases by p variables; key : of the measure.
    """
    gaps = bool(np.isnan(answers.values).any())
    if key in _SUMMED or key in _OTHER_TERMS:
        term = _SUMMED.get(key, _OTHER_TERMS.get(key, 0))
        how = SUMS if key in _SUMMED and not gaps else KNOWN
        return _of_terms(answers, how, [term] * answers.values.shape[1], key)
    if key == "gower":
        return _gower(answers)
    if gaps:
        return None
    if key == "mahalanobis":
        return _lengths(whitened(answers), rooted=True)
    if key in READY:
        made = READY[key](answers.values)
        return None if np.isnan(made).any() else _lengths(made, factor=0.5)
    if key in ("chi-square", "phi-square"):
        blank = _lengths(answers.values, rooted=True)
        sums = answers.values.sum(axis=1)
        return blank._replace(how=CHI, mean=key == "phi-square", sums=sums, safe=False)
    if key in DISTANCES and answers.values.shape[1] <= _MOST_LOOKED_UP:
        return _looked_up(answers.values, key)
    return None


def _lengths(x: Matrix, rooted: bool = False, factor: float = 1.0) -> Recipe:
    """Squared lengths of differences between rows of x, or what they are turned into."""
    ones = np.ones(x.shape[1])
    terms = np.full(len(ones), SQUARES, dtype=np.int64)
    return Recipe(
        SUMS, np.ascontiguousarray(x.T), ones, ones, terms, float(len(ones)), False, factor, rooted,
        True, np.zeros(0, np.uint64), np.zeros(0, np.int64), np.zeros(0), np.zeros((0, 0, 0)),
    )  # fmt: skip


def _of_terms(answers: Answers, how: int, terms: list[int], key: str) -> Recipe:
    shares = np.asarray(answers.importance, dtype=np.float64)
    total = 0.0
    for share in shares.tolist():
        total += share  # in the order of the loop, so that complete pairs have exactly this
    with np.errstate(over="ignore"):
        apart = np.ptp(answers.values, axis=0)
        furthest = float(np.sum(shares * (apart if key == "city-block" else apart**2)))
    return _lengths(answers.values, key == "euclidean")._replace(
        how=how, gains=shares, shares=shares, terms=np.array(terms, dtype=np.int64), total=total,
        mean=key in ("gower", "bray-curtis"), safe=how == SUMS and bool(np.isfinite(furthest)),
    )  # fmt: skip


def _gower(answers: Answers) -> Recipe:
    """Differences over the range, and what is unlike."""
    terms, gains = [], np.array(answers.importance, dtype=np.float64)
    for j, (level, asymmetric) in enumerate(zip(answers.levels, answers.asymmetric, strict=True)):
        numeric, spread = level in NUMERIC, answers.ranges[j]
        if numeric:
            terms.append(ABSOLUTE)
            gains[j] = gains[j] / spread if spread > 0 else 0.0
        else:
            terms.append(UNEQUAL_UNLESS_ABSENT if asymmetric else UNEQUAL)
    return _of_terms(answers, KNOWN, terms, "gower")._replace(gains=gains)


def _looked_up(x: Matrix, key: str) -> Recipe:
    """Distances by the counts of answers present in one case, in the other, in both."""
    m = x.shape[1]
    bits = np.left_shift(np.uint64(1), np.arange(m, dtype=np.uint64))
    present = x == 1
    words: NDArray[np.uint64] = np.where(present, bits, np.uint64(0)).sum(axis=1, dtype=np.uint64)
    one, other, both = np.ogrid[: m + 1, : m + 1, : m + 1]
    only_one, only_other = one - both, other - both
    neither = m - both - only_one - only_other
    parts = [np.maximum(part, 0).astype(np.float64) for part in (only_one, only_other, neither)]
    a = np.broadcast_to(both, neither.shape).astype(np.float64)
    b, c, d = (np.broadcast_to(part, neither.shape) for part in parts)
    table = DISTANCES[key](Counts(a, b, c, d))
    return _lengths(x)._replace(
        how=TABLE, words=words, counts=present.sum(axis=1, dtype=np.int64),
        table=np.ascontiguousarray(table),
    )  # fmt: skip
