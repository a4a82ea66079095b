"""What was read and how, which cases are used, and which codes stand for no answer."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.language.condition import parse_condition
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Reading, Table
from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, counted, heading, split_codes, text
from gorvel.desk.editors.condition_builder import ConditionBuilder
from gorvel.desk.editors.reading_editor import ReadingEditor
from gorvel.desk.work.actions import Actions
from gorvel.paint.theme import SPACE, font

_DELIMITERS = {
    ",": "Comma-separated", ";": "Semicolon-separated", "tab": "Tab-separated",
    "|": "Bar-separated", "space": "Space-separated",
}  # fmt: skip
_CONDITION_TIP = (
    'For example: visits > 2 and stop in ("Elm Mill", "Fell End")\nNames with '
    "spaces go in backquotes (Return)"
)


def reading_words(reading: Reading, told: SourcePlan) -> str:
    """How a file was read, in words."""
    if told.codebook is not None:
        return f"Fixed widths by {told.codebook}, {reading.encoding.upper()}"
    if told.query is not None:
        return "The answer to a query of a database"
    if told.table is not None:
        return f"Table {told.table} of a database"
    if not reading.delimiter:
        return "Typed cells, read as they are"
    head = "" if reading.header else ", no header"
    mark = "comma" if reading.decimal == "," else "point"
    return f"{_DELIMITERS[reading.delimiter]}, decimal {mark}, {reading.encoding.upper()}{head}"


class SourceLine(QWidget):
    """One line along the top of the page."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.title = heading("")
        self.how = button("", self._edit_reading, "value", "Check or change how the file is read")
        self.extent = text(soft=True, wrap=False)
        self.keep, self.keep_label = self._field(
            "&Only cases where:", "All cases, or for example visits > 2", _CONDITION_TIP
        )
        self.build = button(
            "Build condition …", self._build_condition, "link", "Build a condition by clicking"
        )
        self.keep.setFixedWidth(190)
        self.keep.editingFinished.connect(self._keep_typed)
        self.codes, self.codes_label = self._field(
            "Read &as missing:", "98, 99",
            "Missing-value codes, separated by commas (Return)",
        )  # fmt: skip
        self.codes.setFixedWidth(96)
        self.codes.editingFinished.connect(self._codes_typed)
        what = _in_a_row(self.title, self.how, self.extent)
        asked = _in_a_row(self.keep_label, self.keep, self.build, self.codes_label, self.codes)
        fill_row(self, (flowing(what, asked), 1))
        self.focus.shelf.study_changed.connect(self._new_study)
        self.focus.shelf.plan_changed.connect(self._plan_changed)
        self._new_study()

    def _field(self, words: str, example: str, tip: str) -> tuple[QLineEdit, QLabel]:
        field, label = QLineEdit(), QLabel(words)
        for widget in (field, label):
            widget.setFont(font())
        label.setBuddy(field)
        field.setPlaceholderText(example)
        field.setToolTip(as_tip(tip))
        field.setAccessibleName(words.replace("&", "").rstrip(":"))
        return field, label

    def _new_study(self) -> None:
        study = self.focus.shelf.study
        if study is None:
            return
        plan = self.focus.shelf.plan
        told = SourcePlan(file=study.source.name) if plan is None else plan.source
        others = [*told.also, *(join.file for join in told.join)]
        more = f" and {len(others)} more" if others else ""
        self.title.setText(study.source.name + more)
        self.title.setToolTip(as_tip("\n".join(others)))
        self.how.setText(reading_words(study.source.reading, told))
        size = counted(study.source.n, "case")
        if isinstance(study.source, Table):
            size += f", {counted(len(study.source.names), 'column')}"
        self.extent.setText(size)
        for widget in (self.keep, self.keep_label, self.build, self.codes, self.codes_label):
            widget.setVisible(isinstance(study.source, Table))
        self._plan_changed()

    def _plan_changed(self) -> None:
        plan: Plan | None = self.focus.shelf.plan
        if plan is None:
            return
        if not self.keep.hasFocus():
            self.keep.setText(plan.cases.keep or "")
        if not self.codes.hasFocus():
            self.codes.setText(", ".join(plan.source.missing_codes))

    def _edit_reading(self) -> None:
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is not None and plan is not None:
            path = study.plan_file or study.data_file
            ReadingEditor(self.acts, path, plan.source, self.window()).open()

    def _build_condition(self) -> None:
        if self.focus.shelf.plan is not None:
            ConditionBuilder(self.focus, self.window()).open()

    def _keep_typed(self) -> None:
        words = self.keep.text().strip() or None
        plan = self.focus.shelf.plan
        if plan is None or words == plan.cases.keep:
            return
        try:
            if words is not None:
                parse_condition(words)
        except InputError as error:
            self.acts.said.emit(f"Only cases where: {error}", True)
            return
        self.acts.said.emit("", False)
        self.focus.shelf.change("cases", keep=words)

    def _codes_typed(self) -> None:
        codes = split_codes(self.codes.text())
        if (
            self.focus.shelf.plan is not None
            and codes != self.focus.shelf.plan.source.missing_codes
        ):
            self.focus.shelf.change("source", missing_codes=list(codes))


def _in_a_row(*widgets: QWidget) -> QWidget:
    """What stays together where the line is broken."""
    box = QWidget()
    row = QHBoxLayout(box)
    row.setContentsMargins(0, 0, 2 * SPACE, 0)
    for widget in widgets:
        row.addWidget(widget)
    return box
