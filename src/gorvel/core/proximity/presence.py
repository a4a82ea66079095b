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


def _counted(answers: Answers, rows: slice) -> Counts:
    x = answers.values
    present, absent = (x == 1).astype(np.float64), (x == 0).astype(np.float64)
    own, lacks = present[rows], absent[rows]
    return Counts(own @ present.T, own @ absent.T, lacks @ present.T, lacks @ absent.T)


def _margins(t: Counts) -> Matrix:
    return np.asarray(np.sqrt(((t.a + t.b) * (t.a + t.c)) * ((t.b + t.d) * (t.c + t.d))))


def _yule_y(t: Counts) -> Matrix:
    alike, unlike = np.sqrt(t.a * t.d), np.sqrt(t.b * t.c)
    return t.ratio(alike - unlike, alike + unlike)


def _sokal_sneath_4(t: Counts) -> Matrix:
    present = t.ratio(t.a, t.a + t.b) + t.ratio(t.a, t.a + t.c)
    absent = t.ratio(t.d, t.b + t.d) + t.ratio(t.d, t.c + t.d)
    return (present + absent) / 4.0


# likenesses s; the distance is 1 - s
SIMILARITIES: dict[str, Callable[[Counts], Matrix]] = {
    "simple-matching": lambda t: t.ratio(t.a + t.d, t.a + t.d + t.b + t.c),
    "jaccard": lambda t: t.ratio(t.a, t.a + (t.b + t.c)),
    "dice": lambda t: t.ratio(2 * t.a, 2 * t.a + (t.b + t.c)),
    "russell-rao": lambda t: t.ratio(t.a, t.a + t.d + (t.b + t.c)),
    "rogers-tanimoto": lambda t: t.ratio(t.a + t.d, t.a + t.d + 2 * (t.b + t.c)),
    "sokal-sneath-1": lambda t: t.ratio(2 * (t.a + t.d), 2 * (t.a + t.d) + (t.b + t.c)),
    "sokal-sneath-2": lambda t: t.ratio(t.a, t.a + 2 * (t.b + t.c)),
    "sokal-sneath-4": _sokal_sneath_4,
    "sokal-sneath-5": lambda t: t.ratio(t.a * t.d, _margins(t)),
    "kulczynski-2": lambda t: (t.ratio(t.a, t.a + t.b) + t.ratio(t.a, t.a + t.c)) / 2.0,
    "ochiai": lambda t: t.ratio(t.a, np.sqrt((t.a + t.b) * (t.a + t.c))),
    "hamann": lambda t: t.ratio((t.a + t.d) - (t.b + t.c), t.a + t.d + (t.b + t.c)),
    "yule-q": lambda t: t.ratio(t.a * t.d - t.b * t.c, t.a * t.d + t.b * t.c),
    "yule-y": _yule_y,
    "phi": lambda t: t.ratio(t.a * t.d - t.b * t.c, _margins(t)),
}
# likenesses without an upper bound; the distance is 1 / (1 + s), and 0 for equal cases
_UNBOUNDED: dict[str, Callable[[Counts], Matrix]] = {
    "kulczynski-1": lambda t: t.a,
    "sokal-sneath-3": lambda t: t.a + t.d,
}


def _unlike(likeness: Callable[[Counts], Matrix]) -> Callable[[Counts], Matrix]:
    return lambda t: 1.0 - likeness(t)


def _unlike_unbounded(likeness: Callable[[Counts], Matrix]) -> Callable[[Counts], Matrix]:
    def distance(t: Counts) -> Matrix:
        unlike = t.b + t.c
        return np.asarray(unlike / np.maximum(unlike + likeness(t), 1.0))

    return distance


# the distance that goes with each likeness
DISTANCES: dict[str, Callable[[Counts], Matrix]] = {
    **{key: _unlike(likeness) for key, likeness in SIMILARITIES.items()},
    **{key: _unlike_unbounded(likeness) for key, likeness in _UNBOUNDED.items()},
}


def distance_of(key: str) -> Callable[[Answers, slice], Matrix]:
    """The distance that goes with a likeness, over the variables both cases have."""

    def distance(answers: Answers, rows: slice) -> Matrix:
        t = _counted(answers, rows)
        out = DISTANCES[key](t)
        out[t.a + t.b + t.c + t.d == 0] = np.nan
        return out

    return distance
