"""Rounds of work that know each other by their numbers alone, and what carries them out.

A task is frozen and holds all that a round needs; its random numbers come from a seed, the number
of the round and what they are for. So results are the same, to the last bit, wherever and in
whatever order rounds are carried out; an engine hands them over in order.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from threading import Event
from typing import Protocol, TypeVar

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase, Progress, Stage

Result_co = TypeVar("Result_co", covariant=True)
Result = TypeVar("Result")


class Task(Protocol[Result_co]):
    """Work in rounds."""

    def run(self, number: int, progress: Progress) -> Result_co:
        """What one round finds. progress : told where a long one is; may raise to stop it."""
        ...


class Engine(Protocol):
    """Carries out tasks."""

    def map(
        self, task: Task[Result], numbers: Sequence[int], progress: Progress
    ) -> Iterator[Result]:
        """What rounds find, in the order of their numbers.

        Rounds that are not begun are dropped when the caller stops early. progress : of a round,
        where nothing else is under way.
        """
        ...


@dataclass(frozen=True)
class ThreadEngine:
    """Threads of this process. workers : rounds at a time."""

    workers: int = 1

    def map(
        self, task: Task[Result], numbers: Sequence[int], progress: Progress
    ) -> Iterator[Result]:
        """See `Engine`; rounds beside each other tell nothing, and stop when the caller does."""
        if self.workers == 1:
            for number in numbers:
                yield task.run(number, progress)
            return
        stopped = Event()

        def watched(phase: Phase, share: float) -> None:
            if stopped.is_set():
                raise Cancelled

        ahead: list[Future[Result]] = []
        with ThreadPoolExecutor(self.workers) as threads:
            try:
                for number in numbers:
                    ahead.append(threads.submit(task.run, number, watched))
                    if len(ahead) > 2 * self.workers:
                        yield ahead.pop(0).result()
                while ahead:
                    yield ahead.pop(0).result()
            finally:
                stopped.set()
                for future in ahead:
                    future.cancel()


def rounds_of(engine: Engine, task: Task[Result], rounds: int, stage: Stage) -> Iterator[Result]:
    """What each of so many rounds finds, in order; the stage is told after each."""
    found = engine.map(task, range(rounds), stage.while_growing)
    for done, one in enumerate(found, 1):
        yield one
        stage.tell(done / rounds)
