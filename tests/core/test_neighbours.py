"""Trees in which only neighbours in an order join, against slow code from the definition."""

from __future__ import annotations

import csv
import itertools
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.linkage.agglomerate import working_proximities
from gorvel.core.linkage.contiguity import grow_in_sequence
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import run_plan
from gorvel.core.scene.arrangement import arrange
from reference import trees as slow
from studies import asked, plan, prepared, study

KEYS = [key for key, rule in LINKAGES.items() if rule.recurrence is not None]


def joined_slowly(d: list[list[float]], w: list[float], rule: str, order: list[int],
                  beta: float) -> list[slow.Join]:  # fmt: skip
    """Clusters are stretches of the order; the slow rules know nothing of it."""
    clusters = [(case,) for case in order]
    parts: slow.Parts = {}
    joins = []

    def between(a: slow.Cluster, b: slow.Cluster) -> float:
        if rule in slow.RULES:
            return slow.RULES[rule](d, w, a, b)
        return slow._with_history(rule, d, w, a, b, parts, beta)

    while len(clusters) > 1:
        found = [(between(*sorted([a, b])), a, b) for a, b in itertools.pairwise(clusters)]
        low = min(height for height, _, _ in found)
        near = [
            (min(a[0], b[0]), max(a[0], b[0]), height, a, b)
            for height, a, b in found
            if height <= low + abs(low) * 1e-12
        ]
        _, _, height, a, b = min(near)
        others = [(p, q) for _, _, _, p, q in near if (p, q) != (a, b)]
        left, right = sorted([a, b])
        shares = any({p, q} & {a, b} for p, q in others)
        joins.append(slow.Join(left, right, height, bool(others), shares))
        whole = tuple(sorted(a + b))
        parts[whole] = (left, right)
        at = clusters.index(a)
        clusters[at : at + 2] = [whole]
    return joins


@given(
    st.integers(0, 10**6), st.integers(1, 8), st.sampled_from(KEYS), st.booleans(), st.booleans()
)
def test_only_neighbours_join(seed: int, n: int, key: str, tied: bool, weighed: bool) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, 3, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    d = ((x[:, None] - x[None]) ** 2).sum(axis=2)
    w = rng.integers(1, 4, n).astype(float) if weighed else None
    sequence = rng.permutation(n)
    rule = LINKAGES[key]
    work = working_proximities(d, rule, True, w)
    found = grow_in_sequence(work, key, sequence, w, beta=-0.25)
    masses = w.tolist() if w is not None and rule.masses else [1.0] * n
    order = np.argsort(sequence).tolist()
    joins = joined_slowly(d.tolist(), masses, key, order, -0.25)
    assert found.heights == pytest.approx([float(join.height) for join in joins], abs=1e-9)
    for k, join in enumerate(joins):
        for node, members in ((found.left[k], join.left), (found.right[k], join.right)):
            assert sorted(found.members(int(node)).tolist()) == list(members)
    assert found.tied.tolist() == [join.tied for join in joins]
    assert found.tie_matters.tolist() == [join.matters for join in joins]


def in_order(x: np.ndarray, sequence: np.ndarray, linkage: str = "ward") -> Grown:
    cases = replace(prepared(x, np.ones(x.shape[1])), sequence=sequence)
    return grow_prepared(cases, plan("squared-euclidean", linkage, x.shape[1]), {})


@given(st.integers(0, 10**6), st.integers(2, 30))
def test_cases_are_drawn_in_their_order(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    sequence = rng.permutation(n)
    grown = in_order(rng.normal(size=(n, 2)), sequence)
    assert grown.order.tolist() == np.argsort(sequence).tolist()
    assert arrange(grown.tree, grown.flipped).order.tolist() == grown.order.tolist()
    places = arrange(grown.tree, grown.flipped).places
    assert np.isfinite(places).all()
    inverted = np.flatnonzero(grown.tree.inversions)
    assert all(grown.tree.heights[k] < grown.tree.heights[k - 1] for k in inverted)


def test_without_an_order_any_clusters_join() -> None:
    x = np.random.default_rng(1).normal(size=(12, 2))
    free, bound = study(x), in_order(x, np.arange(12))
    assert free.flipped is None
    assert free.order.tolist() == free.tree.order.tolist()
    assert bound.tree.left.tolist() != free.tree.left.tolist()


def test_a_sample_of_the_cases_keeps_their_order() -> None:
    rng = np.random.default_rng(2)
    x, sequence = rng.normal(size=(20, 2)), rng.permutation(20)
    grown = in_order(x, sequence, "complete")
    rows = np.sort(rng.choice(20, 11, replace=False))
    again = in_order(x[rows], np.argsort(np.argsort(sequence[rows])), "complete")
    found = TreeResampler(grown).of_rows(rows)
    assert found.left.tolist() == again.tree.left.tolist()
    assert found.heights.tolist() == pytest.approx(again.tree.heights.tolist())
    assert compute_indices(grown, asked(), None).verdicts


TABLE = "id,a,b,when\np1,1,2,3\np2,1,3,1\np3,5,5,2\np4,5,6,1\np5,9,1,9\n"


def written(folder: Path, tree: str, table: str = TABLE, more: str = "") -> Path:
    (folder / "t.csv").write_text(table, encoding="utf-8")
    path = folder / "p.toml"
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "id"\n[variables]\n'
        f'use = ["a", "b"]\n[tree]\n{tree}\n{more}'
    )
    path.write_text(text, encoding="utf-8")
    return path


def order_of(folder: Path) -> list[str]:
    with (folder / "order.csv").open(encoding="utf-8") as file:
        return [row["label"] for row in csv.DictReader(file)]


@pytest.mark.parametrize(
    ("neighbours", "order"),
    [("file", ["p1", "p2", "p3", "p4", "p5"]), ("when", ["p2", "p4", "p3", "p1", "p5"])],
)
def test_a_run_follows_the_file_or_a_column(
    tmp_path: Path, neighbours: str, order: list[str]
) -> None:
    run_plan(written(tmp_path, f'neighbours = "{neighbours}"'), tmp_path / "out")
    assert order_of(tmp_path / "out") == order


def test_a_case_that_is_dropped_closes_the_gap(tmp_path: Path) -> None:
    table = TABLE.replace("p3,5,5,2", "p3,,5,2")
    run_plan(written(tmp_path, 'neighbours = "when"', table), tmp_path / "out")
    assert order_of(tmp_path / "out") == ["p2", "p4", "p1", "p5"]


@pytest.mark.parametrize(
    ("table", "words"),
    [
        (TABLE.replace("p2,1,3,1", "p2,1,3,"), 'row 2, column "when"'),
        (TABLE.replace("p2,1,3,1", "p2,1,3,soon"), 'row 2, column "when"'),
        (TABLE.replace("when", "then"), 'no column "when"'),
    ],
)
def test_an_order_that_is_none_is_an_error(tmp_path: Path, table: str, words: str) -> None:
    with pytest.raises(InputError) as caught:
        run_plan(written(tmp_path, 'neighbours = "when"', table), tmp_path / "out")
    assert words in str(caught.value)


@pytest.mark.parametrize("tree", [
    'neighbours = "file"\nlinkage = "minimax"', 'neighbours = "file"\nlinkage = "within-average"',
    'neighbours = "file"\nof = "variables"',
])  # fmt: skip
def test_what_does_not_go_with_an_order(tmp_path: Path, tree: str) -> None:
    path = written(tmp_path, tree)
    with pytest.raises(InputError, match=r"\[tree\] neighbours"):
        parse_plan(path.read_text(encoding="utf-8"), "p.toml")


def test_a_matrix_has_the_order_of_its_rows(tmp_path: Path) -> None:
    (tmp_path / "m.csv").write_text(",x,y,z\nx,0,9,1\ny,9,0,4\nz,1,4,0\n", encoding="utf-8")
    path = tmp_path / "p.toml"
    text = (
        'gorvel = 1\n[source]\nfile = "m.csv"\nkind = "proximities"\n[tree]\nlinkage = "single"\n'
    )
    path.write_text(text + 'neighbours = "file"\n', encoding="utf-8")
    run_plan(path, tmp_path / "out")
    assert order_of(tmp_path / "out") == ["x", "y", "z"]
    path.write_text(text + 'neighbours = "when"\n', encoding="utf-8")
    with pytest.raises(InputError, match="no columns"):
        run_plan(path, tmp_path / "out")
