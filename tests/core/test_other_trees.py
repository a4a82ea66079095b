"""Other trees that a plan names: carried out as plans of their own, and compared with slow code."""

from __future__ import annotations

import csv
import json
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest

from gorvel.core.base.errors import InputError
from gorvel.core.export.comparison import KNOWN
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.others import other_plans
from gorvel.core.run import run_plan
from reference import comparisons as slow

FILES = ["membership.csv", "order.csv", "schedule.csv", "summary.json", "tree.nwk"]


def survey(folder: Path, plan: str, n: int = 24) -> Path:
    """A made-up table with gaps, weights, a group and two halves; the path of a plan."""
    rng = np.random.default_rng(8)
    lines = ["id,a,b,c,w,half,kind"]
    for k in range(n):
        a, b, c = (rng.normal(size=3) + 3 * (k % 3)).round(2).tolist()
        cells = [f"p{k}", f"{a}", "" if k == 4 else f"{b}", f"{c}", f"{1 + k % 2}",
                 "x" if k < n // 2 else "y", "" if k == 7 else f"t{k % 3}"]  # fmt: skip
        lines.append(",".join(cells))
    (folder / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    path = folder / "p.toml"
    path.write_text('gorvel = 1\n[source]\nfile = "t.csv"\n' + plan, encoding="utf-8")
    return path


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def joins(folder: Path, cases: dict[str, int]) -> list[tuple[int, int]]:
    """Of a schedule; cases : places by their names c1, c2, .."""
    n = len(cases)
    place = cases | {f"j{k + 1}": n + k for k in range(n)}
    return [(place[row["left"]], place[row["right"]]) for row in rows(folder / "schedule.csv")]


PLAN = """
[cases]
label = "id"
groups = "kind"
[variables]
use = ["a", "b", "c"]
importance = { a = 2.0, c = 0.5 }
[scale]
method = "zscore"
[cut]
counts = [2, 23]
[[trees]]
name = "complete"
linkage = "complete"
measure = "euclidean"
[[trees]]
name = "two of them / all cases"
use = ["a", "c"]
linkage = "average"
scale = "range01"
[[trees]]
name = "weighed"
weight = "w"
handling = "mean"
"""


def test_each_tree_is_that_of_a_plan_of_its_own(tmp_path: Path) -> None:
    outcome = run_plan(survey(tmp_path, PLAN), tmp_path / "out")
    folders = {"complete": "complete", "two": "two_of_them_all_cases", "weighed": "weighed"}
    for folder in folders.values():
        found = tmp_path / "out" / "trees" / folder
        assert sorted(path.name for path in found.iterdir()) == FILES
    own = {
        "complete": 'use = ["a", "b", "c"]\nimportance = { a = 2.0, c = 0.5 }\n[scale]\nmethod ='
        ' "zscore"\n[tree]\nlinkage = "complete"\n[proximity]\nmeasure = "euclidean"\n',
        "two": 'use = ["a", "c"]\nimportance = { a = 2.0, c = 0.5 }\n[scale]\nmethod = "range01"\n'
        '[tree]\nlinkage = "average"\n',
        "weighed": 'use = ["a", "b", "c"]\nimportance = { a = 2.0, c = 0.5 }\n[scale]\nmethod ='
        ' "zscore"\n[missing]\nhandling = "mean"\n[cases]\nlabel = "id"\nweight = "w"\n',
    }  # fmt: skip
    for name, text in own.items():
        alone = tmp_path / name
        alone.mkdir()
        cases = "" if "[cases]" in text else '[cases]\nlabel = "id"\n'
        cut = "[cut]\ncounts = [2, 23]\n"
        run_plan(survey(alone, f"[variables]\n{text}{cases}{cut}"), alone / "out")
        for file in ("membership.csv", "order.csv", "schedule.csv", "tree.nwk"):
            with_others = tmp_path / "out" / "trees" / folders[name] / file
            assert with_others.read_bytes() == (alone / "out" / file).read_bytes(), (name, file)
    assert "comparison.csv" in outcome.files


def test_comparisons_are_those_of_the_definitions(tmp_path: Path) -> None:
    run_plan(survey(tmp_path, PLAN), tmp_path / "out")
    out = tmp_path / "out"
    folder = {
        "plan": out, "complete": out / "trees" / "complete",
        "two of them / all cases": out / "trees" / "two_of_them_all_cases",
        "weighed": out / "trees" / "weighed",
    }  # fmt: skip
    kept = {}
    for name, place in folder.items():
        kept[name] = [int(row["case"]) for row in rows(place / "order.csv")]
    assert {name: len(cases) for name, cases in kept.items()} == {
        "plan": 23, "complete": 23, "two of them / all cases": 24, "weighed": 24,
    }  # fmt: skip
    number = {name: {f"c{case}": at for at, case in enumerate(sorted(cases))}
              for name, cases in kept.items()}  # fmt: skip
    trees = {name: joins(place, number[name]) for name, place in folder.items()}
    heights = {
        name: [float(row["height"]) for row in rows(place / "schedule.csv")]
        for name, place in folder.items()
    }
    compared = rows(out / "comparison.csv")
    assert [(row["a"], row["b"]) for row in compared] == list(combinations(folder, 2))
    for row in compared:
        a, b = row["a"], row["b"]
        common = sorted(set(kept[a]) & set(kept[b]))
        assert int(row["cases"]) == len(common)
        met = {}
        for name in (a, b):
            at = [number[name][f"c{case}"] for case in common]
            all_met = slow.meeting(len(kept[name]), trees[name])
            met[name] = [all_met[x, y] for x, y in combinations(at, 2)]
        x, y = ([heights[name][join] for join in met[name]] for name in (a, b))
        assert float(row["cophenetic_pearson"]) == pytest.approx(slow.correlation(x, y))
        ranks = slow.correlation(slow.average_ranks(x), slow.average_ranks(y))
        assert float(row["cophenetic_spearman"]) == pytest.approx(ranks)
        assert float(row["baker_gamma"]) == pytest.approx(slow.baker_gamma(met[a], met[b]))
    parts = rows(out / "partitions.csv")
    assert {int(row["clusters"]) for row in parts} == set(range(2, 11))
    kind = {int(k) + 1: row["kind"] for k, row in enumerate(rows(tmp_path / "t.csv"))}

    def cut(name: str, count: int) -> dict[int, int]:
        """The cluster of each case."""
        held: dict[int, frozenset[int]] = {}
        cases = sorted(kept[name])
        alive = {at: frozenset([at]) for at in range(len(cases))}
        for step, (left, right) in enumerate(trees[name]):
            if len(alive) == count:
                break
            alive[len(cases) + step] = alive.pop(left) | alive.pop(right)
        held = alive
        return {cases[at]: k for k, below in enumerate(held.values()) for at in below}

    for row in parts[::5]:
        one = cut(row["a"], int(row["clusters"]))
        if row["b"] == KNOWN:
            other = {case: kind[case] for case in one if kind[case]}
        else:
            other = cut(row["b"], int(row["clusters"]))
        common = sorted(set(one) & set(other))
        if int(row["clusters"]) > 6:
            continue  # all orders of ten clusters are too many for slow code
        wanted = slow.agreement([one[case] for case in common], [other[case] for case in common])
        for name, value in wanted.items():
            assert float(row[name]) == pytest.approx(value, abs=1e-9), (row, name)
    assert [row["a"] for row in parts if row["b"] == KNOWN][::9] == list(folder)


def test_counts_above_the_cases_of_a_tree_are_left_out(tmp_path: Path) -> None:
    plan = PLAN.replace("counts = [2, 23]", "counts = [2, 24]").replace("[variables]",
           '[missing]\nhandling = "mean"\n[variables]')  # fmt: skip
    plan = plan.replace('name = "complete"', 'name = "complete"\nhandling = "drop"')
    run_plan(survey(tmp_path, plan), tmp_path / "out")
    told = json.loads((tmp_path / "out" / "trees" / "complete" / "summary.json").read_text())
    assert [one["text"] for one in told["cautions"] if one["code"] == "counts-left-out"] == [
        "24 clusters are left out: 23 cases are kept."
    ]
    head = (tmp_path / "out" / "trees" / "complete" / "membership.csv").read_text().splitlines()[0]
    assert head == "case,label,k2"


def test_groups_of_a_split_have_trees_of_their_own(tmp_path: Path) -> None:
    plan = PLAN.replace('label = "id"', 'label = "id"\nsplit = "half"')
    plan = plan.replace("counts = [2, 23]", "counts = [2]")
    run_plan(survey(tmp_path, plan), tmp_path / "out")
    for half in ("x", "y"):
        assert len(rows(tmp_path / "out" / half / "comparison.csv")) == 6
        assert (tmp_path / "out" / half / "trees" / "weighed" / "tree.nwk").exists()


def test_a_matrix_has_other_linkages(tmp_path: Path) -> None:
    far = np.random.default_rng(2).random((8, 8))
    far = far + far.T
    np.fill_diagonal(far, 0)
    names = [f"q{k}" for k in range(8)]
    lines = [",".join(["", *names])]
    lines += [",".join([n, *map(str, row)]) for n, row in zip(names, far.tolist(), strict=True)]
    (tmp_path / "m.csv").write_text("\n".join(lines), encoding="utf-8")
    head = 'gorvel = 1\n[source]\nfile = "m.csv"\nkind = "proximities"\n'
    plan = tmp_path / "p.toml"
    plan.write_text(head + '[[trees]]\nname = "s"\nlinkage = "single"\n', encoding="utf-8")
    run_plan(plan, tmp_path / "out")
    assert rows(tmp_path / "out" / "comparison.csv")[0]["cases"] == "8"
    plan.write_text(head + '[[trees]]\nname = "s"\nmeasure = "cosine"\n', encoding="utf-8")
    with pytest.raises(InputError, match=r'\[\[trees\]\] "s", measure: the key measure'):
        run_plan(plan, tmp_path / "out2")


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ('[[trees]]\nname = "plan"\n', r'the name "plan"'),
        ('[[trees]]\nname = "x"\n[[trees]]\nname = "x"\n', r'the name "x" twice'),
        ('[[trees]]\nlinkage = "single"\n', "name"),
        ('[[trees]]\nname = "x"\nlinkage = "chain"\n', "nearest"),
        ('[[trees]]\nname = "x"\nleaf = 1\n', "leaf"),
        ('[[trees]]\nname = "x"\nuse = ["a", "z"]\n', r'\[\[trees\]\] "x".*"z"'),
        ('[tree]\nof = "variables"\n[[trees]]\nname = "x"\n', r"\[\[trees\]\].*tree of variables"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_with_its_place(tmp_path: Path, more: str, said: str) -> None:
    path = survey(tmp_path, '[variables]\nuse = ["a", "c"]\n' + more)
    with pytest.raises(InputError, match=said):
        run_plan(path, tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_a_tree_without_keys_is_that_of_the_plan() -> None:
    text = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'
    plan = parse_plan(text + '[[trees]]\nname = "same"\n', "p.toml")
    assert other_plans(plan)["same"].growth() == plan.growth()
