"""The Cases page: what was read, what each variable is for, and the cells themselves."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QStackedWidget, QWidget

from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.table import Table
from gorvel.desk.controls.arranging import fill, split
from gorvel.desk.controls.texts import text
from gorvel.desk.editors.cautions import CautionList
from gorvel.desk.pages.cases.answers import AnswersPanel
from gorvel.desk.pages.cases.source_line import SourceLine
from gorvel.desk.pages.cases.turning import TurningOffer, TurningPanel
from gorvel.desk.pages.cases.variables import VariablesPanel
from gorvel.desk.views.layout import Layout
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.derived_variables import Turning
from gorvel.paint.theme import SPACE, font


class CasesPage(QWidget):
    """Variables on the left, the cases on the right; a matrix has the page for itself.

    In their place, answers are turned into numbers when that is asked for.
    """

    def __init__(
        self, actions: Actions, turning: Turning, layout: Layout, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.focus = actions.focus
        self.source = SourceLine(actions)
        self.variables = VariablesPanel(actions)
        self.answers = AnswersPanel(actions, self.variables.view, layout)
        self.cautions = CautionList(self.focus)
        self.matrix_note = text()
        self.similarity = QCheckBox("The file holds similarities: larger is more alike")
        self.similarity.setFont(font())
        self.similarity.toggled.connect(lambda on: actions.read_again(similarity=on))
        self.turn = TurningPanel(turning)
        self.turn.closed.connect(lambda: self.show_turning(False))
        self.offer = TurningOffer(turning, self)
        self.offer.wanted.connect(lambda: self.show_turning(True))
        halves = split(self.variables, self.answers, sizes=(740, 510), gap=2 * SPACE)
        self.stack = QStackedWidget()
        self.stack.addWidget(halves)
        self.stack.addWidget(self.turn)
        fill(
            self, self.source, self.cautions, self.matrix_note, self.similarity, self.offer,
            (self.stack, 1), space=SPACE, edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        self.focus.shelf.study_changed.connect(self._new_study)
        self._new_study()

    def show_turning(self, on: bool) -> None:
        """Turn answers into numbers, or go back to the table."""
        on = on and self.turn.turning.table is not None
        self.stack.setCurrentIndex(int(on))
        self.offer.show_offer(not on)
        if on:
            self.turn.take_focus()
        else:
            self.variables.view.setFocus()
        self.turn.turning.turned.emit()

    @property
    def waits(self) -> bool:
        """Are answers to be turned into numbers before a tree is grown?"""
        return self.offer.isVisibleTo(self)

    @property
    def turns(self) -> bool:
        """Are answers turned into numbers here now?"""
        return self.stack.currentIndex() == 1

    def _new_study(self) -> None:
        self.stack.setCurrentIndex(0)
        self.offer.show_offer(True)
        source = self.focus.shelf.study.source if self.focus.shelf.study else None
        self.cautions.show_cautions(source.cautions if isinstance(source, Table) else ())
        matrix = isinstance(source, ProximityTable)
        self.variables.setVisible(not matrix)
        self.matrix_note.setVisible(matrix)
        self.similarity.setVisible(matrix)
        if not isinstance(source, ProximityTable):
            return
        with QSignalBlocker(self.similarity):
            self.similarity.setChecked(source.similarity)
        said = f"{source.n:,} cases with the proximity of every pair."
        if source.similarity:
            said += " Each similarity was subtracted from the largest, so what is shown and"
            said += " written is a distance."
        self.matrix_note.setText(said + " Smaller is more alike.")
