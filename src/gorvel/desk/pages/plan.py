"""The Plan page: every choice with what it does, and what growing will work on."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.analysis import free_memory
from gorvel.core.proximity.pairs import bytes_needed
from gorvel.desk.actions import Actions
from gorvel.desk.theme import SPACE
from gorvel.desk.widgets.choices import choices_for
from gorvel.desk.widgets.growing import GrowBar
from gorvel.desk.widgets.plan_sentence import open_editor
from gorvel.desk.widgets.texts import button, heading, panel, text

__all__ = ["PlanPage"]

_ROWS = (
    ("scale", "Scale"),
    ("measure", "Measure"),
    ("linkage", "Linkage"),
    ("missing", "Missing answers"),
    ("weight", "Weight"),
)
_MOST_REASONS = 6


class PlanPage(QWidget):
    """On the left the choices, on the right what they make of the table."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.actions, self.focus = actions, actions.focus
        self._grid = QGridLayout()
        self._choices_box = self._scrolled(self._grid)
        self.state_title = heading("")
        self.state = text()
        self.reasons = text(soft=True)
        self.problem = text(weight=600)
        self.problem.setProperty("alarm", True)
        self.grow = GrowBar(actions)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, 2 * SPACE)
        outer.setSpacing(2 * SPACE)
        outer.addWidget(self._choices_box, 5)
        outer.addWidget(self._state_box(), 3)
        self.focus.plan_changed.connect(self._fill)
        self.focus.prepared_changed.connect(self._tell)
        self._fill()
        self._tell()

    def _scrolled(self, grid: QGridLayout) -> QFrame:
        box = panel()
        inside = QWidget()
        inside.setLayout(grid)
        grid.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, 2 * SPACE)
        grid.setHorizontalSpacing(2 * SPACE)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(inside)
        layout = QVBoxLayout(box)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.addWidget(area)
        return box

    def _state_box(self) -> QFrame:
        box = panel()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE)
        layout.setSpacing(SPACE)
        for widget in (self.state_title, self.state, self.problem, self.reasons):
            layout.addWidget(widget)
        layout.addStretch(1)
        layout.addWidget(self.grow)
        return box

    def _fill(self) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        plan = self.focus.plan
        if plan is None:
            return
        rows = [row for row in _ROWS if plan.source.kind == "table" or row[0] == "linkage"]
        for place, (part, name) in enumerate(rows):
            line = 4 * place
            self._grid.addWidget(
                text(name, soft=True, wrap=False), line, 0, Qt.AlignmentFlag.AlignTop
            )
            self._row(part, line)
        self._grid.setRowStretch(4 * len(rows), 1)

    def _row(self, part: str, line: int) -> None:
        choices = choices_for(self.focus, part)
        choice = next((c for c in choices.choices if c.key == choices.chosen), choices.choices[0])
        opener = button(choice.name, lambda: None, "link", "Choose another")
        opener.clicked.connect(lambda: self._edit(part, opener))
        opener.setObjectName(part)
        self._grid.addWidget(opener, line, 1, Qt.AlignmentFlag.AlignLeft)
        words = choice.purpose if not choice.formula else f"{choice.formula}.  {choice.purpose}"
        told = text(words)
        told.setContentsMargins(5, 0, 0, 0 if choice.misleads or choice.why_not else 10)
        self._grid.addWidget(told, line + 1, 1)
        if choice.misleads or choice.why_not:
            careful = text(f"Careful: {choice.why_not or choice.misleads}", soft=not choice.why_not)
            careful.setProperty("alarm", bool(choice.why_not))
            careful.setContentsMargins(5, 0, 0, 10)
            self._grid.addWidget(careful, line + 2, 1)

    def _edit(self, part: str, opener: QWidget) -> None:
        open_editor(self.focus, part, opener.mapToGlobal(QPoint(0, opener.height() + 2)), self)

    def _tell(self) -> None:
        prepared, plan = self.focus.prepared, self.focus.plan
        self.problem.setText(self.focus.problem)
        self.problem.setVisible(bool(self.focus.problem))
        self.reasons.setText("")
        if plan is None or prepared is None:
            self.state_title.setText(
                "This plan cannot be carried out" if self.focus.problem else ""
            )
            self.state.setText("")
            return
        kept = prepared.read - len(prepared.dropped)
        self.state_title.setText(f"{kept:,} of {prepared.read:,} cases will be grouped")
        pairs = kept * (kept - 1) // 2
        needed = bytes_needed(kept)
        lines = [f"{pairs:,} pairs are measured and {max(kept - 1, 0):,} joins made."]
        if needed > 50e6:
            free = free_memory()
            lines.append(f"This takes about {needed / 2**30:.1f} GiB of memory.")
            if needed > free:
                lines.append(f"Only {free / 2**30:.1f} GiB are free: it would be refused.")
        if plan.cases.split:
            lines.append(
                f"The plan splits by {plan.cases.split}: a run without a window grows a tree for"
                " each group; here one tree of all cases is grown."
            )
        lines += [caution.text for caution in prepared.cautions]
        self.state.setText("\n\n".join(lines))
        self._tell_dropped()

    def _tell_dropped(self) -> None:
        prepared = self.focus.prepared
        if prepared is None or not prepared.dropped:
            return
        counts = Counter(dropped.reason for dropped in prepared.dropped)
        lines = [f"{len(prepared.dropped):,} cases are left out:"]
        for reason, times in counts.most_common(_MOST_REASONS):
            lines.append(f"{times:,} with {reason}")
        rest = sum(times for _, times in counts.most_common()[_MOST_REASONS:])
        if rest:
            lines.append(f"{rest:,} for other gaps")
        self.reasons.setText("\n".join(lines))
