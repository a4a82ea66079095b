"""How long the interface stands still while a large study is looked at.

    python bench/stands.py [--cases N]

A window of 1280 x 800 without a screen opens a study of two rounded answers, grows its tree, cuts
it elsewhere and changes its plan. A clock in the event loop ticks every 4 ms: the longest time
between two ticks is told for each step.
"""

from __future__ import annotations

import argparse
import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["GORVEL_SETTINGS"] = str(Path(tempfile.gettempdir()) / "gorvel-stands.json")

from PySide6.QtCore import QEventLoop, QTimer

from gorvel.core.plan.file import save_plan
from gorvel.core.plan.parts import SourcePlan, VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.desk.state.settings import Settings
from gorvel.desk.window.application import make_application
from gorvel.desk.window.window import Window

TICK = 4  # milliseconds


def study(cases: int, directory: Path) -> Path:
    """A plan and a table of two answers, many of them alike."""
    answers = np.round(40 * np.random.default_rng(5).normal(size=(2, cases))).astype(int)
    pl.DataFrame(dict(zip("ab", answers, strict=True))).write_csv(directory / "large.csv")
    plan = Plan(source=SourcePlan(file="large.csv"), variables=VariablesPlan(use=("a", "b")))
    save_plan(plan, directory / "large.toml")
    return directory / "large.toml"


class Watch:
    """The longest time between two turns of the event loop."""

    def __init__(self) -> None:
        self.last, self.longest = time.perf_counter(), 0.0
        self.timer = QTimer(interval=TICK)
        self.timer.timeout.connect(self._tick)
        self.timer.start()

    def _tick(self) -> None:
        now = time.perf_counter()
        self.last, self.longest = now, max(self.longest, now - self.last)

    def during(self, words: str, act: Callable[[], object], over: Callable[[], bool]) -> None:
        """Say how long the longest stand was while something is done, until it is over."""
        self._wait(lambda: True)
        self.longest = 0.0
        act()
        self._wait(over)
        print(f"{words:32} {1000 * self.longest:5.0f} ms", flush=True)

    def _wait(self, over: Callable[[], bool]) -> None:
        loop = QEventLoop()
        poll = QTimer(interval=50)
        poll.timeout.connect(lambda: loop.quit() if over() else None)
        poll.start()
        loop.exec()
        poll.stop()
        QTimer.singleShot(1000, loop.quit)
        loop.exec()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=540_000)
    asked = parser.parse_args()
    make_application()
    window = Window(Settings(), Path())
    window.show()
    focus, acts, watch = window.focus, window.acts, Watch()
    acts.load_kernels()
    watch.during("kernels are loaded", lambda: None, lambda: acts.jobs.idle)
    with tempfile.TemporaryDirectory() as place:
        path = study(asked.cases, Path(place))
        watch.during("a study is opened", lambda: acts.open(path), lambda: bool(focus.prepared))
        watch.during("the Plan page is shown", lambda: window.go_to(1), lambda: True)
        watch.during("its tree arrives", acts.grow, lambda: focus.grown is not None)
        watch.during("its correlation is there", lambda: None, lambda: acts.jobs.idle)
        for count in (5, 6, 40):
            watch.during(
                f"it is cut into {count}", lambda k=count: focus.set_count(k), lambda: True
            )
        watch.during(
            "the plan is changed",
            lambda: focus.shelf.change("tree", linkage="average"), lambda: acts.jobs.idle,
        )  # fmt: skip
        before = focus.grown
        watch.during(
            "the other tree arrives",
            acts.grow,
            lambda: focus.grown is not before and acts.jobs.idle,
        )
    acts.finish()


if __name__ == "__main__":
    main()
