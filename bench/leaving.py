"""How long the program takes to leave when it is told to, at random moments of its work.

    python bench/leaving.py [times of each kind] [seed]

The window opens a study, grows its tree and goes through its pages one after the other, whether
they are ready or not; a run analyses the same study. Each is told to end (TERM) at a moment between
its start and the end of what it does. Times are from the signal to the end of the process.
"""

from __future__ import annotations

import os
import random
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import polars as pl

ROOT = Path(__file__).parents[1]
WINDOW = """
import os, signal, sys
signal.signal(signal.SIGTERM, lambda *_: os._exit(130))  # while it loads, as `gorvel` does
from pathlib import Path
from PySide6.QtCore import QTimer
from gorvel.desk.window import application
from gorvel.desk.window.window import Window

class Driven(Window):
    def __init__(self, *told):
        super().__init__(*told)
        self.turn, self.timer = 0, QTimer(interval=400)
        self.timer.timeout.connect(self.step)
        self.timer.start()

    def step(self):
        if self.focus.grown is None:
            if self.focus.prepared is not None and not self.turn:
                self.turn = 1
                self.acts.grow()
            return
        self.turn += 1
        self.go_to(self.turn % 6)
        self.focus.set_count(2 + self.turn % 7)

application.Window = Driven
sys.exit(application.start(Path(sys.argv[1]), Path(sys.argv[2])))
"""
KINDS = ("window", "run")
STATUSES = {0, 130}


def study(cases: int, folder: Path) -> Path:
    """A plan of four groups of cases in ten answers, with rules for their number."""
    rng = np.random.default_rng(4)
    values = rng.normal(size=(cases, 10)) + 3.0 * rng.integers(0, 4, (cases, 1))
    names = [f"x{k}" for k in range(10)]
    pl.DataFrame(values, schema=names).write_csv(folder / f"t{cases}.csv")
    plan = folder / f"t{cases}.toml"
    told = f'gorvel = 1\n[source]\nfile = "t{cases}.csv"\n[variables]\nuse = {names}\n'
    plan.write_text(told + "[count]\nresamples = 20\n")
    return plan


def left(kind: str, plan: Path, folder: Path, after: float) -> float:
    """Seconds that one takes to leave; 0 where it had ended by itself."""
    python = [sys.executable, "-c", WINDOW, str(plan), str(ROOT / "demo" / "readers.toml")]
    if kind == "run":
        out = folder / f"out-{plan.stem}"
        python = [sys.executable, "-m", "gorvel", "run", str(plan), "--out", str(out)]
    environment = os.environ | {
        "PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen",
        "GORVEL_SETTINGS": str(folder / "settings.json"),
    }  # fmt: skip
    with subprocess.Popen(
        python, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True
    ) as child:
        time.sleep(after)
        if child.poll() is not None:
            return 0.0
        begin = time.perf_counter()
        child.send_signal(signal.SIGTERM)
        assert child.stderr is not None
        said = child.stderr.read()
        status = child.wait()
        took = time.perf_counter() - begin
    if status not in STATUSES:
        raise SystemExit(f"{kind} ended with {status}: {said}")
    parts = [path.name for path in folder.iterdir() if ".part" in path.name]
    if parts:
        raise SystemExit(f"{kind} left {parts}")
    return took


def whole_run(plan: Path, folder: Path) -> float:
    """Seconds that a run takes which is let be."""
    begin = time.perf_counter()
    subprocess.run(
        [sys.executable, "-m", "gorvel", "run", str(plan), "--out", str(folder / "whole")],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")}, check=True,
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    return time.perf_counter() - begin


def main(times: int = 30, seed: int = 1) -> None:
    """Print a table."""
    rng = random.Random(seed)
    print(f"{'':8}{'cases':>8}{'told':>7}{'median':>9}{'longest':>9}   after seconds")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for cases, most in ((2_000, 9.0), (20_000, 16.0)):
            plan = study(cases, folder)
            for kind in KINDS:
                until = most if kind == "window" else whole_run(plan, folder)
                moments = [rng.uniform(0.1, until) for _ in range(times)]
                taken = [(left(kind, plan, folder, after), after) for after in moments]
                told = [one for one in taken if one[0]]
                worst, after = max(told)
                print(
                    f"{kind:8}{cases:8,}{len(told):7}{statistics.median(t for t, _ in told):8.2f}s"
                    f"{worst:8.2f}s   {after:.1f}",
                    flush=True,
                )


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
