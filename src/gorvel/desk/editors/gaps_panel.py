"""Missing answers: the map of gaps, and what each handling would keep, to be chosen right there."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from gorvel.core.inspect.missing_patterns import Gaps, allowed_handlings, outcome_words
from gorvel.core.profile.dropped_cases import DropoutComparison
from gorvel.core.words.lost import lost_words
from gorvel.core.words.plan import HANDLING_WORDS
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.texts import button, clear, heading, scrolled, text
from gorvel.desk.state.focus import Focus

_NOBODY = "The plan uses no case: check the condition and the cases set aside."


class GapsPanel(QWidget):
    """Below a map that is handed in: the handlings with their outcomes."""

    def __init__(self, focus: Focus, gap_map: QWidget, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.gaps: Gaps | None = None
        self.summary = text(soft=True)
        self._grid = QGridLayout()
        self._grid.setColumnStretch(1, 1)
        self._grid.setVerticalSpacing(0)
        self._question = heading("Treatment of missing answers", "text")
        self._lost_head = heading("Excluded and used cases compared", "text")
        self.lost = text()
        fill(
            self, self.summary, (scrolled(gap_map), 1), self._question, self._grid, self._lost_head,
            self.lost,
        )  # fmt: skip
        self.show_lost([], 0)

    def show_lost(self, lost: Sequence[DropoutComparison], cases: int) -> None:
        """Say how those left out for gaps differ. cases : how many they are."""
        plan = self.focus.shelf.plan
        words = lost_words(lost, plan.variables.labels if plan is not None else {}, cases)
        self.lost.setText("\n".join(words))
        self.lost.setToolTip("Largest clear differences (over 2.6 standard errors).")
        for widget in (self._lost_head, self.lost):
            widget.setVisible(bool(words))

    def show_gaps(self, gaps: Gaps | None) -> None:
        """Say how many gaps there are, and what each handling would keep."""
        self.gaps = gaps
        clear(self._grid)
        plan = self.focus.shelf.plan
        self._question.setVisible(gaps is not None and gaps.cases > 0)
        if gaps is None or plan is None:
            self.summary.setText("Choose active variables first.")
            return
        share = gaps.cells / max(gaps.cases * len(gaps.variables), 1)
        if not gaps.cases:
            self.summary.setText(_NOBODY)
            return
        self.summary.setText(
            (
                f"{gaps.cells:,} active answers are missing ({share:.1%}), in "
                f"{gaps.cases - gaps.complete:,} of {gaps.cases:,} cases. Each row is a "
                "pattern: filled = answered, ring = missing."
            )
            if gaps.cells
            else f"No active answer is missing: all {gaps.cases:,} cases are complete."
        )
        for row, handling in enumerate(allowed_handlings(plan)):
            chosen = handling == plan.handling
            choose = button(
                f"{'●' if chosen else '○'}  {HANDLING_WORDS[handling]}",
                partial(self.focus.shelf.change, "missing", handling=handling),
                "", "Choose this",
            )  # fmt: skip
            choose.setObjectName(handling)
            self._grid.addWidget(choose, row, 0)
            words = text(outcome_words(gaps, handling), soft=not chosen)
            self._grid.addWidget(words, row, 1, Qt.AlignmentFlag.AlignVCenter)
