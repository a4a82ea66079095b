"""Where things are of clusters side by side: rows, columns, the ends of lanes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetricsF

from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import Beside, CellFigure, SpreadKind
from gorvel.core.profile.spread import Spread
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.chart import Chart
from gorvel.paint.charts.spreads import row_height
from gorvel.paint.theme import font

ROW, HEADING = 27.0, 24.0
_HEAD, LINE = 52.0, 14.0  # pixels above the rows, and more for each line of names of clusters
GAP = 14.0  # before the columns of another grouping
_NAME, _WIDE_NAME, TELLS, _LEAST_LANE = 150.0, 210.0, 64.0, 130.0
_CELL, _LEAST_CELL = 70.0, 44.0
_LETTER = 15.0  # pixels between two letters of a lane
_BEYOND = 0.35  # of the range of the means: how far intervals widen a lane


class LanesPlace(NamedTuple):
    """A row, a cluster (from 0), a group of the other grouping; -1 for none."""

    row: int = -1
    cluster: int = -1
    other: int = -1


@dataclass(frozen=True, eq=False)
class LanesLayout(Chart[LanesPlace]):
    """The clusters side by side, question by question.

    lanes : in the order shown; order : cluster numbers (from 0) as columns; names : of clusters, by
    number; cases, shares : (k,); row, cluster : under the pointer, -1 for none; selected : a
    cluster, -1 for none; figure : what the cells hold; kind, spreads : how rows show the answers,
    by name of the question, "" for letters at the means; beside : another grouping; above : pixels
    that are out of sight above, where the head stays. Rows have their height whatever there is.
    """

    lanes: Sequence[Lane]
    order: Sequence[int]
    names: Sequence[Identity]
    cases: Sequence[int]
    shares: Sequence[float]
    row: int = -1
    cluster: int = -1
    selected: int = -1
    figure: CellFigure = "mean"
    kind: SpreadKind | Literal[""] = ""
    spreads: Mapping[str, Spread] = field(default_factory=dict)
    beside: Beside | None = None
    above: float = 0.0
    common: bool = False  # all lanes on one scale, of standard deviations from the mean of all

    # where things are

    @cached_property
    def tops(self) -> list[float]:
        """Where each row begins; a heading stands above the first of each part."""
        out, y, part = [], self.head, ""
        for lane in self.lanes:
            if lane.role != part:
                y, part = y + HEADING, lane.role
            out.append(y)
            y += self.tall
        return out

    @cached_property
    def titles(self) -> dict[int, list[str]]:
        """The names of clusters in lines that fit above their columns."""
        at = font("note", 600)
        return {
            cluster: _in_lines(self.names[cluster].title, at, self._cell_wide - 4)
            for cluster in self.order
            if self.names[cluster].title
        }

    @cached_property
    def head(self) -> float:
        """Pixels above the rows."""
        return _HEAD + LINE * max(map(len, self.titles.values()), default=0) + 10

    @cached_property
    def tall(self) -> float:
        """Pixels of a row."""
        return ROW if not self.kind else max(ROW, row_height(self.kind, len(self.order)))

    @property
    def foot(self) -> float:
        """Pixels down to the end of the last row."""
        return (self.tops[-1] if self.tops else self.head) + self.tall + 6

    @property
    def _columns(self) -> int:
        return len(self.order) + (len(self.beside.order) if self.beside else 0)

    @property
    def _extra(self) -> float:
        return GAP if self.beside else 0.0

    @property
    def least(self) -> tuple[float, float]:
        wide = _NAME + TELLS + _LEAST_LANE + _LEAST_CELL * self._columns + 8 + self._extra
        return wide, self.foot

    @cached_property
    def _cell_wide(self) -> float:
        room = self.width - _NAME - TELLS - _LEAST_LANE - 8 - self._extra
        return min(max(room / max(self._columns, 1), _LEAST_CELL), _CELL)

    @cached_property
    def _name(self) -> float:
        """Pixels of names: as wide as the longest where lanes have room."""
        room = self.width - TELLS - 2 * _LEAST_LANE - self._cell_wide * self._columns
        measured = QFontMetricsF(font("table", 600))
        longest = max((measured.horizontalAdvance(one.title) for one in self.lanes), default=0.0)
        return min(max(room, _NAME), max(longest + 20, _WIDE_NAME))

    @property
    def _numbers(self) -> float:
        """Where the numbers begin."""
        wide = self.width - self._cell_wide * self._columns - 8 - self._extra
        return max(wide, self._name + TELLS + _LEAST_LANE)

    @property
    def _others(self) -> float:
        """Where the numbers of the other grouping begin."""
        return self._numbers + self._cell_wide * len(self.order) + GAP

    def at(self, x: float, y: float) -> LanesPlace | None:
        """What is at a pixel."""
        in_head = y < self.above + self.head
        row = -1 if in_head else self.row_at(y)
        if row < 0 and not in_head:
            return None
        cluster, other = self.cluster_at(x), self.other_at(x)
        if row >= 0 and cluster < 0 and other < 0:
            cluster = self.near(row, x, y)
        return LanesPlace(row, cluster, other)

    def row_at(self, y: float) -> int:
        """The row at a pixel, -1 for none."""
        for place, top in enumerate(self.tops):
            if top <= y < top + self.tall:
                return place
        return -1

    def cluster_at(self, x: float) -> int:
        """The cluster whose column is at a pixel, -1 for none."""
        place = int((x - self._numbers) // self._cell_wide)
        return self.order[place] if 0 <= place < len(self.order) and x >= self._numbers else -1

    def other_at(self, x: float) -> int:
        """The group of the other grouping whose column is at a pixel, -1 for none."""
        if self.beside is None or x < self._others:
            return -1
        place = int((x - self._others) // self._cell_wide)
        return self.beside.order[place] if place < len(self.beside.order) else -1

    def near(self, row: int, x: float, y: float = -1.0) -> int:
        """The cluster whose letter is at a pixel of a lane, -1 for none; of spreads, whose line."""
        lane = self.lanes[row]
        if self.kind:
            left, right = self._name + TELLS, self._numbers - 12
            line = int((y - self.tops[row] - 6) // ((self.tall - 12) / len(self.order)))
            inside = left <= x <= right and 0 <= line < len(self.order)
            return self.order[line] if inside else -1
        best = [(abs(at - x), k) for k, at in self.letters(lane).items()]
        return min(best)[1] if best and min(best)[0] <= 10 else -1

    def letters(self, lane: Lane) -> dict[int, float]:
        """Pixels of the letters of clusters: at their means, as far as these leave each room."""
        means = {k: self.x(lane, float(lane.values[k])) for k in self.order
                 if np.isfinite(lane.values[k])}  # fmt: skip
        order = sorted(means, key=lambda k: (means[k], k))
        low, high = self._name + TELLS + 8, self._numbers - 14
        return dict(zip(order, spread_out([means[k] for k in order], _LETTER, low, high),
                        strict=True))  # fmt: skip

    def x(self, lane: Lane, value: float) -> float:
        """Pixel of a value in its lane."""
        low, high = self._ends_of(lane)
        left, right = self._name + TELLS + 16, self._numbers - 22
        return left + (value - low) / (high - low) * (right - left)

    def _ends_of(self, lane: Lane) -> tuple[float, float]:
        if id(lane) not in self._known_ends:
            self._known_ends[id(lane)] = self._ends(lane)
        return self._known_ends[id(lane)]

    @cached_property
    def _known_ends(self) -> dict[int, tuple[float, float]]:
        """By lane, which this painter holds."""
        return {}

    @cached_property
    def reach(self) -> float:
        """Standard deviations from the mean of all cases to the ends of lanes on a common scale."""
        away = np.concatenate([lane.away for lane in self.lanes] or [np.zeros(1)])
        return 1.05 * max(float(np.nanmax(np.abs(away), initial=0.0)), 0.5)

    def _ends(self, lane: Lane) -> tuple[float, float]:
        """Of a lane: all means are in it, and intervals as far as that leaves these room."""
        if self.common and lane.whole_sd > 0 and np.isfinite(lane.whole):
            return lane.whole - self.reach * lane.whole_sd, lane.whole + self.reach * lane.whole_sd
        means = np.append(lane.values, lane.whole)
        means = means[np.isfinite(means)]
        if not means.size:
            return 0.0, 1.0
        low, high = float(means.min()), float(means.max())
        if high - low <= 1e-12 * max(abs(high), 1.0):
            return low - 1.0, high + 1.0
        room = _BEYOND * (high - low)
        ends = [lane.lower[np.isfinite(lane.lower)], lane.upper[np.isfinite(lane.upper)]]
        least = max(float(ends[0].min(initial=low)), low - room)
        most = min(float(ends[1].max(initial=high)), high + room)
        room = 0.03 * (high - low)
        return least - room, most + room


def _in_lines(words: str, at: QFont, room: float) -> list[str]:
    """In at most two lines, shortened where they are still too long."""
    measured = QFontMetricsF(at)
    first, *rest = words.split() or [""]
    while rest and measured.horizontalAdvance(f"{first} {rest[0]}") <= room:
        first = f"{first} {rest.pop(0)}"
    lines = [first, " ".join(rest)] if rest else [first]
    return [measured.elidedText(line, Qt.TextElideMode.ElideRight, room) for line in lines]


def spread_out(places: Sequence[float], apart: float, low: float, high: float) -> list[float]:
    """Rising places moved as little as makes them so far apart, between two ends if they fit.

    Groups of neighbours that touch lie about their own middle (Barlow et al. 1972, Statistical
    inference under order restrictions: pooled neighbours).
    """
    groups: list[list[float]] = []  # first place and how many
    wanted = [place - number * apart for number, place in enumerate(places)]
    for place in wanted:
        groups.append([place, 1.0])
        while len(groups) > 1 and groups[-2][0] > groups[-1][0]:
            (one, few), (other, more) = groups[-2:]
            groups[-2:] = [[(one * few + other * more) / (few + more), few + more]]
    room = max(high - low - apart * (len(places) - 1), 0.0)
    out: list[float] = []
    for place, count in groups:
        for _ in range(int(count)):
            out.append(min(max(place, low), low + room) + apart * len(out))
    return out
