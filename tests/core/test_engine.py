"""Rounds of work give the same bytes wherever they are carried out, and stop when told to."""

from __future__ import annotations

import pickle
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields, is_dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.compare.imputed_trees import imputed_trees
from gorvel.core.compare.sweep import sweep
from gorvel.core.count.null.evidence import evidence_of_groups
from gorvel.core.count.null.structure import permuted_cophenetic
from gorvel.core.count.null.validity_profile import calibrated
from gorvel.core.count.null.verdict_simulation import try_verdict
from gorvel.core.count.resampling.order_stability import random_orders
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.count.resampling.resampling_engine import engine_for
from gorvel.core.count.resampling.splits import split_tests
from gorvel.core.count.resampling.support import branch_support
from gorvel.core.engine.engine import Engine, Task, ThreadEngine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.file import parse_plan
from gorvel.core.profile.leave_one_variable_out import drivers
from gorvel.core.profile.one_case import membership_shares
from gorvel.core.run import analyse
from gorvel.core.table.reading import read_table
from gorvel.core.tree.cuts import cut_at_count
from studies import asked, study


class Elsewhere:
    """Each round is carried out by what arrives there, the last one first; nothing is shared."""

    def map(self, task: Task[Any], numbers: Sequence[int], progress: Progress) -> Iterator[Any]:
        sent = pickle.dumps(task)
        found = {}
        for number in reversed(numbers):
            back = pickle.dumps(pickle.loads(sent).run(number, silent))
            found[number] = pickle.loads(back)
        yield from (found[number] for number in numbers)


def three(per: int) -> np.ndarray:
    random = np.random.default_rng(5)
    return np.concatenate([random.normal(size=(per, 3)) + 4 * k for k in range(3)])


def table(folder: Path) -> tuple[Any, Any, Grown]:
    random = np.random.default_rng(7)
    cells = [["" if random.random() < 0.05 else f"{one:.3f}" for one in row] for row in three(12)]
    lines = ["a,b,c", *(",".join(row) for row in cells)]
    (folder / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "c"]\n[missing]\n'
        'handling = "drop"\n[sweep]\nlinkages = ["ward", "average", "single"]\n'
        'measures = ["euclidean", "city-block"]\n'
    )
    source, plan = read_table(folder / "t.csv"), parse_plan(text, "p.toml")
    return source, plan, analyse(source, plan)


GROWN = study(three(12))
WIDE = study(np.random.default_rng(3).normal(size=(14, 32)))
OWN = cut_at_count(GROWN.tree, 3).membership - 1
COUNT = asked(to=4, resamples=20)
ALL = asked(
    to=4, resamples=20,
    more=["clest", "instability", "dd-gap", "weighted-gap"],
)  # fmt: skip
OF_TREES: dict[str, Callable[[Engine], Any]] = {
    "resampled": lambda engine: resampled(GROWN, ALL, engine=engine),
    "evidence": lambda engine: evidence_of_groups(GROWN, COUNT, engine=engine),
    "structure": lambda engine: permuted_cophenetic(GROWN, 5, 1, engine=engine),
    "support by cases": lambda engine: branch_support(GROWN, 5, 1, engine=engine),
    "support by variables": lambda engine: branch_support(WIDE, 3, 1, engine=engine),
    "splits": lambda engine: split_tests(GROWN, 8, 1, engine=engine),
    "orders": lambda engine: random_orders(GROWN, (2, 3), 4, 1, engine=engine),
    "one case": lambda engine: membership_shares(GROWN, OWN, 6, engine=engine),
    "trial": lambda engine: try_verdict(study(three(7)), 3, asked(to=3), engine=engine),
    "purpose": lambda engine: calibrated(GROWN, COUNT, engine=engine),
}


def of_tables(folder: Path) -> dict[str, Callable[[Engine], Any]]:
    source, plan, grown = table(folder)
    cut = cut_at_count(grown.tree, 3)
    own = cut.membership - 1
    return {
        "sweep": lambda engine: sweep(source, plan, grown, [2, 3], engine=engine),
        "drivers": lambda engine: drivers(source, plan, grown, own, [0.5] * 3, engine=engine),
        "imputed": lambda engine: imputed_trees(source, plan, grown, cut, 3, 1, engine=engine),
    }


def plain(found: Any) -> Any:
    """All that was found, arrays by their bytes."""
    if is_dataclass(found):
        return [type(found).__name__, *(plain(getattr(found, one.name)) for one in fields(found))]
    if isinstance(found, np.ndarray):
        return str(found.dtype), found.shape, found.tobytes()
    if isinstance(found, dict):
        return [(key, plain(value)) for key, value in found.items()]
    return [plain(one) for one in found] if isinstance(found, list | tuple) else repr(found)


@pytest.fixture(autouse=True)
def few_studies(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two for each kind of a trial."""
    monkeypatch.setattr("gorvel.core.count.null.verdict_simulation.TRIALS", 2)


@pytest.mark.parametrize("what", OF_TREES)
def test_the_same_bytes_wherever_trees_are_grown(what: str) -> None:
    act = OF_TREES[what]
    one = plain(act(ThreadEngine(1)))
    for engine in (ThreadEngine(2), ThreadEngine(4), Elsewhere()):
        assert plain(act(engine)) == one


@pytest.mark.parametrize("what", ["sweep", "drivers", "imputed"])
def test_the_same_bytes_wherever_cases_are_prepared(what: str, tmp_path: Path) -> None:
    act = of_tables(tmp_path)[what]
    one = plain(act(ThreadEngine(1)))
    for engine in (ThreadEngine(2), ThreadEngine(4), Elsewhere()):
        assert plain(act(engine)) == one


@dataclass(frozen=True)
class Waiting:
    """Later rounds are done first; each says its number."""

    pauses: tuple[float, ...]

    def run(self, number: int, progress: Progress) -> int:
        time.sleep(self.pauses[number])
        return number


@given(st.lists(st.sampled_from([0.0, 0.001, 0.003]), max_size=12), st.integers(1, 5))
def test_rounds_come_in_order_and_are_told(pauses: list[float], workers: int) -> None:
    told: list[float] = []
    stage = Stage(lambda phase, share: told.append(share), Phase.RESAMPLES)
    task = Waiting(tuple(pauses))
    found = [*rounds_of(ThreadEngine(workers), task, len(pauses), stage)]
    assert found == list(range(len(pauses)))
    assert told == [(k + 1) / len(pauses) for k in range(len(pauses))]


@dataclass(frozen=True, eq=False)
class Endless:
    """Goes on until it is told to stop. begun, ended : are told of rounds."""

    begun: threading.Event
    ended: list[int]

    def run(self, number: int, progress: Progress) -> int:
        if number == 0:
            return 0
        self.begun.set()
        try:
            while True:
                progress(Phase.JOINS, 0.5)
                time.sleep(0.001)
        finally:
            self.ended.append(number)


def test_rounds_under_way_end_when_the_caller_stops() -> None:
    begun, ended = threading.Event(), []
    rounds = ThreadEngine(3).map(Endless(begun, ended), range(40), silent)
    task = Endless(begun, ended)
    assert next(iter(ThreadEngine(1).map(task, range(1), silent))) == 0
    assert next(rounds) == 0
    assert begun.wait(30)
    rounds.close()  # as when whoever asks for the next one raises
    assert 1 <= len(ended) <= 3  # those that were begun; none other was


@dataclass(frozen=True)
class Failing:
    at: int

    def run(self, number: int, progress: Progress) -> int:
        if number == self.at:
            raise ValueError(f"round {number}")
        return number


@pytest.mark.parametrize("workers", [1, 3])
def test_what_goes_wrong_in_a_round_reaches_the_caller_in_its_place(workers: int) -> None:
    seen: list[int] = []
    with pytest.raises(ValueError, match="round 5"):
        seen.extend(ThreadEngine(workers).map(Failing(5), range(9), silent))
    assert seen == [0, 1, 2, 3, 4]


def test_a_long_round_tells_where_the_whole_is() -> None:
    told: list[tuple[Phase, float]] = []

    class Long:
        def run(self, number: int, progress: Progress) -> None:
            progress(Phase.JOINS, 0.9)

    stage = Stage(lambda phase, share: told.append((phase, share)), Phase.SWEEP)
    for _ in rounds_of(ThreadEngine(), Long(), 2, stage):
        pass
    assert told == [(Phase.SWEEP, share) for share in (0.0, 0.5, 0.5, 1.0)]


def test_threads_are_used_where_they_pay(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("gorvel.core.count.resampling.resampling_engine.cpu_count", lambda: 6)
    assert [engine_for(n).workers for n in (20, 499, 500, 2_500, 2_501)] == [1, 1, 6, 6, 1]
