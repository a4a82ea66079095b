"""Trees of the groups of a split are those that each group has alone."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import Cancelled, GorvelError, InputError
from gorvel.core.base.progress import Phase
from gorvel.core.cases.rows import split_rows
from gorvel.core.export.groups import group_frame, save_groups
from gorvel.core.grow.grown import analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan
from gorvel.core.study.groups import grow_groups
from gorvel.core.study.kept import KeptCut
from plans import LEAST, table

PLAN = parse_plan(LEAST, "p.toml").with_parts(
    {"cases": {"split": "word"}, "missing": {"handling": "drop"}}
)


@pytest.mark.slow
@settings(max_examples=examples(60))
@given(
    st.integers(0, 10**6), st.sampled_from(sorted(LINKAGES)),
    st.lists(st.integers(1, 9), unique=True, max_size=3), st.booleans(),
    st.sampled_from(["x", "y", "z", None]),
)  # fmt: skip
def test_each_group_has_the_tree_it_has_alone_and_its_cases_their_clusters(
    seed: int, linkage: str, aside: list[int], place: bool, wanted: str | None
) -> None:
    source = table(seed)
    plan = PLAN.with_parts(
        {"tree": {"linkage": linkage}, "cases": {"set_aside": aside, "place_set_aside": place}}
    )
    groups = split_rows(source, plan)
    alone, small = {}, {}
    for group, rows in groups.items():
        try:
            alone[group] = analyse(source, plan, rows)
        except GorvelError as error:
            small[group] = str(error)
            continue
        if alone[group].tree.n < 2:
            small[group] = "few"
            del alone[group]
    if not alone:
        with pytest.raises(InputError, match="no group has a tree"):
            grow_groups(source, plan, wanted)
        return
    found = grow_groups(source, plan, wanted)
    assert list(found.kept) == list(alone)
    assert set(found.without) == set(small)
    assert found.first == (wanted if wanted in alone else next(iter(alone)))
    assert found.grown.tree.n == alone[found.first].tree.n
    for group, grown in alone.items():
        kept = found.kept[group]
        assert np.array_equal(kept.tree.heights, grown.tree.heights)
        assert np.array_equal(kept.tree.left, grown.tree.left)
        assert kept.grows_as(plan)
        assert not kept.grows_as(plan.with_("cases", split=None))
    cuts = {group: min(2 + k, tree.tree.n) for k, (group, tree) in enumerate(found.kept.items())}
    trees = [tree.with_(cut=KeptCut(cuts[group])) for group, tree in found.kept.items()]
    frame = group_frame(source, trees)
    assert frame["group"].to_list() == [
        next(g for g, rows in groups.items() if row in rows) for row in range(source.n)
    ]
    for tree in trees:
        grown = alone[tree.group or ""]
        inside = grown.prepared.numbers - 1
        cut = tree.cut.cut(tree.tree)  # type: ignore[union-attr]
        assert frame["cluster"].to_numpy()[inside].tolist() == cut.membership.tolist()
        letters = frame["letter"].to_numpy()[inside].tolist()
        assert letters == ["?ABCDEFGHI"[k] for k in cut.membership.tolist()]
    counted = sum(grown.tree.n for grown in alone.values())
    placed = int(frame["placed"].sum()) if "placed" in frame.columns else 0
    assert placed <= len(aside) * place
    assert frame["cluster"].count() == counted + placed


def test_a_row_without_a_group_and_groups_of_one_are_refused() -> None:
    source = table(1)
    with pytest.raises(InputError, match="no group has a tree"):
        grow_groups(source, PLAN.with_("cases", split="c", keep="c < 0"))
    gaps = next(t for s in range(99) if (t := table(s)).frame["a"].null_count())
    with pytest.raises(InputError, match='column "a"'):
        grow_groups(gaps, PLAN.with_("cases", split="a"))


def test_progress_runs_over_all_groups_and_can_stop_them() -> None:
    told: list[float] = []
    grow_groups(table(3), PLAN, None, lambda phase, share: told.append(share))
    assert told == sorted(told)
    assert max(told) <= 1

    def stop(phase: Phase, share: float) -> None:
        if share > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        grow_groups(table(3), PLAN, None, stop)


def test_memberships_of_groups_are_written_whole(tmp_path) -> None:  # type: ignore[no-untyped-def]
    several = (grow_groups(table(seed), PLAN).kept for seed in range(40))
    seed, kept = next((k, kept) for k, kept in enumerate(several) if len(kept) > 1)
    source, trees = table(seed), list(kept.values())
    frame = save_groups(source, trees, tmp_path / "m.csv")
    assert (tmp_path / "m.csv").read_text().splitlines()[0].endswith(",group,cluster,letter")
    assert Counter(frame["cluster"].drop_nulls().to_list()) == {1: sum(t.tree.n for t in trees)}
    with pytest.raises(InputError, match="file type"):
        save_groups(source, trees, tmp_path / "m.doc")
