"""Trees grown from the top, against slow code from the definition, in exact fractions."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.linkage.rules import LINKAGES, SPLINTER, TREE_RULES
from gorvel.core.linkage.splitting import split_apart
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import run_plan
from gorvel.core.tree.cuts import cut_at_count
from studies import study

Split = tuple[tuple[int, ...], tuple[int, ...], Fraction, bool]


def splits_slowly(d: list[list[int]]) -> list[Split]:
    """The parts of each split, in order, with the diameter, and whether a draw was decided."""
    clusters = [tuple(range(len(d)))]
    out: list[Split] = []

    def diameter(cluster: tuple[int, ...]) -> Fraction:
        return max((Fraction(d[i][j]) for i in cluster for j in cluster if i != j),
                   default=Fraction(-1))  # fmt: skip

    def mean(case: int, others: list[int]) -> Fraction:
        return Fraction(sum(d[case][k] for k in others), len(others))

    while any(len(cluster) > 1 for cluster in clusters):
        widest = max(diameter(cluster) for cluster in clusters)
        equal = [cluster for cluster in clusters if diameter(cluster) == widest]
        cluster, drawn = min(equal), len(equal) > 1
        stay, left = list(cluster), []
        while len(stay) > 1:
            gains = {}
            for case in stay:
                others = [k for k in stay if k != case]
                gains[case] = mean(case, others) - (mean(case, left) if left else 0)
            best = max(gains.values())
            if left and best <= 0:
                break
            close = [case for case in stay if gains[case] == best]
            drawn = drawn or len(close) > 1
            stay.remove(close[0])
            left.append(close[0])
        clusters.remove(cluster)
        parts = sorted([tuple(stay), tuple(sorted(left))])
        clusters += parts
        out.append((parts[0], parts[1], widest, drawn))
    return out


@given(st.integers(0, 10**6), st.integers(1, 9), st.integers(1, 12))
def test_splits_are_those_of_the_definition(seed: int, n: int, most: int) -> None:
    rng = np.random.default_rng(seed)
    d = rng.integers(0, most + 1, (n, n))
    d = np.triu(d, 1) + np.triu(d, 1).T
    found = split_apart(d.astype(float))
    wanted = splits_slowly(d.tolist())[::-1]
    assert found.joins == len(wanted) == n - 1
    for k, (one, other, width, drawn) in enumerate(wanted):
        assert sorted(found.members(int(found.left[k])).tolist()) == list(one)
        assert sorted(found.members(int(found.right[k])).tolist()) == list(other)
        assert found.heights[k] == float(width)
        assert bool(found.tied[k]) == bool(found.tie_matters[k]) == drawn


@given(st.integers(0, 10**6), st.integers(2, 40))
def test_heights_are_diameters_and_never_step_back(seed: int, n: int) -> None:
    x = np.random.default_rng(seed).normal(size=(n, 3))
    grown = study(x, "euclidean", "splinter")
    d = np.sqrt(((x[:, None] - x[None]) ** 2).sum(axis=2))
    for k in range(grown.tree.joins):
        members = grown.tree.members(n + k)
        assert grown.tree.heights[k] == pytest.approx(d[np.ix_(members, members)].max())
    assert not grown.tree.inversions.any()
    last = [grown.tree.heights[grown.tree.used_at[case]] for case in range(n)]
    wanted = np.mean([1 - height / d.max() for height in last])
    assert grown.divisive == pytest.approx(wanted)
    assert grown.agglomerative is None


def test_two_groups_far_apart_are_the_first_split() -> None:
    rng = np.random.default_rng(5)
    x = np.vstack([rng.normal(0, 1, (20, 2)), rng.normal(30, 1, (25, 2))])
    own = cut_at_count(study(x, "euclidean", "splinter").tree, 2).membership
    assert own.tolist() == [1] * 20 + [2] * 25


def test_it_is_a_rule_by_name_alone() -> None:
    assert SPLINTER.key not in LINKAGES
    assert set(TREE_RULES) == {*LINKAGES, "splinter"}
    text = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n'
    plan = parse_plan(text + '[sweep]\nlinkages = "all"\n', "p.toml")
    assert plan.sweep is not None
    assert plan.sweep.linkages == tuple(LINKAGES)
    named = parse_plan(text + '[sweep]\nlinkages = ["splinter", "ward"]\n', "p.toml")
    assert named.sweep is not None
    assert named.sweep.linkages == ("splinter", "ward")
    with pytest.raises(InputError, match="neighbours"):
        parse_plan(text + '[tree]\nlinkage = "splinter"\nneighbours = "file"\n', "p.toml")


def test_a_run_tells_the_divisive_coefficient_and_passes_weights_over(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    lines = ["a,b,w"] + [f"{rng.normal():.3f},{rng.normal():.3f},{k % 3 + 1}" for k in range(15)]
    (tmp_path / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    plan = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nweight = "w"\n[variables]\nuse = ["a", "b"]'
        '\n[proximity]\nmeasure = "euclidean"\n[tree]\nlinkage = "splinter"\n'
    )
    (tmp_path / "p.toml").write_text(plan, encoding="utf-8")
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    told = json.loads((tmp_path / "out" / "summary.json").read_text(encoding="utf-8"))
    assert told["agglomerative_coefficient"] is None
    assert 0 < told["divisive_coefficient"] < 1
    assert "weights-ignored" in {caution["code"] for caution in told["cautions"]}
    (tmp_path / "p.toml").write_text(plan.replace("splinter", "ward"), encoding="utf-8")
    run_plan(tmp_path / "p.toml", tmp_path / "ward")
    told = json.loads((tmp_path / "ward" / "summary.json").read_text(encoding="utf-8"))
    assert "divisive_coefficient" not in told
