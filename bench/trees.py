"""How long comparing trees takes, beside measuring their cases.

python bench/trees.py
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from gorvel.core.cases.prepared import Prepared, Variable
from gorvel.core.compare.partitions import agreement
from gorvel.core.compare.trees import compare_trees
from gorvel.core.grow.growing import regrown
from gorvel.core.plan.growth import Method
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import square_pairs
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.core.warm import warm

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
    many = two(cases(20_000))

    def partitions() -> None:
        for count in range(2, 31):
            a, b = (cut_at_count(tree, count).membership - 1 for tree in many)
            agreement(a, b)

    print(f"partitions at 2 to 30 of 20,000 cases: {best(partitions) * 1e3:.0f} ms")


if __name__ == "__main__":
    main()
