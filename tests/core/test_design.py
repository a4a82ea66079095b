"""How the sample was drawn: units drawn anew within strata, and what that changes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.design import Design, design_of, sample_of
from gorvel.core.cases.prepare import prepare
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.count.resampling.support import branch_support
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.study.study import study_of
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.differences import change_words
from studies import asked, study


def sampled(units: list[int], stratum: list[int]) -> Design:
    """units : of each case; stratum : of each unit."""
    n = len(units)
    return Design(
        np.ones(n), np.array(units), np.array(stratum), "stop", None, np.empty(0),
        len(stratum) - len(set(stratum)),
    )  # fmt: skip


@given(st.integers(0, 10**6), st.lists(st.integers(1, 5), min_size=1, max_size=4))
def test_one_unit_less_is_drawn_of_each_stratum_and_whole(seed: int, sizes: list[int]) -> None:
    stratum = [h for h, size in enumerate(sizes) for _ in range(size)]
    rng = np.random.default_rng(seed)
    units = [*range(len(stratum)), *rng.integers(0, len(stratum), 20).tolist()]
    design = sampled(units, stratum)
    rows = design.drawn(np.random.default_rng(seed))
    times = np.bincount(rows, minlength=len(units))
    by_unit = {unit: {int(times[i]) for i, u in enumerate(units) if u == unit} for unit in units}
    assert all(len(found) == 1 for found in by_unit.values())  # all cases of a unit alike
    for h, size in enumerate(sizes):
        drawn = sum(min(by_unit[unit]) for unit in range(len(stratum)) if stratum[unit] == h)
        assert drawn == max(size - 1, 1)
    again = design.drawn(np.random.default_rng(seed))
    np.testing.assert_array_equal(rows, again)
    assert (np.diff(rows) >= 0).all()


def test_without_units_cases_are_drawn() -> None:
    weights = np.ones((6, 2))
    design = Design(
        np.ones(6), None, np.empty(0, int), "stop", weights, np.ones(2), 2
    )  # fmt: skip
    rows = design.drawn(np.random.default_rng(3))
    np.testing.assert_array_equal(rows, np.sort(np.random.default_rng(3).integers(0, 6, 6)))


def blobs() -> tuple[np.ndarray, list[int]]:
    """Two clouds; in each sampling unit cases are alike."""
    rng = np.random.default_rng(2)
    centres = rng.normal(size=(12, 2)) + np.where(np.arange(12) < 6, 0, 12)[:, None]
    units = [i % 12 for i in range(48)]
    return centres[units] + rng.normal(0, 0.05, (48, 2)), units


@pytest.mark.parametrize("linkage", ["ward", "single"])
def test_clusters_come_back_in_resamples_of_units(linkage: str) -> None:
    x, units = blobs()
    grown, design = study(x, "euclidean", linkage), sampled(units, [0] * 6 + [1] * 6)
    rounds, counts = 6, (2, 3, 4, 5, 6)
    plan = asked(resamples=rounds, seed=4)
    verdict = resampled(grown, plan, ["bootstrap-jaccard"], design=design)[0]
    plain = resampled(grown, plan, ["bootstrap-jaccard"])[0]
    own = {k: cut_at_count(grown.tree, k).membership for k in counts}
    best: dict[tuple[int, int], list[float]] = {}
    for number in range(rounds):
        rows = design.drawn(np.random.default_rng([4, number, 1]))
        tree = study(x[rows], "euclidean", linkage).tree
        for k in counts:
            new = cut_at_count(tree, k).membership
            parts = [{int(r) for r in rows[new == c]} for c in range(1, k + 1)]
            for c in range(1, k + 1):
                mine = set(np.flatnonzero(own[k] == c).tolist()) & set(rows.tolist())
                if mine:
                    found = max(len(mine & p) / len(mine | p) for p in parts)
                    best.setdefault((k, c), []).append(found)
    for k in counts:
        means = [float(np.mean(best[k, c])) for c in range(1, k + 1) if (k, c) in best]
        assert verdict.at(k) == pytest.approx(np.mean(means))
    assert verdict.at(2) > 0.99
    # cases of a unit come and go together, so that small clusters come back less often
    assert np.nanmean(verdict.values[2:]) != pytest.approx(np.nanmean(plain.values[2:]))
    support = branch_support(grown, 10, 1, design=design)
    assert support.of == "cases"
    assert not np.array_equal(support.plain, branch_support(grown, 10, 1).plain, equal_nan=True)


PLAN = {
    "source": {"file": "t.csv"}, "variables": {"use": ["a"]},
    "design": {"strata": "h", "psu": "u", "single": "centre"}, "cases": {"keep": "a > 0"},
}  # fmt: skip


def plan(**parts: object) -> Plan:
    return validated(PLAN | parts, "p.toml")


def test_units_are_pairs_and_all_rows_kept_count() -> None:
    cells = {"a": ["1", "2", "", "4", "-1"], "h": ["x", "y", "y", "y", "z"],
             "u": ["1", "1", "2", "2", "1"]}  # fmt: skip
    table = Table("t.csv", pl.DataFrame(cells))
    design = design_of(table, plan(), np.array([1, 2, 4]), None)
    assert design is not None
    assert (design.units, design.strata, design.df) == (3, 2, 1)  # row 5 is not chosen
    every = design_of(table, plan(cases={}), np.array([1, 2, 4]), None)
    assert every is not None
    assert (every.units, every.strata) == (4, 3)  # the gap of row 3 and row 5 count as drawn
    assert every.psu is not None
    assert len(set(every.psu.tolist())) == 3


def test_the_design_is_of_the_data_and_goes_to_every_plan_of_a_study() -> None:
    cells = {"a": ["1", "2", "3"], "b": ["1", "5", "2"], "u": ["1", "2", "2"]}
    table = Table("t.csv", pl.DataFrame(cells))
    base = validated({"source": {"file": "t.csv"}, "variables": {"use": ["a", "b"]}}, "p")
    begun = study_of(table, Path("t.csv"), base).keep()
    two = begun.planned(base.with_("tree", linkage="average"))
    three = two.keep().planned(two.plan.with_("tree", of="variables"))
    assert len({entry.plan.growth() for entry in three.trees}) == 3
    back = three.take(three.trees[0].id)
    told = back.planned(back.plan.with_whole("design", {"psu": "u"}))
    designs = {e.plan.tree.of: e.plan.design for e in told.trees}
    assert designs["cases"] is not None
    assert designs["variables"] is None  # how cases were drawn says nothing of it
    assert [e.plan.design is not None for e in told.trees].count(True) == 2
    assert told.plan.growth() == back.plan.growth()  # no tree is out of date by it
    assert change_words(back.plan, told.plan) == "the sample design"
    prepared = prepare(table, told.plan)
    assert sample_of(table, back.plan, prepared) is None
    found = sample_of(table, told.plan, prepared)
    assert found is not None
    assert found.df == 1
