"""How measures are compiled: as sums of terms, over gaps, or looked up by counts of yes/no answers.

A measure without a recipe is measured by its formula, block by block.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from gorvel.core.kernels.recipe import (
    ABSOLUTE,
    CHI,
    KNOWN,
    SQUARES,
    SUMS,
    TABLE,
    UNEQUAL,
    UNEQUAL_UNLESS_ABSENT,
    Recipe,
)  # fmt: skip
from gorvel.core.proximity.answers import Answers, Matrix
from gorvel.core.proximity.differences import whitened
from gorvel.core.proximity.presence import Counts
from gorvel.core.table.levels import NUMERIC

_MOST_LOOKED_UP = 64  # yes/no answers that go into one word
Maker = Callable[[Answers], Recipe | None]  # None for answers that it cannot be made of


def summed(term: int, rooted: bool = False, squares: bool = True) -> Maker:
    """A sum over the variables, or over those that both cases of a pair have.

    squares : are the terms squares, which are the first to grow too large?
    """
    return lambda answers: _of_terms(
        answers, KNOWN if _gaps(answers) else SUMS, term, rooted, squares=squares
    )


def of_known(term: int, mean: bool = False) -> Maker:
    """The same, over known variables only, or their mean."""
    return lambda answers: _of_terms(answers, KNOWN, term, mean=mean)


def complete(maker: Maker) -> Maker:
    """Only of answers without gaps."""
    return lambda answers: None if _gaps(answers) else maker(answers)


def _gaps(answers: Answers) -> bool:
    return bool(np.isnan(answers.values).any())


def angles(ready: Callable[[Matrix], Matrix]) -> Maker:
    """Half the squared distances of rows that were made ready for it."""

    def made(answers: Answers) -> Recipe | None:
        rows = ready(answers.values)
        return None if np.isnan(rows).any() else _lengths(rows, factor=0.5)

    return complete(made)


def whitened_lengths(answers: Answers) -> Recipe | None:
    """Lengths after correlations are removed."""
    return None if _gaps(answers) else _lengths(whitened(answers), rooted=True)


def of_counts(mean: bool) -> Maker:
    """Chi-square, or its mean."""

    def made(answers: Answers) -> Recipe:
        blank, sums = _lengths(answers.values, rooted=True), answers.values.sum(axis=1)
        return blank._replace(how=CHI, mean=mean, sums=sums, safe=False)

    return complete(made)


def looked_up(distance: Callable[[Counts], Matrix]) -> Maker:
    """Looked up by counts of yes/no answers, of not too many variables."""

    def made(answers: Answers) -> Recipe | None:
        few = answers.values.shape[1] <= _MOST_LOOKED_UP
        return _looked_up(answers.values, distance) if few else None

    return complete(made)


def _lengths(x: Matrix, rooted: bool = False, factor: float = 1.0) -> Recipe:
    """Squared lengths of differences between rows of x, or what they are turned into."""
    ones = np.ones(x.shape[1])
    terms = np.full(len(ones), SQUARES, dtype=np.int64)
    return Recipe(
        SUMS, np.ascontiguousarray(x.T), ones, ones, terms, float(len(ones)), False, factor, rooted,
        True, np.zeros(0, np.uint64), np.zeros(0, np.int64), np.zeros(0), np.zeros((0, 0, 0)),
    )  # fmt: skip


def _of_terms(
    answers: Answers, how: int, terms: int | list[int], rooted: bool = False, mean: bool = False,
    squares: bool = True,
) -> Recipe:  # fmt: skip
    if isinstance(terms, int):
        terms = [terms] * answers.values.shape[1]
    shares = np.asarray(answers.importance, dtype=np.float64)
    total = 0.0
    for share in shares.tolist():
        total += share  # in the order of the loop, so that complete pairs have exactly this
    with np.errstate(over="ignore"):
        apart = np.ptp(answers.values, axis=0)
        furthest = float(np.sum(shares * (apart**2 if squares else apart)))
    return _lengths(answers.values, rooted)._replace(
        how=how, gains=shares, shares=shares, terms=np.array(terms, dtype=np.int64), total=total,
        mean=mean, safe=how == SUMS and bool(np.isfinite(furthest)),
    )  # fmt: skip


def mixed(answers: Answers) -> Recipe:
    """Differences over the range, and what is unlike."""
    terms, gains = [], np.array(answers.importance, dtype=np.float64)
    for j, (level, asymmetric) in enumerate(zip(answers.levels, answers.asymmetric, strict=True)):
        numeric, spread = level in NUMERIC, answers.ranges[j]
        if numeric:
            terms.append(ABSOLUTE)
            gains[j] = gains[j] / spread if spread > 0 else 0.0
        else:
            terms.append(UNEQUAL_UNLESS_ABSENT if asymmetric else UNEQUAL)
    return _of_terms(answers, KNOWN, terms, mean=True)._replace(gains=gains)


def _looked_up(x: Matrix, distance: Callable[[Counts], Matrix]) -> Recipe:
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
    table = distance(Counts(a, b, c, d))
    return _lengths(x)._replace(
        how=TABLE, words=words, counts=present.sum(axis=1, dtype=np.int64),
        table=np.ascontiguousarray(table),
    )  # fmt: skip
