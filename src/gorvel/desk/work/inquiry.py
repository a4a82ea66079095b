"""Something worked out when it is looked at, and again when what it is about has changed."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import Cancelled, InputError
from gorvel.core.base.progress import Progress, silent
from gorvel.desk.work.jobs import Job, JobKind, Jobs, Work

_BETWEEN_PARTS = 0.3  # seconds between two parts that are shown
Report = Callable[[Callable[[], Any]], None]  # is given what makes a part, made where it is shown
PartialWork = Callable[[Progress, Report], Any]  # tells of parts that are there


@dataclass(frozen=True, eq=False)
class PartialResults:
    """Parts of what is found, shown while the rest is worked out.

    take : gets each part; first : is the first one shown as soon as it is there?; every : is each?
    """

    take: Callable[[Any], None]
    first: bool = False
    every: bool = False


class Inquiry(QObject):
    """One question, whose answer is kept as long as it is about the same.

    found : the answer, None where there is none; problem : why there is none, in a sentence;
    stopped : by the user, so that it is not begun again unasked.

    Signals: changed(), the answer, or that there is none any more; worked(job or None);
    failed(sentence).
    """

    changed = Signal()
    worked = Signal(object)
    failed = Signal(str)
    _part = Signal(object, object)

    def __init__(self, jobs: Jobs, kind: JobKind, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs, self.kind = jobs, kind
        self.found: Any = None
        self.problem = ""
        self.stopped = False
        self.job: Job | None = None
        self._about: tuple[Any, ...] | None = None
        self._parts: PartialResults | None = None  # of the work begun last
        self._part.connect(self._take_part)

    def is_about(self, about: tuple[Any, ...]) -> bool:
        """Was it asked last about this?"""
        return self._about == about

    def ask(self, about: tuple[Any, ...], work: Work, at_once: bool = False) -> None:
        """Work it out, unless that was done, is under way, or was stopped.

        about : what the answer depends on; at_once : while the hand waits.
        """
        if self.is_about(about):
            return
        self._begin(about)
        if at_once:
            self.jobs.drop(self.kind)
            try:
                self.found = work(silent)
            except InputError as error:
                self.problem = str(error)
            self.changed.emit()
            return
        self._start(work, self._done)
        self.changed.emit()

    def _start(self, work: Work, done: Callable[[Any], None]) -> None:
        self.job = self.jobs.start(
            self.kind, work, done, self._failed, self._was_stopped, self._dropped
        )
        self.worked.emit(self.job)

    def again(self, about: tuple[Any, ...], work: Work) -> None:
        """The same, though it was stopped or failed before."""
        self._about = None
        self.ask(about, work)

    def ask_in_parts(
        self, about: tuple[Any, ...], work: PartialWork, done: Callable[[Any], None],
        parts: PartialResults | None = None,
    ) -> None:  # fmt: skip
        """Work it out whatever was asked before, and show what is there of it meanwhile.

        done, parts : take the answer, and what leads to it; nothing is kept here. Of work that is
        stopped the last part counts.
        """
        self._begin(about)
        mine = self._parts = parts or PartialResults(lambda part: None)

        def handed_over(answer: Any) -> None:
            self._over()
            done(answer)

        self._start(partial(self._telling, mine, work), handed_over)

    def _telling(self, parts: PartialResults, work: PartialWork, progress: Progress) -> Any:
        """On a worker thread: parts go to the interface thread, the last one when it is stopped."""
        last = 0.0 if parts.first or parts.every else time.monotonic()
        latest: Callable[[], Any] | None = None

        def report(part: Callable[[], Any]) -> None:
            nonlocal last, latest
            latest, now = part, time.monotonic()
            if parts.every or now - last >= _BETWEEN_PARTS:
                last = now
                self._part.emit(parts, part())

        try:
            return work(progress, report)
        except Cancelled:
            if latest is not None:
                self._part.emit(parts, latest())
            raise

    def _take_part(self, parts: PartialResults, part: Any) -> None:
        """Parts of work that was dropped may still be under way."""
        if self._parts is parts and self.job is not None:
            parts.take(part)

    def _begin(self, about: tuple[Any, ...] | None) -> None:
        self._about, self.found, self.problem, self.stopped = about, None, "", False

    def seen(self, found: Any) -> None:
        """A part of the answer is there, while the rest is worked out."""
        self.found = found
        self.changed.emit()

    def stop(self) -> None:
        """Ask the work to stop."""
        self.jobs.cancel(self.kind)

    def forget(self) -> None:
        """What it was about is gone."""
        if self._about is not None:
            self.jobs.drop(self.kind)
            self._begin(None)
            self.changed.emit()

    def _over(self) -> None:
        self.job = None
        self.worked.emit(None)
        self.changed.emit()

    def _done(self, found: Any) -> None:
        self.found = found
        self._over()

    def _failed(self, why: str) -> None:
        self.problem = why
        self._over()
        self.failed.emit(why)

    def _was_stopped(self) -> None:
        self.stopped = True
        self._over()

    def _dropped(self) -> None:
        self._begin(None)
        self._over()
