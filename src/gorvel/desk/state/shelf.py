"""The study on the desk: its trees, the steps that led to it, and what of it is saved."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import InputError
from gorvel.core.plan.plan import Plan
from gorvel.core.study.file import StudyFile
from gorvel.core.study.history import History
from gorvel.core.study.kept import KeptTree
from gorvel.core.study.study import Study, TreeEntry, belonging
from gorvel.core.table.source import Source
from gorvel.core.words.differences import change_words, tree_name
from gorvel.desk.state.turn import in_one_turn


class Shelf(QObject):
    """Holds the study and tells of every change; each change of it can be taken back.

    Signals: source_leaves(), what was read makes way for something else; tree_leaves(), before
    another tree may be taken in hand; tree_wanted(), one that was grown is in hand again;
    refused(why), a change of plan whose parts would not go together; shelf_changed(), trees were
    kept, called, moved or removed; columns_changed(), others were read or made; the others after
    what they name.
    """

    source_leaves = Signal()
    tree_leaves = Signal()
    tree_wanted = Signal()
    refused = Signal(str)
    columns_changed = Signal()
    study_changed = Signal()
    plan_changed = Signal()
    shelf_changed = Signal()
    saved_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._history: History[Study] | None = None
        self.kept: dict[tuple[int, str | None], KeptTree] = {}  # by id and group
        self.group: str | None = None  # of the split, that is looked at
        self.file: Path | None = None  # of the study
        self.for_reading = False  # another window has the study
        self._saved_plan: Plan | None = None
        self._saved_study: Study | None = None
        self.version = self._saved_version = 0  # of what is kept in a study but is no step
        self._last_id = 0
        self._step_of: object | None = None  # what is being changed, see `one_step`
        self._last_step_of: object | None = None  # what the last step changed

    @property
    def study(self) -> Study | None:
        """What was read, and its trees."""
        return None if self._history is None else self._history.now

    @property
    def plan(self) -> Plan | None:
        """The plan of the tree in hand."""
        return None if self._history is None else self._history.now.plan

    @property
    def group_in_force(self) -> str | None:
        """The group that the plan in force grows the tree in hand of; None for all cases."""
        return self.group if self.plan is not None and self.plan.cases.split is not None else None

    # opening

    def begin(self, content: StudyFile, file: Path | None, saved: bool, for_reading: bool) -> None:
        """Begin afresh with a study.

        saved : it is as its file, or its plan's file, has it; for_reading : another window has the
        file open.
        """
        self._history, self._last_step_of = History(content.study), None
        self.kept = dict(content.kept)
        self.group, self.file, self.for_reading = content.group, file, for_reading
        self._last_id = max(entry.id for entry in content.study.trees)
        as_saved = saved and content.study.plan_file is not None
        self._saved_plan = content.study.plan if as_saved else None
        self._saved_study = content.study if saved and file is not None else None
        self._saved_version = self.version

    # the plan

    def attempt(self, make: Callable[[Plan], Plan]) -> str:
        """Put what is made of the plan in force; returns why not, or an empty text."""
        assert self.plan is not None
        assert self.study is not None
        try:
            plan = make(self.plan)
            self.study.source_for(plan)  # what it makes of the columns goes with them
        except InputError as error:
            return error.said or str(error)
        self.replace_plan(plan)
        return ""

    @contextmanager
    def one_step(self, of: object) -> Iterator[None]:
        """Changes of the plan for the same thing, one right after the other, are one step."""
        self._step_of = of
        try:
            yield
        finally:
            self._step_of = None

    def change(self, part: str, **changes: Any) -> None:
        """Change keys of one part of the plan; where they do not go with the rest it is told."""
        self.change_by(lambda plan: plan.with_(part, **changes))

    def change_by(self, make: Callable[[Plan], Plan]) -> None:
        """Put what is made of the plan in force, or tell why not."""
        why = self.attempt(make)
        if why:
            self.refused.emit(why)

    def set_aside(self, cases: set[int]) -> None:
        """Leave cases (numbers in the file) out; they can be brought back."""
        if self.plan is not None and self.plan.source.kind == "table" and cases:
            self.change("cases", set_aside=sorted({*self.plan.cases.set_aside, *cases}))

    def bring_back(self, cases: set[int]) -> None:
        """Use cases again that were set aside."""
        if self.plan is not None and cases & set(self.plan.cases.set_aside):
            self.change("cases", set_aside=sorted(set(self.plan.cases.set_aside) - cases))

    def replace_plan(self, plan: Plan) -> None:
        """Put another plan in force for the tree in hand; can be undone."""
        study = self.study
        if study is None or plan == study.plan:
            return
        assert self._history is not None
        before = self._history.before
        again = self._step_of is not None and self._step_of is self._last_step_of
        if not again or before is None:
            self._go(study.planned(plan, self._new_id()), change_words(study.plan, plan))
            self._last_step_of = self._step_of
            return
        self.tree_leaves.emit()
        other = before if plan == before.plan else before.planned(plan, self._new_id())
        self._history.step_anew(other, change_words(before.plan, plan))
        self._last_step_of = None if other is before else self._step_of
        self._tell(study, other)

    @in_one_turn
    def amend_plan(self, plan: Plan) -> None:
        """Put what follows from a step into the plan, without another step."""
        if self._history is not None:
            entry = replace(self._history.now.entry, plan=plan)
            self._history.amend(self._history.now.with_entry(entry))
            self._follow_entries(self._history.now)
            self.plan_changed.emit()

    def replace_source(self, source: Source, plan: Plan) -> None:
        """Put the file as it was read anew, and a plan that fits, in force; can be undone.

        Trees of what was read before do not go with it.
        """
        study = self.study
        if study is not None:
            entry = TreeEntry(self._new_id(), plan)
            self._go(
                replace(study, read=source, trees=(entry,), in_hand=entry.id),
                "how the file is read",
            )

    def _new_id(self) -> int:
        """An id that no tree had, nor any that was taken back."""
        return self._last_id + 1

    @in_one_turn
    def _go(self, study: Study, words: str) -> None:
        assert self._history is not None
        before, self._last_step_of = self._history.now, None
        self.tree_leaves.emit()
        self._history.step(study, words)
        self._tell(before, study)

    def _tell(self, before: Study, study: Study) -> None:
        """Another study is there; say what changed in it."""
        self._follow_entries(study)
        self._last_id = max(self._last_id, *(entry.id for entry in study.trees))
        if study.read is not before.read:
            self.source_leaves.emit()
            self.study_changed.emit()
        if study.read is not before.read or study.source is not before.source:
            self.columns_changed.emit()
        another = study.in_hand != before.in_hand
        if another or study.plan != before.plan:
            self.plan_changed.emit()
        if another or _cards(study) != _cards(before):
            self.shelf_changed.emit()
        if another and any(number == study.in_hand for number, _ in self.kept):
            self.tree_wanted.emit()
        self.saved_changed.emit()

    def _follow_entries(self, study: Study) -> None:
        """Trees have by now what their entries say, as long as these plan the same trees."""
        for key, tree in self.kept.items():
            if study.has(key[0]):
                self.kept[key] = belonging(tree, study.tree(key[0]))

    # steps

    @property
    def to_undo(self) -> str:
        """What would be taken back, in words; empty if nothing."""
        return "" if self._history is None else self._history.to_undo

    @property
    def to_redo(self) -> str:
        """What would be done again, in words; empty if nothing."""
        return "" if self._history is None else self._history.to_redo

    def undo(self) -> None:
        """Take the last step back."""
        self._turn(lambda history: history.undo())

    def redo(self) -> None:
        """Take the step taken back last once more."""
        self._turn(lambda history: history.redo())

    @in_one_turn
    def _turn(self, turn: Callable[[History[Study]], bool]) -> None:
        if self._history is None:
            return
        before, self._last_step_of = self._history.now, None
        self.tree_leaves.emit()
        if turn(self._history):
            self._tell(before, self._history.now)

    # the shelf

    def name_of(self, entry: TreeEntry) -> str:
        """What a tree is called: by its title, or by its plan."""
        return entry.title or tree_name(entry.plan)

    @in_one_turn
    def keep(self, trees: Sequence[KeptTree] = ()) -> None:
        """Put the tree in hand on the shelf, or another that was grown in its place before.

        trees : of that one, for each group of a split.
        """
        study = self.study
        if study is None:
            return
        first, new_id = trees[0] if trees else None, self._new_id()
        other = None
        if first is not None:
            other = TreeEntry(new_id, first.plan, first.title, first.note)
        after = study.keep(other, new_id)
        if after.has(new_id):
            self.kept |= {(new_id, tree.group): tree for tree in trees}
        if after.trees != study.trees:
            self._go(after, "keeping a tree")
        if trees and not after.has(new_id):  # they are those of the plan in force: shown again
            self.kept |= {(study.in_hand, tree.group): tree for tree in trees}
            self.tree_wanted.emit()

    @in_one_turn
    def add(self, plan: Plan, title: str = "") -> int:
        """Put a tree on the shelf that is still to grow; returns its id, or that of one like it."""
        study = self.study
        assert study is not None
        for entry in study.trees:
            if entry.plan.grows_as(plan):
                return entry.id
        new_id = self._new_id()
        self._go(study.added(plan, new_id, title), "adding a tree to the shelf")
        return new_id

    @in_one_turn
    def take(self, number: int) -> None:
        """Take another tree of the study in hand."""
        study = self.study
        if study is not None and study.has(number) and number != study.in_hand:
            self._go(study.take(number), "the current tree")

    @in_one_turn
    def call(self, number: int, title: str, note: str | None = None) -> None:
        """Give a tree a title, and a note."""
        study = self.study
        if study is not None and study.has(number):
            after = study.called(number, title, note)
            if after.trees != study.trees:
                self._go(after, "the title of a tree")

    @in_one_turn
    def remove(self, number: int) -> None:
        """Take a tree off the shelf."""
        study = self.study
        if study is not None and study.has(number):
            self._go(study.without(number), "removing a tree")

    def move(self, number: int, by: int) -> None:
        """Move a tree up or down the shelf."""
        study = self.study
        if study is None or not study.has(number):
            return
        ids = [entry.id for entry in study.trees]
        after = study.moved(number, ids.index(number) + by)
        if after.trees != study.trees:
            self._go(after, "the order of the shelf")

    # what is saved

    def touch(self) -> None:
        """Something changed that is kept in a study but is no step, such as a cut."""
        self.version += 1

    @property
    def plan_unsaved(self) -> bool:
        """Does the plan in force stand in no file?"""
        if self.file is not None:
            return self.study_unsaved
        return self.plan is not None and self.plan != self._saved_plan

    @property
    def study_unsaved(self) -> bool:
        """Is there a study whose file has it otherwise, or that has none?"""
        if self.study is None:
            return False
        return self.study is not self._saved_study or self.version != self._saved_version

    def plan_was_saved(self, path: Path, plan: Plan | None) -> None:
        """A plan now stands in a file; it may not be the one in force any more."""
        if self._history is not None:
            was_saved = self._history.now is self._saved_study
            self._history.amend(replace(self._history.now, plan_file=path))
            if was_saved:
                self._saved_study = self._history.now
        self._saved_plan = plan
        self.saved_changed.emit()

    def study_was_saved(self, path: Path, content: StudyFile, version: int) -> None:
        """A study now stands in a file, as it was at a version; it may have changed since."""
        self.file, self.for_reading, self._saved_version = path, False, version
        self._saved_study, self._saved_plan = content.study, content.study.plan
        self.saved_changed.emit()


def _cards(study: Study) -> list[tuple[int, str, str, bool]]:
    """What the shelf shows of the trees beside their plans."""
    return [(entry.id, entry.title, entry.note, entry.kept) for entry in study.trees]
