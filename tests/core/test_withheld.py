"""Tests that cannot be trusted are withheld, and intervals of no width are not shown."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.design import Design
from gorvel.core.grow.assigning import Given
from gorvel.core.profile.differences import differences, why_withheld
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.sample_comparison import panel_of, waves_of
from gorvel.core.run import run_plan

LEVELS = ("interval", "nominal", "binary")


def told_of(rng: np.random.Generator, level: str, n: int) -> Question:
    values = rng.integers(0, 2 if level == "binary" else 4, n).astype(float)
    values[rng.random(n) < 0.2] = np.nan
    words = () if level == "interval" else tuple("abcd"[: 2 if level == "binary" else 4])
    return Question("x", level, "profile", values, words)  # type: ignore[arg-type]


def sampled(rng: np.random.Generator, n: int, units: int) -> Design:
    psu = np.sort(rng.integers(0, units, n))
    psu = np.unique(psu, return_inverse=True)[1]
    stratum = np.zeros(int(psu.max()) + 1, dtype=np.int64)
    return Design(np.ones(n), psu, stratum, "stop", None, np.empty(0), len(stratum) - 1)


@given(st.integers(0, 10**6), st.sampled_from(LEVELS), st.integers(2, 5), st.booleans())
def test_by_the_definition(seed: int, level: str, count: int, by_design: bool) -> None:
    rng = np.random.default_rng(seed)
    n = int(rng.integers(6, 60))
    told, own = told_of(rng, level, n), rng.integers(0, count, n)
    design = sampled(rng, n, int(rng.integers(2, 12))) if by_design else None
    doubtful = False
    for cluster in range(count):
        rows = [k for k in range(n) if own[k] == cluster and not np.isnan(told.values[k])]
        if not rows:
            continue
        doubtful |= len(rows) < 5
        doubtful |= level == "interval" and len({told.values[k] for k in rows}) == 1
        if design is not None and design.psu is not None:
            doubtful |= len({int(design.psu[k]) for k in rows}) < 2
    why = why_withheld(told, own, count, design)
    assert bool(why) is doubtful
    found = differences(told, own, count, np.ones(n), design)
    assert [one.withheld for one in found] == [why] * len(found)
    plain = differences(told, own, count, np.ones(n))
    assert found[0].statistic == plain[0].statistic or np.isnan(found[0].statistic)  # still there


@given(st.integers(0, 10**6), st.sampled_from(LEVELS), st.booleans())
def test_no_interval_without_width(seed: int, level: str, by_design: bool) -> None:
    rng = np.random.default_rng(seed)
    n, count = int(rng.integers(4, 30)), 3
    told, own = told_of(rng, level, n), rng.integers(0, count, n)
    told.values[own == 0] = 1.0
    design = sampled(rng, n, 6) if by_design else None
    for lane in lanes_of([told], own, count, np.ones(n), design):
        known = np.isfinite(lane.lower)
        assert (lane.lower[known] < lane.upper[known]).all()
        assert not known[0]  # all of them answer alike


@given(st.integers(0, 10**6))
def test_panels_by_the_definition(seed: int) -> None:
    rng = np.random.default_rng(seed)
    count, n = int(rng.integers(2, 5)), 80
    own, other = rng.integers(0, count, n), rng.integers(1, count + 1, n)
    labels = [f"p{k}" for k in range(n)]
    seen = rng.permutation(n)[: int(rng.integers(10, n))].tolist()
    none = np.zeros(len(seen))
    given_ = Given(other[seen], none, none.astype(int), none, none.astype(bool))
    panel = panel_of(own, count, labels, given_, [labels[k] for k in seen])
    assert panel is not None
    table = [[0] * count for _ in range(count)]
    for k in seen:
        table[own[k]][other[k] - 1] += 1
    assert panel.table.tolist() == table
    assert panel.stay == sum(table[k][k] for k in range(count))
    if count == 2 and np.isfinite(panel.p):  # then it is McNemar’s without correction
        one, two = table[0][1], table[1][0]
        assert panel.chi2 == pytest.approx((one - two) ** 2 / (one + two))
    # the last of the clusters may be any of them
    if np.isfinite(panel.p):
        turned = Given(count + 1 - other[seen], none, none.astype(int), none, none.astype(bool))
        again = panel_of(count - 1 - own, count, labels, turned, [labels[k] for k in seen])
        assert again is not None
        assert again.chi2 == pytest.approx(panel.chi2)
    strangers = [f"q{k}" for k in range(len(seen))]
    assert panel_of(own, count, labels, given_, strangers) is None
    assert panel_of(own, count, ["x"] * n, given_, [labels[k] for k in seen]) is None


def test_sizes_are_not_tested_where_few_cases_are_expected() -> None:
    own = np.array([0] * 50 + [1] * 48 + [2] * 2)
    given_ = Given(np.array([1] * 60 + [2] * 40), *(np.zeros(100),) * 3, np.zeros(100, dtype=bool))
    waves = waves_of(own, 3, given_)
    assert waves.few.tolist() == [False, False, True]
    assert np.isnan(waves.p)
    assert np.isfinite(waves.chi2)
    assert np.isnan(waves.p_each[2])
    assert np.isfinite(waves.p_each[:2]).all()


def test_files_keep_them_with_the_caution_beside(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    rows = [f"{k},{rng.normal():.3f},{51 if k < 2 else 20 + k % 40},{k // 4}" for k in range(60)]
    rows[:2] = ["0,90,51,0", "1,91,51,0"]
    (tmp_path / "t.csv").write_text("\n".join(["id,a,age,unit", *rows]))
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\nprofile = ["age"]\n'
        '[cut]\ncounts = [2]\n[design]\npsu = "unit"\n'
    )
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    with (tmp_path / "out" / "tests.csv").open() as file:
        told = [row for row in csv.DictReader(file) if row["variable"] == "age"]
    assert {row["test"] for row in told} == {"f", "wald-f"}
    for row in told:
        assert row["statistic"]
        assert row["p"]
        assert row["caution"] == "not to be trusted: cluster 1 has only 2 cases with an answer"
