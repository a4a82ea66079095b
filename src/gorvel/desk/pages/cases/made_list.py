"""The variables that the plan makes of others: changed, renamed, removed; and two ways to more."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from gorvel.core.column_detection.proposals import Proposal, proposal_of
from gorvel.core.plan.changing_made import with_entry, without_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.table.table import Table
from gorvel.core.words.proposals import made_words
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_foot, body
from gorvel.desk.controls.texts import button, clear, heading, text
from gorvel.desk.editors.formula_editor import FormulaEditor
from gorvel.desk.editors.items_editor import ItemsEditor
from gorvel.desk.pages.cases.proposal_row import ProposalRow
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.derived_variables import Turning
from gorvel.paint.theme import SPACE, font


class MadeList(QWidget):
    """A line for each entry, in the order in which they are made."""

    def __init__(self, turning: Turning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.turning, self.focus = turning, turning.focus
        self.names: dict[str, QLineEdit] = {}
        self.links: dict[tuple[str, str], QWidget] = {}
        self.why = text(size="table")
        self.why.setProperty("alarm", True)
        self.formula = button("Create by formula …", self.by_formula)
        self.items = button("Mean or sum of items …", self.of_items)
        self._lines = QVBoxLayout()
        self._lines.setSpacing(2)
        more = in_row(self.items, self.formula, None)
        fill(
            self, heading("Created variables", "text"), self._lines, self.why, more, space=2,
            edges=(0, SPACE, 0, 0),
        )  # fmt: skip
        self.focus.shelf.columns_changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Other variables are made."""
        clear(self._lines)
        self.names, self.links = {}, {}
        self.why.hide()
        for make in self.turning.made:
            self._lines.addWidget(self._line(make))

    def _line(self, make: MakePlan) -> QWidget:
        line = QWidget()
        name = QLineEdit(make.name)
        name.setFont(font("table", 600))
        name.setCursorPosition(0)  # the beginning of a long name is seen
        name.setAccessibleName(f"Name of {make.name}")
        name.editingFinished.connect(partial(self._renamed, make, name))
        self.names[make.name] = name
        row = fill_row(
            line, (name, 2), (text(made_words(make), "table", soft=True), 3), space=SPACE,
            edges=(SPACE, 0, 0, 0),
        )  # fmt: skip
        if not isinstance(make.reverse, tuple):
            self._link(row, make, "change …", partial(self._change, make))
        self._link(row, make, "remove", partial(self._remove, make))
        return line

    def _link(self, row: QHBoxLayout, make: MakePlan, words: str, act: partial[None]) -> None:
        link = button(words, act, "link")
        link.setAccessibleName(f"{words.removesuffix(' …')} {make.name}")
        self.links[make.name, words] = link
        row.addWidget(link)

    @property
    def table(self) -> Table | None:
        """With all that is made."""
        study = self.focus.shelf.study
        return study.source if study is not None and isinstance(study.source, Table) else None

    def by_formula(self, make: MakePlan | None = None) -> None:
        """Ask for a formula."""
        if self.table is not None:
            FormulaEditor(self.focus, self.table, make, self.window()).open()

    def of_items(self, make: MakePlan | None = None) -> None:
        """Ask for items."""
        if self.table is not None:
            ItemsEditor(self.focus, self.table, make, self.window()).open()

    def _change(self, make: MakePlan) -> None:
        if make.formula is not None:
            self.by_formula(make)
        elif make.mean or make.sum:
            self.of_items(make)
        elif self.table is not None:
            MadeEditor(self.focus, self.table, make, self.window()).open()

    def _renamed(self, make: MakePlan, field: QLineEdit) -> None:
        name = field.text().strip()
        if name in (make.name, "") or make not in self.turning.made:
            field.setText(make.name)
            return
        if self.table is not None and name in self.table.names:
            field.setText(make.name)
            self._say(f"Another column is already called “{name}”.")
            return
        new = make.model_copy(update={"name": name})
        self._say(self.focus.shelf.attempt(lambda plan: with_entry(plan, make, new)))

    def _remove(self, make: MakePlan) -> None:
        self._say(self.focus.shelf.attempt(lambda plan: without_entry(plan, make)))

    def _say(self, why: str) -> None:
        self.why.setText(why)
        self.why.setVisible(bool(why))


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
        self.why = text(size="table")
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
