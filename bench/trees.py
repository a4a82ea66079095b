"""How long comparing trees takes, beside measuring their cases.

python bench/trees.py
"""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from PySide6.QtGui import QImage, QPainter

from gorvel.core.cases.prepared import Prepared, Variable
from gorvel.core.compare.pair import Pair, crossed, over_counts
from gorvel.core.compare.trees import compare_trees
from gorvel.core.grow.growing import regrown
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.growth import Method
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import square_pairs
from gorvel.core.run import run_plan
from gorvel.core.scene.tanglegram import untangled
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.core.warm import warm
from gorvel.desk.window.application import make_application
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.faces import Face, FacesChart
from gorvel.paint.theme import LIGHT
from gorvel.paint.tree_style import TreeLook

_VARIABLES = 8


def cases(n: int) -> Prepared:
    """Random numbers without groups."""
    x = np.random.default_rng(1).normal(size=(n, _VARIABLES))
    p, ones = x.shape[1], np.ones(x.shape[1])
    answers = Answers.of(x, ones, ("interval",) * p, (False,) * p)
    names = tuple(map(str, range(n)))
    variables = tuple(Variable(f"v{j}", "interval") for j in range(p))
    return Prepared("t.csv", n, np.arange(1, n + 1), names, None, variables, x, answers, None,
                    "cases", (), ())  # fmt: skip


def best(act: Callable[[], object], runs: int = 3) -> float:
    """Seconds of the fastest run."""
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        act()
        times.append(time.perf_counter() - begin)
    return min(times)


def two(prepared: Prepared) -> tuple[Tree, Tree]:
    """Ward's rule, and complete linkage."""
    one = regrown(prepared, Method("squared-euclidean", "ward"), alone=False)
    return one, regrown(prepared, Method("euclidean", "complete"), alone=False)


def main() -> None:
    """Print multiples of measuring, and milliseconds of the partitions."""
    warm()
    some = cases(10_000)
    assert some.answers is not None
    answers, names = some.answers, some.labels
    measuring = best(lambda: square_pairs(answers, "squared-euclidean", names))
    one, other = two(some)
    everyone = np.arange(some.n)
    comparing = best(lambda: compare_trees(one, other, everyone, everyone))
    print(f"two trees of 10,000 cases: {comparing / measuring:.1f} x measuring ({measuring:.2f} s)")
    some = cases(20_000)
    everyone, many = np.arange(some.n), grown(some)
    pair = Pair(*many, everyone, everyone)
    print(
        f"partitions at 2 to 30 of 20,000 cases: {best(lambda: over_counts(pair, 30)) * 1e3:.0f} ms"
    )
    sweeps()
    faces()


def sweeps() -> None:
    """All measures and linkages of 240 cases, against the run of a plan with one of them."""
    rng = np.random.default_rng(1)
    group = rng.integers(0, 4, 240)
    answers = {
        "numbers": ("euclidean", rng.normal(size=(240, 12)).round(3) + group[:, None]),
        "yes/no": ("jaccard", (rng.random((240, 12)) < rng.random((4, 12))[group]).astype(int)),
    }
    for kind, (measure, values) in answers.items():
        with TemporaryDirectory() as held:
            folder = Path(held)
            names = [f"q{k}" for k in range(12)]
            lines = [",".join(names), *(",".join(map(str, row)) for row in values.tolist())]
            (folder / "t.csv").write_text("\n".join(lines))
            plan = f'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = {json.dumps(names)}\n'
            if kind == "yes/no":
                plan += f"binary = {json.dumps(names)}\n"
            plan += f'[proximity]\nmeasure = "{measure}"\n[tree]\nlinkage = "average"\n'
            (folder / "plain.toml").write_text(plan)
            (folder / "sweep.toml").write_text(
                plan + '[sweep]\nmeasures = "all"\nlinkages = "all"\n'
            )
            plain, whole = (
                best(partial(run_plan, folder / f"{name}.toml", folder / name), runs)
                for name, runs in (("plain", 7), ("sweep", 3))
            )
            told = (folder / "sweep" / "sweep.csv").read_text().splitlines()[1:]
        grown_of = sum(",ok," in line for line in told)
        print(f"sweep of 240 cases of {kind}: {grown_of} trees of {len(told)} combinations in"
              f" {whole / plain:.0f} times the plain run")  # fmt: skip


def grown(prepared: Prepared) -> tuple[Grown, Grown]:
    """The same two trees, with all that is known of them."""
    names = {"use": [f"v{j}" for j in range(_VARIABLES)]}
    plans = (
        {"proximity": {"measure": measure}, "tree": {"linkage": linkage}}
        for measure, linkage in (("squared-euclidean", "ward"), ("euclidean", "complete"))
    )
    source = {"source": {"file": "t.csv"}, "variables": names}
    one, other = (grow_prepared(prepared, Plan.model_validate(source | plan), {}) for plan in plans)
    return one, other


def faces() -> None:
    """Two trees of 2,000 cases turned so that few lines cross, and painted at eight clusters."""
    one, other = grown(cases(2_000))
    everyone = np.arange(2_000)
    begin = time.perf_counter()
    facing = untangled(one.tree, other.tree, everyone, everyone)
    took = time.perf_counter() - begin
    found = crossed(Pair(one, other, everyone, everyone),
                    cut_at_count(one.tree, 8), cut_at_count(other.tree, 8))  # fmt: skip
    names = [Identity(str(k), k) for k in range(1, 9)]
    left = Face("", TreeLook(facing.left, found.one, names, (), LIGHT))
    right = Face("", TreeLook(facing.right, found.other, names, (), LIGHT))
    application = make_application()
    times = []
    for _ in range(9):
        image = QImage(640, 340, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(image)
        begin = time.perf_counter()
        chart = FacesChart(LIGHT, 640, 340, left, right, everyone, everyone, found.own, found.moved)
        chart.paint(Canvas(painter))
        times.append(time.perf_counter() - begin)
        painter.end()
    del application
    print(f"2,000 cases face to face: {facing.after:,} crossings of {facing.before:,} in"
          f" {took:.1f} s, painted in {median(times) * 1e3:.0f} ms")  # fmt: skip


if __name__ == "__main__":
    main()
