"""Measures of yes/no answers, from the table of a pair: both, only one, neither.

a : both present; b, c : one present; d : both absent; m = a + b + c + d. A ratio 0/0 is 1 when the
two cases are equal, else 0.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gorvel.core.proximity.answers import Answers, Matrix


@dataclass(frozen=True)
class Counts:
    """The tables of a block of pairs, each (rows, n)."""

    a: Matrix
    b: Matrix
    c: Matrix
    d: Matrix

    def ratio(self, above: Matrix, below: Matrix) -> Matrix:
        """above / below; 0/0 is 1 for equal cases, else 0."""
        equal = (self.b + self.c == 0).astype(np.float64)
        some = below != 0
        return np.asarray(np.where(some, above / np.where(some, below, 1.0), equal))


Coefficient = Callable[[Counts], Matrix]


def _counted(answers: Answers, rows: slice) -> Counts:
    x = answers.values
    present, absent = (x == 1).astype(np.float64), (x == 0).astype(np.float64)
    own, lacks = present[rows], absent[rows]
    return Counts(own @ present.T, own @ absent.T, lacks @ present.T, lacks @ absent.T)


def margins(t: Counts) -> Matrix:
    """The root of the product of the four margins."""
    return np.asarray(np.sqrt(((t.a + t.b) * (t.a + t.c)) * ((t.b + t.d) * (t.c + t.d))))


def yule_y(t: Counts) -> Matrix:
    """Yule's coefficient of colligation."""
    alike, unlike = np.sqrt(t.a * t.d), np.sqrt(t.b * t.c)
    return t.ratio(alike - unlike, alike + unlike)


def mean_of_shares(t: Counts) -> Matrix:
    """The mean share of what either has, or lacks, that the other has, or lacks, too."""
    present = t.ratio(t.a, t.a + t.b) + t.ratio(t.a, t.a + t.c)
    absent = t.ratio(t.d, t.b + t.d) + t.ratio(t.d, t.c + t.d)
    return (present + absent) / 4.0


def unlike(likeness: Coefficient) -> Coefficient:
    """The distance 1 - s that goes with a likeness s."""
    return lambda t: 1.0 - likeness(t)


def unlike_unbounded(likeness: Coefficient) -> Coefficient:
    """1 / (1 + s / (b + c)) for a likeness without an upper bound; 0 for equal cases."""

    def distance(t: Counts) -> Matrix:
        apart = t.b + t.c
        return np.asarray(apart / np.maximum(apart + likeness(t), 1.0))

    return distance


def block_of(distance: Coefficient) -> Callable[[Answers, slice], Matrix]:
    """The function of a measure, over the variables that both cases of a pair have."""

    def block(answers: Answers, rows: slice) -> Matrix:
        t = _counted(answers, rows)
        out = distance(t)
        out[t.a + t.b + t.c + t.d == 0] = np.nan
        return out

    return block
