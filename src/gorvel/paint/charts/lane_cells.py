"""What the cells beside lanes hold, and another grouping that stands beside the clusters."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetricsF

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.lanes import Lane
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.words.portrait import answer_words

CellFigure = Literal["mean", "median", "sd", "away"]
FIGURES: dict[CellFigure, str] = {
    "mean": "Means and shares",
    "median": "Medians",
    "sd": "Standard deviations",
    "away": "SD from all cases",
}


@dataclass(frozen=True, eq=False)
class Beside:
    """Another grouping of the same cases, as columns beside the clusters.

    name : of the grouping; order, cases, shares : as of the clusters; groups : names, which have
    a colour where they are clusters of the same tree; lanes : by title.
    """

    name: str
    order: Sequence[int]
    groups: Sequence[str | Identity]
    cases: Sequence[int]
    shares: Sequence[float]
    lanes: Mapping[str, Lane]

    def called(self, group: int) -> str:
        """A group in a sentence."""
        who = self.groups[group]
        return who if isinstance(who, str) else who.told


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


def cell_value(lane: Lane, cluster: int, figure: CellFigure) -> float:
    """The number of a cell."""
    of = {"mean": lane.values, "median": lane.values if lane.share else lane.median,
          "sd": lane.sd, "away": lane.away}  # fmt: skip
    known = np.isfinite(lane.values[cluster])
    return float(of[figure][cluster]) if known else float("nan")


def in_lines(words: str, at: QFont, room: float) -> list[str]:
    """In at most two lines, shortened where they are still too long."""
    measured = QFontMetricsF(at)
    first, *rest = words.split() or [""]
    while rest and measured.horizontalAdvance(f"{first} {rest[0]}") <= room:
        first = f"{first} {rest.pop(0)}"
    lines = [first, " ".join(rest)] if rest else [first]
    return [measured.elidedText(line, Qt.TextElideMode.ElideRight, room) for line in lines]


def effect_words(lane: Lane) -> str:
    """How far the clusters differ, to be put after an answer of all cases."""
    if np.isnan(lane.effect):
        return ""
    if lane.word:  # of a variable without order
        return f"; Cramér’s V {fixed(float(np.sqrt(lane.effect)), 2)}"
    return f"; {lane.effect:.0%} of its variance lies between clusters"
