"""Rules made of the heights of the joins."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.index import NONE, Index, Material, ratio
from gorvel.core.count.indices.verdicts import Verdict, abstains_with

Floats = NDArray[np.float64]
MOJENA_BOUND = 1.25


def _largest_jump(m: Material, k: int) -> float:
    if not 2 <= k < m.n:
        return NONE
    return float(m.tree.heights[m.n - k] - m.tree.heights[m.n - k - 1])


def _mojena(m: Material, k: int) -> float:
    if k < 2 or m.tree.joins < 2:
        return NONE
    heights = m.tree.heights
    sd = float(heights.std(ddof=1))
    return ratio(float(heights[m.n - k] - heights.mean()), sd)


def _first_above(values: Floats, material: Material) -> Verdict:
    """The first join above the bound, in the order of joining."""
    counts, heights = material.counts, material.tree.heights
    standard = (heights - heights.mean()) / heights.std(ddof=1)
    above = np.flatnonzero(standard > MOJENA_BOUND)
    bound = np.full(len(counts), MOJENA_BOUND)
    if not above.size:
        why = f"no join is above {MOJENA_BOUND:g}"
        return abstains_with("mojena", counts, values, why, "one")
    best = material.n - int(above[0])
    away = np.abs(np.array(counts) - best)
    standing = 1 / (1 + away.astype(float))
    if best not in counts:
        why = f"its answer is {best}, outside {counts[0]} to {counts[-1]}"
        return Verdict(
            "mojena", counts, values, None, None, why, standing, bound, besides="none"
        )  # fmt: skip
    runner_up = best - 1 if best - 1 in counts else None
    return Verdict("mojena", counts, values, best, runner_up, None, standing, bound)


HEIGHT_RULES: dict[str, Index] = {
    "largest-jump": Index("heights", _largest_jump),
    "mojena": Index(
        "heights", _mojena, decides=_first_above,
        no_value="all joins are at one height, or there is only one",
    ),
}  # fmt: skip
