"""Asking for files, and before work is left unsaved."""

from __future__ import annotations

import os
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import listed, sentence
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.study.file import SUFFIX
from gorvel.core.study.reading import first_source
from gorvel.core.table.file_kinds import FILE_KINDS, endings
from gorvel.desk.controls.dialog_parts import ask
from gorvel.desk.controls.file_dialog import ALL_FILES, ask_for_file, ask_where, filter_of
from gorvel.desk.controls.texts import counted
from gorvel.desk.editors.reading_editor import ReadingEditor
from gorvel.desk.work.actions import Actions

_STUDIES = filter_of("Study", SUFFIX)
_CODEBOOKS = "Codebooks: Table Schema, DDI-Codebook (*.json *.xml)"
_PLANS = "Plan (*.toml)"
_GUARDED = "CSV table, formulas neutralised (*.csv)"
_SAVABLE = f"CSV table (*.csv);;Excel workbook (*.xlsx);;{_GUARDED}"


def _openable() -> str:
    every = (*endings(), ".gz")
    return ";;".join(
        [
            filter_of("Studies, plans and tables", SUFFIX, ".toml", *every),
            filter_of("Studies", SUFFIX),
            filter_of("Plans", ".toml"),
            filter_of("Tables and databases", *every),
            ALL_FILES,
        ]
    )


def _choosable() -> str:
    """Files that can be read in more than one way."""
    names = listed([kind.name for kind in FILE_KINDS.values() if kind.options])
    return filter_of(sentence(names), *endings(lambda kind: bool(kind.options)), ".gz")


class Dialogs(QObject):
    """Each asks, and then has the actions do it; nothing happens when the user thinks better of it.

    to_mend : the file that could not be read as it is, how it was read, and why not.
    """

    def __init__(self, actions: Actions, window: QWidget) -> None:
        super().__init__(window)
        self.acts, self.window = actions, window
        self.declined = False  # to save what is unsaved
        self.to_mend: tuple[Path, SourcePlan, str] | None = None
        actions.unreadable.connect(self._unreadable)

    def open(self) -> None:
        """Ask for a study, a plan or a table, and open it."""
        path = self._asked_for("Open a study, a plan or a table", _openable())
        if path is not None:
            self.acts.open(path)

    def open_recent(self, path: Path) -> None:
        """Open a file used before."""
        if self.may_leave():
            self.acts.open(path)

    def preview(self) -> None:
        """Ask for a file and show how it would be read, before it is opened."""
        path = self._asked_for("Open with options", _choosable())
        if path is None:
            return
        try:
            source = first_source(path)
        except InputError as error:
            self.acts.said.emit(str(error), True)
            return
        ReadingEditor(self.acts, path, source, self.window).open()

    def stack(self, paths: list[Path]) -> None:
        """Offer to put the rows of several files below each other."""
        if not self.may_leave():
            return
        first, *others = paths
        editor = ReadingEditor(self.acts, first, first_source(first), self.window)
        editor.others.add_below([os.path.relpath(path, first.parent) for path in others])
        editor.open()

    def _asked_for(self, title: str, kinds: str) -> Path | None:
        if not self.may_leave():
            return None
        return ask_for_file(self.window, title, self._folder(), kinds)

    def _folder(self) -> Path | None:
        """Where the data are."""
        study = self.acts.focus.shelf.study
        return study.data_file.parent if study else None

    def mend_reading(self) -> None:
        """Show how the file that could not be read would be read otherwise."""
        if self.to_mend is not None:
            path, source, why = self.to_mend
            ReadingEditor(self.acts, path, source, self.window, why).open()

    def _unreadable(self, path: Path, source: SourcePlan, why: str) -> None:
        self.to_mend = (path, source, why)

    def save_study(self) -> bool:
        """Save the study in its file, or ask where it goes."""
        focus, files = self.acts.focus, self.acts.files
        if focus.shelf.file is None or focus.shelf.for_reading:
            return self.save_study_as()
        if files.changed_elsewhere:
            text = f"Another program has changed {focus.shelf.file.name} since you opened it."
            answers = ("Save under another name …", "Replace", "Cancel")
            answer = ask(self.window, text, *answers)
            if answer != 1:
                return answer == 0 and self.save_study_as()
        return files.save_study(focus.shelf.file)

    def save_study_as(self) -> bool:
        """Ask where the study goes and save it."""
        focus = self.acts.focus
        if focus.shelf.study is None:
            self.acts.said.emit("There is no study yet: open a table first (Ctrl+O).", True)
            return False
        start = focus.shelf.file or focus.shelf.study.data_file.with_suffix(SUFFIX)
        if focus.shelf.for_reading:
            start = start.with_stem(f"{start.stem}-2")
        found = ask_where(self.window, "Save the study", start, _STUDIES)
        return found is not None and self.acts.files.save_study(found[0])

    def save_memberships(self) -> bool:
        """Ask where the memberships go and save them."""
        focus = self.acts.focus
        if focus.shelf.study is None or focus.cut is None:
            self.acts.said.emit(
                "There are no clusters to save yet: grow the tree first (Ctrl+G).", True
            )
            return False
        data = focus.shelf.study.data_file
        start = data.with_name(f"{data.stem}-{focus.cut.clusters}-clusters.csv")
        found = ask_where(self.window, "Save memberships", start, _SAVABLE)
        if found is None:
            return False
        path, kind = found
        return self.acts.files.save_memberships(path, apostrophes=kind == _GUARDED)

    def save_plan(self) -> bool:
        """Ask where the plan goes and save it."""
        study = self.acts.focus.shelf.study
        if study is None:
            self.acts.said.emit("There is no plan to save yet: open a table first (Ctrl+O).", True)
            return False
        start = study.plan_file or study.data_file.with_suffix(".toml")
        found = ask_where(self.window, "Save the plan", start, _PLANS)
        return found is not None and self.acts.files.save_plan(found[0])

    def read_codebook(self) -> None:
        """Ask for a codebook and take what it tells of the columns."""
        path = ask_for_file(self.window, "Import codebook", self._folder(), _CODEBOOKS)
        if path is not None:
            self.acts.read_codebook(path)

    def save_codebook(self) -> None:
        """Ask where the codebook goes and save it."""
        if self.acts.focus.shelf.study is None:
            return
        start = self.acts.focus.shelf.study.data_file.with_suffix(".schema.json")
        found = ask_where(self.window, "Export codebook", start, _CODEBOOKS)
        if found is not None:
            self.acts.files.save_codebook(found[0])

    def may_leave(self) -> bool:
        """May the study be left? Asks once when something is unsaved, and says what."""
        unsaved, self.declined = self.unsaved(), False
        if not unsaved or not self.window.isVisible():
            return True
        answers = ("Save the study …", "Discard changes", "Cancel")
        answer = ask(self.window, f"Not saved: {'; '.join(unsaved)}.", *answers)
        if answer == 0:
            return self.save_study() and self.acts.files.written()
        self.declined = answer == 1
        return self.declined

    def unsaved(self) -> list[str]:
        """What would be lost, in words."""
        focus = self.acts.focus
        study = focus.shelf.study
        if study is None:
            return []
        if focus.shelf.file is not None:
            return [f"changes of {focus.shelf.file.name}"] if focus.shelf.study_unsaved else []
        told = []
        if focus.cut is not None and focus.saved_to is None:
            told.append(f"the memberships of {counted(focus.cut.clusters, 'cluster')}")
        if study.kept:
            told.append(f"{counted(len(study.kept), 'tree')} on the shelf")
        if focus.shelf.plan_unsaved and (focus.shelf.to_undo or focus.shelf.to_redo):
            told.append("changes of the plan")
        return told
