"""A linkage is one record: added, it is known wherever linkages are."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest

from gorvel.core.compare.sweep import combinations_of
from gorvel.core.grow.algorithm import choose_algorithm
from gorvel.core.linkage.agglomerate import grow, working_proximities
from gorvel.core.linkage.rules import LINKAGES, TREE_RULES, Linkage, Pair, Recurrence
from gorvel.core.plan.plan import Plan
from gorvel.core.run import run_plan
from gorvel.core.words.differences import tree_name
from studies import study

KEY = "looser-average"
NEW = Linkage(
    KEY, "looser average linkage", "mean of both + 0.3 d(left, right)", "For a test.", "Always.",
    "Made up for this test", Recurrence("mean", equal=True, apart=0.3), "a mean, moved by 0.3",
)  # fmt: skip


@pytest.fixture(autouse=True)
def added(monkeypatch: pytest.MonkeyPatch) -> None:
    """In the registry, and nowhere else."""
    monkeypatch.setitem(LINKAGES, KEY, NEW)
    monkeypatch.setitem(TREE_RULES, KEY, NEW)


def by_definition(x: np.ndarray) -> np.ndarray:
    """Heights of the joins, worked out cluster by cluster."""
    n = len(x)
    apart = {(i, j): float(((x[i] - x[j]) ** 2).sum()) for j in range(n) for i in range(j)}
    alive, heights = list(range(n)), []
    while len(alive) > 1:
        pairs = [(apart[i, j], i, j) for a, i in enumerate(alive) for j in alive[a + 1 :]]
        low, one, other = min(pairs)
        heights.append(low)
        alive.remove(other)
        for k in alive:
            if k != one:
                own, its = apart[min(one, k), max(one, k)], apart[min(other, k), max(other, k)]
                apart[min(one, k), max(one, k)] = (own + its) / 2 + 0.3 * low
    return np.array(heights)


def test_it_grows_as_defined() -> None:
    x = np.random.default_rng(2).normal(size=(100, 3))
    tree = study(x, linkage=KEY).tree
    np.testing.assert_allclose(tree.heights, by_definition(x), rtol=1e-9)
    far = np.array([4.0, 5.0])
    pair = Pair(far, far + 1, 2.0, np.ones(2), 3.0, 1.0)
    np.testing.assert_allclose(NEW.recurrence(pair), far + 0.5 + 0.6)


@pytest.mark.slow
def test_thousands_of_cases_grow_by_kernels_to_the_same_tree() -> None:
    grown = study(np.random.default_rng(3).normal(size=(5_000, 3)), linkage=KEY)
    assert choose_algorithm(grown.prepared, grown.method) == "square"
    everybody = np.arange(5_000)
    work = working_proximities(grown.pairs.block(everybody, everybody), NEW, True, None)
    slow = grow(work, KEY, None)
    np.testing.assert_array_equal(grown.tree.left, slow.left)
    np.testing.assert_array_equal(grown.tree.right, slow.right)
    np.testing.assert_allclose(grown.tree.heights, slow.heights, rtol=1e-13)


def test_plans_runs_sweeps_and_words_know_it(tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    with (tmp_path / "t.csv").open("w", newline="") as file:
        write = csv.writer(file)
        write.writerow(["a", "b", "c"])
        write.writerows(np.round(rng.normal(size=(40, 3)), 3).tolist())
    text = '[variables]\nuse = ["a", "b", "c"]\n[cut]\ncounts = [3]\n[sweep]\nlinkages = "all"\n'
    text += f'[tree]\nlinkage = "{KEY}"\n[count]\nresamples = 5\nchecks = ["splits"]\n'
    (tmp_path / "p.toml").write_text(f'gorvel = 1\n[source]\nfile = "t.csv"\n{text}')
    out = tmp_path / "out"
    run_plan(tmp_path / "p.toml", out)
    with (out / "sweep.csv").open() as file:
        swept = {row["linkage"]: row["status"] for row in csv.DictReader(file)}
    assert swept[KEY] == "ok"
    assert json.loads((out / "summary.json").read_text())["plan"]["tree"]["linkage"] == KEY
    plan = Plan.model_validate({"source": {"file": "t.csv"}, "variables": {"use": ["a"]},
                                "tree": {"linkage": KEY}})  # fmt: skip
    assert tree_name(plan) == "Looser average linkage"
    assert any(at.linkage == KEY for at, _ in combinations_of(
        plan.with_whole("sweep", {"linkages": "all"})
    ))  # fmt: skip
