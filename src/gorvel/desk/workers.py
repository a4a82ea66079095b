"""Long work off the interface thread: one job class, one queue for each target.

Inputs are frozen before a job starts; its result is handed over on the interface thread. A newer
job for the same target cancels the older one, whose result is then never handed over.
"""

from __future__ import annotations

import threading
import time
import traceback
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from gorvel.core.errors import Cancelled, GorvelError
from gorvel.core.progress import Progress, seconds_left

__all__ = ["Job", "Jobs"]

Work = Callable[[Progress], Any]
_BETWEEN_REPORTS = 0.05  # seconds


class Job(QObject):
    """One piece of work.

    Signals: progressed(phase, share, seconds left or -1); done(result); failed(sentence);
    stopped() after a cancel.
    """

    progressed = Signal(str, float, float)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work
        self._stop = threading.Event()
        self._phase = ""
        self._phase_began = self._told = 0.0

    def cancel(self) -> None:
        """Ask the work to stop at its next report."""
        self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def carry_out(self) -> None:
        """Called on a worker thread."""
        try:
            result = self._work(self._report)
        except Cancelled:
            self.stopped.emit()
        except GorvelError as error:
            self.failed.emit(str(error))
        except MemoryError:
            self.failed.emit("There is not enough memory for this many cases.")
        except Exception:  # a defect of ours: said, not swallowed, and the window lives on
            self.failed.emit("A defect in Gorvel: " + traceback.format_exc(limit=-2))
        else:
            if self.cancelled:
                self.stopped.emit()
            else:
                self.done.emit(result)

    def _report(self, phase: str, share: float) -> None:
        if self.cancelled:
            raise Cancelled
        now = time.monotonic()
        if phase != self._phase:
            self._phase, self._phase_began, self._told = phase, now, 0.0
        if now - self._told < _BETWEEN_REPORTS:
            return
        self._told = now
        spent = now - self._phase_began
        self.progressed.emit(phase, share, seconds_left(spent, share))


class _Runner(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job

    def run(self) -> None:
        self._job.carry_out()


class Jobs(QObject):
    """Runs jobs, at most one of interest for each target."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._newest: dict[str, Job] = {}
        self._alive: set[Job] = set()

    def start(
        self,
        target: str,
        work: Work,
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        stopped: Callable[[], None] = lambda: None,
    ) -> Job:
        """Start work for a target; an older job of the same target is cancelled."""
        self.cancel(target)
        job = Job(work)
        self._newest[target] = job
        self._alive.add(job)

        def if_newest(call: Callable[..., None]) -> Callable[..., None]:
            def handed_over(*result: Any) -> None:
                self._alive.discard(job)
                if self._newest.get(target) is job:
                    del self._newest[target]
                    call(*result)

            return handed_over

        job.done.connect(if_newest(done))
        job.failed.connect(if_newest(failed))
        job.stopped.connect(if_newest(stopped))
        self._pool.start(_Runner(job))
        return job

    def cancel(self, target: str) -> None:
        """Ask the newest job of a target to stop."""
        if target in self._newest:
            self._newest[target].cancel()

    def drop(self, target: str) -> None:
        """Cancel the newest job of a target, and hand over nothing of it."""
        self.cancel(target)
        self._newest.pop(target, None)

    def drop_all(self) -> None:
        """Cancel everything, and hand over nothing of it: another study begins."""
        for job in self._newest.values():
            job.cancel()
        self._newest.clear()

    def busy(self, target: str) -> bool:
        """Is a job of this target still of interest?"""
        return target in self._newest

    @property
    def idle(self) -> bool:
        """Is no job of interest any more?"""
        return not self._newest

    def finish(self) -> None:
        """Cancel everything and wait until no thread is left."""
        self.drop_all()
        self._pool.waitForDone()
