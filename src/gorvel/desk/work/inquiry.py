"""Something worked out when it is looked at, and again when what it is about has changed."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import silent
from gorvel.desk.work.jobs import Job, JobKind, Jobs, Work


class Inquiry(QObject):
    """One question, whose answer is kept as long as it is about the same.

    found : the answer, None where there is none; problem : why there is none, in a sentence;
    stopped : by the user, so that it is not begun again unasked.

    Signals: changed(), the answer, or that there is none any more; worked(job or None).
    """

    changed = Signal()
    worked = Signal(object)

    def __init__(self, jobs: Jobs, kind: JobKind, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs, self.kind = jobs, kind
        self.found: Any = None
        self.problem = ""
        self.stopped = False
        self.job: Job | None = None
        self._about: tuple[Any, ...] | None = None

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
        self.job = self.jobs.start(
            self.kind, work, self._done, self._failed, self._was_stopped, self._dropped
        )
        self.worked.emit(self.job)
        self.changed.emit()

    def again(self, about: tuple[Any, ...], work: Work) -> None:
        """The same, though it was stopped or failed before."""
        self._about = None
        self.ask(about, work)

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

    def _was_stopped(self) -> None:
        self.stopped = True
        self._over()

    def _dropped(self) -> None:
        self._begin(None)
        self._over()
