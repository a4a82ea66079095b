"""How one variable was made, to be changed: the same choices as when it was proposed."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QWidget

from gorvel.core.column_detection.proposals import Proposal, proposal_of
from gorvel.core.plan.changing_made import with_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.table.table import Table
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_foot, body
from gorvel.desk.controls.texts import button, text
from gorvel.desk.pages.cases.proposal_row import ProposalRow
from gorvel.desk.state.focus import Focus


class MadeEditor(QDialog):
    """Nothing is changed before it is taken."""

    def __init__(
        self, focus: Focus, table: Table, make: MakePlan, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle(f"How {make.name} is created")
        self.focus, self.make = focus, make
        plan = focus.shelf.plan
        codes = () if plan is None else plan.codes(make.from_ or "")
        self.proposal = proposal_of(make, table, codes)
        self.row = ProposalRow(self.proposal, True)
        self.row.box.hide()
        self.row.open(True)
        self.row.changed.connect(self._changed)
        self.why = text(size=0.93)
        self.why.setProperty("alarm", True)
        self.go = button("Change", self._take, "main")
        layout = body(self, f"How {make.name} is created")
        layout.addWidget(self.row)
        layout.addStretch(1)
        add_foot(self, layout, self.go, self.why)
        self.resize(760, 320)

    def _changed(self, proposal: Proposal) -> None:
        self.proposal = proposal
        self.row.show_state(proposal, True, None)

    def _take(self) -> None:
        (new,) = self.proposal.makes()
        shelf = self.focus.shelf
        self.why.setText(shelf.attempt(lambda plan: with_entry(plan, self.make, new)))
        if not self.why.text():
            self.accept()
