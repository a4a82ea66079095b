"""The Cases page: what was read, what each variable is for, and the cells themselves."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.errors import InputError
from gorvel.core.gaps import Gaps, find_gaps
from gorvel.core.matrix import ProximityTable
from gorvel.core.outliers import find_outliers
from gorvel.core.plan import Plan
from gorvel.core.prepare import Prepared
from gorvel.core.screening import screen
from gorvel.core.table.condition import parse_condition
from gorvel.core.table.summary import ColumnSummary, describe_column
from gorvel.core.table.table import Reading, Table
from gorvel.desk.actions import Actions
from gorvel.desk.theme import SPACE, font
from gorvel.desk.views.cells_view import CellsView
from gorvel.desk.views.detail_view import DetailView, show_pair, show_variable
from gorvel.desk.views.gaps_view import GapsView
from gorvel.desk.views.outliers_view import OutliersView
from gorvel.desk.views.variables_view import VariablesView
from gorvel.desk.widgets.flags import FlagsPanel
from gorvel.desk.widgets.gaps_panel import GapsPanel
from gorvel.desk.widgets.texts import button, heading, panel, text

__all__ = ["CasesPage"]

_DELIMITERS = {
    ",": "Comma-separated", ";": "Semicolon-separated", "tab": "Tab-separated",
    "|": "Bar-separated", "space": "Space-separated",
}  # fmt: skip


def reading_words(reading: Reading) -> str:
    """How a file was read, in words."""
    if not reading.delimiter:
        return "Cells with types of their own, read as they are"
    mark = "comma" if reading.decimal == "," else "point"
    return f"{_DELIMITERS[reading.delimiter]}, decimal {mark}, {reading.encoding.upper()}"


def _described(table: Table, plan: Plan) -> list[ColumnSummary]:
    return [describe_column(table, name, plan.codes(name)) for name in table.names]


class CasesPage(QWidget):
    """Variables on the left, cells on the right."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.title = heading("", 1.29)
        self.how = text(soft=True)
        self.codes = QLineEdit()
        self.codes_label = QLabel("Read as missing:")
        self.keep = QLineEdit()
        self.keep_label = QLabel("Only cases where:")
        self.variables = VariablesView(self.focus)
        self.cells = CellsView(self.focus)
        self.gap_map = GapsView()
        self.gaps = GapsPanel(self.focus, self.gap_map)
        self.outliers = OutliersView(self._set_aside)
        self.detail = DetailView()
        self.variables.selectionModel().selectionChanged.connect(self._show_detail)
        self._looked_at: Prepared | None = None
        self.flags = FlagsPanel(self.focus)
        self.flags.shown.connect(self.variables.show_variable)
        self.matrix_note = text()
        self.similarity = QCheckBox("The file holds similarities: larger is more alike")
        self.similarity.setFont(font())
        self.similarity.toggled.connect(lambda on: self.acts.read_again(similarity=on))
        self._variables_box = self._build_variables()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(2 * SPACE, 0, 2 * SPACE, 2 * SPACE)
        outer.setSpacing(SPACE)
        outer.addLayout(self._head())
        outer.addWidget(self.matrix_note)
        outer.addWidget(self.similarity)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(self._variables_box)
        split.addWidget(self._build_cells())
        split.setSizes([740, 510])
        split.setHandleWidth(2 * SPACE)
        split.setChildrenCollapsible(False)
        outer.addWidget(split, 1)
        self.focus.study_changed.connect(self._new_study)
        self.focus.plan_changed.connect(self._plan_changed)
        self.focus.prepared_changed.connect(self._find_outliers)
        self._codes_shown: tuple[object, ...] = ()
        self._new_study()

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(self.title)
        row.addSpacing(SPACE)
        row.addWidget(self.how, 1)
        self.codes_label.setBuddy(self.codes)
        self.codes_label.setFont(font())
        self.codes.setFont(font())
        self.codes.setFixedWidth(130)
        self.codes.setPlaceholderText("such as 98, 99")
        self.codes.setToolTip("Codes that stand for no answer, parted by commas (Return)")
        self.codes.setAccessibleName("Codes read as missing")
        self.codes.editingFinished.connect(self._codes_typed)
        self.keep_label.setBuddy(self.keep)
        self.keep_label.setFont(font())
        self.keep.setFont(font())
        self.keep.setMinimumWidth(150)
        self.keep.setMaximumWidth(330)
        self.keep.setPlaceholderText("all, or such as visits > 2")
        self.keep.setToolTip(
            "Only these cases are used. Compare columns with numbers or with text in quotes:\n"
            'visits > 2 and stop in ("Elm Mill", "Fell End")\n'
            "age between 30 and 50 or age is missing\n"
            "Put names with spaces between backquotes. (Return)"
        )
        self.keep.setAccessibleName("Only cases where")
        self.keep.editingFinished.connect(self._keep_typed)
        row.addWidget(self.keep_label)
        row.addWidget(self.keep, 2)
        row.addSpacing(SPACE)
        row.addWidget(self.codes_label)
        row.addWidget(self.codes)
        return row

    def _build_variables(self) -> QFrame:
        box = panel()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(heading("Variables", 1.0))
        self.tally = text(soft=True, wrap=False)
        head.addWidget(self.tally)
        head.addStretch(1)
        head.addWidget(text("Make the selected", soft=True, wrap=False))
        for words, role, tip in (
            ("active", "active", "Group by the selected variables (A)"),
            ("out", "out", "Leave the selected variables out (O)"),
            ("label", "label", "Name the cases by the selected column (L)"),
            ("weight", "weight", "Weight the cases by the selected column (W)"),
        ):
            head.addWidget(button(words, lambda role=role: self._give_role(role), "link", tip))  # type: ignore[misc]
        layout.addLayout(head)
        layout.addWidget(self.variables, 5)
        hint = "Select rows, then press A active, O out, L label, W weight; 1 interval, 2 ordinal,"
        layout.addWidget(
            text(f"{hint} 3 nominal, 4 binary. Ctrl+Z takes it back.", 0.86, soft=True)
        )
        layout.addWidget(self.flags, 2)
        return box

    def _build_cells(self) -> QFrame:
        box = panel()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(6)
        head = QHBoxLayout()
        self.tabs = (
            button("Answers", lambda: self._show_tab(0), "tab", "The cells as they were read"),
            button("Gaps", lambda: self._show_tab(1), "tab", "Which answers go missing together"),
            button("Outliers", lambda: self._show_tab(2), "tab", "Cases that stand apart"),
            button("Variable", lambda: self._show_tab(3), "tab", "The selected variable, or two"),
        )
        for tab in self.tabs:
            tab.setCheckable(True)
            head.addWidget(tab)
        self.cells_note = text(soft=True, wrap=False)
        head.addSpacing(SPACE)
        head.addWidget(self.cells_note, 1)
        self.aside = (
            button("set aside", self._set_aside, "link", "Leave the selected cases out (S)"),
            button("bring back", self._bring_back, "link", "Use them again (B)"),
        )
        self.copy = button("copy", self.cells.copy, "link", "The selected cells (Ctrl+C)")
        for link in (*self.aside, self.copy):
            head.addWidget(link)
        layout.addLayout(head)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.cells)
        self.stack.addWidget(self.gaps)
        self.stack.addWidget(self.outliers)
        self.stack.addWidget(self.detail)
        layout.addWidget(self.stack, 1)
        return box

    def _show_tab(self, number: int) -> None:
        self.stack.setCurrentIndex(number)
        for k, tab in enumerate(self.tabs):
            tab.setChecked(k == number)
        is_table = self.focus.study is not None and isinstance(self.focus.study.source, Table)
        self.copy.setVisible(number == 0)
        for link in self.aside:
            link.setVisible(number in (0, 2) and is_table)
        self._find_outliers()
        self._show_detail()

    def _set_aside(self) -> None:
        on_list = self.stack.currentIndex() == 2
        cases = self.outliers.chosen_cases() if on_list else self.cells.chosen_cases()
        if not cases:
            self.acts.said.emit("Select one or more cases first.", True)
        self.focus.set_aside(cases)

    def _bring_back(self) -> None:
        """The selected cases; from the list of outliers, which no longer holds them, all."""
        if self.stack.currentIndex() == 2:
            plan = self.focus.plan
            self.focus.bring_back(set(plan.cases.set_aside) if plan else set())
        else:
            self.cells.bring_back()

    def _show_detail(self) -> None:
        """The chart of the variables selected in the list."""
        study, plan = self.focus.study, self.focus.plan
        if self.stack.currentIndex() != 3 or study is None or plan is None:
            return
        rows = self.variables.chosen_rows()
        model = self.variables.table
        names = [model.summaries[row].name for row in rows]
        numeric = [row for row in rows if model.level_of(row) in ("interval", "ordinal")]
        if not isinstance(study.source, Table) or not names or len(names) > 2:
            self.detail.show_nothing("Select one variable in the list, or two (Ctrl+click).")
        elif len(names) == 1:
            show_variable(self.detail, study.source, names[0], plan.codes(names[0]), bool(numeric))
        elif len(numeric) < 2:
            self.detail.show_nothing("Two variables are shown when both are numbers.")
        else:
            show_pair(
                self.detail, study.source, names, (plan.codes(names[0]), plan.codes(names[1]))
            )

    def _find_outliers(self) -> None:
        """Looked for only while they are looked at, and when the cases have changed."""
        prepared, plan = self.focus.prepared, self.focus.plan
        if self.stack.currentIndex() != 2 or plan is None or prepared is self._looked_at:
            return
        self._looked_at = prepared
        if prepared is None:
            self.outliers.table.show([])
            return
        self.acts.jobs.start(
            "outliers",
            lambda progress: find_outliers(prepared, plan, progress),
            self.outliers.table.show,
            lambda why: self.acts.said.emit(why, True),
        )

    def _give_role(self, role: str) -> None:
        rows = self.variables.chosen_rows()
        if not rows:
            self.acts.said.emit("Select one or more variables first.", True)
        self.variables.table.set_role(rows, role)

    # following the focus

    def _new_study(self) -> None:
        study = self.focus.study
        if study is None:
            return
        source = study.source
        is_table = isinstance(source, Table)
        for widget in (
            self._variables_box, self.codes, self.codes_label, self.keep, self.keep_label,
        ):  # fmt: skip
            widget.setVisible(is_table)
        self.matrix_note.setVisible(not is_table)
        self.similarity.setVisible(not is_table)
        for tab in self.tabs[1:]:
            tab.setVisible(is_table)
        self._show_tab(0)
        self.title.setText(source.name)
        self.how.setText(reading_words(source.reading))
        if isinstance(source, ProximityTable):
            self.tabs[0].setText("Proximities")
            self.cells_note.setText("smaller is more alike")
            with QSignalBlocker(self.similarity):
                self.similarity.setChecked(source.similarity)
            said = f"{source.n:,} cases and how far apart they are, pair by pair."
            if source.similarity:
                said += " Each similarity was taken from the largest, so that what is shown and"
                said += " written is a distance."
            self.matrix_note.setText(said)
        else:
            self.tabs[0].setText("Answers")
            self.cells_note.setText(f"{source.n:,} cases, {len(source.names):,} columns")
            self.variables.table.show([])
            self._describe()
            self._screen()

    def _plan_changed(self) -> None:
        plan = self.focus.plan
        if plan is None or not isinstance(
            self.focus.study.source if self.focus.study else 0, Table
        ):
            return
        if not self.keep.hasFocus():
            self.keep.setText(plan.cases.keep or "")
        if not self.codes.hasFocus():
            self.codes.setText(", ".join(plan.source.missing_codes))
        count = len(plan.variables.use)
        self.tally.setText(f"{count:,} active")
        if (plan.source.missing_codes, plan.variables.missing) != self._codes_shown:
            self._describe()
        self._screen()
        self._show_detail()

    def _describe(self) -> None:
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            return
        table = study.source
        self._codes_shown = (plan.source.missing_codes, plan.variables.missing)

        def done(found: list[ColumnSummary]) -> None:
            rows = self.variables.chosen_rows()
            self.variables.table.show(found)
            for row in rows:
                self.variables.selectRow(row)

        self.acts.jobs.start(
            "describe",
            lambda progress: _described(table, plan),
            done,
            lambda why: self.acts.said.emit(why, True),
        )

    def _screen(self) -> None:
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            return
        table = study.source
        self.acts.jobs.start(
            "screen",
            lambda progress: screen(table, plan, progress),
            self.flags.show_flags,
            lambda why: self.acts.said.emit(why, True),
        )
        if plan.variables.use:
            self.acts.jobs.start(
                "gaps", lambda progress: find_gaps(table, plan), self._show_gaps, lambda why: None
            )
        else:
            self._show_gaps(None)

    def _show_gaps(self, gaps: Gaps | None) -> None:
        self.gap_map.show_gaps(gaps)
        self.gaps.show_gaps(gaps)

    def _keep_typed(self) -> None:
        words = self.keep.text().strip() or None
        plan = self.focus.plan
        if plan is None or words == plan.cases.keep:
            return
        try:
            if words is not None:
                parse_condition(words)
        except InputError as error:
            self.acts.said.emit(f"Only cases where: {error}", True)
            return
        self.acts.said.emit("", False)
        self.focus.change("cases", keep=words)

    def _codes_typed(self) -> None:
        words = self.codes.text().replace(";", ",").split(",")
        codes = list(dict.fromkeys(word.strip() for word in words if word.strip()))
        if self.focus.plan is not None and tuple(codes) != self.focus.plan.source.missing_codes:
            self.focus.change("source", missing_codes=codes)
