"""What marks a cluster out, in sentences drafted from its numbers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gorvel.core.base.numbers import listed, number
from gorvel.core.profile.lanes import Lane

_MARKS = 0.5  # standard deviations from all cases: less does not mark a cluster out
_MOST = 3  # questions named above, and below


def portrait(lanes: Sequence[Lane], cluster: int) -> str:
    """A draft, to be edited. cluster : from 0."""
    away = [(float(lane.away[cluster]), lane) for lane in lanes]
    away = [(size, lane) for size, lane in away if np.isfinite(size) and abs(size) >= _MARKS]
    parts = []
    for role, words in (("active", ""), ("profile", "On profile-only variables: ")):
        above = sorted((one for one in away if one[0] > 0 and one[1].role == role),
                       key=lambda one: -one[0])  # fmt: skip
        below = sorted((one for one in away if one[0] < 0 and one[1].role == role),
                       key=lambda one: one[0])  # fmt: skip
        told = [
            f"{side} on {listed([_told(lane, cluster) for _, lane in found[:_MOST]])}"
            for side, found in (("high", above), ("low", below))
            if found
        ]
        if told:
            sentence = words + "; ".join(told)
            parts.append(f"{sentence[:1].upper()}{sentence[1:]}.")
    if not parts:
        return "Close to all cases: no variable differs by half a standard deviation or more."
    return " ".join(parts)


def _told(lane: Lane, cluster: int) -> str:
    value, whole = float(lane.values[cluster]), lane.whole
    return f"{lane.title} ({answer_words(lane, value)}, all cases {answer_words(lane, whole)})"


def answer_words(lane: Lane, value: float) -> str:
    """A mean, or a share in per cent."""
    if np.isnan(value):
        return "–"
    return f"{100 * value:.0f}%" if lane.share else number(value)
