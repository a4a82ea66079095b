"""What is not saved is kept for the next start, however the program ends."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from gorvel.core.errors import GorvelError
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.plan.plan import Plan
from gorvel.desk.settings import settings_file
from gorvel.desk.state import Focus
from gorvel.desk.workers import Jobs

__all__ = ["Keeper", "Left", "claim", "left_behind"]

_FORMAT = 1
_SETTLE = 1000  # milliseconds without a change before it is kept


@dataclass(frozen=True)
class Left:
    """A study as it was left. plan : as TOML, with the data file's whole path; plan_file : where

    the plan was saved last, if anywhere; count : clusters that were in hand, 0 for none; kept : the
    file of a program that is no more, from which this was read.
    """

    plan: str
    plan_file: str
    count: int
    kept: Path | None = None

    def read(self) -> Plan:
        """The plan.

        Raises
        ------
        InputError : it is none.
        """
        return parse_plan(self.plan, "the study left open")


class Keeper(QObject):
    """Writes what is unsaved beside the settings a second after the last change; a job does it."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE)
        self._settle.timeout.connect(self._keep)
        self._watching = False

    def watch(self) -> None:
        """Begin; windows that only make pictures leave nothing behind."""
        self._watching, focus = True, self.focus
        for signal in (
            focus.study_changed, focus.plan_changed, focus.cut_changed, focus.saved_changed,
        ):  # fmt: skip
            signal.connect(self._settle.start)

    @property
    def left(self) -> Left | None:
        """What would be lost now; None where everything is saved."""
        focus = self.focus
        plan, study = focus.plan_to_save, focus.study
        clusters = focus.cut is not None and focus.saved_to is None
        if plan is None or study is None or not (focus.plan_unsaved or clusters):
            return None
        if study.plan_file is None and not focus.can_undo and focus.cut is None:
            return None  # as it was proposed: opening the file gives it again
        plan = plan.with_("source", file=str(study.data_file.absolute()))
        named = str(study.plan_file.absolute()) if study.plan_file else ""
        return Left(plan_text(plan), named, focus.cut.clusters if focus.cut else 0)

    def _keep(self) -> None:
        self.jobs.write(partial(_write, self.left), lambda: None, lambda why: None)

    def keep_now(self) -> None:
        """The same at once: the program ends, and nobody can be asked."""
        self._settle.stop()
        if self._watching:
            _write(self.left)

    def forget(self) -> None:
        """The user has decided what becomes of it: nothing is left."""
        self._settle.stop()
        if self._watching:
            _write(None)


def left_behind() -> Left | None:
    """What a program that is no more has left, the latest first; it stays until it is claimed."""
    for path in sorted(_all(), key=lambda path: path.stat().st_mtime, reverse=True):
        if _alive(int(path.stem.rpartition("-")[2])):
            continue
        try:
            data = json.loads(path.read_text(encoding="utf-8"))
            left = Left(str(data["plan"]), str(data["plan_file"]), int(data["count"]), path)
            left.read()
        except (OSError, ValueError, KeyError, TypeError, GorvelError):
            path.unlink(missing_ok=True)
            continue
        return left
    return None


def claim(left: Left) -> None:
    """It was taken up: from now on it is this program's to keep."""
    _write(left)
    if left.kept is not None:
        left.kept.unlink(missing_ok=True)


def _own() -> Path:
    return settings_file().with_name(f"left-open-{os.getpid()}.json")


def _all() -> Iterator[Path]:
    for path in settings_file().parent.glob("left-open-*.json"):
        if path.stem.rpartition("-")[2].isdigit():
            yield path


def _alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return process != os.getpid()


def _write(left: Left | None) -> None:
    """Put it in its place, whole or not at all; a place that cannot be written is no error."""
    path = _own()
    part = path.with_name(f".{path.name}.part")
    try:
        if left is None:
            path.unlink(missing_ok=True)
            return
        path.parent.mkdir(parents=True, exist_ok=True)
        with part.open("w", encoding="utf-8") as file:
            told = {"plan": left.plan, "plan_file": left.plan_file, "count": left.count}
            json.dump({"format": _FORMAT, **told}, file)
            file.flush()
            os.fsync(file.fileno())
        os.replace(part, path)
    except OSError:
        part.unlink(missing_ok=True)
