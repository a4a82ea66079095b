"""The dip from its definition: the nearest unimodal distribution as a linear programme."""

from __future__ import annotations

import numpy as np
from scipy.optimize import linprog


def dip(values: list[float]) -> float:
    """The least largest distance of a distribution with one peak, over all places of the peak.

    It is convex before the peak and concave after it, and may jump there.
    """
    x, counts = np.unique(values, return_counts=True)
    after = np.cumsum(counts) / len(values)
    before = after - counts / len(values)
    return min(_with_peak(x, before, after, peak) for peak in range(len(x)))


def _with_peak(x: np.ndarray, before: np.ndarray, after: np.ndarray, peak: int) -> float:
    """The same for one place of the peak.

    Unknown are the heights at each value, two at the peak (before and after the jump), and the
    distance, the last.
    """
    at = [*x[: peak + 1], *x[peak:]]
    targets = [{after[k], before[k]} for k in range(peak)] + [{before[peak]}, {after[peak]}]
    targets += [{after[k], before[k]} for k in range(peak + 1, len(x))]
    size, rows, limits = len(at) + 1, [], []

    def add(parts: dict[int, float], limit: float) -> None:
        row = np.zeros(size)
        for k, value in parts.items():
            row[k] += value
        rows.append(row)
        limits.append(limit)

    for k, wanted in enumerate(targets):
        for target in wanted:
            add({k: 1, size - 1: -1}, target)
            add({k: -1, size - 1: -1}, -target)
    for k in range(len(at) - 1):
        add({k: 1, k + 1: -1}, 0)
    for k in range(len(at) - 2):
        if k + 2 <= peak or k > peak:
            first, second = 1 / (at[k + 1] - at[k]), 1 / (at[k + 2] - at[k + 1])
            sign = 1 if k + 2 <= peak else -1  # slopes rise before the peak and fall after it
            add({k: -sign * first, k + 1: sign * (first + second), k + 2: -sign * second}, 0)
    cost = np.zeros(size)
    cost[-1] = 1
    return float(linprog(cost, np.array(rows), limits, bounds=(0, 1)).fun)
