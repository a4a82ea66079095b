"""Files that the user has written: each off the interface thread, one after the other."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEventLoop, QObject, Signal

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import FileState, check_apart
from gorvel.core.codebook.codebook import codebook_of, save_codebook
from gorvel.core.export.groups import save_groups
from gorvel.core.export.membership import save_membership, save_table
from gorvel.core.plan.file import save_plan
from gorvel.core.results.table import ResultTable
from gorvel.core.sources.reading import files_of
from gorvel.core.study.file import save_study
from gorvel.core.table.table import Table
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import Settings, save_settings
from gorvel.desk.work.jobs import Jobs


class Saving(QObject):
    """Signals: said(sentence, is_error)."""

    said = Signal(str, bool)

    def __init__(
        self, focus: Focus, jobs: Jobs, settings: Settings, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.focus, self.jobs, self.settings = focus, jobs, settings
        self.picture: Callable[[], bytes] = lambda: b""  # of the tree, for lists of studies
        self.lost = False  # a file that was to be written
        self.known: FileState | None = None  # of the study's file, read or written here last

    @property
    def changed_elsewhere(self) -> bool:
        """Is the study's file another one than it was when it was read or written here last?"""
        file = self.focus.shelf.file
        if file is None or not file.exists():
            return False
        return self.known is None or self.known.differs(file)

    def save_study(self, path: Path) -> bool:
        """Write the study to a file, off the interface thread; says whether it was begun."""
        focus = self.focus
        content, version = focus.content(self.picture()), focus.shelf.version
        if content is None:
            return False
        written: FileState | None = None

        def work() -> None:
            nonlocal written
            save_study(content, path)
            written = FileState.of(path)

        def done() -> None:
            self.known = written
            focus.shelf.study_was_saved(path, content, version)
            self.settings.remember(path)
            save_settings(self.settings)

        what = f"The study is saved in {path.name}."
        return self._write(work, path, done, what, "study was")

    def save_plan(self, path: Path) -> bool:
        """Write the plan to a file, off the interface thread; says whether it was begun."""
        plan, study = self.focus.plan_to_save, self.focus.shelf.study
        if plan is None or study is None:
            return False
        data = study.data_file.absolute()
        near = data.parent == path.absolute().parent
        plan_now = self.focus.shelf.plan
        if plan.assign is not None and not near:
            other = str(data.parent / plan.assign.file)
            plan = plan.with_("assign", file=other)
        plan = plan.with_("source", file=data.name if near else str(data))

        def done() -> None:
            self.focus.shelf.plan_was_saved(path, plan_now)
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
            self.lost = True
            self.said.emit(f"{why}; the {lost} not saved", True)

        try:
            check_apart(path, self._read())
        except InputError:
            failed(f"{path.name} holds what the study is made from: choose another name")
            return False
        if not self.jobs.writing:
            self.lost = False
        self.said.emit(f"Saving {path.name} …", False)
        self.jobs.write(carried_out, written, failed)
        return True

    def _read(self) -> list[Path]:
        """What the study is made from; its own file, which holds all of it, is none."""
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        return [] if study is None or plan is None else files_of(plan, study.data_file)

    def written(self) -> bool:
        """Wait until files are written, taking neither clicks nor keys; did all go well?"""
        while self.jobs.writing:
            loop = QEventLoop()
            self.jobs.wrote.connect(loop.quit)
            loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        return not self.lost

    def ended_well(self) -> bool:
        """Wait for what is being written at this moment; was none of it lost?"""
        self.lost = False
        return self.written()

    def save_memberships(self, path: Path, apostrophes: bool = False) -> bool:
        """Write the table with the clusters of the cut, off the interface thread; was it begun?

        apostrophes : see `write_frame`.
        """
        focus = self.focus
        study, plan, grown, cut = focus.shelf.study, focus.plan_of_tree, focus.grown, focus.cut
        if study is None or plan is None or grown is None or cut is None:
            return False
        whos, groups = focus.identities, focus.of_groups
        names, titles = [who.name for who in whos], [who.title for who in whos]
        version = focus.shelf.version

        def done() -> None:
            if focus.cut is cut and (focus.shelf.version == version or not groups):
                focus.memberships_saved(path)

        work: Callable[[], object] = partial(
            save_membership,
            study.source_for(plan),
            plan,
            grown,
            cut,
            path,
            names,
            titles,
            apostrophes,
        )
        what = f"{cut.clusters} clusters are saved in {path.name}."
        source = study.source_for(plan)
        if groups and isinstance(source, Table):
            work = partial(save_groups, source, list(groups.values()), path, apostrophes)
            what = f"The clusters of {len(groups)} groups are saved in {path.name}."
        return self._write(work, path, done, what, "memberships were")

    def save_figure(self, draw: Callable[[str], Callable[[Path], None]], path: Path) -> bool:
        """Write a figure. draw : draws it as "svg", "pdf" or "png", and gives what writes it."""
        try:
            put = draw(path.suffix.lower().removeprefix("."))
        except InputError as error:
            self.lost = True
            self.said.emit(f"{error.in_file(path.name)}; the figure was not saved", True)
            return False
        what = f"The figure is saved in {path.name}."
        return self._write(partial(put, path), path, lambda: None, what, "figure was")

    def save_table(self, table: ResultTable, path: Path) -> bool:
        """Write what a view shows, as CSV or XLSX."""
        what = f"The table is saved in {path.name}."
        return self._write(partial(save_table, table, path), path, lambda: None, what, "table was")

    def save_scorer(self, write: Callable[[Path], None], path: Path) -> bool:
        """Write the rule of a short form. write : what does it."""
        what = f"The short form is saved in {path.name}."
        return self._write(partial(write, path), path, lambda: None, what, "short form was")

    def save_codebook(self, path: Path) -> bool:
        """Write levels, labels and missing codes to a codebook."""
        study, plan = self.focus.shelf.study, self.focus.shelf.plan
        if study is None or plan is None or not isinstance(study.source, Table):
            return False
        work = partial(save_codebook, codebook_of(plan, study.source), path)
        what = f"The codebook is saved in {path.name}."
        return self._write(work, path, lambda: None, what, "codebook was")
