"""The answers of the cases, coloured by how far they stand from the mean."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.results.tree import answers_table
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.scene.standardised import Standing, standing
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column
from gorvel.desk.work.jobs import JobKind, Jobs
from gorvel.paint.columns.answers import AnswersPicture
from gorvel.paint.tree_style import TreeLook

_MOST = 120  # variables that are shown
_AT_ONCE = 100_000  # answers that are standardised while the window waits


class AnswersView(Column):
    """Empty where there are no variables: a matrix was read.

    Signals: failed(sentence) when the colours could not be worked out.
    """

    failed = Signal(str)

    key = "answers"
    title = "Answers"

    def __init__(self, axis: CaseAxis, jobs: Jobs, parent: QWidget | None = None) -> None:
        self.jobs = jobs
        self._standing: tuple[Arrangement, Standing] | None = None
        self._asked: Arrangement | None = None  # whose standing a job works out
        super().__init__(axis, parent)

    @property
    def available(self) -> bool:
        """Are there variables to show?"""
        grown = self.focus.grown
        return grown is not None and grown.prepared.raw is not None and grown.prepared.of == "cases"

    def table(self, look: TreeLook) -> ResultTable | None:
        grown = self.focus.grown
        return answers_table(grown, look.arrangement) if grown and self.available else None

    def picture(self, look: TreeLook, final: bool = False) -> AnswersPicture | None:
        """While there are variables; without colours until these are worked out."""
        grown = self.focus.grown
        if grown is None or not self.available:
            return None
        raw = grown.prepared.raw
        assert raw is not None
        raw = raw[:, :_MOST]
        names = [variable.name for variable in grown.prepared.variables[:_MOST]]
        return AnswersPicture(look, self._standing_of(look.arrangement, raw, final), names, raw)

    def _standing_of(
        self, at: Arrangement, raw: NDArray[np.float64], at_once: bool
    ) -> Standing | None:
        """How answers stand; many are standardised off the interface thread, None till then."""
        known = self._standing
        if known is not None and known[0] is at:
            return known[1]
        if at_once or raw.size <= _AT_ONCE:
            self._standing = (at, standing(raw, at))
            return self._standing[1]
        if self._asked is not at or not self.jobs.busy(JobKind.ANSWERS, self.focus):
            self._asked = at
            self.jobs.start(
                JobKind.ANSWERS,
                lambda progress: (at, standing(raw, at)),
                self._keep,
                self.failed.emit,
                of=self.focus,
                asker=self,
            )
        return None

    def _keep(self, found: tuple[Arrangement, Standing]) -> None:
        self._standing = found
        self.forget_picture()

    def mark_at(self, x: float, y: float) -> Mark | None:
        look, node = self.axis.look(), self.unit_at(y)
        plot = self.picture(look) if look is not None else None
        if plot is None or node is None or look is None:
            return None
        column = plot.column_at(self.frame(), x)
        if column is None or node >= look.tree.n:
            return self.axis.mark_of(node)
        return Mark("answer", node, column)
