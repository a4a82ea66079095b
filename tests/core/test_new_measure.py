"""A measure is one record: added, it is known wherever measures are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from gorvel.core.kernels.recipe import ABSOLUTE
from gorvel.core.proximity import recipes
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES, Measure, recipe_of
from gorvel.core.proximity.pairs import square_pairs
from gorvel.core.run import run_plan
from studies import study

KEY = "mean-difference"


def mean_difference(answers: Answers, rows: slice) -> np.ndarray:
    """Of the variables that both cases of a pair have."""
    x, v = answers.values, answers.importance
    apart = np.abs(x[rows][:, None, :] - x[None, :, :])
    known = ~np.isnan(apart)
    with np.errstate(invalid="ignore"):
        return np.where(known, apart, 0.0) @ v / (known @ v)


@pytest.fixture(autouse=True)
def added(monkeypatch: pytest.MonkeyPatch) -> None:
    """In the registry, and nowhere else."""
    record = Measure(
        KEY, "mean difference", "Σ v |x − y| / Σ v", "For a test.", "Always.",
        "Made up for this test", mean_difference, recipe=recipes.of_known(ABSOLUTE, mean=True),
    )  # fmt: skip
    monkeypatch.setitem(MEASURES, KEY, record)


def answers(n: int, gaps: float) -> Answers:
    random = np.random.default_rng(4)
    x = random.normal(size=(n, 3))
    x[:, :2][random.random((n, 2)) < gaps] = np.nan
    return Answers.of(x, np.array([1.0, 2.0, 0.5]), ("interval",) * 3, (False,) * 3)


@pytest.mark.parametrize("gaps", [0.0, 0.2])
def test_compiled_loops_measure_as_the_formula_does(gaps: float) -> None:
    told, names = answers(40, gaps), tuple(map(str, range(40)))
    assert recipe_of(told, KEY) is not None
    wanted = mean_difference(told, slice(None))
    np.fill_diagonal(wanted, np.inf)
    np.testing.assert_allclose(square_pairs(told, KEY, names), wanted, rtol=1e-12, atol=1e-15)


@pytest.mark.parametrize("linkage", ["average", "complete", "single"])
def test_small_and_large_studies_grow_by_it(linkage: str) -> None:
    random = np.random.default_rng(3)
    x = np.concatenate([random.normal(size=(30, 3)) + 9 * k for k in range(3)])
    told = study(x, KEY, linkage)
    assert sorted(told.tree.sizes[told.tree.n :].tolist())[-3:] == [30, 60, 90]
    many = np.concatenate([random.normal(size=(900, 3)) + 9 * k for k in range(3)])
    large = study(many, KEY, linkage)
    assert sorted(large.tree.sizes[large.tree.n :].tolist())[-3:] == [900, 1800, 2700]


def test_a_plan_asks_for_it(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("a,b\n1,2\n2,2\n9,1\n8,0\n", encoding="utf-8")
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'
        f'[proximity]\nmeasure = "{KEY}"\n[tree]\nlinkage = "average"\n'
    )
    (tmp_path / "p.toml").write_text(text, encoding="utf-8")
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    assert KEY in (tmp_path / "out" / "summary.json").read_text(encoding="utf-8")
