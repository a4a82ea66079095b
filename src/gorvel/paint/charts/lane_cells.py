"""What the cells beside lanes hold, and another grouping that stands beside the clusters."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetricsF

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import CellFigure, cell_value
from gorvel.core.words.portrait import answer_words


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
