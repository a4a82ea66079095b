"""Work on the number of clusters: begun, stopped, and seen in parts while it goes on."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Progress
from gorvel.core.count.checks import Checks
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.null.conclusion import Conclusion, concluded
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.jobs import Job, JobKind, Jobs

_BETWEEN_PARTS = 0.3  # seconds between two parts that are shown
Report = Callable[[Callable[[], Any]], None]  # is given what makes a part, made where it is shown


@dataclass(frozen=True, eq=False)
class PartialResults:
    """Parts of what is found, shown while the rest is worked out.

    take : gets each part; first : is the first one shown as soon as it is there?; every : is each?
    """

    take: Callable[[Any], None]
    first: bool = False
    every: bool = False


class CountWork(QObject):
    """What is known of the number of clusters, and the work on it.

    Signals: changed(), the board or a check; worked(what, job or None), work on the "rules", on
    "resamples", or on a check began or ended; failed(sentence); looked(), another count is looked
    at or another rule is selected.
    """

    changed = Signal()
    worked = Signal(str, object)
    failed = Signal(str)
    looked = Signal()
    _seen = Signal(str, object, object)

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self.board: IndexTable | None = None
        self.checks = Checks()
        self.running: dict[str, Job] = {}  # by what is worked on
        self._checked_by: dict[str, CountPlan] = {}  # what was asked when a check was made
        self._watched: dict[str, PartialResults] = {}  # of work begun last
        self._seen.connect(self._take_part)

    @property
    def grown(self) -> Grown | None:
        """The tree in force."""
        return self.focus.grown

    @property
    def asked(self) -> CountPlan:
        """The range, rules and draws that the plan now asks for."""
        return ALL_RULES if self.focus.shelf.plan is None else self.focus.shelf.plan.counting

    @property
    def complete(self) -> bool:
        """Is there every rule that does not resample?"""
        raise NotImplementedError

    @property
    def left_out(self) -> tuple[str, ...]:
        """Rules without a vote."""
        plan = self.focus.shelf.plan
        return plan.counting.left_out if plan is not None else ()

    @property
    def conclusion(self) -> Conclusion | None:
        """What it all comes to, as far as it is known."""
        if self.board is None:
            return None
        return concluded(self.board, self.checks.groups, self.left_out)

    def found(self, what: str, asked: CountPlan, found: dict[str, Any]) -> None:
        """Take what a check found. asked : of it."""
        self._checked_by[what] = asked
        self.focus.shelf.touch()
        for name, value in found.items():
            setattr(self.checks, name, value)
        if "support" in found:
            self.focus.set_support(found["support"])
        self.changed.emit()

    # work

    def start(
        self, what: str, work: Callable[[Progress, Report], Any], done: Callable[[Any], None],
        parts: PartialResults | None = None,
    ) -> None:  # fmt: skip
        """Begin some work, named after what it is about.

        work : on a worker thread, tells of parts that are there; done : gets what it finds.
        """

        def ended(result: Any) -> None:
            self._over(what)
            done(result)

        def failed(why: str) -> None:
            self._over(what)
            self.failed.emit(why)

        over, mine = partial(self._over, what), parts or PartialResults(lambda part: None)
        self._watched[what] = mine
        told = partial(self._telling, what, mine, work)
        job = self.jobs.start(JobKind.named(what), told, ended, failed, over, over)
        self.running[what] = job
        self.worked.emit(what, job)

    def _telling(
        self, what: str, parts: PartialResults, work: Callable[[Progress, Report], Any],
        progress: Progress,
    ) -> Any:  # fmt: skip
        """On a worker thread: parts go to the interface thread, the last one when it is stopped."""
        last = 0.0 if parts.first or parts.every else time.monotonic()
        latest: Callable[[], Any] | None = None

        def report(part: Callable[[], Any]) -> None:
            nonlocal last, latest
            latest, now = part, time.monotonic()
            if parts.every or now - last >= _BETWEEN_PARTS:
                last = now
                self._seen.emit(what, parts, part())

        try:
            return work(progress, report)
        except Cancelled:
            if latest is not None:
                self._seen.emit(what, parts, latest())
            raise

    def _take_part(self, what: str, parts: PartialResults, part: Any) -> None:
        """Parts of work that was dropped may still be under way."""
        if self._watched.get(what) is parts and self.at_work(what):
            parts.take(part)

    def _over(self, what: str) -> None:
        self.running.pop(what, None)
        self.worked.emit(what, None)

    def stop(self, what: str) -> None:
        """Stop some work; what is finished is kept."""
        self.jobs.cancel(JobKind.named(what))

    def at_work(self, what: str) -> bool:
        """Is some work going on?"""
        return self.jobs.busy(JobKind.named(what))

    def end(self, what: str) -> None:
        """Drop some work, with what it found."""
        self.jobs.drop(JobKind.named(what))
