"""Long work off the interface thread: one job class, kinds of jobs, and the lanes they run in.

Inputs are frozen before a job starts; its result is handed over on the interface thread. A newer
job of the same kind cancels the older one, whose result is then never handed over.
"""

from __future__ import annotations

import threading
import time
import warnings
from collections.abc import Callable, Hashable
from contextlib import suppress
from enum import Enum, StrEnum, auto
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal

from gorvel.core.base.errors import Cancelled, GorvelError
from gorvel.core.base.heap import give_back
from gorvel.core.base.progress import Phase, Progress, seconds_left
from gorvel.desk.state.turn import TURN, is_there
from gorvel.desk.work.faults import FAULTS

Work = Callable[[Progress], Any]
_BETWEEN_REPORTS = 0.05  # seconds
_LOOK_AGAIN = 5  # milliseconds
_GIVES = 500  # milliseconds from the end of a job until memory is given back


def _nothing(progress: Progress) -> None:
    pass


def _left(end: float | None) -> int:
    """Milliseconds until then; -1 for as long as it takes."""
    return -1 if end is None else max(int(1000 * (end - time.monotonic())), 0)


class Job(QObject):
    """One piece of work.

    Signals: progressed(phase, share, seconds left or -1); done(result); failed(sentence);
    stopped() after a cancel.
    """

    progressed = Signal(object, float, float)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work
        self._stop, self._over = threading.Event(), threading.Event()
        self._phase: Phase | None = None
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
            if self._stop.is_set():  # before its turn came
                raise Cancelled
            result = self._work(self._report)
        except Cancelled:
            self.stopped.emit()
        except GorvelError as error:
            self.failed.emit(str(error))
        except MemoryError:
            self.failed.emit("There is not enough memory for this many cases.")
        except BaseException as error:  # a defect, ours or a library's: the window lives on
            self.failed.emit(FAULTS.note(error))
        else:
            if self.cancelled:
                self.stopped.emit()
            else:
                self.done.emit(result)
        finally:
            self._over.set()

    def let_go_soon(self) -> None:
        """See `let_go`: as soon as all who listen have heard.

        One may hear, on the interface thread, while the worker has still to tell the next.
        """
        if self._over.is_set():
            QTimer.singleShot(0, self.let_go)  # behind all that was told
        else:
            QTimer.singleShot(_LOOK_AGAIN, self.let_go_soon)

    def let_go(self) -> None:
        """It was handed over: whatever it was about is not held any longer.

        What is connected to a signal that came from another thread would be kept for good.
        """
        self._work = _nothing
        for signal in (self.progressed, self.done, self.failed, self.stopped):
            with suppress(RuntimeError), warnings.catch_warnings():  # nobody may have listened
                warnings.simplefilter("ignore")
                signal.disconnect()

    def _report(self, phase: Phase, share: float) -> None:
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


class Lane(Enum):
    """Who waits for whom: jobs of one lane for each other, never for those of another."""

    AT_HAND = auto()  # the hand waits for it
    SIGHTS = auto()  # fills in what is seen
    LONG = auto()  # may take minutes
    FILES = auto()  # written one after the other, and never dropped


_THREADS = {Lane.AT_HAND: 2, Lane.SIGHTS: 2, Lane.LONG: 2, Lane.FILES: 1}


class JobKind(StrEnum):
    """What a job is for, and its lane; of one kind only the newest counts.

    stays : goes on when another study is opened.
    """

    OPEN = "open", Lane.AT_HAND
    PREVIEW = "preview", Lane.AT_HAND
    PREPARE = "prepare", Lane.AT_HAND
    GROW = "grow", Lane.AT_HAND
    SHOW = "show", Lane.AT_HAND
    DESCRIBE = "describe", Lane.SIGHTS
    RECOGNISE = "recognise", Lane.SIGHTS
    TURN = "turn answers", Lane.SIGHTS
    SCREEN = "screen", Lane.SIGHTS
    GAPS = "gaps", Lane.SIGHTS
    LOST = "those left out", Lane.SIGHTS
    OUTLIERS = "outliers", Lane.SIGHTS
    CORRELATIONS = "correlations", Lane.SIGHTS
    CLOSE_UP = "close-up", Lane.SIGHTS
    PROFILES = "profiles", Lane.SIGHTS
    PROXIMITIES = "proximities", Lane.SIGHTS
    ANSWERS = "answers", Lane.SIGHTS
    KERNELS = "kernels", Lane.LONG, True
    FAITHFUL = "correlation", Lane.LONG
    ORDER = "order", Lane.LONG
    EXTREMES = "extreme pairs", Lane.LONG
    RANK = "rank of a pair", Lane.LONG
    RULES = "rules", Lane.LONG
    RESAMPLES = "resamples", Lane.LONG
    GROUPS = "groups", Lane.LONG
    TRIAL = "trial", Lane.LONG
    STRUCTURE = "structure", Lane.LONG
    SPLITS = "splits", Lane.LONG
    SUPPORT = "support", Lane.LONG
    ORDERS = "orders", Lane.LONG
    PURPOSE = "purpose", Lane.LONG
    MEMBERS = "members", Lane.LONG
    MAP = "map", Lane.LONG
    COMPONENTS = "components", Lane.SIGHTS
    SHORT_FORM = "short form", Lane.LONG
    DRIVERS = "drivers", Lane.LONG
    SHARES = "shares of resamples", Lane.LONG
    ASSIGN = "new cases", Lane.LONG
    COMPARE = "two trees", Lane.LONG
    SHELF = "all trees", Lane.LONG
    SWEEP = "sweep", Lane.LONG
    MOVING = "moving cases", Lane.LONG
    IMPUTE = "imputation of missing answers", Lane.LONG
    REPLICATE = "comparison of groups", Lane.LONG

    lane: Lane
    stays: bool

    def __new__(cls, name: str, lane: Lane, stays: bool = False) -> JobKind:
        kind = str.__new__(cls, name)
        kind._value_, kind.lane, kind.stays = name, lane, stays
        return kind

    @classmethod
    def named(cls, name: str) -> JobKind:
        """The kind that is called so."""
        return cls._value2member_map_[name]  # type: ignore[return-value]


class _Memory:
    """Has what jobs freed given back, once for all that end within a short time.

    No part of Qt: the last jobs of a window may end after it.
    """

    def __init__(self) -> None:
        self._soon = False

    def freed(self) -> None:
        if not self._soon:
            self._soon = True
            QTimer.singleShot(_GIVES, self._give)

    def _give(self) -> None:
        self._soon = False
        give_back()


_Key = tuple[Hashable, JobKind]


class Jobs(QObject):
    """Runs jobs in their lanes, at most one of interest of each kind and owner.

    of : whose job it is, such as one of several trees on the screen; None for the window's.

    Signals: wrote(), a file was written, or could not be.
    """

    wrote = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._lanes = {lane: QThreadPool(self) for lane in Lane}
        for lane, pool in self._lanes.items():
            pool.setMaxThreadCount(_THREADS[lane])
        self._newest: dict[_Key, tuple[Job, Callable[[], None]]] = {}
        self._alive: set[Job] = set()
        self._files: set[Job] = set()
        self._memory = _Memory()

    def start(
        self,
        kind: JobKind,
        work: Work,
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        stopped: Callable[[], None] = lambda: None,
        dropped: Callable[[], None] = lambda: None,
        of: Hashable = None,
        asker: QObject | None = None,
    ) -> Job:
        """Start work; an older job of the same kind and owner is cancelled, and nobody hears of it.

        done, failed, stopped, dropped : one of them is called, on the interface thread, unless a
        newer job takes the place of this one; asker : what they belong to, where that may be done
        away with meanwhile: then none of them is called.
        """
        self.cancel(kind, of)
        job, key = Job(work), (of, kind)
        self._newest[key] = job, dropped
        self._alive.add(job)

        def if_newest(call: Callable[..., None]) -> Callable[..., None]:
            def handed_over(*result: Any) -> None:
                self._alive.discard(job)
                self._over(job)
                if self._newest.get(key, (None,))[0] is job:
                    del self._newest[key]
                    if asker is None or is_there(asker):
                        with TURN:
                            call(*result)

            return handed_over

        job.done.connect(if_newest(done))
        job.failed.connect(if_newest(failed))
        job.stopped.connect(if_newest(stopped))
        self._lanes[kind.lane].start(_Runner(job))
        return job

    def write(
        self, work: Callable[[], None], done: Callable[[], None], failed: Callable[[str], None]
    ) -> None:
        """Write a file after those that were to be written before; it is not cancelled."""
        job = Job(lambda progress: work())
        self._files.add(job)

        def over(call: Callable[..., None]) -> Callable[..., None]:
            def handed_over(*result: Any) -> None:
                self._files.discard(job)
                self._over(job)
                call(*result)
                self.wrote.emit()

            return handed_over

        job.done.connect(over(lambda _: done()))
        job.failed.connect(over(failed))
        self._lanes[Lane.FILES].start(_Runner(job))

    def _over(self, job: Job) -> None:
        """It was heard of: it is let go, and so is what it freed."""
        job.let_go_soon()
        self._memory.freed()

    @property
    def writing(self) -> bool:
        """Are files still to be written?"""
        return bool(self._files)

    def cancel(self, kind: JobKind, of: Hashable = None) -> None:
        """Ask the newest job of a kind to stop."""
        if (of, kind) in self._newest:
            self._newest[of, kind][0].cancel()

    def drop(self, kind: JobKind, of: Hashable = None) -> None:
        """Cancel the newest job of a kind; nothing is handed over, whoever began it is told."""
        if (of, kind) in self._newest:
            job, dropped = self._newest.pop((of, kind))
            job.cancel()
            dropped()

    def drop_all(self) -> None:
        """Drop everything that is of the study: another one begins."""
        for of, kind in [key for key in self._newest if not key[1].stays]:
            self.drop(kind, of)

    def busy(self, kind: JobKind, of: Hashable = None) -> bool:
        """Is a job of this kind still of interest?"""
        return (of, kind) in self._newest

    @property
    def idle(self) -> bool:
        """Is no job of interest any more?"""
        return not self._newest and not self._files

    @property
    def threads(self) -> int:
        """How many threads are at work."""
        return sum(pool.activeThreadCount() for pool in self._lanes.values())

    def finish(self, within: float | None = None) -> bool:
        """Cancel everything, wait until files are written and no thread is left; is none left?

        within : seconds to wait for threads that write nothing; None for as long as they take.
        """
        for job, _ in self._newest.values():
            job.cancel()
        self._newest.clear()
        self._lanes[Lane.FILES].waitForDone()
        end = None if within is None else time.monotonic() + within
        return all(pool.waitForDone(_left(end)) for pool in self._lanes.values())
