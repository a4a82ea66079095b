"""What the user can have done: opening, growing, saving. Pages and window call these."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.base.numbers import number as told
from gorvel.core.base.progress import Phase, Progress, progress_words
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Prepared
from gorvel.core.codebook.codebook import apply_codebook, read_codebook
from gorvel.core.column_detection.first_plan import propose_plan
from gorvel.core.derive.making import completed
from gorvel.core.grow.algorithm import SMALL
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.kernels.loading import compile_apart, loaded
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.parts import CutPlan, SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.results.findings import Findings
from gorvel.core.scene.arrangement import Arrangement, laid_out
from gorvel.core.sources.reading import read_source
from gorvel.core.study.file import StudyFile
from gorvel.core.study.groups import GrownGroups, grow_groups
from gorvel.core.study.opening import is_study, rescue_study
from gorvel.core.study.reading import Opened, Shown, read_file, shown_again
from gorvel.core.table.file_kinds import mendable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cophenetic import Faithful, cophenetic_correlation
from gorvel.core.warm import warm
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import Settings, save_settings
from gorvel.desk.work.autosave import Leftover, claim, left_beside, opened_by
from gorvel.desk.work.jobs import Job, JobKind, Jobs
from gorvel.desk.work.saving import Saving

_SHOWN = 150  # milliseconds that a tree is given to be painted before more is worked out of it
_SETTLE = 60  # milliseconds without a change of plan before it is looked at
_CORRELATING = f"{Phase.CORRELATION.value} …"


class Actions(QObject):
    """Ties the focus to the core by jobs.

    Signals: opened(); said(sentence, is_error); reading(job or None); growing(job or None);
    loading(words while loops are compiled, or nothing);
    unreadable(path, [source] of its plan, why): it may be that it is only to be read otherwise;
    broken(path, why): a study that is damaged; shared(where), somebody else has the study open;
    taken_up(left, [what was lost]), it is as it was left and was not saved.
    """

    opened = Signal()
    said = Signal(str, bool)
    reading = Signal(object)
    growing = Signal(object)
    loading = Signal(str)
    unreadable = Signal(object, object, str)
    broken = Signal(object, str)
    shared = Signal(str)
    taken_up = Signal(object, object)

    def __init__(self, focus: Focus, settings: Settings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.settings = focus, settings
        self.jobs = Jobs(self)
        self.findings: Callable[[], Findings | None] = lambda: (
            None
        )  # what is known, for all to take
        self.files = Saving(focus, self.jobs, settings, self)
        self.files.said.connect(self.said)
        self._asked: tuple[Source, Plan] | None = None  # what cases were last prepared from
        self._ready: tuple[tuple[Source, Plan], Prepared] | None = None  # and what came of it
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE)
        self._settle.timeout.connect(self._prepare)
        self._shown = QTimer(self, singleShot=True, interval=_SHOWN)
        self._shown.timeout.connect(self.correlate)
        focus.shelf.plan_changed.connect(self._settle.start)
        focus.shelf.source_leaves.connect(self._drop_work)
        focus.shelf.tree_wanted.connect(self.show_wanted)

    # opening

    def open(self, path: Path, source: SourcePlan | None = None) -> None:
        """Open a study, a plan or a data file, off the interface thread.

        source : how data are to be read, where that is known better than what is found.
        """

        left = left_beside(path) if is_study(path) else []
        if left and not opened_by(path):
            self.take_up(max(left, key=lambda one: one.kept.stat().st_mtime))
        else:
            self._open(path, source)

    def _open(self, path: Path, source: SourcePlan | None = None) -> None:
        """Open what a file holds, whatever was left beside it."""

        def done(found: Opened) -> None:
            self.settings.remember(path)
            save_settings(self.settings)
            self.show(found)

        def failed(why: str) -> None:
            self.reading.emit(None)
            self._complain(why)
            if is_study(path):
                self.broken.emit(path, why)
                return
            told = source
            with suppress(GorvelError):
                told = load_plan(path).source if path.suffix.lower() == ".toml" else told
                told = told or SourcePlan(file=path.name)
            data = path.parent / told.file if told is not None else path
            if told is not None and data.is_file() and mendable(data):
                self.unreadable.emit(path, told, why)

        self.said.emit(f"Reading {path.name} …", False)
        self.reading.emit(self._reads(partial(read_file, path, source), done, failed))

    def show(self, found: Opened, saved: bool = True) -> None:
        """Begin with what was read. saved : it is as its file has it."""
        self.reading.emit(None)
        other = opened_by(found.file) if found.file is not None else ""
        self.files.known = found.state
        self.focus.open(found.content, found.file, saved, bool(other))
        if found.shown is not None:
            self._show(found.shown)
        self.opened.emit()
        if other:
            self.shared.emit(other)

    def open_left_of(self, path: Path) -> None:
        """Open what is whole in a damaged study, as one that is not saved."""

        def done(content: StudyFile) -> None:
            self.show(Opened(content), saved=False)
            lost = f" Lost: {'; '.join(content.lost)}." if content.lost else ""
            said = f"This is what could be read of {path.name}.{lost} Save it under another name."
            self.said.emit(said, bool(content.lost))

        self.reading.emit(self._reads(lambda _: rescue_study(path), done, self._not_opened))

    def _not_opened(self, why: str) -> None:
        self.reading.emit(None)
        self._complain(why)

    def _reads(
        self, work: Callable[[Progress], Any], done: Callable[[Any], None],
        failed: Callable[[str], None],
    ) -> Job:  # fmt: skip
        over = partial(self.reading.emit, None)
        return self.jobs.start(JobKind.OPEN, work, done, failed, self._not_read, over)

    def take_up(self, left: Leftover) -> None:
        """Open a study as it was left, unsaved as it was."""

        def done(found: Opened) -> None:
            claim(left)
            self.show(found, saved=False)
            self.taken_up.emit(left, found.content.lost)

        def failed(why: str) -> None:
            self._not_opened(why)
            if left.file is not None:  # then as it was saved
                self._open(left.file)

        self.reading.emit(self._reads(left.read, done, failed))

    def stop_reading(self) -> None:
        """Cancel; the study that was open before stays."""
        self.jobs.cancel(JobKind.OPEN)

    def _not_read(self) -> None:
        self.reading.emit(None)
        self.said.emit("Stopped; nothing was opened.", False)

    def _drop_work(self) -> None:
        """What is still at work for the study before is dropped."""
        self._ready = None
        self._shown.stop()
        self.jobs.drop_all()

    def read_again(self, **changes: object) -> None:
        """Read the data file once more, with other keys of [source]; can be taken back.

        Where the plan's columns are no longer there, it makes way for a first plan.
        """
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None:
            return
        try:
            changed = plan.with_("source", **changes)
        except InputError as error:
            self._complain(error.said or str(error))
            return

        def done(source: Source) -> None:
            kept = changed
            if isinstance(source, Table) and not _fits(source, changed):
                kept = propose_plan(source, changed.source)
            self.reading.emit(None)
            self.focus.shelf.replace_source(source, kept)
            self.said.emit(f"{study.data_file.name} was read again; undo with Ctrl+Z.", False)

        work = partial(read_source, changed, study.data_file)
        self.reading.emit(self._reads(work, done, self._not_opened))

    def _complain(self, why: str) -> None:
        self.said.emit(why, True)

    # the plan

    def _prepare(self) -> None:
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None:
            return
        if plan.open_choice:
            self.focus.set_prepared(None, plan.open_choice)
            return
        source = study.source
        before, self._asked = self._asked, (source, _of_cases(plan))
        if _same(before, self._asked) and self.focus.prepared is not None:
            return
        self.jobs.start(
            JobKind.PREPARE,
            lambda progress: prepare(source, plan),
            partial(self._prepared, self._asked),
            lambda why: self.focus.set_prepared(None, why),
        )

    def _prepared(self, asked: tuple[Source, Plan], prepared: Prepared) -> None:
        self._ready = asked, prepared
        self.focus.set_prepared(prepared)
        if prepared.n > SMALL:
            self.load_kernels()

    # kernels

    def load_kernels(self) -> None:
        """Have the compiled loops there before somebody needs them; compiled anew if need be."""
        if loaded() or self.jobs.busy(JobKind.KERNELS):
            return

        def work(progress: Progress) -> None:
            compile_apart(progress, gently=True)
            warm(lambda _, share: progress(Phase.LOADING, share))  # takes a second

        def told(phase: Phase, share: float, left: float) -> None:
            if phase is Phase.KERNELS:
                self.loading.emit(progress_words(phase, share, left))

        def there(_: None) -> None:
            self.loading.emit("")

        def failed(why: str) -> None:
            self.loading.emit("")
            self._complain(why)

        job = self.jobs.start(JobKind.KERNELS, work, there, failed)
        job.progressed.connect(told)

    # growing

    def grow(self) -> None:
        """Grow the tree of the plan in force, off the interface thread."""
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None:
            return
        if plan.open_choice:
            self._complain(plan.open_choice)
            return
        source, group = study.source, self.focus.shelf.group
        ready = self._ready
        known = ready is not None and _same(ready[0], (source, _of_cases(plan)))
        prepared = ready[1] if ready is not None and known else None
        work = partial(_grow, source, plan, group, prepared)
        done = partial(self._grown, study.in_hand, plan)
        over = partial(self.growing.emit, None)
        job: Job = self.jobs.start(JobKind.GROW, work, done, self._not_grown, self._stopped, over)
        self.growing.emit(job)

    def stop_growing(self) -> None:
        """Cancel; the tree that was there before stays."""
        self.jobs.cancel(JobKind.GROW)

    def _grown(
        self, number: int, plan: Plan, found: tuple[Grown, Arrangement, GrownGroups | None]
    ) -> None:
        """It is there. number : of the tree that it was grown for, which may not be in hand now."""
        self.growing.emit(None)
        grown, arrangement, groups = found
        if self.focus.shelf.study is not None and self.focus.shelf.study.in_hand != number:
            if self.focus.add_grown(number, plan, grown, groups):
                self.said.emit("The new tree is ready: make it current.", False)
            return
        self.jobs.drop(JobKind.SHOW)
        self.focus.set_grown(plan, grown, arrangement, groups)
        self.focus.set_faithful(None, _CORRELATING)
        self._shown.start()
        took = sum(grown.seconds.values())
        if groups is None:
            self.said.emit(f"Grown in {told(took)} s.", False)
            return
        words = f"Grown for {len(groups.kept):,} groups."
        if groups.without:
            have = "have" if len(groups.without) > 1 else "has"
            words += f" {len(groups.without):,} {have} no tree: {', '.join(groups.without)}."
        self.said.emit(words, False)

    def show_wanted(self) -> None:
        """Show the tree in hand, which was grown before, without growing it."""
        focus = self.focus
        study = focus.shelf.study
        if study is None:
            return
        number, group = study.in_hand, focus.shelf.group
        groups = [one for other, one in focus.shelf.kept if other == number]
        kept = focus.shelf.kept.get((number, group if group in groups else (groups or [None])[0]))
        if kept is not None:
            work = partial(shown_again, study.read, number, kept)
            self.jobs.start(JobKind.SHOW, work, self._show, self._complain)

    def _show(self, shown: Shown) -> None:
        study = self.focus.shelf.study
        if study is None or study.in_hand != shown.number:
            return
        self.jobs.drop(JobKind.FAITHFUL)
        self.focus.show_kept(shown.grown, shown.arrangement, shown.number, shown.kept)
        if shown.kept.faithful is None:
            self.focus.set_faithful(None, _CORRELATING)
            self._shown.start()

    def correlate(self) -> None:
        """Work out how faithful the tree is to the proximities, which is shown without waiting."""
        grown, focus = self.focus.grown, self.focus
        if grown is None:
            return

        def work(progress: Progress) -> Faithful:
            return Faithful(cophenetic_correlation(grown.tree, grown.pairs, progress))

        def told(phase: Phase, share: float, left: float) -> None:
            if self.jobs.busy(JobKind.FAITHFUL):
                focus.set_faithful(None, progress_words(phase, share, left))

        def failed(why: str) -> None:
            focus.set_faithful(None)
            self._complain(why)

        focus.set_faithful(None, _CORRELATING)
        job = self.jobs.start(
            JobKind.FAITHFUL, work, focus.set_faithful, failed, lambda: focus.set_faithful(None)
        )
        job.progressed.connect(told)

    def stop_correlating(self) -> None:
        """The tree goes without."""
        self.jobs.cancel(JobKind.FAITHFUL)
        if self._shown.isActive():
            self._shown.stop()
            self.focus.set_faithful(None)

    def _not_grown(self, why: str) -> None:
        self.growing.emit(None)
        self._complain(why)

    def _stopped(self) -> None:
        self.growing.emit(None)
        self.said.emit("Stopped; nothing was changed.", False)

    # codebooks

    def read_codebook(self, path: Path) -> bool:
        """Take levels, labels and missing codes from a codebook; one step that can be undone."""
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            self._complain("A codebook goes with a table: open one first (Ctrl+O).")
            return False
        try:
            changed = apply_codebook(plan, study.source, read_codebook(path))
        except GorvelError as error:
            self._complain(f"{error}; nothing was changed")
            return False
        self.focus.shelf.replace_plan(changed)
        self.said.emit(f"Read from {path.name}.", False)
        return True

    def finish(self, within: float | None = None) -> bool:
        """Stop all work; see `Jobs.finish`."""
        self._settle.stop()
        self._shown.stop()
        return self.jobs.finish(within)


def _of_cases(plan: Plan) -> Plan:
    """A plan without the parts that change no case."""
    return plan.model_copy(update={"count": None, "cut": CutPlan()})


def _same(one: tuple[Source, Plan] | None, other: tuple[Source, Plan]) -> bool:
    return one is not None and one[0] is other[0] and one[1] == other[1]


def _grow(
    source: Source, plan: Plan, group: str | None, prepared: Prepared | None, progress: Progress
) -> tuple[Grown, Arrangement, GrownGroups | None]:
    """The tree of a plan, laid out; with a split those of all groups, of which one is at hand.

    prepared : the cases of this plan, where they are there.
    """
    groups = None
    if plan.cases.split is not None and isinstance(source, Table):
        groups = grow_groups(source, plan, group, progress)
        grown = groups.grown
    else:
        grown = grow_prepared(prepared or prepare(source, plan), plan, {}, progress)
    return grown, laid_out(grown.tree, grown.flipped), groups


def _fits(table: Table, plan: Plan) -> bool:
    """Are the columns there that a plan uses, and those of which it makes others?"""
    try:
        made = completed(table, plan)
    except InputError:
        return False
    return isinstance(made, Table) and set(plan.variables.use) <= set(made.names)
