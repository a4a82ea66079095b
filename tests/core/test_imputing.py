"""Gaps filled by answers of cases that are expected to answer alike, and the trees of that."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.imputing import imputed
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Variable
from gorvel.core.compare.imputed_trees import imputed_trees
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.grown import analyse, grow_prepared
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.reading import read_table
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.comparison import filled_words

NUMBERS = "interval"


def variables(*levels: str) -> tuple[Variable, ...]:
    return tuple(Variable(f"v{j}", level) for j, level in enumerate(levels))  # type: ignore[arg-type]


@given(st.integers(0, 10**6), st.integers(2, 30), st.integers(1, 5), st.floats(0, 0.6))
def test_answers_stay_and_gaps_take_answers(seed: int, n: int, p: int, share: float) -> None:
    rng = np.random.default_rng(seed)
    raw = rng.integers(0, 4, (n, p)).astype(float)
    raw[rng.random((n, p)) < share] = np.nan
    raw[0] = rng.integers(0, 4, p)
    levels = rng.choice(["interval", "nominal", "ordinal"], p).tolist()
    found = imputed(raw, variables(*levels), np.random.default_rng(7))
    there = ~np.isnan(raw)
    assert (found[there] == raw[there]).all()
    for j in range(p):
        assert set(found[:, j]) <= set(raw[there[:, j], j])
    again = imputed(raw, variables(*levels), np.random.default_rng(7))
    assert found.tolist() == again.tolist()


def test_what_others_tell_is_used() -> None:
    rng = np.random.default_rng(1)
    x = rng.normal(size=300)
    word = (x > 0).astype(float)
    raw = np.column_stack([x, 3 * x + 1, word])
    holes = raw.copy()
    holes[rng.choice(300, 60, replace=False), 1] = np.nan
    holes[rng.choice(300, 60, replace=False), 2] = np.nan
    found = imputed(holes, variables(NUMBERS, NUMBERS, "nominal"), rng)
    gap = np.isnan(holes[:, 1])
    assert np.abs(found[gap, 1] - raw[gap, 1]).mean() < 0.15 * raw[:, 1].std()
    gap = np.isnan(holes[:, 2])
    assert (found[gap, 2] == raw[gap, 2]).mean() > 0.85


def test_means_are_nearer_to_the_truth_than_those_of_complete_cases() -> None:
    """Forty studies of 200 in which answers lack the more often, the larger another one is."""
    off: dict[str, list[float]] = {"imputed": [], "complete": []}
    for replicate in range(40):
        rng = np.random.default_rng(replicate)
        x = rng.normal(size=200)
        y = x + rng.normal(scale=0.7, size=200)
        raw = np.column_stack([x, y])
        raw[rng.random(200) < 1 / (1 + np.exp(-1.5 * x)), 1] = np.nan
        found = imputed(raw, variables(NUMBERS, NUMBERS), rng)
        off["imputed"].append(float(found[:, 1].mean() - y.mean()))
        off["complete"].append(float(np.nanmean(raw[:, 1]) - y.mean()))
    assert abs(np.mean(off["complete"])) > 0.3
    assert abs(np.mean(off["imputed"])) < 0.12


def survey(folder: Path, share: float, n: int = 60) -> tuple[Table, Plan]:
    rng = np.random.default_rng(4)
    lines = ["a,b,c"]
    for k in range(n):
        cells = [f"{v:.3f}" for v in rng.normal(size=3) + 6 * (k % 3)]
        lines.append(",".join("" if rng.random() < share else cell for cell in cells))
    path = folder / "t.csv"
    path.write_text("\n".join(lines), encoding="utf-8")
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "c"]\n[scale]\n'
        'method = "zscore"\n[missing]\nhandling = "drop"\n'
    )
    return read_table(path), parse_plan(text, "p.toml")


def test_each_tree_is_that_of_a_completed_data_set(tmp_path: Path) -> None:
    table, plan = survey(tmp_path, 0.08)
    own = analyse(table, plan)
    cut = cut_at_count(own.tree, 3)
    found = imputed_trees(table, plan, own, cut, 4, 9)
    assert found.cases == table.n > own.tree.n
    for k, agreement in enumerate(found.agreement):
        random = np.random.default_rng([9, 17, k])
        filled = prepare(table, plan, None, partial(imputed, random=random))
        grown = grow_prepared(filled, plan, {})
        places = np.searchsorted(filled.numbers, own.prepared.numbers)
        its = cut_at_count(grown.tree, 3).membership[places] - 1
        assert agreement == pytest.approx(adjusted_rand(cross_counts(cut.membership - 1, its)))
    assert min(found.agreement) > 0.9
    assert found.together.clusters.min() > 0.9
    words = filled_words(found, ["A", "B", "C"])
    assert f"{found.gaps} missing answers imputed 4 times" in words


def test_without_gaps_there_is_nothing_to_fill(tmp_path: Path) -> None:
    table, plan = survey(tmp_path, 0.0)
    own = analyse(table, plan)
    found = imputed_trees(table, plan, own, cut_at_count(own.tree, 3), 2, 1)
    assert found.agreement == (1.0, 1.0)
    assert filled_words(found, ["A", "B", "C"]).startswith("No answer is missing")


def test_a_variable_without_answers_is_said(tmp_path: Path) -> None:
    table, plan = survey(tmp_path, 0.0)
    own = analyse(table, plan)
    cut = cut_at_count(own.tree, 2)
    (tmp_path / "t.csv").write_text("a,b,c\n1,2,\n3,4,\n5,1,\n", encoding="utf-8")
    with pytest.raises(InputError, match="without any answer"):
        imputed_trees(read_table(tmp_path / "t.csv"), plan.with_("variables", interval=["c"]), own,
                      cut, 1, 1)  # fmt: skip
