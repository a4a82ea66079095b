"""`gorvel study` and `gorvel run STUDY`: one file for all of it, whole or not at all."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core import run
from gorvel.core.base.errors import GorvelError
from gorvel.core.grow import grown as analysis
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import load_plan, parse_plan, save_plan
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.study.file import save_study
from gorvel.core.study.opening import load_study
from gorvel.main import DEMO, status_of
from plans import quick_demo, table

LEAST = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "d"]\n'
COUNT = {"to": 3, "resamples": 2, "checks": ["structure", "support", "orders"]}


def files(directory: Path) -> dict[str, bytes]:
    """What was written, without seconds and memory."""
    out = {}
    for path in sorted(directory.rglob("*")):
        if not path.is_file():
            continue
        data = path.read_bytes()
        if path.name == "summary.json":
            told = json.loads(data)
            del told["seconds"], told["peak_memory_mb"]
            data = json.dumps(told).encode()
        out[str(path.relative_to(directory))] = data
    return out


@pytest.mark.slow
@given(
    st.integers(0, 10**6), st.sampled_from(sorted(MEASURES)), st.sampled_from(sorted(LINKAGES)),
    st.sampled_from(sorted(SCALINGS)), st.sampled_from(HANDLINGS), st.booleans(), st.booleans(),
    st.booleans(),
)  # fmt: skip
def test_a_study_alone_gives_byte_for_byte_what_its_plan_gives(
    tmp_path_factory: pytest.TempPathFactory, seed: int, measure: str, linkage: str, scale: str,
    handling: str, weighted: bool, split: bool, counted: bool,
) -> None:  # fmt: skip
    place = tmp_path_factory.mktemp("p")
    table(seed).frame.write_csv(place / "t.csv")
    binary = MEASURES[measure].kind == "binary"
    changes: dict[str, dict[str, Any]] = {
        "proximity": {"measure": measure}, "tree": {"linkage": linkage},
        "scale": {"method": "none" if binary else scale}, "missing": {"handling": handling},
        "cases": {"weight": "d" if weighted else None, "split": "word" if split else None},
        "variables": {"use": ["yes"] if binary else ["a", "b", "d"]},
        **({"count": COUNT} if counted else {}),
    }  # fmt: skip
    try:
        plan = parse_plan(LEAST, "p.toml").with_parts(changes)
        save_plan(plan, place / "p.toml")
        run.run_plan(place / "p.toml", place / "one")
    except GorvelError as error:
        with pytest.raises(type(error)):  # refused alike, and nothing is left
            run.keep_study(place / "p.toml", place / "s.gorvel")
        assert not (place / "s.gorvel").exists()
        return
    run.keep_study(place / "p.toml", place / "s.gorvel")
    for name in ("t.csv", "p.toml"):
        (place / name).unlink()
    run.run_study(place / "s.gorvel", place / "other")
    assert files(place / "one") == files(place / "other")


@pytest.mark.parametrize("plan", ["readers", "services", "stops"])
def test_the_demo_is_kept_and_nothing_of_it_is_worked_out_again(
    tmp_path: Path, plan: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "s.gorvel"
    asked = quick_demo(tmp_path) if plan == "readers" else DEMO / f"{plan}.toml"
    assert status_of(["study", str(asked), "--out", str(file)]) == 0
    assert capsys.readouterr().out == f"saved 1 tree in {file}\n"
    assert status_of(["run", str(asked), "--out", str(tmp_path / "one")]) == 0

    def never(*args: object, **keys: object) -> None:
        raise AssertionError("it is known already")

    for module, name in (
        (analysis, "grown_tree"), (analysis, "within_spread"), (run, "cophenetic_correlation"),
        (run, "resampled"),
    ):  # fmt: skip
        monkeypatch.setattr(module, name, never)
    assert status_of(["run", str(file), "--out", str(tmp_path / "other")]) == 0
    assert files(tmp_path / "one") == files(tmp_path / "other")
    assert "cases used" in capsys.readouterr().out


@pytest.mark.slow
def test_every_tree_of_a_study_is_written(tmp_path: Path) -> None:
    file, asked = tmp_path / "s.gorvel", quick_demo(tmp_path)
    run.keep_study(asked, file)
    content = load_study(file)
    study = content.study.keep().called(1, "Ward / z")
    for linkage in ("single", "complete"):
        study = study.planned(study.plan.with_("tree", linkage=linkage)).keep()
    study = study.called(3, "Ward : z")
    study = study.planned(study.plan.with_("variables", use=[])).take(2)
    save_study(replace(content, study=study), file)
    outcome = run.run_study(file, tmp_path / "out")
    assert list(outcome.summaries) == ["", "trees/Ward_z", "trees/Ward_z_2"]
    linkages = [told["plan"]["tree"]["linkage"] for told in outcome.summaries.values()]
    assert linkages == ["single", "ward", "complete"]
    run.run_plan(asked, tmp_path / "plain")
    assert files(tmp_path / "plain") == files(tmp_path / "out" / "trees" / "Ward_z")


REFUSED = {
    "cut short": (lambda data: data[: len(data) // 2], "damaged or cut short"),
    "empty": (lambda data: b"", "an empty file"),
    "foreign": (lambda data: b"a,b\n1,2\n", "no study"),
}


@pytest.mark.parametrize("how", REFUSED)
def test_what_is_no_whole_study_is_refused(
    tmp_path: Path, how: str, capsys: pytest.CaptureFixture[str]
) -> None:
    change, said = REFUSED[how]
    file = tmp_path / "s.gorvel"
    run.keep_study(DEMO / "services.toml", file)
    file.write_bytes(change(file.read_bytes()))
    assert status_of(["run", str(file), "--out", str(tmp_path / "out")]) == 2
    error = capsys.readouterr().err
    assert "s.gorvel" in error
    assert said in error
    assert not (tmp_path / "out").exists()


def test_calls_that_do_not_fit_a_study_are_refused(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file, plan = tmp_path / "s.gorvel", str(DEMO / "services.toml")
    other = tmp_path / "letter.gorvel"
    other.write_text("Dear colleague")
    for call, status, said in (
        (["study", plan, "--out", str(other)], 2, "a file that is not a study"),
        (["study", plan, "--out", str(tmp_path / "s.zip")], 2, ".gorvel"),
        (["study", plan, "--out", str(tmp_path / "no" / "s.gorvel")], 2, "s.gorvel"),
        (["study", plan], 2, "--out"),
        (["study", plan, "--out", str(file)], 0, ""),
        (["study", plan, "--out", str(file)], 0, ""),
        (["study", plan, "--out", str(other), "--force"], 0, ""),
        (["study", plan, "--data", str(DEMO / "no.csv"), "--out", str(file)], 2, "no.csv"),
        (["run", str(file), "--out", str(tmp_path / "o"), "--data", plan], 2, "--data"),
        (["run", str(tmp_path / "no.gorvel"), "--out", str(tmp_path / "o")], 2, "no.gorvel"),
    ):
        assert status_of(call) == status, call
        assert said in capsys.readouterr().err
    assert sorted(p.name for p in tmp_path.iterdir()) == ["letter.gorvel", "s.gorvel"]
    assert load_study(other).study.source.n == load_study(file).study.source.n == 16


def test_other_data_may_be_kept_than_the_plan_names(tmp_path: Path) -> None:
    data = tmp_path / "half.csv"
    lines = (DEMO / "readers.csv").read_text().splitlines(keepends=True)
    data.write_text("".join(lines[:121]))
    asked = tmp_path / "readers.toml"
    text = (DEMO / "readers.toml").read_text(encoding="utf-8")
    asked.write_text(text.replace("[count]\n", "[count]\nresamples = 3\n"), encoding="utf-8")
    content = run.keep_study(asked, tmp_path / "s.gorvel", data)
    assert content.study.source.n == 120
    again = load_study(tmp_path / "s.gorvel").study
    assert again.data_file == data
    assert again.plan.source.file == "readers.csv"


@pytest.mark.slow
def test_a_kill_at_any_moment_leaves_the_old_study_or_the_new(tmp_path: Path) -> None:
    file, plan = tmp_path / "s.gorvel", DEMO / "services.toml"
    run.keep_study(DEMO / "stops.toml", file)
    old = file.read_bytes()
    run.keep_study(plan, tmp_path / "n.gorvel")
    new = (tmp_path / "n.gorvel").read_bytes()
    command = [sys.executable, "-m", "gorvel", "study", str(plan), "--out", str(file)]
    began = time.monotonic()
    subprocess.run(command, check=True, capture_output=True)
    took = time.monotonic() - began
    assert file.read_bytes() == new
    for k in range(4):
        file.write_bytes(old)
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(took * (0.7 + 0.1 * k))
        process.send_signal(signal.SIGKILL)
        process.wait()
        assert file.read_bytes() in (old, new)
    run.keep_study(plan, file)
    assert sorted(os.listdir(tmp_path)) == ["n.gorvel", "s.gorvel"]


ASKED = {  # tables that a plan may do without, each empty and with a key
    "reassign": ({}, {"counts": [2]}), "kmeans": ({}, {"to": 3, "starts": 2}),
    "consensus": ({},), "sweep": ({}, {"linkages": ["ward", "single"]}),
    "profile": ({}, {"map": True, "typing": 2}), "count": ({"resamples": 2, "to": 3},),
    "design": ({}, {"strata": "word"}),
}  # fmt: skip


@pytest.mark.parametrize(("part", "keys"), [(p, k) for p, every in ASKED.items() for k in every])
def test_a_study_writes_every_file_that_its_plan_writes(
    tmp_path: Path, part: str, keys: dict[str, Any]
) -> None:
    table(4).frame.write_csv(tmp_path / "t.csv")
    plan = parse_plan(LEAST, "p.toml").with_("missing", handling="mean")
    whole = plan.model_dump(by_alias=True, exclude_unset=True) | {part: keys}
    others = [{"name": "single", "linkage": "single"}] if part == "consensus" else []
    plan = Plan.whole(whole | {"trees": others})
    save_plan(plan, tmp_path / "p.toml")
    assert load_plan(tmp_path / "p.toml") == plan
    plan_file, study, one, two = (str(tmp_path / n) for n in ("p.toml", "s.gorvel", "one", "two"))
    assert status_of(["run", plan_file, "--out", one]) == 0
    assert status_of(["study", plan_file, "--out", study]) == 0
    assert status_of(["run", study, "--out", two]) == 0
    assert files(tmp_path / "one") == files(tmp_path / "two")
