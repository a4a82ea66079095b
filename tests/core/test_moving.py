"""Cases that go to the nearest centroid: slow code, and k-means from many starts."""

from __future__ import annotations

import csv
import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.compare.relocation import k_means, reassigned
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import run_plan
from reference.counts import adjusted_rand
from studies import clusters, study

Point = tuple[float, ...]


def centroid(points: list[Point], w: list[float], rows: list[int]) -> Point:
    mass = math.fsum(w[i] for i in rows)
    return tuple(math.fsum(w[i] * points[i][j] for i in rows) / mass for j in range(len(points[0])))


def far(a: Point, b: Point, v: list[float]) -> float:
    return math.fsum(k * (x - y) ** 2 for x, y, k in zip(a, b, v, strict=True))


def within(points: list[Point], w: list[float], v: list[float], own: list[int]) -> float:
    out = 0.0
    for k in set(own):
        rows = [i for i in range(len(own)) if own[i] == k]
        middle = centroid(points, w, rows)
        out += math.fsum(w[i] * far(points[i], middle, v) for i in rows)
    return out


def slow_moved(
    points: list[Point], w: list[float], v: list[float], own: list[int], places: list[Point]
) -> tuple[list[int], int]:
    """Round by round; of equally near centroids the first."""
    for rounds in range(100):
        after = []
        for point in points:
            away = [far(point, place, v) for place in places]
            least = min(away)
            after.append(next(k for k, d in enumerate(away) if d <= least * (1 + 1e-12)))
        if after == own:
            return own, rounds
        own = after
        for k in range(len(places)):
            rows = [i for i in range(len(own)) if own[i] == k]
            if rows:
                places[k] = centroid(points, w, rows)
    return own, 100


@given(
    st.integers(0, 10**6), st.integers(2, 20), st.integers(1, 5), st.booleans(), st.booleans(),
    st.sampled_from(["ward", "single", "complete"]),
)  # fmt: skip
def test_cases_move_as_defined(
    seed: int, n: int, count: int, tied: bool, weighted: bool, linkage: str
) -> None:
    rng = np.random.default_rng(seed)
    count = min(count, n)
    x = rng.integers(0, 4, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    v = rng.uniform(0.5, 2, 2)
    w = rng.uniform(0.5, 2, n) if weighted else None
    grown = study(x, linkage=linkage, v=v, w=w)
    found = reassigned(grown, count)
    own = [k - 1 for k in clusters(grown, count)]
    points, mass = [tuple(row) for row in x.tolist()], [1.0] * n if w is None else w.tolist()
    places = [centroid(points, mass, [i for i in range(n) if own[i] == k]) for k in range(count)]
    after, rounds = slow_moved(points, mass, v.tolist(), own, places)
    assert found.before.tolist() == own
    if tied and weighted:  # draws may fall otherwise by rounding
        assert found.w_after <= found.w_before + 1e-9
        return
    assert found.after.tolist() == after
    assert found.rounds == rounds
    assert found.moved == sum(a != b for a, b in zip(own, after, strict=True))
    assert found.emptied == count - len(set(after))
    assert found.w_before == pytest.approx(within(points, mass, v.tolist(), own), abs=1e-9)
    assert found.w_after == pytest.approx(within(points, mass, v.tolist(), after), abs=1e-9)
    assert found.w_after <= found.w_before + 1e-9
    wanted = adjusted_rand(own, after)  # None for 0/0, which is the same grouping here
    assert found.agreement == (1.0 if wanted is None else pytest.approx(wanted))


@given(st.integers(0, 10**6), st.integers(4, 16), st.integers(1, 6))
def test_k_means_is_the_best_of_its_starts(seed: int, n: int, starts: int) -> None:
    x = np.random.default_rng(seed).normal(size=(n, 2))
    grown = study(x, linkage="single")
    points = [tuple(row) for row in x.tolist()]
    for one in k_means(grown, range(2, 4), starts, seed):
        from_cut = reassigned(grown, one.count)
        best = from_cut.w_after
        for start in range(1, starts):
            drawn = np.random.default_rng([seed, one.count, start])
            rows = np.sort(drawn.choice(n, one.count, replace=False))
            own, _ = slow_moved(points, [1.0] * n, [1.0, 1.0], [-1] * n, [points[r] for r in rows])
            best = min(best, within(points, [1.0] * n, [1.0, 1.0], own))
        assert one.w == pytest.approx(best)
        assert one.w <= from_cut.w_after
        assert one.w_tree == from_cut.w_before


HEAD = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'


def survey(folder: Path, plan: str, gaps: bool = False) -> Path:
    rng = np.random.default_rng(6)
    lines = ["a,b"] + [f"{a:.2f},{b:.2f}" for a, b in rng.normal(size=(30, 2))]
    lines[4] = ",1.0"
    (folder / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    (folder / "p.toml").write_text(HEAD + plan, encoding="utf-8")
    return folder / "p.toml"


def test_files_tell_who_moved(tmp_path: Path) -> None:
    plan = ('[tree]\nlinkage = "single"\n[cut]\ncounts = [2]\n[reassign]\ncounts = [3, 4]\n'
            "[kmeans]\nfrom = 2\nto = 40\nstarts = 3\n")  # fmt: skip
    run_plan(survey(tmp_path, plan), tmp_path / "out")
    with (tmp_path / "out" / "reassigned.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == ["case", "label", "k3_tree", "k3_final", "k4_tree", "k4_final"]
    assert len(rows) == 30
    assert [row["k3_tree"] for row in rows if row["case"] == "4"] == [""]  # dropped
    told = json.loads((tmp_path / "out" / "reassign.json").read_text())
    for count in ("3", "4"):
        moved = sum(row[f"k{count}_tree"] != row[f"k{count}_final"] for row in rows)
        assert told[count]["moved"] == moved
    cautions = json.loads((tmp_path / "out" / "summary.json").read_text())["cautions"]
    many = [c for c, one in told.items() if one["moved"] > 2.9]
    assert [one["text"].split()[1] for one in cautions if one["code"] == "cases-move"] == many
    with (tmp_path / "out" / "kmeans.csv").open() as file:
        best = list(csv.DictReader(file))
    assert [int(row["clusters"]) for row in best] == list(range(2, 29))  # up to the cases less one
    for row in best:
        if row["clusters"] in told:
            assert float(row["w"]) <= told[row["clusters"]]["w_after"]


def test_without_numbers_the_reason_is_said(tmp_path: Path) -> None:
    plan = '[missing]\nhandling = "pairwise"\n[reassign]\n[kmeans]\n'
    run_plan(survey(tmp_path, plan), tmp_path / "out")
    why = "Centroids need numbers without missing answers."
    assert json.loads((tmp_path / "out" / "reassign.json").read_text()) == {"why": why}
    assert not (tmp_path / "out" / "kmeans.csv").exists()
    assert not (tmp_path / "out" / "reassigned.csv").exists()
    assert why in (tmp_path / "out" / "summary.json").read_text()


def test_what_does_not_fit_is_refused(tmp_path: Path) -> None:
    with pytest.raises(InputError, match=r"\[reassign\]: a tree of variables"):
        parse_plan(HEAD + '[tree]\nof = "variables"\n[reassign]\n', "p")
    with pytest.raises(InputError, match=r"\[kmeans\] to: 2; expected 3 or more"):
        parse_plan(HEAD + "[kmeans]\nfrom = 3\nto = 2\n", "p")
    with pytest.raises(InputError, match=r"\[reassign\] counts: 99"):
        run_plan(survey(tmp_path, "[reassign]\ncounts = [99]\n"), tmp_path / "out")
