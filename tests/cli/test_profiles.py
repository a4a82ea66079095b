"""Profiles, tests and figures of clusters as a run writes them, and designs that are wrong."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest

from gorvel.core.base.errors import InputError
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.run import run_plan

ROWS = 48


def made(folder: Path) -> Path:
    """Two groups of numbers, with words, a gap, weights and a design beside them."""
    rng = np.random.default_rng(3)
    group = np.arange(ROWS) % 2
    lines = ["name,a,b,town,car,age,w,stratum,unit,r1,r2,bad"]
    for i in range(ROWS):
        a, b = rng.normal(5 * group[i], 1, 2)
        town = ["elm", "fell", "oak"][int(rng.integers(0, 3))]
        age = "" if i == 7 else f"{rng.integers(18, 80)}"
        r1, r2 = rng.uniform(0.5, 1.5, 2)
        lines.append(
            f"c{i},{a:.3f},{b:.3f},{town},{'yes' if group[i] else 'no'},{age},{1 + i % 3},"
            f"s{i % 4},u{i % 12},{r1:.3f},{r2:.3f},{'x' if i == 5 else 1}"
        )
    (folder / "t.csv").write_text("\n".join(lines) + "\n")
    return folder


def plan(folder: Path, more: str = "", variables: str = "", cases: str = "") -> Path:
    (folder / "p.toml").write_text(
        f'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "name"\n{cases}\n'
        f'[variables]\nuse = ["a", "b"]\nprofile = ["town", "car", "age"]\nbinary = ["car"]\n'
        f"{variables}\n[cut]\ncounts = [1, 2]\n"
        f'names = {{ 2 = ["first", ""] }}\n{more}\n'
    )
    return folder / "p.toml"


def table(path: Path) -> list[dict[str, str]]:
    with path.open() as file:
        return list(csv.DictReader(file))


def test_a_run_tells_what_clusters_are_like(tmp_path: Path) -> None:
    run_plan(plan(made(tmp_path)), tmp_path / "out")
    rows = table(tmp_path / "out" / "profiles.csv")
    assert list(rows[0]) == [
        "count", "cluster", "variable", "level", "n", "mass", "mean", "sd", "median", "min", "max",
        "share", "eta2", "cramers_v", "role",
    ]  # fmt: skip
    data = table(tmp_path / "t.csv")
    members = {row["label"]: row["k2"] for row in table(tmp_path / "out" / "membership.csv")}
    first = [row for row in data if members[row["name"]] == "1"]
    own = [row for row in rows if (row["count"], row["cluster"]) == ("2", "1")]
    assert [row["variable"] for row in own] == ["a", "b", "town", "town", "town", "car", "age"]
    ages = [float(row["age"]) for row in first if row["age"]]
    told = own[-1]
    assert (int(told["n"]), told["role"]) == (len(ages), "profile")
    assert float(told["mean"]) == pytest.approx(np.mean(ages))
    assert float(told["sd"]) == pytest.approx(np.std(ages, ddof=1))
    assert float(told["median"]) == np.median(ages)
    elm = next(row for row in own if row["level"] == "elm")
    wanted = sum(row["town"] == "elm" for row in first)
    assert (int(elm["n"]), float(elm["share"])) == (wanted, pytest.approx(wanted / len(first)))
    assert elm["mean"] == ""
    car = next(row for row in own if row["variable"] == "car")
    assert float(car["mean"]) in (0, 1)
    assert float(car["eta2"]) == pytest.approx(1)
    tests = table(tmp_path / "out" / "tests.csv")
    names = [(row["variable"], row["test"]) for row in tests if row["count"] == "2"]
    assert names == [("a", "f"), ("b", "f"), ("town", "chi-square"), ("car", "chi-square"),
                     ("age", "f")]  # fmt: skip
    assert "descriptive only" in tests[0]["caution"]
    assert tests[-1]["caution"] == ""
    clusters = json.loads((tmp_path / "out" / "clusters.json").read_text())
    assert [one["name"] for one in clusters["2"]] == ["first", "Cluster 2"]
    assert clusters["1"][0]["nearest_cluster"] is None
    medoid = clusters["2"][0]["medoid"]
    assert data[clusters["2"][0]["medoid_case"] - 1]["name"] == medoid
    assert members[medoid] == "1"


def test_a_design_brings_errors_and_tests_of_its_own(tmp_path: Path) -> None:
    made(tmp_path)
    design = '[design]\nstrata = "stratum"\npsu = "unit"'
    run_plan(plan(tmp_path, design, cases='weight = "w"'), tmp_path / "out")
    rows = table(tmp_path / "out" / "profiles.csv")
    assert list(rows[0])[-4:] == ["se", "lower", "upper", "role"]
    own = next(row for row in rows if row["variable"] == "age" and row["count"] == "1")
    mean, se = float(own["mean"]), float(own["se"])
    from scipy.special import stdtrit

    assert float(own["upper"]) - mean == pytest.approx(float(stdtrit(12 - 4, 0.975)) * se)
    tests = [row["test"] for row in table(tmp_path / "out" / "tests.csv") if row["count"] == "2"]
    assert tests == ["f", "wald-f", "f", "wald-f", "chi-square", "rao-scott-f", "chi-square",
                     "rao-scott-f", "f", "wald-f"]  # fmt: skip
    summary = json.loads((tmp_path / "out" / "summary.json").read_text())
    assert "clusters-as-given" in [caution["code"] for caution in summary["cautions"]]
    assert summary["plan"]["design"]["single"] == "stop"


def test_dropped_cases_count_for_units_and_other_groups_too(tmp_path: Path) -> None:
    """A split tree has the errors of a domain: rows of other groups stay in the sample."""
    made(tmp_path)
    design = '[design]\npsu = "unit"'
    run_plan(plan(tmp_path, design, cases='split = "stratum"'), tmp_path / "out")
    rows = table(tmp_path / "out" / "s1" / "profiles.csv")
    data = table(tmp_path / "t.csv")
    own = next(row for row in rows if row["variable"] == "age" and row["count"] == "1")
    here = [row for row in data if row["stratum"] == "s1" and row["age"]]
    mean = np.mean([float(row["age"]) for row in here])
    totals = {row["unit"]: 0.0 for row in data}
    for row in here:
        totals[row["unit"]] += (float(row["age"]) - mean) / len(here)
    z = np.array(list(totals.values()))
    assert len(z) == 12
    se = np.sqrt(len(z) / (len(z) - 1) * ((z - z.mean()) ** 2).sum())
    assert float(own["se"]) == pytest.approx(se)


@pytest.mark.parametrize(
    ("design", "said"),
    [
        ('strata = "nowhere"', r'\[design\].*"nowhere"'),
        ('strata = "name"', r"\[design\] single.*one sampling unit in the stratum \"c0\""),
        ('psu = "age"', r'row 8, column "age": no value'),
        ('strata = "stratum"\nreplicates = ["r1"]', r"\[design\] replicates"),
        ('replicates = ["r1", "bad"]', r'"x"|replicate weight'),
        ('replicates = ["r1", "r2"]\nfactors = [1.0]', r"\[design\] factors"),
        ("factors = [1.0]", r"\[design\] factors"),
        ('single = "center"', r'nearest: "centre"'),
        ('stratum = "stratum"', r'unknown key "stratum".*"strata"'),
    ],
)
def test_designs_that_are_wrong_are_errors_with_the_place(
    tmp_path: Path, design: str, said: str
) -> None:
    made(tmp_path)
    with pytest.raises(InputError, match=said):
        run_plan(plan(tmp_path, f"[design]\n{design}"), tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_replicates_of_every_kind(tmp_path: Path) -> None:
    made(tmp_path)
    found = {}
    for kind in ("jackknife", "brr", "bootstrap", "fay"):
        design = f'[design]\nreplicates = ["r1", "r2"]\nkind = "{kind}"'
        run_plan(plan(tmp_path, design), tmp_path / kind)
        rows = table(tmp_path / kind / "profiles.csv")
        found[kind] = next(row for row in rows if row["variable"] == "a" and row["count"] == "1")
    data = table(tmp_path / "t.csv")
    a = np.array([float(row["a"]) for row in data])
    off = [np.average(a, weights=[float(row[key]) for row in data]) - a.mean()
           for key in ("r1", "r2")]  # fmt: skip
    squares = sum(o * o for o in off)
    for kind, factor in (("jackknife", 0.5), ("brr", 0.5), ("bootstrap", 0.5), ("fay", 2.0)):
        assert float(found[kind]["se"]) == pytest.approx(np.sqrt(factor * squares))
    reach = {kind: float(row["upper"]) - float(row["mean"]) for kind, row in found.items()}
    assert reach["jackknife"] > 2 * reach["brr"]  # one degree of freedom less


def test_matrices_and_trees_of_variables_have_figures_and_no_profiles(tmp_path: Path) -> None:
    made(tmp_path)
    (tmp_path / "m.csv").write_text(",x,y,z\nx,0,1,4\ny,1,0,5\nz,4,5,0\n")
    (tmp_path / "m.toml").write_text(
        'gorvel = 1\n[source]\nfile = "m.csv"\nkind = "proximities"\n[tree]\nlinkage = "average"\n'
    )
    run_plan(tmp_path / "m.toml", tmp_path / "matrix")
    assert not (tmp_path / "matrix" / "profiles.csv").exists()
    told = json.loads((tmp_path / "matrix" / "clusters.json").read_text())["2"]
    assert (told[0]["medoid"], told[0]["within_ss"], told[0]["diameter"]) == ("x", None, 1.0)
    assert (told[1]["size"], told[1]["nearest_distance"]) == (1, 4.5)
    file = plan(tmp_path, '[tree]\nof = "variables"\n')
    file.write_text(file.read_text().replace("[1, 2]", "[1]").replace(
        'names = { 2 = ["first", ""] }', ""))  # fmt: skip
    run_plan(file, tmp_path / "variables")
    assert not (tmp_path / "variables" / "tests.csv").exists()
    assert (tmp_path / "variables" / "clusters.json").exists()
    with pytest.raises(InputError, match=r"\[design\]"):
        parse_plan(file.read_text() + "[design]\n", "p.toml")


def test_an_empty_design_is_kept_in_plan_files() -> None:
    text = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a"]\n[design]\n'
    assert parse_plan(plan_text(parse_plan(text, "p")), "p").design is not None
