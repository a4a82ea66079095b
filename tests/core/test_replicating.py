"""Clusters of one group found again in another: against slow code from the definition."""

from __future__ import annotations

import math

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.rows import split_rows
from gorvel.core.compare.cross_validation import Replication, found_again
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.comparison import found_again_words, groups_words
from reference import comparisons as slow


def study(values: np.ndarray, groups: list[str], **parts: dict[str, object]) -> tuple[Table, Plan]:
    cells = {f"v{j}": ["" if math.isnan(x) else repr(float(x)) for x in column]
             for j, column in enumerate(values.T)}  # fmt: skip
    frame = pl.DataFrame(cells | {"g": groups}).with_columns(pl.all().replace("", None))
    names = [f"v{j}" for j in range(values.shape[1])]
    whole: dict[str, dict[str, object]] = {
        "source": {"file": "t.csv"}, "variables": {"use": names},
        "cases": {"split": "g"}, "scale": {"method": "zscore"},
    }  # fmt: skip
    return Table("t.csv", frame), validated(whole | parts, "p.toml")


def grown(table: Table, plan: Plan) -> dict[str, Grown]:
    return {group: analyse(table, plan, rows=rows, group=group)
            for group, rows in split_rows(table, plan).items()}  # fmt: skip


def again(table: Table, plan: Plan, count: int) -> dict[tuple[str, str], Replication]:
    return found_again(table, plan, grown(table, plan), count)


@given(
    st.integers(0, 10**6), st.integers(2, 5), st.sampled_from(["ward", "average"]), st.booleans()
)
def test_each_case_goes_to_the_nearest_centroid_on_the_scale_of_the_tree(
    seed: int, count: int, linkage: str, gaps: bool
) -> None:
    rng = np.random.default_rng(seed)
    n = int(rng.integers(8, 30))
    x = rng.normal(size=(n, 2)) + 3 * rng.integers(0, 3, (n, 1))
    if gaps:
        x[rng.random((n, 2)) < 0.1] = np.nan
    groups = ["a", "b", "a", "b", "a", "b", *rng.choice(["a", "b"], n - 6).tolist()]
    whole = ~np.isnan(x).any(axis=1)
    a, b = (np.flatnonzero(whole & (np.array(groups) == g)) for g in "ab")
    if min(len(a), len(b)) < 2 or min(np.ptp(x[rows], axis=0).min() for rows in (a, b)) == 0:
        return
    table, plan = study(x, groups, tree={"linkage": linkage})
    trees = grown(table, plan)
    found = found_again(table, plan, trees, count)
    assert set(found) == {("a", "b"), ("b", "a")}
    for (one, other), mine, its in ((("a", "b"), a, b), (("b", "a"), b, a)):
        cuts = [min(count, len(rows)) for rows in (mine, its)]
        own = cut_at_count(trees[one].tree, cuts[0]).membership.tolist()
        theirs = cut_at_count(trees[other].tree, cuts[1]).membership.tolist()
        mean, spread = x[mine].mean(axis=0), x[mine].std(axis=0, ddof=1)
        scaled = (x - mean) / spread
        centres = [
            [math.fsum(scaled[k, j] for k, c in zip(mine, own, strict=True) if c == cluster)
             / own.count(cluster) for j in range(2)]
            for cluster in range(1, cuts[0] + 1)
        ]  # fmt: skip
        given_to = []
        for row in its.tolist():
            far = [math.dist(scaled[row], centre) for centre in centres]
            given_to.append(far.index(min(far)) + 1)
        told = found[one, other]
        wanted = np.zeros(cuts, dtype=int)
        for c, d in zip(given_to, theirs, strict=True):
            wanted[c - 1, d - 1] += 1
        assert told.table.tolist() == wanted.tolist()
        assert told.cases == len(its)
        assert told.agreement == pytest.approx(slow.agreement(given_to, theirs)["adjusted_rand"])
        assert sorted(told.facing) == list(range(cuts[1]))


def test_clusters_that_are_everywhere_are_found_again_and_others_are_not() -> None:
    rng = np.random.default_rng(3)
    corners = np.array([[0, 0], [9, 0], [0, 9], [9, 9]])
    kinds = np.tile(np.arange(4), 45)
    x = corners[kinds] + rng.normal(size=(180, 2))
    groups = np.repeat(["north", "south", "west"], 60)
    x[120:] = rng.normal(size=(60, 2)) * [9, 1]  # in the west there is one long cloud
    found = again(*study(x, groups.tolist(), scale={"method": "none"}), 4)
    assert found["north", "south"].agreement == 1
    assert found["south", "north"].agreement == 1
    assert found["north", "south"].table[:, found["north", "south"].facing].diagonal().sum() == 60
    assert max(found["north", "west"].agreement, found["west", "north"].agreement) < 0.8
    words = groups_words(found, {"north": "N", "south": "S", "west": "W"}, 4)
    assert "Agreement is highest for N and S (1.00)" in words
    assert found_again_words(found["north", "south"], "N", "S") == (
        "60 cases of S in the clusters of N (by the nearest centroid) and in their own: adjusted"
        " Rand index 1.00."
    )


def test_other_measures_give_by_mean_proximity_and_gaps_take_no_part() -> None:
    rng = np.random.default_rng(5)
    x = np.abs(rng.normal(size=(30, 3))) + np.tile([[1, 9, 1], [9, 1, 1]], (15, 1))
    groups = (["a"] * 14) + (["b"] * 16)
    x[20] = np.nan
    found = again(*study(x, groups, proximity={"measure": "canberra"}, scale={"method": "none"},
                         tree={"linkage": "average"}), 2)  # fmt: skip
    assert found["a", "b"].method == "mean"
    assert found["a", "b"].cases == 15
    assert found["a", "b"].agreement == 1


def test_nearly_nobody_is_told_as_such() -> None:
    x = np.array([[0.0], [1.0], [5.0], [7.0], [8.0], [9.0]])
    found = again(*study(x, ["a", "a", "a", "a", "b", "b"], scale={"method": "none"}), 3)
    assert found["a", "b"].table.shape == (3, 2)
    assert found["b", "a"].table.shape == (2, 3)
    nobody = Replication(1, float("nan"), np.zeros((1, 1), dtype=np.int64), "centroid")
    assert "too few cases" in found_again_words(nobody, "A", "B")
    assert groups_words({("a", "b"): nobody, ("b", "a"): nobody}, {"a": "A", "b": "B"}, 2) == ""
