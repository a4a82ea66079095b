"""What the user can have done: opening, growing, saving. Pages and window call these."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal

from gorvel.core.analysis import Grown, grow_prepared, read_source
from gorvel.core.codebook import apply_codebook, codebook_of, read_codebook, save_codebook
from gorvel.core.errors import GorvelError, InputError
from gorvel.core.export.membership import save_membership
from gorvel.core.faithful import Faithful, cophenetic_correlation
from gorvel.core.growing import SMALL
from gorvel.core.kernels.loading import compile_apart, loaded
from gorvel.core.matrix import ProximityTable
from gorvel.core.plan.file import load_plan, save_plan
from gorvel.core.plan.parts import CutPlan, SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.prepare import prepare
from gorvel.core.prepared import Prepared
from gorvel.core.progress import Phase, Progress, progress_words
from gorvel.core.propose import propose_plan
from gorvel.core.scene.arrangement import Arrangement, laid_out
from gorvel.core.sentences import number
from gorvel.core.table.reading import READ_MANY_WAYS
from gorvel.core.table.table import Table
from gorvel.core.warm import warm
from gorvel.desk.keeping import Left, claim
from gorvel.desk.opening import read_study
from gorvel.desk.settings import Settings, save_settings
from gorvel.desk.state import Focus, Study
from gorvel.desk.workers import Job, JobKind, Jobs

__all__ = ["Actions"]

_SHOWN = 150  # milliseconds that a tree is given to be painted before more is worked out of it
_SETTLE = 60  # milliseconds without a change of plan before it is looked at


class Actions(QObject):
    """Ties the focus to the core by jobs.

    Signals: opened(); said(sentence, is_error); reading(job or None); growing(job or None);
    loading(words while loops are compiled, or nothing);
    unreadable(path, [source] of its plan, why): it may be that it is only to be read otherwise.
    """

    opened = Signal()
    said = Signal(str, bool)
    reading = Signal(object)
    growing = Signal(object)
    loading = Signal(str)
    unreadable = Signal(object, object, str)

    def __init__(self, focus: Focus, settings: Settings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.settings = focus, settings
        self.jobs = Jobs(self)
        self._lost = False  # a file that was to be written
        self._asked: tuple[Table | ProximityTable, Plan] | None = (
            None  # what cases were last prepared from
        )
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE)
        self._settle.timeout.connect(self._prepare)
        self._shown = QTimer(self, singleShot=True, interval=_SHOWN)
        self._shown.timeout.connect(self.correlate)
        focus.plan_changed.connect(self._settle.start)
        focus.source_leaves.connect(self._drop_work)

    # opening

    def open(self, path: Path, source: SourcePlan | None = None) -> None:
        """Open a data file or a plan, off the interface thread.

        source : how it is to be read, where that is known better than what is found.
        """

        def done(found: tuple[Study, Plan]) -> None:
            self.reading.emit(None)
            self.settings.remember(path)
            save_settings(self.settings)
            self.focus.open(*found)
            self.opened.emit()

        def failed(why: str) -> None:
            self.reading.emit(None)
            self._complain(why)
            told = source
            with suppress(GorvelError):
                told = load_plan(path).source if path.suffix.lower() == ".toml" else told
                told = told or SourcePlan(file=path.name)
            data = path.parent / told.file if told is not None else path
            if told is not None and data.is_file() and data.suffix.lower() in READ_MANY_WAYS:
                self.unreadable.emit(path, told, why)

        self.said.emit(f"Reading {path.name} …", False)
        work = partial(read_study, path, source)
        self.reading.emit(self._reads(work, done, failed))

    def _reads(
        self, work: Callable[[Progress], Any], done: Callable[[Any], None],
        failed: Callable[[str], None],
    ) -> Job:  # fmt: skip
        over = partial(self.reading.emit, None)
        return self.jobs.start(JobKind.OPEN, work, done, failed, self._not_read, over)

    def take_up(self, left: Left) -> None:
        """Open a study as it was left, unsaved as it was."""
        plan = left.read()
        data = Path(plan.source.file)

        def work(progress: Progress) -> tuple[Study, Plan]:
            file = Path(left.plan_file) if left.plan_file else None
            return Study(data, read_source(plan, data, progress), file), plan

        def done(found: tuple[Study, Plan]) -> None:
            self.reading.emit(None)
            claim(left)
            count = 0 if plan.cut.branches else left.count
            self.focus.open(*found, saved=False, count=count)
            self.opened.emit()
            self.said.emit(f"{data.name} is as you left it; it was not saved.", False)

        def failed(why: str) -> None:
            self.reading.emit(None)
            self._complain(why)

        self.reading.emit(self._reads(work, done, failed))

    def stop_reading(self) -> None:
        """Cancel; the study that was open before stays."""
        self.jobs.cancel(JobKind.OPEN)

    def _not_read(self) -> None:
        self.reading.emit(None)
        self.said.emit("Stopped; nothing was opened.", False)

    def _drop_work(self) -> None:
        """What is still at work for the study before is dropped."""
        self._shown.stop()
        self.jobs.drop_all()

    def read_again(self, **changes: object) -> None:
        """Read the data file once more, with other keys of [source]; can be taken back.

        Where the plan's columns are no longer there, it makes way for a first plan.
        """
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None:
            return
        changed = plan.with_("source", **changes)

        def done(source: Table | ProximityTable) -> None:
            fits = isinstance(source, ProximityTable) or (
                set(changed.variables.use) <= set(source.names)
            )
            kept = changed
            if not fits and isinstance(source, Table):
                kept = propose_plan(source, changed.source)
            self.reading.emit(None)
            self.focus.replace_source(source, kept)
            self.said.emit(f"{study.data_file.name} was read again; Ctrl+Z takes it back.", False)

        def failed(why: str) -> None:
            self.reading.emit(None)
            self._complain(why)

        work = partial(read_source, changed, study.data_file)
        self.reading.emit(self._reads(work, done, failed))

    def _complain(self, why: str) -> None:
        self.said.emit(why, True)

    # the plan

    def _prepare(self) -> None:
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None:
            return
        if plan.open_choice:
            self.focus.set_prepared(None, plan.open_choice)
            return
        source = study.source
        asked = plan.model_copy(update={"count": None, "cut": CutPlan()})  # these change no case
        before, self._asked = self._asked, (source, asked)
        known = before is not None and before[0] is source and before[1] == asked
        if known and self.focus.prepared is not None:
            return
        self.jobs.start(
            JobKind.PREPARE,
            lambda progress: prepare(source, plan),
            self._prepared,
            lambda why: self.focus.set_prepared(None, why),
        )

    def _prepared(self, prepared: Prepared) -> None:
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

    # files

    def save_plan(self, path: Path) -> bool:
        """Write the plan to a file, off the interface thread; says whether it was begun."""
        plan, study = self.focus.plan_to_save, self.focus.study
        if plan is None or study is None:
            return False
        data = study.data_file.absolute()
        near = data.parent == path.absolute().parent
        plan_now = self.focus.plan
        plan = plan.with_("source", file=data.name if near else str(data))

        def done() -> None:
            self.focus.plan_was_saved(path, plan_now)
            self.settings.remember(path)
            save_settings(self.settings)

        what = f"The plan is saved in {path.name}."
        return self._write(partial(save_plan, plan, path), path, done, what, "plan was")

    def _write(
        self, work: Callable[[], object], path: Path, done: Callable[[], None], said: str, lost: str
    ) -> bool:
        """Have a file written; says that it was begun, and when it is there."""

        def carried_out() -> None:
            try:
                work()
            except OSError as error:
                raise InputError(error.strerror or "cannot be written", file=str(path)) from None

        def written() -> None:
            done()
            self.said.emit(said, False)

        def failed(why: str) -> None:
            self._lost = True
            self._complain(f"{why}; the {lost} not saved")

        if not self.jobs.writing:
            self._lost = False
        self.said.emit(f"Saving {path.name} …", False)
        self.jobs.write(carried_out, written, failed)
        return True

    def written(self) -> bool:
        """Wait until files are written, taking neither clicks nor keys; did all go well?"""
        while self.jobs.writing:
            loop = QEventLoop()
            self.jobs.wrote.connect(loop.quit)
            loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        return not self._lost

    # growing

    def grow(self) -> None:
        """Grow the tree of the plan in force, off the interface thread."""
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None:
            return
        if plan.open_choice:
            self._complain(plan.open_choice)
            return
        source = study.source

        def work(progress: Progress) -> tuple[Grown, Arrangement]:
            prepared: Prepared = prepare(source, plan)
            grown = grow_prepared(prepared, plan, {}, progress)
            return grown, laid_out(grown.tree)

        over = partial(self.growing.emit, None)
        job: Job = self.jobs.start(
            JobKind.GROW, work, self._grown, self._not_grown, self._stopped, over
        )
        self.growing.emit(job)

    def stop_growing(self) -> None:
        """Cancel; the tree that was there before stays."""
        self.jobs.cancel(JobKind.GROW)

    def _grown(self, found: tuple[Grown, Arrangement]) -> None:
        self.growing.emit(None)
        grown, arrangement = found
        self.focus.set_grown(grown, arrangement)
        self.focus.set_faithful(None, "…")
        self._shown.start()
        took = sum(grown.seconds.values())
        self.said.emit(f"Grown in {number(took)} s.", False)

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

        focus.set_faithful(None, "…")
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

    # memberships

    def save_memberships(self, path: Path) -> bool:
        """Write the table with the clusters of the cut, off the interface thread; was it begun?"""
        focus = self.focus
        study, grown, cut = focus.study, focus.grown_as_planned, focus.cut
        if study is None or grown is None or cut is None:
            return False
        names = [who.name for who in focus.identities]

        def done() -> None:
            if focus.cut is cut:
                focus.memberships_saved(path)

        work = partial(save_membership, study.source, grown, cut, path, names)
        what = f"{cut.clusters} clusters are saved in {path.name}."
        return self._write(work, path, done, what, "memberships were")

    # code books

    def read_codebook(self, path: Path) -> bool:
        """Take levels, labels and missing codes from a code book; one step that can be undone."""
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            self._complain("A code book goes with a table: open one first (Ctrl+O).")
            return False
        try:
            changed = apply_codebook(plan, study.source, read_codebook(path))
        except GorvelError as error:
            self._complain(f"{error}; nothing was changed")
            return False
        self.focus.replace_plan(changed)
        self.said.emit(f"Read from {path.name}.", False)
        return True

    def save_codebook(self, path: Path) -> bool:
        """Write levels, labels and missing codes to a code book."""
        study, plan = self.focus.study, self.focus.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            return False
        work = partial(save_codebook, codebook_of(plan, study.source), path)
        what = f"The code book is saved in {path.name}."
        return self._write(work, path, lambda: None, what, "code book was")

    def finish(self) -> None:
        """Stop all work; nothing runs on after this."""
        self._settle.stop()
        self._shown.stop()
        self.jobs.finish()
