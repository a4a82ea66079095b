"""The answers of the cases, coloured by how far they stand from the mean."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.export.views import ViewTable, answers_table
from gorvel.core.scene.standing import Standing, standing
from gorvel.desk.painting.answers import AnswersPainter
from gorvel.desk.painting.canvas import Canvas
from gorvel.desk.painting.frame import Frame
from gorvel.desk.painting.look import TreeLook
from gorvel.desk.state import Mark
from gorvel.desk.theme import Theme
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column

__all__ = ["AnswersView"]

_MOST = 120  # variables that are shown


class AnswersView(Column):
    """Empty where there are no variables: a matrix was read."""

    key = "answers"
    title = "Answers"

    def __init__(self, axis: CaseAxis, parent: QWidget | None = None) -> None:
        self._standing: Standing | None = None
        super().__init__(axis, parent)
        axis.arranged.connect(self._forget)

    def _forget(self) -> None:
        self._standing = None

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
        if self._standing is None:
            self._standing = standing(raw, look.arrangement)
        names = [variable.name for variable in grown.prepared.variables[:_MOST]]
        return AnswersPainter(look, self._standing, names, raw)

    def paint_still(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look)
        if plot is not None:
            plot.paint(canvas, frame)

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
