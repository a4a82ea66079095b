"""Cases set aside are given clusters as if they had been measured with the others."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.export.membership import membership_frame
from gorvel.core.grow.allocation import Placed, place_set_aside
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.run import run_plan
from gorvel.core.table.reading import read_table
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count

ANSWERS = st.lists(
    st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=4, max_size=9, unique=True
)


def written(directory: Path, rows: list[tuple[object, ...]]) -> Path:
    path = directory / "t.csv"
    path.write_text("a,b\n" + "\n".join(",".join(map(str, row)) for row in rows) + "\n")
    return path


def plan(aside: list[int], **parts: object) -> Plan:
    cases = {"set_aside": tuple(aside), "place_set_aside": True}
    return Plan.model_validate(
        {"source": {"file": "t.csv"}, "cases": cases, "variables": {"use": ("a", "b")}, **parts}
    )


def placed_by(table: Table, asked: Plan) -> Placed | None:
    """Who a plan sets aside, in the tree that it grows."""
    return place_set_aside(table, asked, analyse(table, asked))


@given(rows=ANSWERS, measure=st.sampled_from(["squared-euclidean", "euclidean", "city-block"]))
def test_each_goes_to_the_nearest_cluster_on_the_scales_of_the_others(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[int, int]], measure: str
) -> None:
    table = read_table(written(tmp_path_factory.mktemp("p"), [*rows, (30, -7), (2, 3)]))
    n = len(rows)
    columns = list(zip(*rows, strict=True))
    asked = plan(
        [n + 1, n + 2],
        scale={"method": "zscore" if all(len(set(c)) > 1 for c in columns) else "none"},
        proximity={"measure": measure},
        tree={"linkage": "average"},
    )
    grown = analyse(table, asked)
    placed = place_set_aside(table, asked, grown)
    assert placed is not None
    assert placed.cases == (n + 1, n + 2)
    means = [math.fsum(column) / n for column in columns]
    sds = [
        math.sqrt(math.fsum((x - m) ** 2 for x in c) / (n - 1))
        for c, m in zip(columns, means, strict=True)
    ]
    if asked.scale.method == "none":
        means, sds = [0.0, 0.0], [1.0, 1.0]

    def scaled(row: tuple[float, ...]) -> list[float]:
        return [(x - m) / s for x, m, s in zip(row, means, sds, strict=True)]

    cut = cut_at_count(grown.tree, 3)
    for own, given_ in zip([(30, -7), (2, 3)], placed.clusters(cut), strict=True):
        x, far = scaled(own), {}
        for cluster in (1, 2, 3):
            inside = [
                scaled(row) for row, k in zip(rows, cut.membership, strict=True) if k == cluster
            ]
            if measure == "city-block":
                gaps = [sum(abs(p - q) for p, q in zip(x, y, strict=True)) for y in inside]
                far[cluster] = math.fsum(gaps) / len(gaps)
            else:
                centre = [math.fsum(c) / len(inside) for c in zip(*inside, strict=True)]
                far[cluster] = math.fsum((p - q) ** 2 for p, q in zip(x, centre, strict=True))
        assert given_ is not None
        assert far[given_] <= min(far.values()) + 1e-9


def test_gaps_caps_and_ranks_follow_the_cases_of_the_tree(tmp_path: Path) -> None:
    rows = [(0, 1), (1, 2), (2, 3), (8, 7), (9, 8), (10, 9), (500, ""), ("", 8)]
    table = read_table(written(tmp_path, rows))
    dropped = placed_by(table, plan([7, 8]))
    assert dropped is None  # under drop, nobody with a gap is placed
    filled = placed_by(table, plan([7, 8], missing={"handling": "median"}))
    assert filled is not None
    np.testing.assert_array_equal(filled.points, [[500, 5], [5, 8]])
    capped = plan(
        [7], variables={"use": ("a",), "cap": {"a": (0, 100)}}, scale={"method": "range01"}
    )
    near = placed_by(table, capped.with_("missing", handling="mode"))
    assert near is not None
    assert near.points.tolist() == [[1.0]]
    ranked = plan(
        [7, 8], variables={"use": ("a", "b"), "ordinal": ("b",)}, proximity={"measure": "gower"}
    )
    grown = analyse(table, ranked)
    pairwise = place_set_aside(table, ranked, grown)
    assert pairwise is not None
    assert pairwise.points[1].tolist()[1] == 5.0  # the rank of 8 among 1 2 3 7 8 9
    clusters = pairwise.clusters(cut_at_count(grown.tree, 2))
    assert clusters == [2, 2]


def test_a_run_and_a_saved_table_mark_who_was_placed(tmp_path: Path) -> None:
    rows = [(0, 1), (1, 2), (9, 8), (10, 9), (9, 9), (0, "")]
    path = written(tmp_path, rows)
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n'
        "[cases]\nset_aside = [5, 6]\nplace_set_aside = true\n"
        '[variables]\nuse = ["a", "b"]\n[cut]\ncounts = [2]\n'
    )
    (tmp_path / "plan.toml").write_text(text)
    run_plan(tmp_path / "plan.toml", tmp_path / "out")
    text_out = (tmp_path / "out" / "membership.csv").read_text(encoding="utf-8")
    told = list(csv.DictReader(text_out.splitlines()))
    assert [row["k2"] for row in told] == ["1", "1", "2", "2", "2", ""]
    assert [row["placed"] for row in told] == ["0", "0", "0", "0", "1", "0"]
    table, asked = read_table(path), parse_plan(text, "plan.toml")
    grown = analyse(table, asked)
    frame = membership_frame(table, asked, grown, cut_at_count(grown.tree, 2))
    assert frame["cluster_k2"].to_list() == [1, 1, 2, 2, 2, None]
    assert frame["placed"].to_list() == [0, 0, 0, 0, 1, 0]
    with pytest.raises(InputError, match="place_set_aside: true; expected a tree of cases"):
        parse_plan(text + '[tree]\nof = "variables"\n', "plan.toml")
