"""What is not saved is kept for the next start, however the program ends; who has a study open."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.base.processes import at_work, host, own_mark, own_sign
from gorvel.core.base.progress import Progress
from gorvel.core.base.writing import writing_to
from gorvel.core.study.file import SUFFIX, StudyFile, save_study
from gorvel.core.study.opening import is_lost, is_study, load_study
from gorvel.core.study.reading import Opened, opened
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import settings_file
from gorvel.desk.work.jobs import Jobs

_SETTLE = 1000  # milliseconds after a change until it is kept


@dataclass(frozen=True)
class Leftover:
    """A study as a program left it that is no more.

    kept : the file with what was not saved; file : of the study it belongs to, None for a study
    that was never saved.
    """

    kept: Path
    file: Path | None

    @property
    def name(self) -> str:
        """What the user knows it by."""
        if self.file is not None:
            return self.file.name
        return load_study(self.kept, data=False).study.data_file.name

    def read(self, progress: Progress) -> Opened:
        """All of it, with its data from where they are.

        Raises
        ------
        InputError : the data are not to be had.
        """
        return opened(self.kept, self.file, progress)


class Autosave(QObject):
    """Writes what is unsaved within a second or two of a change.

    It is written beside the study or, where it has no file yet, or none can be written there,
    beside the settings; a job does it, and does not write the data again. Signals: said(sentence,
    is_error), once where it cannot be kept.
    """

    said = Signal(str, bool)

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE)
        self._settle.timeout.connect(self._keep)
        self._watching = False
        self._written: set[Path] = set()
        self._lost = ""  # why it could not be kept the last time
        self._sign: Path | None = None  # that a study is open here

    def watch(self) -> None:
        """Begin; windows that only make pictures leave nothing behind."""
        self._watching, focus, shelf = True, self.focus, self.focus.shelf
        for signal in (
            shelf.study_changed, shelf.plan_changed, shelf.shelf_changed, shelf.saved_changed,
            focus.tree_changed, focus.cut_changed, focus.faithful_changed,
        ):  # fmt: skip
            signal.connect(self._begin)
        self._begin()

    def _begin(self) -> None:
        self._put_up_sign()
        if not self._settle.isActive():  # a change is kept soon, however many follow
            self._settle.start()

    @property
    def left(self) -> StudyFile | None:
        """What would be lost now; None where everything is saved."""
        focus = self.focus
        study = focus.shelf.study
        if study is None:
            return None
        if focus.shelf.file is not None:
            return focus.content() if focus.shelf.study_unsaved else None
        clusters = focus.cut is not None and focus.saved_to is None
        if not (focus.shelf.plan_unsaved or clusters or study.kept):
            return None
        if study.plan_file is None and not focus.shelf.to_undo and focus.cut is None:
            return None  # as it was proposed: opening the file gives it again
        return focus.content()

    def _places(self) -> list[Path]:
        """Where it goes, the better place first."""
        file = None if self.focus.shelf.for_reading else self.focus.shelf.file
        return list(dict.fromkeys([_left_path(file), _left_path(None)]))

    def _keep(self) -> None:
        self.jobs.write(self._writing(), self._kept, self._not_kept)

    def _kept(self) -> None:
        self._lost = ""

    def _not_kept(self, why: str) -> None:
        if why != self._lost:
            self._lost = why
            said = f"{why}; unsaved work could not be backed up: save it now"
            self.said.emit(said, True)

    def _writing(self) -> partial[None]:
        """What writes the state of this moment."""
        shelf = self.focus.shelf
        self._written.update(places := self._places())
        data = None if shelf.study is None else shelf.file or shelf.study.data_file
        return partial(_write, self.left, places, frozenset(self._written), data)

    def keep_now(self) -> None:
        """The same at once: the program ends, and nobody can be asked."""
        self._settle.stop()
        if self._watching:
            with suppress(InputError):  # which was said, if there was time for it
                self._writing()()
            self._take_down_sign()

    def forget(self) -> None:
        """The user has decided what becomes of it: nothing is left."""
        self._settle.stop()
        if self._watching:
            _write(None, [], frozenset({*self._written, *self._places()}), None)
            self._take_down_sign()

    # who has a study open

    def _put_up_sign(self) -> None:
        focus = self.focus
        file = None if focus.shelf.for_reading else focus.shelf.file
        sign = None if file is None else _sign_path(file)
        if sign == self._sign:
            return
        self._take_down_sign()
        if sign is not None:
            try:
                sign.touch()
            except OSError:  # a place that cannot be written cannot be written by two
                return
            self._sign = sign

    def _take_down_sign(self) -> None:
        if self._sign is not None:
            self._sign.unlink(missing_ok=True)
            self._sign = None


def opened_by(file: Path) -> str:
    """Who else has a study open, in words; "" where nobody has."""
    for sign in file.parent.glob(f".{_glob(file.stem)}.open-*"):
        where, _, process = sign.name.rpartition(".open-")[2].partition("-")
        if not process.partition("-")[0].isdecimal():
            continue
        if where == host() and process in (own_sign(), str(os.getpid())):
            continue
        if where != host():
            return f"on {where}"
        if at_work(process):
            return "in another window"
        sign.unlink(missing_ok=True)
    return ""


def left_behind(recent: Sequence[str] = ()) -> Leftover | None:
    """What a program that is no more has left, the latest first; it stays until it is claimed.

    recent : files used last; what was left of a study lies beside it.
    """
    found = [Leftover(path, None) for path in _kept_files(settings_file().parent, "left-open")]
    for name in recent:
        if is_study(Path(name)):
            found += left_beside(Path(name))
    sound = [left for left in found if _sound(left)]
    return max(sound, key=lambda left: left.kept.stat().st_mtime, default=None)


def left_beside(file: Path) -> list[Leftover]:
    """What was left of a study, beside its file."""
    try:
        found = [Leftover(path, file) for path in _kept_files(file.parent, f".{file.stem}.left")]
        return [left for left in found if _sound(left)]
    except OSError:
        return []


def _kept_files(folder: Path, stem: str) -> Iterator[Path]:
    for path in folder.glob(f"{_glob(stem)}-*{SUFFIX}"):
        process = path.stem[len(stem) + 1 :]
        if process.partition("-")[0].isdecimal() and not at_work(process):
            yield path


def _glob(name: str) -> str:
    """A name whose own signs stand for themselves in a pattern."""
    return "".join(f"[{sign}]" if sign in "*?[" else sign for sign in name)


def _sound(left: Leftover) -> bool:
    """Can it be taken up? What holds nothing is thrown away; what a newer program wrote is not."""
    try:
        load_study(left.kept, data=False)
    except GorvelError:
        with suppress(OSError):
            if is_lost(left.kept):
                left.kept.unlink(missing_ok=True)
        return False
    return True


def claim(left: Leftover) -> None:
    """It was taken up: from now on it is this program's to keep."""
    os.replace(left.kept, _left_path(left.file))


def _left_path(file: Path | None) -> Path:
    if file is None:
        return settings_file().with_name(f"left-open-{own_sign()}{SUFFIX}")
    return file.with_name(f".{file.stem}.left-{own_sign()}{SUFFIX}")


def _sign_path(file: Path) -> Path:
    return file.with_name(f".{file.stem}.open-{own_mark()}")


def _write(
    left: StudyFile | None, places: list[Path], written: frozenset[Path], data: Path | None
) -> None:
    """Put it in the first place that can be written, whole or not at all, and in no other.

    written : places where it may stand from before; what stands there stays where none can.

    Raises
    ------
    InputError : none of them can be written; says why the first cannot.
    """
    kept, why = None, None
    for place in places if left is not None else []:
        assert left is not None
        try:
            with writing_to(place, "a place that can be written"):
                place.parent.mkdir(parents=True, exist_ok=True)
            save_study(left, place, data)
        except InputError as error:
            why = why or error
        else:
            kept = place
            break
    if left is not None and kept is None and why is not None:
        raise why
    for path in written - {kept}:
        with suppress(OSError):
            path.unlink(missing_ok=True)
