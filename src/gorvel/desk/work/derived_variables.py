"""What could be made of the answers, what is chosen of it, and what would come out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.cases.method_advice import refitted
from gorvel.core.cases.rows import rows_looked_at
from gorvel.core.column_detection.proposals import (
    Proposal,
    applied,
    proposed,
    with_correction,
    with_missing,
    without_correction,
)
from gorvel.core.derive.making import completed, unturned_in
from gorvel.core.inspect.items import Items, analyse_items
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs


@dataclass(frozen=True)
class UnturnedCell:
    """A cell that cannot be converted, wherever it stands among columns with the same answers.

    makes : names of what would be made; columns, cell; rows : numbers of the cases, from 1, in all
    of them; expected; found : what is wrong with it, where that is not the cell itself.
    """

    makes: tuple[str, ...]
    columns: tuple[str, ...]
    cell: str
    rows: tuple[int, ...]
    expected: str
    found: str


@dataclass(frozen=True)
class Answered:
    """What was said of a cell that could not be converted: right, "" for a missing answer."""

    columns: tuple[str, ...]
    cell: str
    right: str


@dataclass(frozen=True, eq=False)
class Outcome:
    """What would come out.

    table : with the new columns, `names`; unturned : cells of them; items : of proposals of several
    columns, by their first column.
    """

    table: Table
    names: tuple[str, ...]
    unturned: tuple[UnturnedCell, ...]
    items: dict[str, Items]


class Turning(QObject):
    """Proposals for the columns of the table, each taken or left.

    Signals: changed(), other proposals, or another choice among them; outcome_changed();
    turned(), answers are turned into numbers from now on, or no longer.
    """

    changed = Signal()
    outcome_changed = Signal()
    turned = Signal()

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.looking = Inquiry(jobs, JobKind.RECOGNISE, self)
        self.trying = Inquiry(jobs, JobKind.TURN, self)
        self.proposals: list[Proposal] = []
        self.taken: list[bool] = []
        self.answered: list[Answered] = []  # of this choice, in the order in which it was given
        self.looking.changed.connect(self._looked)
        self.trying.changed.connect(self.outcome_changed)
        focus.shelf.study_changed.connect(self._forget)
        focus.shelf.plan_changed.connect(self.ask)
        focus.shelf.plan_changed.connect(self._try)

    def _forget(self) -> None:
        self.looking.forget()
        self.trying.forget()
        self.proposals, self.taken, self.answered = [], [], []
        self.ask()

    @property
    def table(self) -> Table | None:
        """As it was read; None for a matrix."""
        study = self.focus.shelf.study
        return study.read if study is not None and isinstance(study.read, Table) else None

    def ask(self) -> None:
        """Look at the columns, unless that was done."""
        table, plan = self.table, self.focus.shelf.plan
        if table is None or plan is None or plan.source.kind != "table":
            return
        about = (table, plan.make, plan.source.missing_codes, plan.variables.missing,
                 plan.cases.label)  # fmt: skip
        self.looking.ask(about, partial(proposed, table, plan))

    def _looked(self) -> None:
        found: list[Proposal] | None = self.looking.found
        if found is None:
            return
        kept = {p.columns: (p, on) for p, on in zip(self.proposals, self.taken, strict=True)}
        self.proposals, self.taken = [], []
        for proposal in found:
            before = kept.get(proposal.columns)
            mine = before is not None and before[0].becomes == proposal.becomes
            self.proposals.append(before[0] if mine and before else proposal)
            self.taken.append(before[1] if mine and before else proposal.sure)
        self.changed.emit()
        self._try()

    # choosing

    def take(self, place: int, on: bool) -> None:
        """Make what a proposal says, or leave it."""
        if self.taken[place] != on:
            self.taken[place] = on
            self.changed.emit()
            self._try()

    def change(self, place: int, proposal: Proposal) -> None:
        """Another choice within a proposal; it is made, too."""
        self.proposals[place] = proposal
        self.taken[place] = True
        self.changed.emit()
        self._try()

    @property
    def chosen(self) -> list[Proposal]:
        """The proposals that are taken."""
        return [p for p, on in zip(self.proposals, self.taken, strict=True) if on]

    @property
    def in_words(self) -> list[Proposal]:
        """Those of which variables could be made."""
        return [p for p in self.proposals if p.makes_something]

    # what would come out

    def _try(self) -> None:
        table, plan = self.table, self.focus.shelf.plan
        if table is None or plan is None or not self.chosen:
            self.trying.forget()
            return
        chosen = tuple(self.chosen)
        self.trying.ask((table, plan, chosen), partial(_outcome, table, plan, chosen))

    @property
    def outcome(self) -> Outcome | None:
        """What would come out of those that are taken, where that is known."""
        found: Outcome | None = self.trying.found
        return found

    @property
    def so_far(self) -> Outcome | None:
        """What the plan in force makes; None where that is nothing."""
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None or not plan.make:
            return None
        table = study.source
        if not isinstance(table, Table) or table.made is None:
            return None
        return Outcome(table, tuple(table.made.levels), unturned_cells(table, plan), {})

    @property
    def unturned(self) -> tuple[UnturnedCell, ...]:
        """Cells that cannot be turned: of what is chosen, or of what the plan makes already."""
        shown = self.outcome or self.so_far
        return () if shown is None else shown.unturned

    def mend(self, columns: Sequence[str], cell: str, right: str | None) -> None:
        """Read a cell of some columns as another answer; None for none at all."""
        self._forget_answer(columns, cell)
        if not self._said(columns, cell, right):
            self.focus.shelf.change_by(lambda plan: _mended(plan, columns, cell, right))
            return
        self.answered.append(Answered(tuple(columns), cell, right or ""))
        self.changed.emit()
        self._try()

    def take_back(self, answer: Answered) -> None:
        """What was said of a cell is open again."""
        self._forget_answer(answer.columns, answer.cell)
        self.changed.emit()
        self._try()

    def _forget_answer(self, columns: Sequence[str], cell: str) -> None:
        before = [one for one in self.answered if one.cell == cell and {*one.columns} & {*columns}]
        for answer in before:
            self.answered.remove(answer)
            for place, proposal in enumerate(self.proposals):
                changed = proposal
                for column in {*answer.columns} & {*proposal.columns}:
                    changed = with_missing(changed, column, cell, False)
                    changed = without_correction(changed, column, cell)
                self.proposals[place] = changed

    def _said(self, columns: Sequence[str], cell: str, right: str | None) -> bool:
        """Put it into the proposals of these columns; False where there are none."""
        found = False
        for place, proposal in enumerate(self.proposals):
            changed = proposal
            for column in columns:
                if column not in proposal.columns or not proposal.makes_something:
                    continue
                found = True
                if right is None:
                    changed = with_missing(changed, column, cell, True)
                else:
                    changed = with_correction(changed, column, cell, right)
            if changed != proposal:
                self.proposals[place], self.taken[place] = changed, True
        return found

    def make(self) -> bool:
        """Carry out what is taken; one step that can be taken back."""
        table, chosen = self.table, self.chosen
        if table is None or not chosen:
            return False
        before = self.focus.shelf.plan
        self.focus.shelf.change_by(lambda plan: _carried_out(table, plan, chosen))
        return self.focus.shelf.plan is not before

    # what was made

    @property
    def made(self) -> tuple[MakePlan, ...]:
        """The entries of the plan in force."""
        plan = self.focus.shelf.plan
        return () if plan is None else plan.make


def _mended(plan: Plan, columns: Sequence[str], cell: str, right: str | None) -> Plan:
    """A plan that reads a cell of columns of which it makes something as another answer."""
    if right is None:
        missing = {name: list(codes) for name, codes in plan.variables.missing.items()}
        for column in columns:
            missing[column] = list(dict.fromkeys([*missing.get(column, []), cell]))
        return plan.with_("variables", missing=missing)
    makes = [
        make if make.from_ not in columns
        else make.model_copy(update={"correct": {**make.correct, cell: right}})
        for make in plan.make
    ]  # fmt: skip
    return plan.with_made(makes)


def _carried_out(table: Table, plan: Plan, chosen: Sequence[Proposal]) -> Plan:
    """The plan with proposals carried out, by the method that suits what is active then."""
    after = applied(plan, chosen, table.names)
    before, made = completed(table, plan), completed(table, after)
    assert isinstance(before, Table)
    assert isinstance(made, Table)
    try:
        return refitted((before, plan), (made, after))
    except InputError:  # a cell that is told when the cases are looked at
        return after


def _outcome(
    table: Table, plan: Plan, chosen: Sequence[Proposal], progress: Progress
) -> Outcome:  # fmt: skip
    after = applied(plan, chosen, table.names)
    before = {make.name for make in plan.make}
    made = completed(table, after)
    assert isinstance(made, Table)
    new = [make for make in after.make if make.name not in before]
    names = tuple(
        name for name in made.names[len(table.names) :] if any(make.makes(name) for make in new)
    )
    items: dict[str, Items] = {}
    for proposal in chosen:
        if proposal.becomes == "order" and len(proposal.columns) > 2:
            mine = [make.name for make in new if make.from_ in proposal.columns]
            answers = [made.numbers(name).values for name in mine if name in made.names]
            items[proposal.columns[0]] = analyse_items(answers)
    return Outcome(made, names, unturned_cells(made, after), items)


def unturned_cells(table: Table, plan: Plan) -> tuple[UnturnedCell, ...]:
    """Each kind of cell that could not be converted, with all of its rows among those looked at.

    Columns of which the same is expected are asked after together.
    """
    out: dict[tuple[str, str, str], dict[tuple[str, str], list[int]]] = {}
    for one in unturned_in(table, rows_looked_at(table, plan)):
        cells = one.cells or ("",) * len(one.rows)
        for row, cell in zip(one.rows.tolist(), cells, strict=True):
            kind = (cell, one.found, one.expected if one.column else one.make)
            out.setdefault(kind, {}).setdefault((one.make, one.column), []).append(row + 1)
    return tuple(
        UnturnedCell(
            tuple(make for make, _ in places), tuple(column for _, column in places), cell,
            tuple(sorted({row for rows in places.values() for row in rows})), expected, found,
        )
        for (cell, found, expected), places in out.items()
    )  # fmt: skip
