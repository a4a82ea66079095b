"""Jobs in any order: who began one hears of it once, and what was dropped is not handed over."""

from __future__ import annotations

import threading
from random import Random

import pytest
import shiboken6
from PySide6.QtCore import QCoreApplication, QObject, Qt
from pytestqt.qtbot import QtBot

from gorvel.core.base.errors import Cancelled, InputError
from gorvel.core.base.progress import Phase, Progress
from gorvel.desk.work.jobs import JobKind, Jobs, Lane

STEPS = 120
KINDS = (JobKind.PREPARE, JobKind.GROW, JobKind.SCREEN, JobKind.RULES, JobKind.KERNELS)
ENDS = ("done", "failed", "stopped", "dropped")


class Begun:
    """One job, the ways in which it was heard of, and what lets it go on."""

    def __init__(self, kind: JobKind, ends_in: str) -> None:
        self.kind, self.ends_in = kind, ends_in
        self.gate = threading.Event()
        self.heard: list[str] = []
        self.threads: set[int] = set()

    def work(self, progress: Progress) -> str:
        while not self.gate.wait(0.002):
            progress(Phase.JOINS, 0.5)
        progress(Phase.JOINS, 1.0)
        if self.ends_in == "failed":
            raise InputError("it is not as it has to be")
        if self.ends_in == "stopped":
            raise Cancelled
        return f"{self.kind}"

    def hear(self, how: str) -> None:
        self.heard.append(how)
        self.threads.add(threading.get_ident())


@pytest.mark.parametrize("seed", range(6))
def test_any_order_of_starting_cancelling_and_dropping(qtbot: QtBot, seed: int) -> None:
    rng, jobs = Random(seed), Jobs()
    begun: list[Begun] = []
    newest: dict[JobKind, Begun] = {}
    dropped: list[Begun] = []

    def start() -> None:
        one = Begun(rng.choice(KINDS), rng.choice(["done", "done", "failed", "stopped"]))
        begun.append(one)
        newest[one.kind] = one
        jobs.start(
            one.kind, one.work, lambda result: one.hear("done"), lambda why: one.hear("failed"),
            lambda: one.hear("stopped"), lambda: one.hear("dropped"),
        )  # fmt: skip

    def open_gate() -> None:
        for one in rng.sample(begun, min(len(begun), 2)):
            one.gate.set()

    def cancel() -> None:
        jobs.cancel(rng.choice(KINDS))

    def drop() -> None:
        kind = rng.choice(KINDS)
        if jobs.busy(kind):
            dropped.append(newest[kind])
        jobs.drop(kind)

    def drop_all() -> None:
        dropped.extend(newest[kind] for kind in KINDS if jobs.busy(kind) and not kind.stays)
        jobs.drop_all()
        assert not any(jobs.busy(kind) for kind in KINDS if not kind.stays)

    acts = [start, start, start, open_gate, open_gate, cancel, drop, drop_all]
    for _ in range(STEPS):
        rng.choice(acts)()
        QCoreApplication.processEvents()
        for one in begun:
            assert len(one.heard) <= 1
            assert jobs.busy(one.kind) or one.heard or newest[one.kind] is not one
    for one in begun:
        one.gate.set()
    qtbot.waitUntil(lambda: jobs.idle)
    jobs.finish()
    QCoreApplication.processEvents()
    assert jobs.threads == 0
    here = threading.get_ident()
    for one in begun:
        assert one.threads <= {here}
        if one in dropped:
            assert one.heard == ["dropped"]
        elif newest[one.kind] is one:
            assert len(one.heard) == 1
            assert one.heard[0] in ENDS
            assert one.heard[0] in (one.ends_in, "stopped")
        elif one.heard:  # it was over before a newer one took its place
            assert one.heard[0] in (one.ends_in, "stopped")


def test_files_are_written_in_order_and_never_dropped(qtbot: QtBot) -> None:
    jobs, written, said = Jobs(), [], []
    gate = threading.Event()

    def write(number: int) -> None:
        gate.wait(10)
        written.append(number)
        if number == 3:
            raise InputError("no room", file="c.csv")

    for number in range(6):
        jobs.write(
            lambda number=number: write(number),  # type: ignore[misc]
            lambda number=number: said.append((number, "")),  # type: ignore[misc]
            lambda why, number=number: said.append((number, why)),  # type: ignore[misc]
        )
    jobs.drop_all()
    assert jobs.writing
    assert not jobs.idle
    gate.set()
    qtbot.waitUntil(lambda: not jobs.writing)
    assert written == list(range(6))
    assert [number for number, _ in said] == list(range(6))
    assert [why for _, why in said if why] == ["c.csv: no room"]


def test_every_kind_has_a_lane_and_is_found_by_its_name() -> None:
    for kind in JobKind:
        assert JobKind.named(str(kind)) is kind
        assert kind.lane in Lane
    assert [kind for kind in JobKind if kind.stays] == [JobKind.KERNELS]
    assert JobKind.GROW.lane is not JobKind.RESAMPLES.lane


def test_what_fails_by_a_defect_is_said_and_others_go_on(qtbot: QtBot) -> None:
    jobs, said = Jobs(), []

    def broken(progress: Progress) -> None:
        raise ZeroDivisionError("one by nothing")

    def greedy(progress: Progress) -> None:
        raise MemoryError

    jobs.start(JobKind.GROW, broken, said.append, said.append)
    jobs.start(JobKind.RULES, greedy, said.append, said.append)
    jobs.start(JobKind.SCREEN, lambda progress: "fine", said.append, said.append)
    qtbot.waitUntil(lambda: jobs.idle)
    assert sorted(word[:17] for word in said) == [
        "Internal error (Z", "There is not enou", "fine",
    ]  # fmt: skip


def test_all_who_listen_hear_of_the_end(qtbot: QtBot) -> None:
    """The worker is slow to tell the last of them, when the first has long heard."""
    jobs, heard, go = Jobs(), [], threading.Event()

    def work(progress: Progress) -> str:
        go.wait()
        return "done"

    job = jobs.start(JobKind.GROW, work, heard.append, heard.append)
    slow = Qt.ConnectionType.DirectConnection
    job.done.connect(lambda result: threading.Event().wait(0.3), slow)
    job.done.connect(lambda result: heard.append(f"{result}, too"))
    go.set()
    qtbot.waitUntil(lambda: len(heard) == 2)
    assert heard == ["done", "done, too"]
    jobs.finish()


def test_memory_is_given_back_once_after_a_row_of_jobs(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    given: list[int] = []
    monkeypatch.setattr("gorvel.desk.work.jobs._GIVES", 100)
    monkeypatch.setattr("gorvel.desk.work.jobs.give_back", lambda: given.append(jobs.threads))
    jobs = Jobs()
    begun = [Begun(kind, "done") for kind in KINDS]
    for one in begun:
        jobs.start(one.kind, one.work, lambda result: None, lambda why: None)
    qtbot.wait(150)
    assert not given  # nothing has ended
    for one in begun[1:]:
        one.gate.set()
    qtbot.waitUntil(lambda: bool(given))
    qtbot.wait(150)
    assert given == [1]  # once for all four, while the first is still at work
    begun[0].gate.set()
    qtbot.waitUntil(lambda: given == [1, 0])


@pytest.mark.parametrize("of", [None, "one"])
def test_nothing_is_handed_to_one_who_is_no_more(qtbot: QtBot, of: str | None) -> None:
    jobs, gate, heard = Jobs(), threading.Event(), list[object]()

    def work(progress: Progress) -> int:
        gate.wait(60)
        return 1

    asker = QObject()
    jobs.start(JobKind.GAPS, work, heard.append, heard.append, of=of, asker=asker)
    shiboken6.delete(asker)
    gate.set()
    qtbot.waitUntil(lambda: jobs.idle)
    assert (heard, jobs.busy(JobKind.GAPS, of)) == ([], False)
    jobs.start(JobKind.GAPS, work, heard.append, heard.append, of=of, asker=jobs)
    qtbot.waitUntil(lambda: jobs.idle)
    assert heard == [1]


def test_the_last_jobs_of_a_window_may_end_after_it(qtbot: QtBot) -> None:
    jobs = Jobs()
    jobs.start(JobKind.GROW, lambda progress: 1, lambda result: None, lambda why: None)
    jobs.finish()
    shiboken6.delete(jobs)
    qtbot.wait(50)  # what is told meanwhile is caught, and ends the test, if it is an error


def test_what_writing_a_file_freed_is_given_back_too(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    given: list[bool] = []
    monkeypatch.setattr("gorvel.desk.work.jobs._GIVES", 5)
    monkeypatch.setattr("gorvel.desk.work.jobs.give_back", lambda: given.append(True))
    jobs = Jobs()
    jobs.write(lambda: None, lambda: None, lambda why: None)
    qtbot.waitUntil(lambda: given == [True])
