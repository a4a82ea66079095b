"""The Plan page: every choice with what it does, and what growing will work on."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QWidget

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.limits import free_memory
from gorvel.core.base.numbers import counted
from gorvel.core.cases.method_advice import fit_notes
from gorvel.core.cases.prepared import Prepared
from gorvel.core.cases.rows import split_words
from gorvel.core.grow.algorithm import bytes_needed, choose_algorithm, different_rows
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.levels import guess_level
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.growing import GrowBar
from gorvel.desk.controls.pictogram import Pictogram
from gorvel.desk.controls.texts import button, clear, heading, panel, scrolled, text
from gorvel.desk.editors.cautions import CautionList
from gorvel.desk.editors.option_editor import options_of
from gorvel.desk.editors.plan_sentence import open_editor
from gorvel.desk.work.actions import Actions
from gorvel.paint.theme import PROSE, SPACE

_ROWS = (
    ("of", "Grouped"),
    ("scale", "Scale"),
    ("measure", "Measure"),
    ("linkage", "Linkage"),
    ("neighbours", "May join"),
    ("missing", "Missing answers"),
    ("weight", "Weight"),
)
_PARTS = {  # of plans that are no table of answers
    "proximities": ("linkage", "neighbours"), "counts": ("of", "linkage", "neighbours"),
}  # fmt: skip
_MOST_REASONS = 6
_MOST_NAMED = 12


class PlanPage(QWidget):
    """On the left the choices, on the right what they make of the table.

    Signals: cases_wanted().
    """

    cases_wanted = Signal()

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self._grid = QGridLayout()
        self._choices_box = self._scrolled(self._grid)
        self.state_title = heading("")
        self.state = text()
        self.cautions = CautionList(self.focus)
        self.reasons = text(soft=True)
        self.problem = text(weight=600)
        self.problem.setProperty("alarm", True)
        self.grow = GrowBar(actions)
        fill_row(
            self, (self._choices_box, 5), (self._state_box(), 3), space=2 * SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        WhenSeen(self, self._fill, self.focus.shelf.plan_changed).follow()
        WhenSeen(self, self._tell, self.focus.prepared_changed, self.focus.tree_changed)
        self._tell()

    def _scrolled(self, grid: QGridLayout) -> QFrame:
        box = panel()
        inside = QWidget()
        inside.setLayout(grid)
        grid.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, 2 * SPACE)
        grid.setHorizontalSpacing(2 * SPACE)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        fill(box, scrolled(inside), edges=(1, 1, 1, 1))
        return box

    def _state_box(self) -> QFrame:
        box = panel()
        words = QWidget()
        fill(
            words, self.state_title, self.state, self.cautions, self.problem, self.reasons, None,
            space=SPACE,
        )  # fmt: skip
        fill(
            box, (scrolled(words), 1), self.grow, space=SPACE,
            edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE),
        )  # fmt: skip
        return box

    def _fill(self) -> None:
        clear(self._grid)
        plan = self.focus.shelf.plan
        if plan is None:
            return
        rows = [row for row in _ROWS if row[0] in _PARTS.get(plan.source.kind, (row[0],))]
        self._sources(plan)
        for place, (part, name) in enumerate(rows, 2):
            self._name(name, 4 * place)
            self._row(part, 4 * place)
        self._grid.setRowStretch(4 * (len(rows) + 2), 1)

    def _name(self, name: str, line: int) -> None:
        label = text(name, soft=True, wrap=False)
        label.setContentsMargins(0, 4, 0, 0)
        self._grid.addWidget(label, line, 0, Qt.AlignmentFlag.AlignTop)

    def _sources(self, plan: Plan) -> None:
        """What is grouped, and by what; both are set on the Cases page."""
        study = self.focus.shelf.study
        if study is None:
            return
        named = f", named by {plan.cases.label}" if plan.cases.label else ", named by number"
        if plan.source.kind == "proximities":
            named = ", with their proximities"
        rows = [("Cases", f"{study.source.n:,} read from {study.source.name}{named}", "")]
        if plan.source.kind == "table":
            use = plan.variables.use
            shown = ", ".join(use[:_MOST_NAMED])
            if len(use) > _MOST_NAMED:
                shown += f" and {len(use) - _MOST_NAMED} more"
            rows.append(("Variables", f"{len(use):,} active", shown))
        for place, (name, chosen, words) in enumerate(rows):
            self._name(name, 4 * place)
            link = button(chosen, self.cases_wanted.emit, "value", "To the Cases page")
            self._grid.addWidget(link, 4 * place, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
            if words:
                told = text(words)
                told.setMaximumWidth(PROSE)
                told.setContentsMargins(0, 0, 0, 10)
                self._grid.addWidget(told, 4 * place + 1, 1, 1, 2)

    def _row(self, part: str, line: int) -> None:
        choices = options_of(self.focus, part)
        choice = next((c for c in choices.choices if c.key == choices.chosen), choices.choices[0])
        opener = button(choice.row or choice.name, lambda: None, "value", "Choose another")
        opener.clicked.connect(lambda: self._edit(part, opener))
        opener.setObjectName(part)
        short = part == "of" or choice.key is None  # all there is to say stands beside the name
        first = in_row(
            (opener, 0, Qt.AlignmentFlag.AlignTop),
            (text(choice.formula or (choice.purpose if short else ""), soft=True), 1),
        )
        picture = Pictogram(0.72)
        picture.show_choice(part, choice.key or "")
        self._grid.addLayout(first, line, 1, 1, 1 if picture.known else 2)
        if picture.known:
            self._grid.addWidget(picture, line, 2, 3, 1, Qt.AlignmentFlag.AlignTop)
        if short:
            return
        told = text(choice.purpose)
        told.setMaximumWidth(PROSE)
        told.setContentsMargins(0, 0, 0, 0 if choice.misleads or choice.why_not else 10)
        self._grid.addWidget(told, line + 1, 1)
        if choice.misleads or choice.why_not:
            careful = text(f"Careful: {choice.why_not or choice.misleads}", soft=not choice.why_not)
            careful.setProperty("alarm", bool(choice.why_not))
            careful.setMaximumWidth(PROSE)
            careful.setContentsMargins(0, 0, 0, 10)
            self._grid.addWidget(careful, line + 2, 1)

    def _edit(self, part: str, opener: QWidget) -> None:
        open_editor(self.focus, part, opener.mapToGlobal(QPoint(0, opener.height() + 2)), self)

    def _tell(self) -> None:
        prepared, plan = self.focus.prepared, self.focus.shelf.plan
        self.problem.setText(self.focus.problem)
        self.problem.setVisible(bool(self.focus.problem))
        self.reasons.setText("")
        self.cautions.show_cautions(self._of_problem())
        if plan is None or prepared is None:
            self.state_title.setText("This plan cannot run" if self.focus.problem else "")
            self.state.setText("")
            return
        kept, n = prepared.read - len(prepared.dropped), prepared.n
        title = f"{kept:,} of {prepared.read:,} cases used"
        if prepared.of == "variables":
            title = f"{n:,} variables grouped, by {kept:,} of {prepared.read:,} cases"
        self.state_title.setText(title)
        study, split = self.focus.shelf.study, plan.cases.split
        if split and study is not None:
            lines = [_split_note(study.source, plan)]
        else:
            lines = _work_words(prepared, plan)
        self.state.setText("\n\n".join(lines))
        self.cautions.show_cautions(self._cautions(prepared))
        self._tell_dropped()

    def _of_problem(self) -> list[Caution]:
        """Where a measure cannot use what is active: what could."""
        plan = self.focus.shelf.plan
        source = None if self.focus.shelf.study is None else self.focus.shelf.study.source
        if plan is None or not self.focus.problem or not isinstance(source, Table):
            return []
        levels = (
            plan.variables.level(name) or guess_level(source, name, plan.codes(name))
            for name in plan.variables.use
            if name in source.names
        )
        if MEASURES[plan.proximity.measure].mixed or "nominal" not in levels:
            return []
        text = "Gower distance combines categories with numbers and yes/no answers."
        return [Caution("fit-mixed", text)]

    def _cautions(self, prepared: Prepared) -> list[Caution]:
        """Of the cases, and of their tree where it is the one of this plan."""
        grown = self.focus.grown
        of_tree = () if grown is None or self.focus.out_of_date else grown.cautions
        plan, fits = self.focus.shelf.plan, list[Caution]()
        if plan is not None and prepared.raw is not None:
            fits = fit_notes(plan, prepared.variables, prepared.raw)
        found = [*fits, *prepared.cautions, *of_tree]
        return [one for place, one in enumerate(found) if one not in found[:place]]

    def _tell_dropped(self) -> None:
        prepared = self.focus.prepared
        if prepared is None or not prepared.dropped:
            return
        counts = Counter(dropped.reason for dropped in prepared.dropped)
        lines = [f"{counted(len(prepared.dropped), 'case')} excluded:"]
        for reason, times in counts.most_common(_MOST_REASONS):
            lines.append(f"{times:,}: {reason}")
        rest = sum(times for _, times in counts.most_common()[_MOST_REASONS:])
        if rest:
            lines.append(f"{rest:,} for other reasons")
        self.reasons.setText("\n".join(lines))


def _work_words(prepared: Prepared, plan: Plan) -> list[str]:
    """What growing one tree of these cases takes."""
    m, n = different_rows(prepared, plan.method), prepared.n
    pairs, needed = m * (m - 1) // 2, bytes_needed(prepared, plan.method)
    lines = [f"{pairs:,} proximities, {max(n - 1, 0):,} joins."]
    if m < n:
        lines.append(f"{m:,} rows of answers are different; equal ones are measured once.")
    if choose_algorithm(prepared, plan.method) == "direct":
        lines.append("Proximities are computed when needed and not stored.")
    if needed > 50e6:
        free = free_memory()
        lines.append(f"This takes about {needed / 2**30:.1f} GiB of memory.")
        if needed > free:
            lines.append(f"Only {free / 2**30:.1f} GiB are free: this would not fit.")
    return lines


def _split_note(source: Source, plan: Plan) -> str:
    """What a split makes of the cases."""
    if not isinstance(source, Table):
        return ""
    try:
        return f"{split_words(source, plan)} Each grows a tree of its own."
    except InputError as error:
        return str(error)
