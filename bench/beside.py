"""How much longer trees take when the machine is busy with something else.

    ./gorvel bench --beside [--against CHECKOUT]

Each study is grown alone, beside two and beside four processes that never rest. With another
checkout of Gorvel, both take turns, so that what else happens on the machine happens to both.
"""

from __future__ import annotations

import contextlib
import json
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
BUSY = (0, 2, 4)
RUNS, TURNS = 3, 2
MOST = 60.0  # seconds
STUDIES = {
    "single, 10,000": ("smooth", 10_000, "single"),
    "single, 20,000": ("smooth", 20_000, "single"),
    "centroid, 5,000": ("smooth", 5_000, "centroid"),
    "complete, ratings, 5,000": ("ratings", 5_000, "complete"),
    "complete, ratings, 10,000": ("ratings", 10_000, "complete"),
    "average, 5,000": ("smooth", 5_000, "average"),
    "Ward, 10,000": ("smooth", 10_000, "ward"),
}


@contextlib.contextmanager
def busy(processes: int) -> Iterator[None]:
    """Processes that take all the time they get."""
    loads = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(processes)]
    try:
        yield
    finally:
        for load in loads:
            load.kill()
            load.wait()


def worker(root: Path) -> None:
    """Grows what is asked for on standard input, of one checkout; answers with seconds."""
    sys.path[:0] = [str(root / "src"), str(root / "bench")]
    import numpy as np

    import run as bench
    from gorvel.core.grow.growing import grown_tree
    from gorvel.core.warm import warm

    warm()
    print("[]", flush=True)
    for line in sys.stdin:
        kind, n, key = json.loads(line)
        rng = np.random.default_rng(n)
        values = rng.integers(1, 6, (n, 8)).astype(float) if kind == "ratings" else None
        cases = bench.prepared(rng.normal(size=(n, 8)) if values is None else values)
        plan, times = bench.plan_for("squared-euclidean", key), list[float]()
        while len(times) < 1 + RUNS and (not times or times[-1] < MOST / RUNS):
            begin = time.perf_counter()
            grown_tree(cases, plan.method)
            times.append(time.perf_counter() - begin)
        print(json.dumps(times[1:] or times), flush=True)


class Checkout:
    """One version at work in a process of its own."""

    def __init__(self, root: Path) -> None:
        self._process = subprocess.Popen(
            [sys.executable, root / "bench" / "beside.py", "--worker", str(root)],  # its own
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        self._answer()

    def _answer(self) -> list[float]:
        assert self._process.stdout is not None
        return list(json.loads(self._process.stdout.readline()))

    def seconds(self, study: tuple[str, int, str]) -> list[float]:
        """Of some runs."""
        assert self._process.stdin is not None
        self._process.stdin.write(json.dumps(study) + "\n")
        self._process.stdin.flush()
        return self._answer()

    def end(self) -> None:
        """Let the process go."""
        self._process.kill()
        self._process.wait()


def measured(checkouts: list[Checkout], study: tuple[str, int, str], processes: int) -> list[float]:
    """Median seconds of each checkout, in turns."""
    found: list[list[float]] = [[] for _ in checkouts]
    with busy(processes):
        for _ in range(TURNS):
            for times, checkout in zip(found, checkouts, strict=True):
                if not times or times[-1] < MOST / RUNS:
                    times += checkout.seconds(study)
    return [statistics.median(times) for times in found]


def table(roots: list[Path]) -> None:
    """Seconds alone, and how many times that beside others; of each checkout in turn."""
    checkouts = [Checkout(root) for root in roots]
    print(" | ".join(str(root) for root in roots))
    print(f"{'study':26}" + "".join(f"{count} busy: s, x alone".rjust(30) for count in BUSY))
    for name, study in STUDIES.items():
        alone: list[float] = []
        cells = []
        for count in BUSY:
            times = measured(checkouts, study, count)
            alone = alone or times
            pairs = zip(times, alone, strict=True)
            cells.append(" | ".join(f"{t:.3f} {t / before:5.1f}" for t, before in pairs))
        print(f"{name:26}" + "".join(cell.rjust(30) for cell in cells), flush=True)
    for checkout in checkouts:
        checkout.end()


if __name__ == "__main__":
    worker(Path(sys.argv[2]))
