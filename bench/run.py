"""The benchmark: each phase as a multiple of one pass over the proximities, in one process.

STREAM(n) is the time of summing a condensed float64 array of n(n-1)/2 numbers, once warm. Machines
differ and are shared; multiples of STREAM taken in the same run can be compared.

    ./gorvel bench            2,000 to 10,000 cases, several minutes
    ./gorvel bench --quick    1,000 and 2,000 cases, within a minute
"""

from __future__ import annotations

import argparse
import json
import math
import resource
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np
import polars as pl

from gorvel.core.linkage.agglomerate import grow, working_proximities
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import all_pairs
from gorvel.core.schedule import make_schedule, within_spread
from gorvel.core.table.reading import read_table
from gorvel.core.tree import cophenetic_correlation

COLUMNS = 8
SIZES = {"quick": (1000, 2000), "full": (2000, 5000, 10_000)}


@dataclass
class Row:
    """One line of the table; growth is the exponent from the size before to this one."""

    phase: str
    n: int
    seconds: float
    stream: float
    peak_mb: float
    growth: float | None = None


def median_time(work: Callable[[], object], runs: int) -> float:
    """Median seconds of some runs."""
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return statistics.median(times)


def stream(n: int) -> float:
    """Seconds of one pass over the condensed proximities, warm."""
    condensed = np.ones(n * (n - 1) // 2)
    condensed.sum()
    return median_time(condensed.sum, 5)


def phases(n: int) -> Iterator[tuple[str, Callable[[], object]]]:
    """What is measured at one size: names and the work."""
    rng = np.random.default_rng(n)
    x = rng.normal(size=(n, COLUMNS))
    ratings = rng.integers(1, 6, (n, COLUMNS)).astype(float)
    ones = np.ones(COLUMNS)
    names = [str(i) for i in range(n)]

    def answers(values: np.ndarray) -> Answers:
        return Answers.of(values, ones, ("interval",) * COLUMNS, (False,) * COLUMNS)

    for key in MEASURES:
        yield f"proximities, {key}", lambda key=key: all_pairs(answers(x), key, names)
    smooth = all_pairs(answers(x), "squared-euclidean", names)
    tied = all_pairs(answers(ratings), "squared-euclidean", names)

    def joined(d: np.ndarray, key: str) -> object:
        return grow(working_proximities(d, LINKAGES[key], "squared-euclidean", None), key)

    for key in LINKAGES:
        yield f"joins, {key}", lambda key=key: joined(smooth, key)
    for key in ("ward", "average"):
        yield f"joins, {key}, ratings full of ties", lambda key=key: joined(tied, key)
    tree = grow(working_proximities(smooth, LINKAGES["ward"], "squared-euclidean", None), "ward")
    masses = np.ones(n)
    yield "schedule", lambda: make_schedule(tree, masses, within_spread(tree, x, ones, masses))
    yield "cophenetic correlation", lambda: cophenetic_correlation(tree, smooth)


def measure(sizes: tuple[int, ...], runs: int) -> list[Row]:
    """Time every phase at every size, printing as it goes."""
    rows: list[Row] = []
    print(f"{'phase':40} {'n':>7} {'seconds':>9} {'x STREAM':>9} {'peak MB':>8} {'growth':>7}")
    for n in sizes:
        pass_time = stream(n)
        for phase, work in phases(n):
            seconds = median_time(work, runs)
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            row = Row(phase, n, seconds, seconds / pass_time, peak)
            before = next((r for r in reversed(rows) if r.phase == phase), None)
            if before is not None:
                row.growth = math.log(seconds / before.seconds) / math.log(n / before.n)
            rows.append(row)
            growth = "" if row.growth is None else f"{row.growth:.2f}"
            print(f"{phase:40} {n:7,} {seconds:9.3f} {row.stream:9.1f} {peak:8.0f} {growth:>7}")
    return rows


def reading(rows: int) -> dict[str, float]:
    """Reading a CSV of numbers, as a multiple of what the table library itself needs."""
    rng = np.random.default_rng(1)
    columns = {f"v{k}": rng.normal(size=rows).round(4) for k in range(COLUMNS + 2)}
    with tempfile.TemporaryDirectory() as directory:
        path = Path(directory) / "rows.csv"
        pl.DataFrame(columns).write_csv(path)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        library = median_time(lambda: pl.read_csv(path), 3)
        ours = median_time(lambda: read_table(path), 3)
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        size = path.stat().st_size / 2**20
    told = {"rows": rows, "file_mb": size, "seconds": ours, "x_library": ours / library}
    print(
        f"reading {rows:,} x {COLUMNS + 2} ({size:.0f} MB): {ours:.2f} s,"
        f" {ours / library:.1f} x the table library, peak {before:.0f} to {peak:.0f} MB"
    )
    return told | {"peak_mb": peak}


def main() -> None:
    """Print the table and write it as JSON."""
    parser = argparse.ArgumentParser(prog="gorvel bench", description=__doc__.split("\n")[0])
    parser.add_argument("--quick", action="store_true", help="small sizes, within a minute")
    parser.add_argument("--out", type=Path, default=Path("bench-results.json"), metavar="FILE")
    asked = parser.parse_args()
    read = reading(100_000 if asked.quick else 1_000_000)
    rows = measure(SIZES["quick" if asked.quick else "full"], 3 if asked.quick else 1)
    told = {"reading": read, "phases": [asdict(row) for row in rows]}
    asked.out.write_text(json.dumps(told, indent=1) + "\n")
    print(f"wrote {asked.out}")


if __name__ == "__main__":
    main()
