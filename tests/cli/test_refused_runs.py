"""`gorvel run`: what it refuses, how it is stopped, and that nothing is left behind by either."""

from __future__ import annotations

import io
import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from gorvel.cli.watching import watched
from gorvel.core.base.progress import Phase
from gorvel.core.grow import algorithm
from gorvel.main import status_of
from runs import PLAN, TABLE, rows, study

BAD_PLANS = {
    "gorvel = 1\n[source": ["p.toml", "not TOML"],
    PLAN.replace("gorvel = 1", ""): ["gorvel = 1"],
    PLAN.replace("gorvel = 1", "gorvel = 2"): ["gorvel", "2"],
    PLAN.replace('file = "t.csv"', ""): ["[source] file", "required"],
    PLAN.replace("t.csv", "none.csv"): ["none.csv", "file not found"],
    PLAN.replace("t.csv", "p.toml"): ["p.toml", ".toml", ".csv"],
    PLAN + '[tree]\nlinkages = "ward"\n': ["[tree]", '"linkages"', '"linkage"'],
    PLAN + "[treee]\n": ['"treee"', '"tree"'],
    PLAN + "[trees]\n": ["trees: {}", "a list"],
    PLAN + '[tree]\nlinkage = "wards"\n': ["[tree] linkage", '"wards"', '"ward"'],
    PLAN + '[proximity]\nmeasure = "euclid"\n': ["[proximity] measure", '"euclidean"'],
    PLAN + "[tree]\nbeta = 1\n": ["[tree] beta", "1", "less than 1"],
    PLAN + "[cut]\ncounts = [2, 9]\n": ["[cut] counts", "9", "1 to 5"],
    PLAN + '[cut]\ncounts = ["2"]\n': ["[cut] counts", '"2"', "a whole number"],
    PLAN + "[count]\nfrom = 4\nto = 3\n": ["[count] to", "3", "4"],
    PLAN + '[count]\nrules = ["silhouete"]\n': ["[count] rules", '"silhouette"'],
    PLAN + "[cut]\ncounts = 3\n": ["[cut] counts", "3", "a list"],
    "cut = 3\n" + PLAN: ["cut", "3", "a table"],
    PLAN.replace("gorvel = 1", "gorvel = true"): ["gorvel", "true", "expected 1"],
    PLAN.replace('file = "t.csv"', "file = 3"): ["[source] file", "3", "a text"],
    PLAN + "cap = { a = [1] }\n": ["[variables] cap.a", "two percentiles"],
    PLAN + "importance = { a = 0.0 }\n": ["[variables] importance.a", "greater than 0"],
    PLAN + "importance = { use = 2.0 }\n": ["[variables] importance", '"use"', "not active"],
    PLAN.replace('["a", "b"]', "[]"): ["[variables] use", "at least one"],
    PLAN.replace('["a", "b"]', '["a", "c"]'): ["t.csv", "[variables] use", '"c"', "nearest"],
    PLAN.replace('["a", "b"]', '["a", "kind"]'): ['variable "kind"', "nominal", "gower"],
    PLAN.replace('"id"', '"nobody"'): ["[cases] label", '"nobody"'],
    PLAN.replace('label = "id"', 'weight = "a"\nsplit = "kind"') + "[scale]\nby = 'rows'\n": [
        "[scale] by", '"rows"',
    ],
    PLAN + '[missing]\nhandling = "stop"\n': ["row 4", 'column "b"', "missing"],
    PLAN + '[proximity]\nmeasure = "gower"\n[missing]\nhandling = "mean"\n': ["handling", "gower"],
    PLAN.replace('label = "id"', 'split = "id"'): ['group "r1"', "1 case", "at least 2"],
    PLAN + 'nominal = ["a"]\nbinary = ["a"]\n': ["[variables]", '"a"', "one level"],
    PLAN.replace('label = "id"', 'keep = "a >"'): ["[cases] keep", "the end", "a number"],
    PLAN.replace('label = "id"', "set_aside = [0]"): ["[cases] set_aside", "0"],
    PLAN + "cap = { a = [90, 10] }\n": ["[variables] cap.a", "90 to 10", "lower"],
    PLAN + "cap = { w = [1, 99] }\n": ["[variables] cap", '"w"', "not active"],
    PLAN + 'missing = { z = ["9"] }\n': ["[variables] missing", '"z"', "nearest"],
    PLAN + 'binary = ["a"]\n': ["row 4", 'column "a"', "third value"],
    PLAN.replace('file = "t.csv"', 'file = "t.csv"\nkind = "proximities"'): [
        "[variables]", "does not fit",
    ],
    'gorvel = 1\n[source]\nfile = "t.csv"\nkind = "proximities"\n': [
        "t.csv", "row 1", 'the label "r1"',
    ],
}  # fmt: skip


BAD_TABLES = {
    TABLE.replace("r5,3,x,7", "r5,3,x,oops"): ["t.csv", "row 5", 'column "a"', '"oops"', "finite"],
    TABLE.replace("r5,3,x,7", "r5,3,x,nan"): ["row 5", '"nan"'],
    TABLE.replace("r5,3,x,7", "r5,3,x,7,7"): ["t.csv", "row 5", "8 cells", "7"],
    "": ["t.csv", "empty file"],
    "id,a,b\n": ["no cases"],
    "id,a,b\n1,,2\n2,3,\n": ["no case left of 2"],
    "id,a,b\n1,5,2\n2,5,3\n": ['variable "a"', "constant"],
}


def check_refused(
    directory: Path, plan: Path, capsys: pytest.CaptureFixture[str], said: list[str]
) -> None:
    before = sorted(p.relative_to(directory) for p in directory.rglob("*"))
    assert status_of(["run", str(plan), "--out", str(directory / "deep" / "o")]) == 2
    lines = capsys.readouterr().err.splitlines()
    assert len(lines) == 1
    assert lines[0].startswith("gorvel: error: ")
    for part in said:
        assert part in lines[0]
    assert sorted(p.relative_to(directory) for p in directory.rglob("*")) == before


@pytest.mark.parametrize("plan", BAD_PLANS)
def test_a_wrong_plan_is_refused_in_one_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], plan: str
) -> None:
    check_refused(tmp_path, study(tmp_path, plan=plan), capsys, BAD_PLANS[plan])


@pytest.mark.parametrize("table", BAD_TABLES)
def test_a_wrong_table_is_refused_in_one_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], table: str
) -> None:
    plan = study(tmp_path, table, PLAN + '[scale]\nmethod = "range01"\n')
    check_refused(tmp_path, plan, capsys, BAD_TABLES[table])


@pytest.mark.parametrize("weight", ["0", "-1", "inf", "", "many"])
def test_a_weight_that_is_none_names_the_row(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], weight: str
) -> None:
    plan = PLAN.replace('label = "id"', 'weight = "w"')
    table = TABLE.replace("r3,1", f"r3,{weight}")
    check_refused(tmp_path, study(tmp_path, table, plan), capsys, ["row 3", 'column "w"'])


def test_an_out_that_is_there(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plan, out = study(tmp_path), tmp_path / "o"
    out.mkdir()
    (out / "mine.txt").write_text("kept")
    (out / "order.csv").write_text("replaced")
    assert status_of(["run", str(plan), "--out", str(out), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["cases"]["kept"] == 5
    assert (out / "mine.txt").read_text() == "kept"
    assert rows(out / "order.csv")[0]["label"] == "r1"
    assert status_of(["run", str(plan), "--out", str(plan)]) == 2
    assert "p.toml" in capsys.readouterr().err
    assert status_of(["run", str(plan)]) == 2
    assert "--out" in capsys.readouterr().err


def test_too_large_is_refused_before_the_work(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(algorithm, "free_memory", lambda: 300.0)
    assert status_of(["run", str(study(tmp_path)), "--out", str(tmp_path / "o")]) == 3
    assert capsys.readouterr().err.startswith("gorvel: error: t.csv: 5 cases need")
    assert not (tmp_path / "o").exists()


@pytest.mark.slow
def test_an_interrupted_run_ends_with_130_and_leaves_nothing(tmp_path: Path) -> None:
    x = np.random.default_rng(1).normal(size=(6000, 4))
    np.savetxt(tmp_path / "t.csv", x, delimiter=",", header="a,b,c,d", comments="")
    plan = tmp_path / "p.toml"
    plan.write_text(PLAN.replace('label = "id"', ""), encoding="utf-8")
    before = sorted(tmp_path.rglob("*"))
    command = [sys.executable, "-m", "gorvel", "run", str(plan), "--out", str(tmp_path / "o")]
    command.append("--matrix")  # which takes long to write
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as process:
        for _ in range(6000):  # until it is at work, with its directory beside the target
            if len(sorted(tmp_path.rglob("*"))) > len(before):
                break
            with pytest.raises(subprocess.TimeoutExpired):
                process.wait(0.05)
        process.terminate()
        assert process.wait(600) == 130
        assert process.stderr is not None
        assert process.stderr.read() == "gorvel: error: cancelled\n"
    assert sorted(tmp_path.rglob("*")) == before


@pytest.mark.slow
@pytest.mark.parametrize(
    "meanwhile",
    [
        "exec('main._interrupt(15, None)')",  # code from a text, as libraries make it
        "swallowed()",
        "turned()",
    ],
)
def test_wherever_an_interrupt_falls_the_status_is_130(tmp_path: Path, meanwhile: str) -> None:
    (tmp_path / "t.csv").write_text("id,a,b\nx,1,2\ny,2,1\nz,5,5\n", encoding="utf-8")
    (tmp_path / "p.toml").write_text(PLAN, encoding="utf-8")
    before = sorted(tmp_path.rglob("*"))
    code = f"""
import sys
from gorvel import main
from gorvel.core import run
def swallowed():
    try:
        main._interrupt(15, None)
    except BaseException:
        pass
def turned():
    try:
        main._interrupt(15, None)
    except BaseException as error:
        raise SystemError("a library failed") from error
read = run.read_source
def slow(*args):
    {meanwhile}
    return read(*args)
run.read_source = slow
sys.argv = ["gorvel", "run", {str(tmp_path / "p.toml")!r}, "--out", {str(tmp_path / "o")!r}]
main.entry()
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (130, "gorvel: error: cancelled\n")
    assert sorted(tmp_path.rglob("*")) == before


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


def test_progress_is_one_line_of_a_terminal_and_nothing_elsewhere(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    clock = [0.0]
    monkeypatch.setattr("gorvel.cli.watching.time.monotonic", lambda: clock[0])
    terminal, file = Terminal(), io.StringIO()
    for stream in (terminal, file):
        with watched(stream) as progress:
            for share in (0.0, 0.25, 0.5):
                progress(Phase.JOINS, share)
                clock[0] += 1.0
    assert file.getvalue() == ""
    said = terminal.getvalue().split("\r\x1b[K")
    assert said == [
        "",
        "Joining the nearest clusters: 25%, about 3 s left",
        "Joining the nearest clusters: 50%, about 2 s left",
        "",
    ]


@pytest.mark.slow
def test_a_reader_who_has_heard_enough_is_no_error(tmp_path: Path) -> None:
    read, write = os.pipe()
    os.close(read)
    out = tmp_path / "out"
    try:
        told = subprocess.run(
            [sys.executable, "-m", "gorvel", "run", str(study(tmp_path)), "--out", str(out)],
            stdout=write, stderr=subprocess.PIPE, text=True, check=False, timeout=600,
        )  # fmt: skip
    finally:
        os.close(write)
    assert (told.returncode, told.stderr) == (128 + signal.SIGPIPE, "")
    assert (out / "summary.json").exists()
