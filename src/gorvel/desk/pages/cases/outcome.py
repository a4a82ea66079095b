"""What would come out: the first cases with the variables that would be made."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QTableView, QWidget

from gorvel.core.base.numbers import counted, fixed
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import card, heading, text
from gorvel.desk.views.record_model import Column, RecordModel
from gorvel.desk.views.tables import dress
from gorvel.desk.work.derived_variables import Outcome, Turning

Index = QModelIndex | QPersistentModelIndex
_ROWS = 200
_LEAST, _MOST = 54, 150  # pixels of a column
_PLACES = 2  # behind the point, at most
_NOTE = "The file is not changed. Each step is recorded in the plan and can be undone."


def _columns(outcome: Outcome) -> list[Column[int]]:
    """Of what is made; records are the first cases."""
    table = outcome.table
    levels = {} if table.made is None else table.made.levels

    def column(name: str) -> Column[int]:
        cells, binary = table.frame[name], levels.get(name) == "binary"
        parts = [cell.partition(".")[2] for cell in cells.head(_ROWS).drop_nulls().to_list()]
        places = min(max(map(len, parts), default=0), _PLACES)

        def text(row: int) -> str:
            cell = cells[row]
            if cell is None:
                return "·"
            if binary:
                return {"1": "yes", "0": "no"}.get(cell, str(cell))
            try:
                return fixed(float(cell), places)
            except ValueError:  # words
                return str(cell)

        return Column(name, text, tip=name, right=True)

    return [column(name) for name in outcome.names]


class OutcomeCard(QWidget):
    """A table that follows each choice."""

    def __init__(self, turning: Turning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.turning = turning
        self.table = RecordModel[int](parent=self, numbered=True)
        self.view = QTableView()
        self.view.setModel(self.table)
        dress(self.view, "Preview")
        self.view.horizontalHeader().setTextElideMode(Qt.TextElideMode.ElideRight)
        self.says = text(size="table", soft=True)
        inside = card(self)
        head = in_row(heading("Preview", "text"), text("first cases", soft=True, wrap=False), None)
        inside.addLayout(head)
        inside.addWidget(self.says)
        inside.addWidget(self.view, 1)
        inside.addWidget(text(_NOTE, "note", soft=True))
        turning.outcome_changed.connect(self.follow)
        turning.focus.shelf.columns_changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Another choice, or what comes out of it is known."""
        outcome = self.turning.outcome
        if outcome is None and self.turning.trying.job is not None:
            return  # what was there stays until the other is known
        so_far = outcome is None and not self.turning.trying.problem
        if so_far:
            outcome = self.turning.so_far
        if outcome is None:
            self.table.show((), ())
        else:
            self.table.show(range(min(outcome.table.n, _ROWS)), _columns(outcome))
        words = self.turning.trying.problem
        if outcome is not None:
            were = " created so far" if so_far else ""
            cases = counted(outcome.table.n, "case")
            words = f"{counted(len(outcome.names), 'variable')}{were}, {cases}."
        elif not words:
            waits = bool(self.turning.in_words)
            words = "Nothing is chosen yet: tick what to create." if waits else ""
        self.says.setText(words)
        metrics = self.view.horizontalHeader().fontMetrics()
        for column in range(self.table.columnCount()):
            name = str(self.table.headerData(column, Qt.Orientation.Horizontal))
            wide = metrics.horizontalAdvance(name) + 22
            self.view.setColumnWidth(column, min(max(wide, _LEAST), _MOST))
