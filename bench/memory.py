"""Memory that is foreseen for a tree beside that which is used, for every linkage.

python bench/memory.py [cases of a small study] [cases of a large one]

Each tree is grown by a child, of which the largest resident size above that before is told. What is
foreseen has to be above it, by at most a quarter, or by 2 MiB where that is more.
"""

from __future__ import annotations

import resource
import subprocess
import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from gorvel.core.base.memory import let_go
from gorvel.core.cases.prepare import prepare
from gorvel.core.grow.algorithm import bytes_needed, choose_algorithm
from gorvel.core.grow.growing import grown_tree
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.growth import method_of
from gorvel.core.plan.plan import validated
from gorvel.core.table.table import Table

_MIB = 1 << 20


def measured(cases: int, linkage: str) -> None:
    """In a child: print the way, and both in bytes."""
    import polars as pl

    values = np.random.default_rng(1).normal(size=(cases, 6))
    names = [f"x{k}" for k in range(6)]
    frame = pl.DataFrame(values, schema=names).cast(pl.String)
    plan = validated(
        {"source": {"file": "t"}, "variables": {"use": names}, "tree": {"linkage": linkage}},
        "bench",
    )
    prepared = prepare(Table("t", frame), plan)
    method = method_of(plan)
    way = choose_algorithm(prepared, method)
    few = 60 if way == "matrix" else 3_000
    grown_tree(prepare(Table("t", frame.head(few)), plan), method)  # what is loaded at first
    let_go()
    Path("/proc/self/clear_refs").write_text("5")  # the peak begins anew
    before = _peak()
    grown_tree(prepared, method)
    print(way, bytes_needed(prepared, method), _peak() - before)


def _peak() -> int:
    told = Path("/proc/self/status").read_text()
    line = next(line for line in told.splitlines() if line.startswith("VmHWM"))
    return int(line.split()[1]) * 1024


def main(small: int = 2_400, large: int = 12_000) -> None:
    """Print a table; exceptions are marked."""
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    print(f"{'linkage':18}{'cases':>8}  {'way':8}{'foreseen':>10}{'used':>10}  ratio")
    for cases in (small, large):
        for linkage in TREE_RULES:
            told = subprocess.run(
                [sys.executable, __file__, "child", str(cases), linkage],
                capture_output=True, text=True, check=False,
            )  # fmt: skip
            if told.returncode:
                print(f"{linkage:18}{cases:8,}  {told.stderr.strip().splitlines()[-1]}")
                continue
            way, foreseen, used = told.stdout.split()
            ratio = float(foreseen) / float(used)
            more = float(foreseen) - float(used)
            mark = "" if 0 <= more <= max(float(used) / 4, 2 * _MIB) else "  !"
            print(
                f"{linkage:18}{cases:8,}  {way:8}{float(foreseen) / _MIB:7.0f}MiB"
                f"{float(used) / _MIB:7.0f}MiB  {ratio:.2f}{mark}",
                flush=True,
            )


if __name__ == "__main__":
    if sys.argv[1:2] == ["child"]:
        measured(int(sys.argv[2]), sys.argv[3])
    else:
        main(*map(int, sys.argv[1:]))
