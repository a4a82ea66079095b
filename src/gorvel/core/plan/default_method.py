"""Which method suits the levels of some variables, before anybody has chosen one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
_MOST_STEPS = 11  # of a rating


def on_one_scale(levels: Sequence[str], columns: Sequence[Floats]) -> tuple[int, int] | None:
    """The lowest and highest answer, where all variables are ratings on one scale.

    levels, columns : of the variables, in one order; NaN for gaps.
    """
    if len(columns) < 2 or any(level != "ordinal" for level in levels):
        return None
    known = [column[~np.isnan(column)] for column in columns]
    if any(not answers.size or (answers != np.rint(answers)).any() for answers in known):
        return None
    lows, highs = [k.min() for k in known], [k.max() for k in known]
    low, high = int(min(lows)), int(max(highs))
    one = all(
        high - top <= 1 and bottom - low <= 1 for bottom, top in zip(lows, highs, strict=True)
    )
    return (low, high) if one and 1 <= high - low < _MOST_STEPS else None


def method_for(levels: Sequence[str], columns: Sequence[Floats]) -> dict[str, dict[str, str]]:
    """Scale, measure and linkage for variables, as parts of a plan.

    Answers without an order are compared by Gower's distance; where all are yes/no, by simple
    matching; ratings on one scale are taken as they are; all others on z-scores.

    levels, columns : of the variables, in one order; NaN for gaps.
    """
    scale, measure, linkage = "zscore", "squared-euclidean", "ward"
    if "nominal" in levels:
        scale, measure, linkage = "none", "gower", "average"
    elif len(levels) > 1 and all(level == "binary" for level in levels):
        scale, measure, linkage = "none", "simple-matching", "average"
    elif on_one_scale(levels, columns) is not None:
        scale = "none"
    return {
        "scale": {"method": scale}, "proximity": {"measure": measure},
        "tree": {"linkage": linkage},
    }  # fmt: skip
