"""The benchmark: each phase as a multiple of one pass over the proximities, in one process.

STREAM(n) is the time of summing a condensed float64 array of n(n-1)/2 numbers, once warm. Machines
differ and are shared; multiples of STREAM taken in the same run can be compared.

    ./gorvel bench            5,000 to 100,000 cases, several minutes
    ./gorvel bench --quick    3,000 and 6,000 cases, within a minute
    ./gorvel bench --beside   beside other processes, see beside.py

Beyond 20,000 cases STREAM is extrapolated by the square. Peak memory is that of the process during
the phase, the data and proximities that it starts from included.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import math
import resource
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

import beside
from gorvel.core.base.memory import square_space
from gorvel.core.cases.prepared import Prepared, Variable
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.grow.growing import grown_tree
from gorvel.core.grow.grown import grow_prepared
from gorvel.core.linkage.matrix_chain import grow_square
from gorvel.core.linkage.rounds import grow_in_rounds
from gorvel.core.plan.parts import CountPlan, ProximityPlan, SourcePlan, TreePlan, VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import square_pairs
from gorvel.core.table.reading import read_table
from gorvel.core.tree.cophenetic import cophenetic_correlation
from gorvel.core.tree.schedule import make_schedule, within_spread
from gorvel.core.warm import warm

ROOT = Path(__file__).parents[1]
COLUMNS = 8
SIZES = {"quick": (3000, 6000), "full": (5000, 10_000, 20_000, 100_000)}
MOST_COUNTED = 10_000  # cases at which rules of the count are timed
MOST_PAIRS = 20_000  # cases beyond which STREAM is extrapolated, and nothing keeps all pairs


@dataclass
class Row:
    """One line of the table; growth is the exponent from the size before to this one."""

    phase: str
    n: int
    seconds: float
    stream: float
    peak_mb: float
    growth: float | None = None


def median_time(
    work: Callable[[Any], object], runs: int, fresh: Callable[[], Any] = lambda: None
) -> float:
    """Median seconds of some runs. fresh : makes what each of them consumes, off the clock."""
    times = []
    for _ in range(runs):
        given = fresh()
        begin = time.perf_counter()
        work(given)
        times.append(time.perf_counter() - begin)
    return statistics.median(times)


def stream(n: int) -> float:
    """Seconds of one pass over the condensed proximities, warm."""
    condensed = np.ones(n * (n - 1) // 2)
    condensed.sum()
    return median_time(lambda _: condensed.sum(), 5)


def peak_since(reset: bool = False) -> float:
    """MB at most in memory since the last reset."""
    if reset:
        with contextlib.suppress(OSError):
            Path("/proc/self/clear_refs").write_text("5")
        return 0.0
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmHWM:"):
            return float(line.split()[1]) / 1024
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def plan_for(measure: str, linkage: str) -> Plan:
    """A plan of the benchmark's columns."""
    return Plan(
        source=SourcePlan(file="bench"),
        variables=VariablesPlan(use=tuple(f"v{j}" for j in range(COLUMNS))),
        proximity=ProximityPlan(measure=measure),
        tree=TreePlan(linkage=linkage),
    )


def prepared(values: np.ndarray) -> Prepared:
    """Cases as they come out of a table."""
    n, p = values.shape
    answers = Answers.of(values, np.ones(p), ("interval",) * p, (False,) * p)
    variables = tuple(Variable(f"v{j}", "interval") for j in range(p))
    labels = tuple(str(i) for i in range(n))
    return Prepared(
        "bench", n, np.arange(1, n + 1), labels, None, variables, values, answers, None, "cases",
        (), (),
    )  # fmt: skip


Phase = tuple[str, Callable[[Any], object], Callable[[], Any]]


def phases(n: int) -> Iterator[Phase]:
    """What is measured at one size: name, the work, and what it consumes."""
    rng = np.random.default_rng(n)
    smooth = prepared(rng.normal(size=(n, COLUMNS)))
    middles = 5 * rng.normal(size=(12, COLUMNS))
    blobs = prepared(rng.normal(size=(n, COLUMNS)) / 2 + middles[rng.integers(0, 12, n)])
    ratings = prepared(rng.integers(1, 6, (n, COLUMNS)).astype(float))

    def grown(cases: Prepared, key: str) -> Callable[[Any], object]:
        return lambda _: grown_tree(cases, plan_for("squared-euclidean", key).method)

    def nothing() -> None:
        return None

    yield "Ward, no matrix, no structure", grown(smooth, "ward"), nothing
    yield "Ward, no matrix, 12 blobs", grown(blobs, "ward"), nothing
    yield "single, no matrix", grown(smooth, "single"), nothing
    for key in ("ward", "average", "single"):
        yield f"{key}, ratings full of ties", grown(ratings, key), nothing
    if n > MOST_PAIRS:
        return
    yield from phases_of_pairs(smooth)
    yield "complete, ratings full of ties", grown(ratings, "complete"), nothing
    tree, pairs = grown_tree(smooth, plan_for("squared-euclidean", "ward").method)
    assert smooth.answers is not None
    values, masses, ones = smooth.answers.values, np.ones(n), np.ones(COLUMNS)

    def scheduled(_: Any) -> object:
        return make_schedule(tree, masses, within_spread(tree, values, ones, masses))

    yield "schedule", scheduled, nothing
    if n <= MOST_COUNTED:
        yield from phases_of_counts({"no structure": smooth, "ratings": ratings})
    yield "cophenetic correlation", lambda _: cophenetic_correlation(tree, pairs), nothing


def phases_of_counts(studies: dict[str, Prepared]) -> Iterator[Phase]:
    """A whole tree, all rules of the cluster count at 2 to 15 clusters, and one resample."""
    for kind, cases in studies.items():
        for key in ("ward", "average"):
            plan = plan_for("squared-euclidean", key)
            asked = CountPlan(to=15, resamples=1)
            grown = grow_prepared(cases, plan, {})
            yield (
                f"whole tree, {key}, {kind}",
                lambda _, cases=cases, plan=plan: grow_prepared(cases, plan, {}),
                lambda: None,
            )
            yield (
                f"rules 2 to 15, {key}, {kind}",
                lambda _, g=grown, asked=asked: compute_indices(g, asked),
                lambda: None,
            )
            yield (
                f"one resample, {key}, {kind}",
                lambda _, g=grown, asked=asked: resampled(g, asked),
                lambda: None,
            )


def measured(answers: Answers, key: str, names: Sequence[str]) -> None:
    """All pairs, in memory that the tree before has left."""
    with square_space(len(names)) as work:
        square_pairs(answers, key, names, out=work)


def phases_of_pairs(cases: Prepared) -> Iterator[Phase]:
    """Measuring all pairs, and the joins alone."""
    answers, names = cases.answers, cases.labels
    assert answers is not None
    for key in ("squared-euclidean", "euclidean", "city-block"):
        yield (
            f"proximities, {key}",
            lambda _, key=key: measured(answers, key, names),
            lambda: None,
        )
    gaps = np.where(
        np.random.default_rng(1).random(answers.values.shape) < 0.04, np.nan, answers.values
    )
    mixed = replace(answers, values=gaps)
    yield "proximities, Gower, gaps", lambda _: measured(mixed, "gower", names), lambda: None
    yield (
        "proximities, squared-euclidean, fresh memory",
        lambda _: square_pairs(answers, "squared-euclidean", names),
        lambda: None,
    )
    for key in ("average", "complete", "weighted-average", "flexible"):
        yield (
            f"joins, {key}",
            lambda work, key=key: grow_in_rounds(work, key, beta=-0.25),
            lambda: square_pairs(answers, "squared-euclidean", names),
        )
    for key in ("centroid", "median"):
        yield (
            f"joins, {key}",
            lambda work, key=key: grow_square(work, key),
            lambda: square_pairs(answers, "squared-euclidean", names),
        )


def measure(sizes: tuple[int, ...], runs: int) -> list[Row]:
    """Time every phase at every size, printing as it goes."""
    rows: list[Row] = []
    pass_time, size = 0.0, 1
    print(f"{'phase':40} {'n':>7} {'seconds':>9} {'x STREAM':>9} {'peak MB':>8} {'growth':>7}")
    for n in sizes:
        pass_time = stream(n) if n <= MOST_PAIRS else pass_time * (n / size) ** 2
        size = n
        for phase, work, fresh in phases(n):
            peak_since(reset=True)
            seconds = median_time(work, runs if n <= MOST_PAIRS else 1, fresh)
            peak = peak_since()
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
        library = median_time(lambda _: pl.read_csv(path), 3)
        ours = median_time(lambda _: read_table(path), 3)
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
    parser.add_argument("--beside", action="store_true", help="beside busy processes instead")
    parser.add_argument(
        "--against", type=Path, metavar="CHECKOUT", help="another version, for --beside"
    )
    asked = parser.parse_args()
    if asked.beside:
        beside.table([ROOT] + ([asked.against.resolve()] if asked.against else []))
        return
    begin = time.perf_counter()
    warm()
    print(f"kernels compiled or loaded in {time.perf_counter() - begin:.1f} s")
    read = reading(100_000 if asked.quick else 1_000_000)
    rows = measure(SIZES["quick" if asked.quick else "full"], 3)
    told = {"reading": read, "phases": [asdict(row) for row in rows]}
    asked.out.write_text(json.dumps(told, indent=1) + "\n")
    print(f"wrote {asked.out}")


if __name__ == "__main__":
    main()
