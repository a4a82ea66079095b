"""What is not saved is kept for the next start, however the program ends; who has a study open."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from gorvel.core.base.errors import GorvelError
from gorvel.core.base.processes import alive, host, own_mark
from gorvel.core.base.progress import Progress
from gorvel.core.study.file import SUFFIX, StudyFile, save_study
from gorvel.core.study.opening import is_study, load_study
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import settings_file
from gorvel.desk.work.jobs import Jobs
from gorvel.desk.work.opening import Opened, opened

__all__ = ["Keeper", "Left", "claim", "left_behind", "left_beside", "opened_by"]

_SETTLE = 1000  # milliseconds after a change until it is kept


@dataclass(frozen=True)
class Left:
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
        return opened(load_study(self.kept), self.file, progress)


class Keeper(QObject):
    """Writes what is unsaved within a second or two of a change, beside the study or, where it has

    no file yet, beside the settings; a job does it, and does not write the data again.
    """

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE)
        self._settle.timeout.connect(self._keep)
        self._watching = False
        self._written: set[Path] = set()
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

    def _place(self) -> Path:
        file, focus = self.focus.shelf.file, self.focus
        return _left_path(None if focus.shelf.for_reading else file, os.getpid())

    def _keep(self) -> None:
        self.jobs.write(self._writing(), lambda: None, lambda why: None)

    def _writing(self) -> partial[None]:
        """What writes the state of this moment."""
        left, place, focus = self.left, self._place(), self.focus
        old = self._written - {place}
        self._written = {place}
        data = (
            None if focus.shelf.study is None else focus.shelf.file or focus.shelf.study.data_file
        )
        return partial(_write, left, place, old, data)

    def keep_now(self) -> None:
        """The same at once: the program ends, and nobody can be asked."""
        self._settle.stop()
        if self._watching:
            self._writing()()
            self._take_down_sign()

    def forget(self) -> None:
        """The user has decided what becomes of it: nothing is left."""
        self._settle.stop()
        if self._watching:
            _write(None, self._place(), self._written, None)
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
        where, _, process = sign.name.rpartition(".open-")[2].rpartition("-")
        if not process.isdigit():
            continue
        if where == host() and int(process) == os.getpid():
            continue
        if where != host():
            return f"on {where}"
        if alive(int(process)):
            return "in another window"
        sign.unlink(missing_ok=True)
    return ""


def left_behind(recent: Sequence[str] = ()) -> Left | None:
    """What a program that is no more has left, the latest first; it stays until it is claimed.

    recent : files used last; what was left of a study lies beside it.
    """
    found = [Left(path, None) for path in _kept_files(settings_file().parent, "left-open")]
    for name in recent:
        if is_study(Path(name)):
            found += left_beside(Path(name))
    sound = [left for left in found if _sound(left)]
    return max(sound, key=lambda left: left.kept.stat().st_mtime, default=None)


def left_beside(file: Path) -> list[Left]:
    """What was left of a study, beside its file; what cannot be read is thrown away."""
    try:
        found = [Left(path, file) for path in _kept_files(file.parent, f".{file.stem}.left")]
        return [left for left in found if _sound(left)]
    except OSError:
        return []


def _kept_files(folder: Path, stem: str) -> Iterator[Path]:
    for path in folder.glob(f"{_glob(stem)}-*{SUFFIX}"):
        process = path.stem.rpartition("-")[2]
        if process.isdigit() and not alive(int(process)):
            yield path


def _glob(name: str) -> str:
    """A name whose own signs stand for themselves in a pattern."""
    return "".join(f"[{sign}]" if sign in "*?[" else sign for sign in name)


def _sound(left: Left) -> bool:
    try:
        load_study(left.kept, data=False)
    except GorvelError:
        left.kept.unlink(missing_ok=True)
        return False
    return True


def claim(left: Left) -> None:
    """It was taken up: from now on it is this program's to keep."""
    os.replace(left.kept, _left_path(left.file, os.getpid()))


def _left_path(file: Path | None, process: int) -> Path:
    if file is None:
        return settings_file().with_name(f"left-open-{process}{SUFFIX}")
    return file.with_name(f".{file.stem}.left-{process}{SUFFIX}")


def _sign_path(file: Path) -> Path:
    return file.with_name(f".{file.stem}.open-{own_mark()}")


def _write(left: StudyFile | None, place: Path, old: set[Path], data: Path | None) -> None:
    """Put it in its place, whole or not at all; a place that cannot be written is no error."""
    try:
        if left is None:
            place.unlink(missing_ok=True)
        else:
            place.parent.mkdir(parents=True, exist_ok=True)
            save_study(left, place, data)
        for path in old:
            path.unlink(missing_ok=True)
    except (GorvelError, OSError):
        return
