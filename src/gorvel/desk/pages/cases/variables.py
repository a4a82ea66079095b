"""The variables: the list with roles and levels, and below it what is to be looked at."""

from __future__ import annotations

from functools import partial

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QWidget

from gorvel.core.inspect.screening import screen
from gorvel.core.plan.plan import Plan
from gorvel.core.table.summary import ColumnSummary, describe_column
from gorvel.core.table.table import Table
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.editors.design_line import DesignLine
from gorvel.desk.editors.flags import FlagsPanel
from gorvel.desk.views.variables_list import VariablesList
from gorvel.desk.views.variables_model import ROLE_TIPS
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import JobKind
from gorvel.paint.theme import SPACE, font

_FULL = {"label": "case label", "groups": "known groups", "profile": "profile only",
         "unit": "sampling unit", "replicate": "replicate weight", "out": "not used"}  # fmt: skip
_HINT = "Select rows and choose a role above, or press its key (F1 lists the keys)."


def _described(table: Table, plan: Plan) -> list[ColumnSummary]:
    return [describe_column(table, name, plan.codes(name)) for name in table.names]


class VariablesPanel(QFrame):
    """Describes and screens the columns off the interface thread whenever that is due."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.setProperty("panel", True)
        self.view = VariablesList(self.focus)
        self.flags = FlagsPanel(self.focus)
        self.flags.shown.connect(self.view.show_variables)
        self.tally = text(soft=True, wrap=False)
        fill(
            self, self._head(), self._roles(), (self.view, 5), DesignLine(self.focus),
            (self.flags, 4), space=6,
            edges=(SPACE, SPACE, SPACE, SPACE),
        )  # fmt: skip
        self._codes_shown: tuple[object, ...] = ()
        self.focus.shelf.study_changed.connect(self._new_study)
        self.focus.shelf.plan_changed.connect(self._plan_changed)
        self._new_study()

    def _head(self) -> QHBoxLayout:
        self.found = text(soft=True, wrap=False)
        self.search = QLineEdit()
        self.search.setFont(font())
        self.search.setPlaceholderText("name, question, role or level")
        self.search.setToolTip("Show only variables containing these words (Ctrl+F)")
        self.search.setAccessibleName("Find a variable")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(270)
        self.search.textChanged.connect(self._seek)
        self.search.returnPressed.connect(self._to_found)
        self.view.sought_off.connect(self.search.clear)
        QShortcut(QKeySequence.StandardKey.Find, self, self.search.setFocus)
        return in_row(heading("Variables", "text"), self.tally, None, self.found, self.search)

    def _roles(self) -> QWidget:
        links = [
            button(_FULL.get(role, role), partial(self._give_role, role), "chip", tip)
            for role, tip in ROLE_TIPS.items()
        ]
        lead = text("Set role:", "note", soft=True, wrap=False)
        lead.setToolTip(as_tip(_HINT))
        return flowing(lead, *links, gap=4)

    def _seek(self, words: str) -> None:
        found = self.view.seek(words.strip())
        self.found.setText(f"{found:,} found" if words.strip() else "")

    def _to_found(self) -> None:
        """Return goes on to the rows that were found, all of them selected."""
        self.view.setFocus()
        self.view.selectAll()

    def _give_role(self, role: str) -> None:
        rows = self.view.chosen_rows()
        if not rows:
            self.acts.said.emit("Select one or more variables first.", True)
        self.view.table.set_role(rows, role)

    def _new_study(self) -> None:
        self.view.table.show([])
        self.search.clear()
        self._codes_shown = ()
        self._plan_changed()

    def _plan_changed(self) -> None:
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            return
        table = study.source
        self.tally.setText(f"{len(plan.variables.use):,} active")
        codes = (table, plan.source.missing_codes, plan.variables.missing)
        if codes != self._codes_shown:
            self._codes_shown = codes
            self.acts.jobs.start(
                JobKind.DESCRIBE,
                lambda progress: _described(table, plan),
                self._show,
                self._complain,
                asker=self,
            )
        self.acts.jobs.start(
            JobKind.SCREEN,
            lambda progress: screen(table, plan, progress),
            self.flags.show_flags,
            self._complain,
            asker=self,
        )

    def _show(self, found: list[ColumnSummary]) -> None:
        rows = self.view.chosen_rows()
        self.view.table.show(found)
        for row in rows:
            self.view.selectRow(row)

    def _complain(self, why: str) -> None:
        self.acts.said.emit(why, True)
