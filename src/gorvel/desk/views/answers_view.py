"""The answers of the cases, coloured by how far they stand from the mean."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.export.views import ViewTable, answers_table
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.scene.standing import Standing, standing
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column
from gorvel.desk.work.jobs import JobKind, Jobs
from gorvel.paint.answers import AnswersPainter
from gorvel.paint.canvas import Canvas
from gorvel.paint.frame import Frame
from gorvel.paint.look import TreeLook
from gorvel.paint.theme import Theme

__all__ = ["AnswersView"]

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

    def table(self, look: TreeLook) -> ViewTable | None:
        grown = self.focus.grown
        return answers_table(grown, look.arrangement) if grown and self.available else None

    def heading(self, theme: Theme) -> str:
        return "Answers · teal low, rust high"

    def plot(self, look: TreeLook) -> AnswersPainter | None:
        """What is painted, while there are variables."""
        grown = self.focus.grown
        if grown is None or not self.available:
            return None
        raw = grown.prepared.raw
        assert raw is not None
        raw = raw[:, :_MOST]
        known = self._standing
        shown = known[1] if known is not None and known[0] is look.arrangement else None
        names = [variable.name for variable in grown.prepared.variables[:_MOST]]
        return AnswersPainter(look, shown, names, raw)

    def _stand(self, plot: AnswersPainter, at_once: bool) -> AnswersPainter:
        """The plot with its colours; many answers are standardised off the interface thread."""
        at, raw = plot.look.arrangement, plot.raw
        if plot.shown is not None:
            return plot
        if at_once or raw.size <= _AT_ONCE:
            self._standing = (at, standing(raw, at))
            return replace(plot, shown=self._standing[1])
        if self._asked is not at or not self.jobs.busy(JobKind.ANSWERS):
            self._asked = at
            self.jobs.start(
                JobKind.ANSWERS,
                lambda progress: (at, standing(raw, at)),
                self._keep,
                self.failed.emit,
            )
        return plot

    def _keep(self, found: tuple[Arrangement, Standing]) -> None:
        self._standing = found
        self.forget_picture()

    def paint_still(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look)
        if plot is not None:
            self._stand(plot, at_once=False).paint(canvas, frame)

    def paint_print(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look)
        if plot is not None:
            self._stand(plot, at_once=True).paint(canvas, frame)

    def paint_foot(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look)
        if plot is not None:
            plot.heads(canvas, frame)

    def mark_at(self, x: float, y: float) -> Mark | None:
        look, node = self.axis.look(), self.unit_at(y)
        plot = self.plot(look) if look is not None else None
        if plot is None or node is None or look is None:
            return None
        column = plot.column_at(self.frame(), x)
        if column is None or node >= look.tree.n:
            return self.axis.mark_of(node)
        return Mark("answer", node, column)
