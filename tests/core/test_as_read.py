"""Whoever is handed a table as it was read sees the columns that the plan makes of it."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path

import numpy as np
import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from gorvel.core.cases.design import sample_of
from gorvel.core.count.groups import groups_of
from gorvel.core.derive.making import as_completed
from gorvel.core.export.groups import group_frame
from gorvel.core.grow.allocation import place_set_aside
from gorvel.core.grow.grown import analyse, relabelled
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.dropped_cases import lost_cases
from gorvel.core.profile.raw_answers import read_answers
from gorvel.core.study.groups import grow_groups
from gorvel.core.study.kept import KeptTree, grown_again
from gorvel.core.study.tree_pairs import Side, pair_trees
from gorvel.core.table.table import Table

WORDS = ["never", "seldom", "often", "always"]
MADE = """
[[make]]
name = "how"
from = "w"
order = ["never", "seldom", "often", "always"]
[[make]]
name = "half"
formula = "n >= 10"
[[make]]
name = "heavy"
formula = "1 + n / 40"
"""


def table_of(seed: int, n: int = 24) -> Table:
    rng = np.random.default_rng(seed)
    numbers = rng.integers(0, 20, n)
    numbers[:4] = [2, 3, 15, 16]  # two of each half
    return Table(
        "t.csv",
        pl.DataFrame(
            {
                "w": [None if rng.random() < 0.1 else w for w in rng.choice(WORDS, n)],
                "n": [str(k) for k in numbers],
                "x": [str(k) for k in rng.integers(0, 9, n)],
            },
            schema=dict.fromkeys("wnx", pl.String),
        ),
    )


def plan_of(more: str = "") -> Plan:
    head = 'gorvel = 1\n[source]\nfile = "t.csv"\n'
    cases = '[cases]\nlabel = "n"\nweight = "heavy"\ngroups = "half"\nkeep = "half < 2"\n'
    cases += "set_aside = [5]\nplace_set_aside = true\n"
    rest = '[variables]\nuse = ["how", "x"]\nprofile = ["half"]\n[design]\nstrata = "half"\n'
    return parse_plan(head + MADE + cases + rest + more, "p.toml")


@settings(max_examples=15)
@given(st.integers(0, 10**6))
def test_as_read_is_as_completed(seed: int) -> None:
    read, plan = table_of(seed), plan_of()
    whole = as_completed(read, plan)
    assert set(whole.names) > set(read.names)
    grown = analyse(read, plan)
    assert grown.tree.heights.tolist() == analyse(whole, plan).tree.heights.tolist()
    one, two = (read_answers(table, plan, grown.prepared) for table in (read, whole))
    assert [told.name for told in one] == ["how", "x", "half"]
    for mine, its in zip(one, two, strict=True):
        np.testing.assert_array_equal(mine.values, its.values)
    assert list(map(asdict, lost_cases(read, plan, grown.prepared))) == list(
        map(asdict, lost_cases(whole, plan, grown.prepared))
    )
    known, its_known = groups_of(grown, read, plan), groups_of(grown, whole, plan)
    assert (known is None) == (its_known is None)
    if known is not None and its_known is not None:
        assert known.codes.tolist() == its_known.codes.tolist()
    design, its_design = (
        sample_of(read, plan, grown.prepared),
        sample_of(whole, plan, grown.prepared),
    )
    assert design is not None
    assert its_design is not None
    assert design.stratum.tolist() == its_design.stratum.tolist()
    assert relabelled(grown, read, plan).prepared.labels == grown.prepared.labels
    placed, its_placed = place_set_aside(read, plan, grown), place_set_aside(whole, plan, grown)
    assert (placed is None) == (its_placed is None)
    kept = KeptTree.of(plan, grown)
    assert grown_again(read, kept).prepared.labels == grown.prepared.labels


@settings(max_examples=8)
@given(st.integers(0, 10**6))
def test_groups_of_a_made_split(seed: int) -> None:
    read = table_of(seed)
    plan = plan_of().with_("cases", split="half", groups=None).with_whole("design", None)
    groups = grow_groups(read, plan)
    assert set(groups.kept) == {"0", "1"}
    frame = group_frame(read, list(groups.kept.values()))
    assert frame["half"].cast(pl.String).to_list() == frame["group"].to_list()


@settings(max_examples=8)
@given(st.integers(0, 10**6))
def test_trees_of_made_variables_are_compared(seed: int) -> None:
    """The other of two trees may make others than the one whose answers are told."""
    read, plan = table_of(seed), plan_of()
    other = plan.with_("tree", linkage="average").using(["x"])
    sides = [
        Side((number, None), one, None, KeptTree.of(one, analyse(read, one)))
        for number, one in ((1, plan), (2, other))
    ]
    faced = pair_trees(read, sides[0], sides[1], lambda phase, share: None)
    assert [told.name for told in faced.told] == ["how", "x", "half"]
    assert Path(read.name).name == "t.csv"
