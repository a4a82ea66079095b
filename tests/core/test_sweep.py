"""Every combination of choices, cell by cell against plans carried out one by one."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest

from gorvel.core.base.errors import Cancelled, InputError
from gorvel.core.base.progress import Phase
from gorvel.core.compare.sweep import Swept, combinations_of, sweep
from gorvel.core.engine.engine import ThreadEngine
from gorvel.core.grow.grown import analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.run import run_plan
from gorvel.core.sources.reading import read_source
from reference import comparisons as slow

HEAD = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "c"]\n'
COUNT = '[count]\nto = 5\nrules = ["silhouette", "calinski-harabasz", "gap"]\nresamples = 2\n'
CUT = "[cut]\ncounts = [2, 3]\n"


def survey(folder: Path, plan: str) -> Path:
    """Numbers with gaps; the path of a plan."""
    rng = np.random.default_rng(4)
    lines = ["a,b,c,half"]
    for k in range(20):
        cells = (rng.integers(0, 6, 3) + 3 * (k % 2)).tolist()
        lines.append(",".join(["" if k in (3, 11) and j == 1 else str(cell)
                               for j, cell in enumerate(cells)] + ["xy"[k % 4 > 1]]))  # fmt: skip
    (folder / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    path = folder / "p.toml"
    path.write_text(plan, encoding="utf-8")
    return path


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def clusters(folder: Path, count: int) -> dict[int, int]:
    found = rows(folder / "membership.csv")
    return {int(r["case"]): int(r[f"k{count}"]) for r in found if r[f"k{count}"]}


def refusal(plan: Path, out: Path) -> str:
    """Why a plan cannot be carried out, "" where it was."""
    try:
        run_plan(plan, out)
    except InputError as error:
        return str(error)
    return ""


@pytest.mark.slow
def test_cells_are_those_of_single_runs(tmp_path: Path) -> None:
    asked = (
        '[sweep]\nscales = ["zscore", "none"]\nhandlings = ["drop", "mean", "pairwise"]\n'
        'measures = ["euclidean", "cosine", "gower"]\nlinkages = ["ward", "single", "centroid"]\n'
    )
    run_plan(survey(tmp_path, HEAD + COUNT + CUT + asked), tmp_path / "out")
    found = rows(tmp_path / "out" / "sweep.csv")
    assert len(found) == 2 * 3 * 3 * 3
    order = [(r["scale"], r["handling"], r["measure"], r["linkage"]) for r in found]
    assert order[:4] == [
        ("zscore", "drop", "euclidean", "ward"), ("zscore", "drop", "euclidean", "single"),
        ("zscore", "drop", "euclidean", "centroid"), ("zscore", "drop", "cosine", "ward"),
    ]  # fmt: skip
    grown = 0
    for row in found:
        scale, handling, measure, linkage = order[found.index(row)]
        alone = tmp_path / "-".join(order[found.index(row)])
        alone.mkdir()
        plan = (f'{HEAD}{COUNT}{CUT}[scale]\nmethod = "{scale}"\n[missing]\nhandling ='
                f' "{handling}"\n[proximity]\nmeasure = "{measure}"\n[tree]\nlinkage ='
                f' "{linkage}"\n')  # fmt: skip
        why = refusal(survey(alone, plan), alone / "out")
        if why:
            assert row["status"].split(": ")[-1] in why
            rest = set(row) - {"scale", "handling", "measure", "linkage", "status"}
            assert not any(row[name] for name in rest)
            continue
        grown += 1
        told = json.loads((alone / "out" / "summary.json").read_text())
        assert row["status"] == "ok"
        assert int(row["cases"]) == told["cases"]["kept"]
        for name in ("cophenetic_correlation", "agglomerative_coefficient"):
            assert row[name] == "" if told[name] is None else (
                float(row[name]) == pytest.approx(told[name], rel=1e-12)
            )  # fmt: skip
        assert int(row["inversions"]) == told["inversions"]
        assert int(row["ties_that_matter"]) == told["ties_that_matter"]
        rules = json.loads((alone / "out" / "choice.json").read_text())["rules"]
        best = {rule["key"]: rule["best"] for rule in rules}
        for rule in ("silhouette", "calinski-harabasz"):
            assert row[f"best_{rule}"] == ("" if best[rule] is None else str(best[rule]))
        assert "best_gap" not in row
        for count in (2, 3):
            mine, its = clusters(tmp_path / "out", count), clusters(alone / "out", count)
            common = sorted(set(mine) & set(its))
            wanted = slow.agreement([mine[k] for k in common], [its[k] for k in common])
            assert float(row[f"ari_k{count}"]) == pytest.approx(wanted["adjusted_rand"], abs=1e-9)
            sizes = np.bincount(list(its.values()))[1:]
            assert int(row[f"smallest_k{count}"]) == sizes.min()
    assert 15 < grown < 54


def test_all_is_all_and_nothing_is_the_plans_own() -> None:
    plan = parse_plan(HEAD + '[sweep]\nmeasures = "all"\nlinkages = "all"\n', "p.toml")
    found = [at for at, _ in combinations_of(plan)]
    assert len(found) == len(MEASURES) * len(LINKAGES)
    assert {at.scale for at in found} == {"none"}
    assert {at.handling for at in found if at.measure == "gower"} == {"pairwise"}
    assert {at.handling for at in found if at.measure == "euclidean"} == {"drop"}
    own = parse_plan(HEAD + "[sweep]\n", "p.toml")
    assert len(combinations_of(own)) == 1


def test_groups_and_matrices_are_swept(tmp_path: Path) -> None:
    asked = '[cases]\nsplit = "half"\n[sweep]\nlinkages = ["single", "ward"]\n'
    run_plan(survey(tmp_path, HEAD + asked), tmp_path / "out")
    for half in "xy":
        found = rows(tmp_path / "out" / half / "sweep.csv")
        assert [row["linkage"] for row in found] == ["single", "ward"]
        assert found[1]["ari_k2"] == "1.0"
    far = np.abs(np.subtract.outer(np.arange(6.0) ** 2, np.arange(6.0) ** 2))
    lines = [",".join(["", *"abcdef"])]
    lines += [",".join([n, *map(str, r)]) for n, r in zip("abcdef", far.tolist(), strict=True)]
    (tmp_path / "m.csv").write_text("\n".join(lines), encoding="utf-8")
    plan = tmp_path / "m.toml"
    head = 'gorvel = 1\n[source]\nfile = "m.csv"\nkind = "proximities"\n'
    plan.write_text(head + '[sweep]\nlinkages = "all"\n', encoding="utf-8")
    run_plan(plan, tmp_path / "matrix")
    assert len(rows(tmp_path / "matrix" / "sweep.csv")) == 11
    plan.write_text(head + '[sweep]\nmeasures = ["cosine"]\n', encoding="utf-8")
    with pytest.raises(InputError, match=r"\[sweep\] measures: a proximity matrix"):
        run_plan(plan, tmp_path / "none")


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ('measures = ["cosinus"]', 'nearest: "cosine"'), ('scales = "every"', "scales"),
        ('rules = ["ward"]', "rules"), ('linkages = ["ward", "ward"]', "linkages"),
    ],
)  # fmt: skip
def test_what_is_not_known_is_said(asked: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        parse_plan(f"{HEAD}[sweep]\n{asked}\n", "p.toml")


def test_what_does_not_go_together_is_a_row_and_not_an_end(tmp_path: Path) -> None:
    plan = HEAD + 'importance = { a = 2.0 }\n[sweep]\nmeasures = ["cosine", "euclidean"]\n'
    run_plan(survey(tmp_path, plan), tmp_path / "out")
    found = rows(tmp_path / "out" / "sweep.csv")
    assert [row["measure"] for row in found] == ["cosine", "euclidean"]
    assert "importance" in found[0]["status"]
    assert found[1]["status"] == "ok"


def test_trees_on_all_cores_are_those_grown_one_by_one(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    asked = COUNT + '[sweep]\nmeasures = ["euclidean", "canberra", "jaccard"]\nlinkages = "all"\n'
    plan_file = survey(tmp_path, HEAD + asked)
    run_plan(plan_file, tmp_path / "one")
    monkeypatch.setattr("gorvel.core.compare.sweep.engine_for", lambda cases: ThreadEngine(3))
    run_plan(plan_file, tmp_path / "three")
    one, three = ((tmp_path / name / "sweep.csv").read_bytes() for name in ("one", "three"))
    assert one == three
    assert one.count(b",ok,") == 22


@pytest.mark.parametrize("workers", [1, 2])
def test_a_sweep_stops_and_what_was_done_is_told(workers: int, tmp_path: Path) -> None:
    plan = parse_plan(HEAD + '[sweep]\nmeasures = "all"\nlinkages = "all"\n', "p.toml")
    survey(tmp_path, "")
    source = read_source(plan, tmp_path / "t.csv")
    own = analyse(source, plan)
    told: list[Swept] = []

    def stopping(phase: Phase, share: float) -> None:
        if len(told) >= 13:
            raise Cancelled

    with pytest.raises(Cancelled):
        sweep(source, plan, own, [2], None, stopping, told.append, ThreadEngine(workers))
    assert len(told) == 13
    assert [one.at for one in told] == [at for at, _ in combinations_of(plan)][:13]
