"""The few questions that tell the clusters best, and the rule that gives new respondents one."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from gorvel.core.base.numbers import counted, number
from gorvel.core.export.files import write_json
from gorvel.core.export.profile import rule_told
from gorvel.core.export.scorer import write_scorer
from gorvel.core.tree.cluster_names import by_letter
from gorvel.desk.controls.arranging import fill, in_column, in_row
from gorvel.desk.controls.file_dialog import ask_beside
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import aside, button, heading, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.accuracy_view import AccuracyView
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE

_WIDEST = 150  # pixels of the name of a cluster in a table
_KINDS = "Spreadsheet (*.xlsx);;OpenDocument spreadsheet (*.ods);;JSON (*.json)"


class ShortFormCard(QWidget):
    """Worked out when it is looked at; how many questions is chosen on the curve."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.profiling, self.focus = actions, profiling, actions.focus
        self.curve = AccuracyView()
        self.finding, self.says = heading(""), text(size="table", soft=True)
        self.finding.setWordWrap(True)
        self.bar = InquiryBar(profiling.form, self._again, "Selecting questions …")
        self.rule = ResultView((), "The rule on raw answers", row=22)
        self.confused = ResultView((), "Classification table", row=22)
        for table in (self.rule, self.confused):
            table.horizontalHeader().setFixedHeight(26)
        self.save = button(
            "Save scoring sheet …",
            self._ask,
            "link",
            "A spreadsheet that assigns new respondents by formulas, or the rule as JSON",
        )
        self.take = TakeAway.of(actions, "short-form")
        head = in_row(
            (in_column(self.finding, self.says, space=2), 1),
            (self.save, 0, Qt.AlignmentFlag.AlignTop), (self.take, 0, Qt.AlignmentFlag.AlignTop),
        )  # fmt: skip
        upper = QHBoxLayout()
        upper.setSpacing(2 * SPACE)
        for title, more, widget, share in (
            ("Accuracy by number of questions", "Click to choose.", self.curve, 3),
            ("Classification table", "Rows: cluster; columns: predicted.", self.confused, 2),
        ):
            column = QVBoxLayout()
            above = in_row(heading(title, "table"), (aside(more), 1))
            column.addLayout(above)
            column.addWidget(widget, 1)
            if widget is self.confused:
                column.addStretch(0)
            upper.addLayout(column, share)
        self._rule_title = heading("The rule on raw answers: the largest sum decides", "table")
        fill(self, head, self.bar, (upper, 2), self._rule_title, (self.rule, 3))
        self.curve.chosen.connect(self.choose)
        profiling.form.changed.connect(self._show)
        WhenSeen(
            self, self._follow, profiling.portraits.changed, self.focus.titles_changed
        ).follow()

    def _again(self) -> None:
        self.profiling.ask_form(again=True)

    def _follow(self) -> None:
        self.profiling.ask_form()
        self._show()

    def choose(self, questions: int) -> None:
        """Take so many questions."""
        self.profiling.form_size = questions
        self._show()

    def _show(self) -> None:
        form, names = self.profiling.short_form, [who.name for who in self.focus.identities]
        found = self.profiling.forms
        for widget in (self.curve, self.confused, self.rule, self.save, self.take,
                       self._rule_title):  # fmt: skip
            widget.setEnabled(form is not None)
        if form is None or found is None:
            self.curve.show_form(None, 0.0, 0)
            for table in (self.rule, self.confused):
                table.setRowCount(0)
                table.setColumnCount(0)
            idle = self.profiling.form.job is None and self.profiling.portrayed is not None
            self.finding.setText("")
            self.says.setText("There are no numeric questions to choose from." if idle else "")
            return
        sizes = np.bincount(form.own)
        chance, one = float(sizes.max() / sizes.sum()), len(form.questions) == 1
        self.curve.show_form(found, chance, len(form.questions))
        self.finding.setText(
            f"{counted(len(form.questions), 'question')} {'assigns' if one else 'assign'} "
            f"{form.accuracy[-1]:.0%} of the cases to their own cluster"
        )
        self.says.setText(
            f"In ten-fold cross-validation (the largest cluster for all: {chance:.0%}). This is "
            "optimistic: the questions were selected on the same cases."
        )
        order = by_letter(self.focus.identities)
        names = [names[k] for k in order]
        metrics, right = self.rule.fontMetrics(), Qt.TextElideMode.ElideRight
        told = [metrics.elidedText(self.focus.identities[k].told, right, _WIDEST) for k in order]
        cells = [
            [f"{cases:,}" if cases else "·" for cases in row]
            for row in form.confused[np.ix_(order, order)].tolist()
        ]
        self.confused.show_cross(told, names, cells, lambda row, column: row == column)
        rule = np.vstack([form.rule.constants, form.rule.coefficients])[:, order].tolist()
        figures = [[number(value) for value in row] for row in rule]
        self.rule.show_cross(
            ["constant", *form.questions], told, figures, lambda row, column: False
        )
        for table in (self.confused, self.rule):
            high = table.horizontalHeader().height() + table.verticalHeader().length()
            table.setMaximumHeight(high + 4)
            wide = table.verticalHeader().sizeHint().width() + table.horizontalHeader().length()
            table.setMaximumWidth(wide + 2 * SPACE)

    def _names(self) -> list[str]:
        """Questions that could be chosen."""
        known = self.profiling.portrayed
        told = known.told if known is not None else []
        return [one.name for one in told if one.role == "active" and not one.nominal]

    def _ask(self) -> None:
        study = self.focus.shelf.study
        if study is None or self.profiling.short_form is None:
            return
        path = ask_beside(self, "Save the scoring sheet", study.data_file, "scorer.xlsx", _KINDS)
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> None:
        """Write the rule as a spreadsheet of formulas, or as JSON."""
        form, known = self.profiling.short_form, self.profiling.portrayed
        if form is None or known is None:
            return
        names = [who.told for who in self.focus.identities]
        write = partial(write_scorer, form, known.told, known.own, names)
        if path.suffix.lower() == ".json":
            told = {"clusters": names} | rule_told(form)
            write = partial(write_json, told)
        self.acts.files.save_scorer(write, path)
