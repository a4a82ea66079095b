"""What marks a cluster out, in sentences drafted from its numbers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gorvel.core.base.numbers import fixed, listed, number
from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import CellFigure, cell_value

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


def cell_words(lane: Lane, cluster: int, figure: CellFigure) -> str:
    """What a cell holds; a share where a question of yes and no has nothing else."""
    value = cell_value(lane, cluster, figure)
    if np.isnan(value):
        return "–"
    if figure == "away":
        return fixed(value, 1, sign=True)
    if figure == "mean" or (figure == "median" and lane.share):
        return answer_words(lane, value)
    return number(value)


def ends_words(lane: Lane) -> tuple[str, str]:
    """The lowest and the highest mean of a cluster; "" where there is none."""
    known = lane.values[np.isfinite(lane.values)]
    if not known.size:
        return "", ""
    return answer_words(lane, float(known.min())), answer_words(lane, float(known.max()))


def _effect_words(lane: Lane) -> str:
    """How far the clusters differ, to be put after an answer of all cases."""
    if np.isnan(lane.effect):
        return ""
    if lane.word:  # of a variable without order
        return f"; Cramér’s V {fixed(float(np.sqrt(lane.effect)), 2)}"
    return f"; {lane.effect:.0%} of its variance lies between clusters"


def lane_words(lane: Lane, cluster: int, name: str) -> str:
    """All of a cluster's answer to a question. cluster : from 0, -1 for all cases; name : its."""
    if cluster < 0:
        return f"{lane.title}: {answer_words(lane, lane.whole)} in all cases{_effect_words(lane)}."
    value = float(lane.values[cluster])
    if np.isnan(value):
        return f"{lane.title}: nobody in {name} answered."
    mine, all_ = answer_words(lane, value), answer_words(lane, lane.whole)
    words = f"{lane.title}: {name} {mine}, all cases {all_}"
    low, high = float(lane.lower[cluster]), float(lane.upper[cluster])
    if np.isfinite(low):
        words += f"; 95% CI {answer_words(lane, low)} to {answer_words(lane, high)}"
    if np.isfinite(lane.deff[cluster]):
        words += f", design effect {fixed(lane.deff[cluster], 2)}"
    if not lane.share and np.isfinite(lane.sd[cluster]):
        words += f"; median {number(float(lane.median[cluster])).replace('-', '−')}"
        words += f", SD {number(float(lane.sd[cluster]))}"
    return f"{words}; {lane.n[cluster]:,} answered."
