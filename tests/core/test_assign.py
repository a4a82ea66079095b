"""Cases of another file given to clusters: against slow code, and files that do not fit."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.grow.assigning import Assigned, assign
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.plan import Plan, validated
from gorvel.core.run import run_plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count


def table(values: np.ndarray, **more: list[str]) -> Table:
    cells = {f"v{j}": ["" if math.isnan(x) else repr(float(x)) for x in column]
             for j, column in enumerate(values.T)}  # fmt: skip
    frame = pl.DataFrame(cells | more).with_columns(pl.all().replace("", None))
    return Table("t.csv", frame)


def plan(p: int, method: str = "auto", **parts: dict[str, object]) -> Plan:
    whole: dict[str, dict[str, object]] = {
        "source": {"file": "t.csv"}, "variables": {"use": [f"v{j}" for j in range(p)]},
        "tree": {"linkage": "average"}, "proximity": {"measure": "euclidean"},
        "assign": {"file": "u.csv", "method": method},
    }  # fmt: skip
    for name, part in parts.items():
        whole[name] = whole.get(name, {}) | part
    return validated(whole, "p.toml")


def given_(first: Table, asked: Plan, second: Table, counts: list[int]) -> Assigned:
    return assign(first, asked, analyse(first, asked), second, counts)


@given(
    st.integers(0, 10**6), st.integers(3, 14), st.integers(1, 4),
    st.sampled_from(["centroid", "mean", "nearest"]),
    st.sampled_from(["euclidean", "squared-euclidean", "city-block"]), st.booleans(),
    st.sampled_from(["none", "zscore", "range01"]), st.booleans(),
)  # fmt: skip
def test_distances_are_as_defined(
    seed: int, n: int, k: int, method: str, measure: str, weighted: bool, scale: str, tied: bool
) -> None:
    if method == "centroid" and measure == "city-block":
        return
    rng = np.random.default_rng(seed)
    k = min(k, n)
    x = rng.integers(0, 4, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    x[:2] = [[0, 1], [1, 0]]  # some spread
    y = rng.integers(-1, 5, (6, 2)).astype(float) if tied else rng.normal(size=(6, 2)) * 2
    w = rng.integers(1, 4, n)
    parts: dict[str, dict[str, object]] = {
        "proximity": {"measure": measure}, "scale": {"method": scale},
        "variables": {"importance": {"v0": 2.0}},
    }  # fmt: skip
    if weighted:
        parts["cases"] = {"weight": "w"}
    asked = plan(2, method, **parts)
    first = table(x, w=[str(v) for v in w])
    grown = analyse(first, asked)
    found = assign(first, asked, grown, table(y), [k]).by_count[k]
    own = cut_at_count(grown.tree, k).membership
    mass = w.astype(float) if weighted else np.ones(n)
    if scale == "zscore":
        mean = np.average(x, axis=0, weights=mass)
        sd = np.sqrt((mass[:, None] * (x - mean) ** 2).sum(axis=0) / (mass.sum() - 1))
        x, y = (x - mean) / sd, (y - mean) / sd
    elif scale == "range01":
        low, high = x.min(axis=0), x.max(axis=0)
        x, y = (x - low) / (high - low), (y - low) / (high - low)
    v = np.array([2.0, 1.0])

    def far(a: np.ndarray, b: np.ndarray) -> float:
        if measure == "city-block":
            return float((v * np.abs(a - b)).sum())
        squares = float((v * (a - b) ** 2).sum())
        return (
            squares
            if measure == "squared-euclidean" and method != "centroid"
            else (math.sqrt(squares))
        )

    def to(a: np.ndarray, rows: list[int]) -> float:
        if method == "centroid":
            return far(a, np.average(x[rows], axis=0, weights=mass[rows]))
        each = [far(a, x[i]) for i in rows]
        return min(each) if method == "nearest" else float(np.mean(each))

    members = [np.flatnonzero(own == c + 1).tolist() for c in range(k)]
    reach = []
    for rows in members:
        if len(rows) == 1:
            reach.append(0.0)
        elif method == "centroid":
            reach.append(max(to(x[i], rows) for i in rows))
        else:
            reach.append(max(to(x[i], [j for j in rows if j != i]) for i in rows))
    for row, point in enumerate(y):
        away = [to(point, rows) for rows in members]
        least = min(away)
        assert found.distance[row] == pytest.approx(least, rel=1e-9, abs=1e-9)
        chosen = int(found.cluster[row]) - 1
        assert away[chosen] == pytest.approx(least, rel=1e-9, abs=1e-9)
        if abs(away[chosen] - reach[chosen]) > 1e-9:
            assert found.far[row] == (away[chosen] > reach[chosen])
        if k == 1:
            assert (found.second[row], math.isnan(found.margin[row])) == (0, True)
        else:
            rest = [value for c, value in enumerate(away) if c != chosen]
            assert found.margin[row] == pytest.approx(min(rest) - least, rel=1e-9, abs=1e-9)


def test_members_come_back_to_their_own_cluster() -> None:
    rng = np.random.default_rng(2)
    x = rng.normal(size=(40, 3)) + 9 * (np.arange(40) % 3)[:, None]
    for method in ("centroid", "mean", "nearest"):
        asked = plan(3, method)
        first = table(x)
        found = given_(first, asked, first, [3])
        own = cut_at_count(analyse(first, asked).tree, 3).membership
        np.testing.assert_array_equal(found.by_count[3].cluster, own)
        assert found.by_count[3].far.sum() <= (method == "nearest") * 0 + 3


def test_gaps_fills_and_ranks_are_those_of_the_first_study() -> None:
    x = np.array([[1.0, 2], [2, 3], [9, 8], [10, 9]])
    y = np.array([[np.nan, 2], [9, np.nan], [2.5, 3]])
    dropped = given_(table(x), plan(2), table(y), [2]).by_count[2]
    assert dropped.cluster.tolist()[:2] == [0, 0]
    assert np.isnan(dropped.distance[:2]).all()
    filled = given_(table(x), plan(2, missing={"handling": "median"}), table(y), [2]).by_count[2]
    assert filled.distance[0] == pytest.approx(math.dist((5.5, 2), (1.5, 2.5)))
    pairwise = given_(table(x), plan(2, "mean", missing={"handling": "pairwise"}), table(y), [2])
    assert pairwise.by_count[2].cluster.tolist() == [1, 2, 1]
    ranked = given_(table(x), plan(2, "nearest", scale={"method": "rank"}), table(y), [4])
    # 2.5 stands between the second and the third of the first study, 3 is the second
    assert ranked.by_count[4].distance[2] == pytest.approx(0.5)
    with pytest.raises(InputError, match='row 1, column "v0": a missing answer'):
        given_(table(x), plan(2, missing={"handling": "stop"}), table(y), [2])


def test_words_and_values_never_seen() -> None:
    words = {"town": ["elm", "elm", "oak", "oak"], "car": ["yes", "no", "yes", "no"]}
    first = table(np.array([[1.0], [2], [9], [10]]), **words)
    asked = plan(
        1, "mean", variables={"use": ["v0", "town", "car"], "nominal": ["town"], "binary": ["car"]},
        proximity={"measure": "gower"},
    )  # fmt: skip
    second = table(np.array([[1.0], [30]]), town=["fell", "oak"], car=["No", "yes"])
    found = given_(first, asked, second, [1]).by_count[1]
    parts = [[1 - min(abs(a - b) / 9, 1) for b in (1, 2, 9, 10)] for a in (1, 30)]
    towns, cars = [[0] * 4, [0, 0, 1, 1]], [[0, 1, 0, 1], [1, 0, 1, 0]]
    for row in range(2):
        each = [1 - (parts[row][i] + towns[row][i] + cars[row][i]) / 3 for i in range(4)]
        assert found.distance[row] == pytest.approx(np.mean(each))
    wrong = table(np.array([[1.0]]), town=["elm"], car=["maybe"])
    with pytest.raises(InputError, match='row 1, column "car": the value "maybe"'):
        given_(first, asked, wrong, [1])


@pytest.mark.parametrize(
    ("columns", "method", "said"),
    [
        ({"v0": ["1"]}, "auto", '"v1"'),
        ({"v0": ["1"], "v1": ["oops"]}, "auto", 'row 1, column "v1"'),
    ],
)
def test_files_that_do_not_fit_are_errors(
    columns: dict[str, list[str]], method: str, said: str
) -> None:
    first = table(np.array([[1.0, 2], [2, 3], [9, 8]]))
    with pytest.raises(InputError, match=said):
        given_(first, plan(2, method), Table("u.csv", pl.DataFrame(columns)), [2])
    taxi = plan(2, "centroid", proximity={"measure": "city-block"})
    with pytest.raises(InputError, match=r"\[assign\] method"):
        given_(first, taxi, first, [2])


def test_a_run_writes_who_is_given_where(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("name,v0,v1,g\na,1,1,x\nb,2,1,x\nc,9,9,y\nd,8,9,y\n")
    (tmp_path / "u.csv").write_text("v1,v0,name,g\n1,1,p,x\n9,9,q,y\n,5,r,x\n90,90,s,y\n")
    head = (
        'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "name"\n'
        '[variables]\nuse = ["v0", "v1"]\n[cut]\ncounts = [1, 2]\n[assign]\nfile = "u.csv"\n'
    )
    (tmp_path / "p.toml").write_text(head)
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    with (tmp_path / "out" / "assigned.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == ["case", "label"] + [
        f"k{k}{what}" for k in (1, 2)
        for what in ("", "_distance", "_second", "_margin", "_far")
    ]  # fmt: skip
    assert [row["label"] for row in rows] == ["p", "q", "r", "s"]
    assert [row["k2"] for row in rows] == ["1", "2", "", "2"]
    assert [row["k2_far"] for row in rows] == ["0", "0", "", "1"]
    assert [row["k1_second"] for row in rows] == [""] * 4
    split = head.replace('label = "name"', 'label = "name"\nsplit = "g"').replace("[1, 2]", "[1]")
    (tmp_path / "s.toml").write_text(split)
    run_plan(tmp_path / "s.toml", tmp_path / "split")
    with (tmp_path / "split" / "y" / "assigned.csv").open() as file:
        assert [row["label"] for row in csv.DictReader(file)] == ["q", "s"]
    (tmp_path / "n.toml").write_text(head.replace("u.csv", "nowhere.csv"))
    with pytest.raises(InputError, match=r"nowhere\.csv"):
        run_plan(tmp_path / "n.toml", tmp_path / "none")
    (tmp_path / "b.toml").write_text(head + '[tree]\nof = "variables"\n')
    with pytest.raises(InputError, match=r"\[assign\]"):
        run_plan(tmp_path / "b.toml", tmp_path / "none")


@pytest.mark.parametrize("capped", [False, True])
@pytest.mark.parametrize("method", ["mean", "nearest"])
def test_a_variable_that_nobody_answered_tells_nothing_of_other_cases(
    method: str, capped: bool
) -> None:
    rng = np.random.default_rng(5)
    first = table(np.column_stack([rng.normal(size=9), np.full(9, np.nan)]))
    y = rng.normal(size=(5, 2))
    without = np.column_stack([y[:, 0], np.full(5, np.nan)])
    variables: dict[str, object] = {"interval": ["v0", "v1"]}
    if capped:
        variables |= {"cap": {"v1": [5, 95]}, "trim": {"v1": [5, 95]}}
    missing = {"handling": "pairwise"}
    asked = plan(2, method, missing=missing, scale={"method": "none"}, variables=variables)
    found, same = (given_(first, asked, table(z), [3]).by_count[3] for z in (y, without))
    np.testing.assert_array_equal(found.cluster, same.cluster)
    np.testing.assert_array_equal(found.distance, same.distance)
    assert (found.cluster > 0).all()
    scaled = plan(2, method, missing=missing, scale={"method": "zscore"}, variables=variables)
    with pytest.raises(InputError, match='"v1"'):  # a scale needs answers
        given_(first, scaled, table(y), [3])
