"""Painting the board: rules as rows, counts as columns; below them votes, sizes and stability."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gorvel.core.base.numbers import fixed, number, unit
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.verdicts import STABLE, Answer, Verdict
from gorvel.core.count.indices.voting import RuleVote
from gorvel.core.count.null.conclusion import is_small
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.plan.count_rule import FAMILIES, Family
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart
from gorvel.paint.theme import font

HEAD = 28.0  # pixels of the line with the counts
_NAME = 172.0
_MOST_COLUMN = 132.0
_ROOMY = 54.0  # pixels of a column that has room for values
_LEAST_ROW, _MOST_ROW = 16.0, 30.0
_FULL = 3.0  # standard deviations above data without groups, at the least, of a full dot
FEET = ("votes", "smallest", "stability")
_FEET_WORDS = {
    "votes": "Votes, by kind of rule",
    "smallest": "Smallest cluster",
    "stability": "Least stable cluster",
}
_FEET_TIPS = {
    "votes": "Each kind of rule shares one bar among its votes; the number counts votes.",
    "smallest": "Cases of the smallest cluster; very small ones are marked",
    "stability": (
        "Mean Jaccard index of the least stable cluster in resamples; stable from 0.75 "
        "(press Resample)"
    ),
}
_VOTES_HIGH = 2.0  # rows that the votes take


def board_rows(board: IndexTable) -> list[str]:
    """Keys of rules, each kind under its heading, which is the key of the kind."""
    rows: list[str] = []
    for family in FAMILIES:
        keys = [key for key in board.verdicts if COUNT_RULES[key].family == family]
        if keys:
            rows += [family, *keys]
    return rows


def short(value: float) -> str:
    """A value in at most about five figures."""
    if np.isnan(value):
        return ""
    size = abs(value)
    if size >= 99_999.5:
        return f"{value:.2g}".replace("e+0", "e").replace("e+", "e")
    if size < 0.005:
        return "0.00"
    return f"{value:,.0f}" if size >= 100 else f"{value:.1f}" if size >= 10 else f"{value:.2f}"


@dataclass(frozen=True)
class BoardPlace:
    """A place on the board.

    row : key of a rule or a kind of rules, "" for none; count : 0 for none; foot : one of `FEET`,
    "" for none; ticks : is it the box that says whether a rule votes?
    """

    row: str = ""
    count: int = 0
    foot: str = ""
    ticks: bool = False


@dataclass(frozen=True, eq=False)
class BoardChart(Chart[BoardPlace]):
    """The board on a ground of some size.

    count : in hand; hovered : count under the pointer, 0 for none; selected : rule whose row is
    marked; left_out : rules without a vote; cases : of the tree; null : data without groups, where
    rules are shown in standard deviations above them.
    """

    board: IndexTable
    count: int
    cases: int
    left_out: Collection[str] = ()
    hovered: int = 0
    selected: str = ""
    focused: bool = False
    null: Evidence | None = None

    # where things are

    @cached_property
    def rows(self) -> list[str]:
        """Families and rules, as `board_rows`."""
        return board_rows(self.board)

    @cached_property
    def row(self) -> float:
        """Pixels of a row."""
        lines = len(self.rows) + _VOTES_HIGH + 2
        return min(max((self.height - HEAD - 14) / lines, _LEAST_ROW), _MOST_ROW)

    @cached_property
    def column(self) -> float:
        """Pixels of a column."""
        return min((self.width - _NAME - 10) / max(len(self.board.counts), 1), _MOST_COLUMN)

    @property
    def least(self) -> tuple[float, float]:
        return 0.0, HEAD + 14 + _LEAST_ROW * (len(self.rows) + _VOTES_HIGH + 2)

    def left(self, place: int) -> float:
        """Where a column begins."""
        return _NAME + place * self.column

    def top(self, place: int) -> float:
        """Where a row begins."""
        return HEAD + place * self.row

    @property
    def foot(self) -> float:
        """Where the votes begin."""
        return self.top(len(self.rows)) + 8

    def row_at(self, y: float) -> str:
        """The key of the row at a pixel; empty for none."""
        place = int((y - HEAD) // self.row)
        return self.rows[place] if 0 <= place < len(self.rows) else ""

    def count_at(self, x: float) -> int:
        """The count of the column at a pixel; 0 for none."""
        place = int((x - _NAME) // self.column)
        return self.board.counts[place] if 0 <= place < len(self.board.counts) else 0

    def at(self, x: float, y: float) -> BoardPlace | None:
        """The row, count or line below the rules at a pixel."""
        row, count, foot = self.row_at(y), self.count_at(x), self.foot_at(y)
        if not (row or count or foot):
            return None
        near = row in COUNT_RULES and self.box_of(row).adjusted(-6, -6, 6, 6).contains(x, y)
        return BoardPlace(row, count, foot, near)

    def box_of(self, key: str) -> QRectF:
        """The box of a row that says whether it votes."""
        return QRectF(8, self.top(self.rows.index(key)) + self.row / 2 - 6, 12, 12)

    # painting

    def paint(self, canvas: Canvas) -> None:
        """Everything."""
        canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._columns(canvas)
        self._cut(canvas)
        for place, key in enumerate(self.rows):
            if key in FAMILIES:
                self._family(canvas, place, key)
            else:
                self._rule(canvas, place, key)
        self._feet(canvas)

    def _columns(self, canvas: Canvas) -> None:
        for place, count in enumerate(self.board.counts):
            box = QRectF(self.left(place), 0, self.column, HEAD)
            here = count == self.count
            if count == self.hovered and not here:
                ground = QRectF(self.left(place) + 3, 2, self.column - 6, self.height - 4)
                canvas.painter.setPen(Qt.PenStyle.NoPen)
                canvas.painter.setBrush(QColor(self.theme.paper))
                canvas.painter.drawRoundedRect(ground, 6, 6)
            colour = self.theme.cut if here else self.theme.ink
            canvas.write(box, str(count), colour, font("title", 600), "centre")

    def _family(self, canvas: Canvas, place: int, family: str) -> None:
        top = self.top(place)
        words = next(name for key, name in FAMILIES.items() if key == family).upper()
        box = QRectF(8, top + 2, self.width - 16, self.row)
        canvas.write(box, words, self.theme.soft, font("note", 600))

    def _rule(self, canvas: Canvas, place: int, key: str) -> None:
        theme, verdict = self.theme, self.board.verdicts[key]
        top = self.top(place)
        left, out = key in self.left_out, not self._voices[key].votes
        if key == self.selected:
            canvas.painter.setPen(QPen(QColor(theme.focus), 1.4) if self.focused
                                  else Qt.PenStyle.NoPen)  # fmt: skip
            canvas.painter.setBrush(QColor(theme.tint))
            canvas.painter.drawRoundedRect(QRectF(3, top, self.width - 6, self.row), 4, 4)
        self._box(canvas, key, left)
        colour = theme.soft if out or verdict.best is None else theme.ink
        weight = 600 if key == self.selected else 400
        name = canvas.shortened(COUNT_RULES[key].name, font("table", weight), _NAME - 30)
        canvas.write(QRectF(27, top, _NAME - 27, self.row), name, colour, font("table", weight))
        if verdict.best is None and not np.isfinite(verdict.standing).any():
            room = self.width - _NAME - 20
            words = canvas.shortened(str(verdict.why), font("note"), room)
            ground = QColor(theme.tint if key == self.selected else theme.panel)
            wide = canvas.wide(words, font("note"))  # no line of the cut runs through words
            canvas.painter.fillRect(QRectF(_NAME + 5, top + 1, wide + 6, self.row - 2), ground)
            canvas.write(QRectF(_NAME + 8, top, room, self.row), words, theme.soft, font("note"))
            return
        for column, count in enumerate(verdict.counts):
            self._cell(canvas, verdict, column, count, top, out)

    def _box(self, canvas: Canvas, key: str, out: bool) -> None:
        box, painter = self.box_of(key), canvas.painter
        painter.setPen(QPen(QColor(self.theme.soft if out else self.theme.focus), 1.0))
        painter.setBrush(QColor(self.theme.panel if out else self.theme.focus))
        painter.drawRoundedRect(box, 3, 3)
        if not out:
            painter.setPen(QPen(QColor(self.theme.panel), 1.6))
            middle = box.center()
            painter.drawPolyline([
                middle + QPointF(-3, 0), middle + QPointF(-0.8, 2.4), middle + QPointF(3.2, -2.6),
            ])  # fmt: skip

    def _cell(
        self, canvas: Canvas, verdict: Verdict, column: int, count: int, top: float, out: bool
    ) -> None:
        theme, painter = self.theme, canvas.painter
        roomy = self.column >= _ROOMY
        middle = top + self.row / 2
        x = self.left(column) + (13.0 if roomy else self.column / 2)
        standing, words = self._shown(verdict, column, count)
        best = count == verdict.best
        most = min(self.row / 2 - 4.0, 6.5)
        if np.isfinite(standing):
            colour = QColor(theme.soft if out else theme.focus)
            whole = best and self.null is None
            colour.setAlphaF(1.0 if whole else 0.35 + 0.45 * standing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            wide = most - 1.4 if self.null is not None else most - 2.4
            size = most if whole else 1.8 + wide * standing
            painter.drawEllipse(QPointF(x, middle), size, size)
        mark = QPen(QColor(theme.soft if out else theme.focus), 1.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(mark)
        if best:
            painter.drawEllipse(QPointF(x, middle), most + 2.2, most + 2.2)
        elif count == verdict.runner_up:
            painter.drawLine(QLineF(x - 7, middle + most + 2, x + 7, middle + most + 2))
        if roomy:
            weight = 600 if best else 400
            strong = best and not out
            box = QRectF(x + most + 7, top, self.column - 26, self.row)
            canvas.write(box, words, theme.ink if strong else theme.soft, font("note", weight))

    def _shown(self, verdict: Verdict, column: int, count: int) -> tuple[float, str]:
        """How full a dot is, 0 to 1, and the number beside it."""
        if self.null is None:
            return float(verdict.standing[column]), short(float(verdict.values[column]))
        above = self._above.get(verdict.key, {}).get(count, np.nan)
        if np.isnan(above):
            return np.nan, ""
        return min(max(above / self._highest, 0.0), 1.0), fixed(above, 1)

    @cached_property
    def _above(self) -> dict[str, dict[int, float]]:
        """By rule and count, standard deviations above data without groups."""
        if self.null is None:
            return {}
        indices = {key: self.null.of(key) for key in self.board.verdicts}
        return {
            key: dict(zip(index.counts, index.standing.tolist(), strict=True))
            for key, index in indices.items()
            if index is not None and index.told
        }

    @cached_property
    def _highest(self) -> float:
        """Standard deviations of a full dot."""
        every = [v for row in self._above.values() for v in row.values() if np.isfinite(v)]
        return max([_FULL, *every])

    def _feet(self, canvas: Canvas) -> None:
        theme, y = self.theme, self.foot
        canvas.painter.setPen(QPen(QColor(theme.line), 1.0))
        canvas.painter.drawLine(QLineF(6, y - 4, self.width - 6, y - 4))
        heights = (_VOTES_HIGH * self.row, self.row, self.row)
        painted = (self._votes, self._smallest, self._stability)
        for key, high, paint in zip(FEET, heights, painted, strict=True):
            box = QRectF(8, y, _NAME - 8, high)
            canvas.write(box, _FEET_WORDS[key], theme.ink, font("table", 600))
            for place, count in enumerate(self.board.counts):
                cell = QRectF(self.left(place), y, self.column, high)
                paint(canvas, cell, place, count)
            y += high

    def _votes(self, canvas: Canvas, cell: QRectF, place: int, count: int) -> None:
        votes = self._family_votes.get(count, {})
        rules = self._rule_votes.get(count, 0)
        full = (cell.height() - 17) / self._most_votes
        y = cell.bottom() - 1
        here = self.theme.cut if count == self.count else self.theme.focus
        canvas.painter.setPen(Qt.PenStyle.NoPen)
        canvas.painter.setBrush(QColor(here))
        for share in votes.values():
            high = share * full
            bar = QRectF(cell.center().x() - 13, y - high + 1, 26, max(high - 2, 0.8))
            canvas.painter.drawRect(bar)
            y -= high
        if rules:
            box = QRectF(cell.left(), y - 18, cell.width(), 17)
            canvas.write(box, str(rules), self.theme.ink, font("text", 600), "centre")

    @cached_property
    def _most_votes(self) -> float:
        """Of all counts, in kinds."""
        votes = self._family_votes.values()
        return max((sum(kinds.values()) for kinds in votes), default=1.0)

    @cached_property
    def _family_votes(self) -> dict[int, dict[Family, float]]:
        return self.board.family_votes(self.left_out)

    @cached_property
    def _voices(self) -> dict[str, RuleVote]:
        return self.board.voices(self.left_out)

    @cached_property
    def _rule_votes(self) -> dict[Answer, int]:
        return self.board.votes(self.left_out)

    def _smallest(self, canvas: Canvas, cell: QRectF, place: int, count: int) -> None:
        cases = self.board.smallest[place]
        small = is_small(cases, self.cases)
        colour = self.theme.warn if small else self.theme.ink
        words, at = f"! {cases:,}" if small else f"{cases:,}", font("note", 600 if small else 400)
        canvas.write(cell, words, colour, at, "centre")

    def _stability(self, canvas: Canvas, cell: QRectF, place: int, count: int) -> None:
        verdict = self.board.verdicts.get("bootstrap-jaccard")
        value = np.nan
        if verdict is not None and verdict.lowest is not None:
            value = float(verdict.lowest[place])
        wide = min(cell.width() - 14, 34.0)
        bar = QRectF(cell.center().x() - wide / 2, cell.center().y() - 3.5, wide, 7)
        painter = canvas.painter
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.line))
        painter.drawRoundedRect(bar, 3.5, 3.5)
        if np.isfinite(value):
            bar.setWidth(max(wide * value, 7))
            painter.setBrush(QColor(self.theme.focus if value >= STABLE else self.theme.bar))
            painter.drawRoundedRect(bar, 3.5, 3.5)

    def _cut(self, canvas: Canvas) -> None:
        """A frame around the count in hand."""
        if self.count not in self.board.counts:
            return
        place = self.board.counts.index(self.count)
        canvas.painter.setPen(QPen(QColor(self.theme.cut), 1.8))
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        bottom = self.foot + (_VOTES_HIGH + 2) * self.row + 2
        frame = QRectF(self.left(place) + 2, 2, self.column - 4, bottom - 2)
        canvas.painter.drawRoundedRect(frame, 7, 7)

    def foot_at(self, y: float) -> str:
        """The line below the rules at a pixel, one of `FEET`; empty for none."""
        place = (y - self.foot) / self.row - (_VOTES_HIGH - 1)
        return FEET[max(int(place), 0)] if 1 - _VOTES_HIGH <= place < len(FEET) else ""

    def _foot_tip(self, key: str, count: int) -> str:
        """What a cell below the rules holds, in words."""
        if count not in self.board.counts:
            return _FEET_TIPS[key]
        place = self.board.counts.index(count)
        if key == "votes":
            rules = self._rule_votes.get(count, 0)
            kinds = sum(self._family_votes.get(count, {}).values())
            called = f"{rules or 'no'} vote{'' if rules == 1 else 's'}"
            return f"{count} clusters: {called}, {kinds:.2g} of {len(FAMILIES)} kinds"
        if key == "smallest":
            smallest = unit(self.board.of, self.board.smallest[place])
            return f"{count} clusters: the smallest has {smallest}"
        verdict = self.board.verdicts.get("bootstrap-jaccard")
        if verdict is None or verdict.lowest is None:
            return _FEET_TIPS[key]
        value = float(verdict.lowest[place])
        return f"{count} clusters: the least stable has a mean Jaccard index of {fixed(value, 2)}"

    def tip(self, place: BoardPlace) -> str:
        if place.foot:
            return self._foot_tip(place.foot, place.count)
        if place.count:
            return self._cell_tip(place.row, place.count)
        if place.row in FAMILIES:
            return "Click to exclude or include all rules of this kind"
        if place.row not in COUNT_RULES:
            return ""
        rule, why = COUNT_RULES[place.row], self._voices[place.row].no_vote
        words = f"{rule.name} ({rule.source}): {rule.formula}"
        return words + (f"\nNo vote: {why}" if why else "")

    def _cell_tip(self, key: str, count: int) -> str:
        if key not in self.board.verdicts or not count:
            return ""
        verdict = self.board.verdicts[key]
        if count not in verdict.counts:
            return ""
        value = verdict.at(count)
        name = COUNT_RULES[key].name
        words = f"{name} at {count}: {'none' if np.isnan(value) else number(value)}"
        place = verdict.counts.index(count)
        if verdict.error is not None:
            words += f" ± {number(float(verdict.error[place]))}"
        if verdict.bound is not None and np.isfinite(verdict.bound[place]):
            words += f", bound {number(float(verdict.bound[place]))}"
        above = self._above.get(key, {}).get(count, np.nan)
        if np.isfinite(above):
            words += f", {fixed(above, 1)} SD above data without groups"
        if count == verdict.best:
            words += "; the best"
        elif count == verdict.runner_up:
            words += "; the runner-up"
        return words
