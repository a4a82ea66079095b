"""Do items that are to be added up measure the same?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import varies

Floats = NDArray[np.float64]
_SLIGHT = 0.1  # a correlation that nobody would turn an item round for


@dataclass(frozen=True)
class Items:
    """How k items hang together, by the cases that answer all of them.

    n : such cases; alpha : Cronbach's, NaN where it cannot be told; rest : (k,) correlation of each
    item with the sum of the others; without : (k,) alpha of the others, NaN for fewer than two.
    """

    n: int
    alpha: float
    rest: tuple[float, ...]
    without: tuple[float, ...]

    @property
    def against(self) -> tuple[int, ...]:
        """The items, from 0, that run against the rest by more than chance alone would have it."""
        clear = max(_SLIGHT, 2 / np.sqrt(max(self.n, 1)))  # two standard errors of no correlation
        return tuple(k for k, r in enumerate(self.rest) if r < -clear)


def analyse_items(items: Sequence[Floats]) -> Items:
    """Look into items, each of (cases,) numbers, NaN for gaps.

    References
    ----------
    Cronbach 1951, Psychometrika 16, 297-334.
    """
    answers = np.column_stack(items)
    whole = answers[~np.isnan(answers).any(axis=1)]
    k = answers.shape[1]
    total = whole.sum(axis=1)
    rest = tuple(_correlation(whole[:, j], total - whole[:, j]) for j in range(k))
    without = tuple(_alpha(np.delete(whole, j, axis=1)) for j in range(k))
    return Items(len(whole), _alpha(whole), rest, without)


def _alpha(whole: Floats) -> float:
    n, k = whole.shape
    if n < 2 or k < 2:
        return float("nan")
    sums = whole.sum(axis=1)
    if not varies(sums):
        return float("nan")
    of_sum = sums.var(ddof=1)
    return float(k / (k - 1) * (1 - whole.var(axis=0, ddof=1).sum() / of_sum))


def _correlation(x: Floats, y: Floats) -> float:
    if not (varies(x) and varies(y)):
        return float("nan")
    dx, dy = x - x.mean(), y - y.mean()
    scale = float(np.sqrt((dx @ dx) * (dy @ dy)))
    return float(dx @ dy) / scale if scale > 0 else float("nan")
