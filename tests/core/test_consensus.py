"""Consensus of several trees, against slow code from the definitions."""

from __future__ import annotations

import csv
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import runs
from gorvel.core.base.errors import InputError
from gorvel.core.compare.consensus import average_tree, cophenetic_matrix, in_all, shared_branches
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import run_plan
from gorvel.core.tree.cuts import cut_at_count
from reference import trees as slow
from studies import random_tree, study


@given(st.integers(0, 10**6), st.integers(1, 14), st.integers(1, 14))
def test_heights_of_meeting_are_looked_up_pair_by_pair(seed: int, n: int, m: int) -> None:
    tree, rng = random_tree(seed, n), np.random.default_rng(seed)
    cases = rng.choice(n, min(m, n), replace=False)
    found = cophenetic_matrix(tree, cases)
    for i, a in enumerate(cases.tolist()):
        for j, b in enumerate(cases.tolist()):
            wanted = 0.0 if a == b else float(tree.heights[tree.meeting(a, b)])
            assert found[i, j] == wanted


@given(st.integers(0, 10**6), st.integers(2, 9), st.integers(1, 4))
def test_the_average_tree_is_that_of_averaged_heights(seed: int, n: int, many: int) -> None:
    rng = np.random.default_rng(seed)
    x = np.round(rng.normal(size=(n, 2)), 1)
    x[rng.integers(n)] = x[0]
    rules = [("squared-euclidean", "ward"), ("euclidean", "complete"), ("city-block", "single"),
             ("euclidean", "average")][:many]  # fmt: skip
    trees = [study(x, measure, linkage) for measure, linkage in rules]
    found, _ = average_tree(trees, None, "t.csv")
    mean = [[0.0] * n for _ in range(n)]
    for grown in trees:
        top = max(grown.tree.heights.tolist(), default=0.0)
        for i, j in combinations(range(n), 2):
            share = float(grown.tree.heights[grown.tree.meeting(i, j)]) / (top or 1.0)
            mean[i][j] = mean[j][i] = mean[i][j] + share / many
    joins = slow.agglomerate(mean, [1.0] * n, "average")
    assert found.tree.heights == pytest.approx([float(join.height) for join in joins], abs=1e-9)
    for k, join in enumerate(joins):
        for node, members in ((found.tree.left[k], join.left), (found.tree.right[k], join.right)):
            assert sorted(found.tree.members(int(node)).tolist()) == list(members)


def test_a_tree_and_itself_have_its_shape() -> None:
    grown = study(np.random.default_rng(4).normal(size=(20, 3)), "euclidean", "average")
    found, _ = average_tree([grown, grown], None, "t.csv")
    assert found.tree.left.tolist() == grown.tree.left.tolist()
    assert found.tree.heights == pytest.approx(grown.tree.heights / grown.tree.heights[-1])
    assert [branch.share for branch in
            shared_branches([(grown.tree, np.arange(20))] * 2)] == [1.0] * 18  # fmt: skip


@given(st.integers(0, 10**6), st.integers(2, 8), st.integers(1, 5), st.integers(2, 8))
def test_branches_that_most_trees_have(seed: int, n: int, many: int, m: int) -> None:
    rng = np.random.default_rng(seed)
    common = rng.choice(n, min(m, n), replace=False)
    trees = [random_tree(int(rng.integers(3)), n) for _ in range(many)]
    sets = []
    for tree in trees:
        below = [{int(c) for c in tree.members(node)} & {int(c) for c in common}
                 for node in range(n, n + tree.joins)]  # fmt: skip
        sets.append({frozenset(one) for one in below if 2 <= len(one) < len(common)})
    wanted = {}
    for one in set().union(*sets):
        share = sum(one in mine for mine in sets) / many
        if share > 0.5:
            wanted[one] = share
    found = shared_branches([(tree, common) for tree in trees])
    told = {frozenset(int(common[k]) for k in branch.cases): branch.share for branch in found}
    assert told == wanted
    shares = [branch.share for branch in found]
    assert shares == sorted(shares, reverse=True)
    for one, other in combinations(told, 2):  # they never contradict each other
        assert not one & other or one <= other or other <= one


PLAN = f"""{runs.PLAN}[cut]
counts = [2, 3, 12]
[[trees]]
name = "c"
linkage = "complete"
[[trees]]
name = "m"
linkage = "average"
handling = "mean"
"""


def test_a_run_writes_it_for_the_cases_that_all_trees_keep(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    lines = ["id,a,b"] + [f"p{k},{rng.normal():.3f},{'' if k == 3 else f'{rng.normal():.3f}'}"
                          for k in range(12)]  # fmt: skip
    (tmp_path / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    plan = PLAN.replace("counts = [2, 3, 12]", "counts = [2, 3]")
    (tmp_path / "p.toml").write_text(plan + "[consensus]\n", encoding="utf-8")
    outcome = run_plan(tmp_path / "p.toml", tmp_path / "out")
    folder = tmp_path / "out" / "consensus"
    assert {"consensus/schedule.csv", "consensus/membership.csv", "consensus/order.csv",
            "consensus/tree.nwk"} <= set(outcome.files)  # fmt: skip
    with (folder / "membership.csv").open(encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    assert [row["case"] for row in rows] == [str(k) for k in range(1, 13)]
    assert rows[3]["k2"] == ""
    assert all(row["k2"] for k, row in enumerate(rows) if k != 3)
    with (folder / "schedule.csv").open(encoding="utf-8") as file:
        schedule = list(csv.DictReader(file))
    assert len(schedule) == 10
    assert {row["within_ss"] for row in schedule} == {""}
    assert float(schedule[-1]["height"]) <= 1.0
    with (folder / "branches.csv").open(encoding="utf-8") as file:
        branches = list(csv.DictReader(file))
    assert all(float(row["share"]) > 0.5 for row in branches)
    assert all(len(row["members"].split()) == int(row["cases"]) for row in branches)
    assert "4" not in {number for row in branches for number in row["members"].split()}


def test_a_consensus_needs_other_trees() -> None:
    with pytest.raises(InputError, match=r"\[consensus\]"):
        parse_plan('gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n[consensus]\n',
                   "p.toml")  # fmt: skip


def test_no_case_in_all_trees_is_said() -> None:
    x = np.random.default_rng(1).normal(size=(5, 2))
    one, other = study(x), study(x[:1])
    with pytest.raises(InputError, match="1 case that all trees keep"):
        average_tree([one, other], None, "t.csv")
    assert in_all([np.array([1, 4, 6]), np.array([4, 5, 6])]).tolist() == [4, 6]
    assert cut_at_count(one.tree, 2).clusters == 2
