"""Threads that wait, sleep; and single linkage by short numbers is single linkage."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.linkage.spanning import single_tree
from gorvel.core.proximity.answers import Answers

SRC = Path(__file__).parents[2] / "src"
SHARED = """
import sys
{start}
from gorvel.core.kernels.rounds import put_in_order
import numba, numpy as np
work = np.arange(4.0).reshape(2, 2)
put_in_order(work, np.arange(2), np.array([1, 0]))
print(work.tolist(), numba.threading_layer())
"""
STARTS = {
    "as a command": "import gorvel.main",
    "as a library": "import gorvel.core.grow.grown",
    "after others": "import numba, numpy, polars",
    "as a test": "import pytest",
}


@pytest.mark.slow
@pytest.mark.parametrize("start", STARTS.values(), ids=STARTS)
def test_threads_sleep_however_gorvel_is_started(start: str) -> None:
    kept = {k: v for k, v in os.environ.items() if not k.startswith(("OMP_", "GOMP_"))}
    told = subprocess.run(
        [sys.executable, "-c", SHARED.format(start=start)], check=True, capture_output=True,
        text=True, env=kept | {"PYTHONPATH": str(SRC), "OMP_DISPLAY_ENV": "VERBOSE"},
    )  # fmt: skip
    layer = told.stdout.split()[-1]
    assert told.stdout.startswith("[[1.0, 0.0], [3.0, 2.0]]")
    assert layer in ("omp", "tbb", "workqueue")
    if layer == "omp":  # what the thread library itself says it goes by; the others always sleep
        assert "OMP_WAIT_POLICY = 'PASSIVE'" in told.stderr
        assert "GOMP_SPINCOUNT = '0'" in told.stderr


@pytest.mark.slow
def test_who_sets_a_policy_is_heeded() -> None:
    told = subprocess.run(
        [sys.executable, "-c", SHARED.format(start="")], check=True, capture_output=True, text=True,
        env=os.environ | {"PYTHONPATH": str(SRC), "OMP_WAIT_POLICY": "ACTIVE",
                          "OMP_DISPLAY_ENV": "TRUE"},
    )  # fmt: skip
    if told.stdout.split()[-1] == "omp":
        assert "OMP_WAIT_POLICY = 'ACTIVE'" in told.stderr


def spanning_heights(d: np.ndarray) -> list[float]:
    """Edges of a minimum spanning tree by its definition: the shortest that closes no circle."""
    n = len(d)
    of = list(range(n))
    out = []
    pairs = [(i, j) for i in range(n) for j in range(i)]
    for i, j in sorted(pairs, key=lambda pair: float(d[pair])):
        if of[i] != of[j]:
            out.append(float(d[i, j]))
            gone, kept = of[i], of[j]
            of = [kept if cluster == gone else cluster for cluster in of]
    return out


@given(
    seed=st.integers(0, 10**6),
    n=st.integers(2, 100),  # all at one distance are too many to be kept beyond
    p=st.integers(1, 11),
    kind=st.sampled_from([0, 1]),
    far=st.sampled_from([0.0, 1e6, -1e12]),
    size=st.sampled_from([1e-150, 1e-9, 1.0, 1e120]),
    hard=st.sampled_from(["plain", "close", "uneven", "one far away", "constant column"]),
)
def test_short_numbers_change_no_edge(
    seed: int, n: int, p: int, kind: int, far: float, size: float, hard: str
) -> None:
    """Distances that short numbers cannot tell apart, or that are powers of ten apart."""
    rng = np.random.default_rng(seed)
    x = rng.normal(size=(n, p))
    if hard == "close":  # around a few places, 1e-9 apart
        x = rng.integers(0, 3, (n, p)) + 1e-9 * x
    elif hard == "uneven":
        x *= 10.0 ** rng.integers(-12, 12, p)
    elif hard == "one far away":
        x[0] = 1e8
    elif hard == "constant column":
        x[:, 0] = 7.0
    x = (x + far) * size
    v = rng.choice([1.0, 0.25, 3.0], p)
    tree = single_tree(Answers.of(x, v, ("interval",) * p, (False,) * p), kind, False)
    assert tree is not None
    steps = np.abs(x[:, None] - x)
    d = (steps**2 if kind == 0 else steps) @ v
    np.testing.assert_allclose(
        np.sort(tree.heights), spanning_heights(d), rtol=1e-13, atol=5e-322
    )  # steps of denormal numbers
