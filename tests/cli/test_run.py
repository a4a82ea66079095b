"""`gorvel run`: what it writes, what it refuses, and that a refusal leaves nothing behind."""

from __future__ import annotations

import csv
import io
import json
import math
import os
import re
import signal
import subprocess
import sys
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from gorvel.cli.watching import watched
from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.grow import ways
from gorvel.core.plan.count_rules import USUAL
from gorvel.core.run import run_plan
from gorvel.main import DEMO, status_of
from reference import proximities as slow
from reference import trees

COUNTED = ("counts.csv", "choice.json", "silhouettes.csv", "checks.json")
TABLE = """id,w,g,a,b,use,kind
r1,1,x,1,2.5,yes,red
r2,2,y,2,1.5,no,blue
r3,1,x,2,1.5,no,red
r4,1,y,9,,yes,red
r5,3,x,7,4,no,blue
r6,1,y,1,2.5,yes,blue
"""
PLAN = """gorvel = 1
[source]
file = "t.csv"
[cases]
label = "id"
[variables]
use = ["a", "b"]
"""


def study(directory: Path, table: str = TABLE, plan: str = PLAN) -> Path:
    (directory / "t.csv").write_text(table, encoding="utf-8")
    (directory / "p.toml").write_text(plan, encoding="utf-8")
    return directory / "p.toml"


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def leaves(text: str) -> dict[str, float]:
    """Depth of every leaf of a Newick tree: the sum of the branch lengths above it."""
    depth: dict[str, float] = {}

    def parse(at: int, above: list[list[str]]) -> int:
        names: list[str] = []
        if text[at] == "(":
            while text[at] in "(,":
                inner: list[list[str]] = []
                at = parse(at + 1, inner)
                names += inner[0]
            at += 1
        else:
            quoted = re.compile(r"'((?:[^']|'')*)'").match(text, at)
            assert quoted
            names, at = [quoted[1].replace("''", "'")], quoted.end()
            depth[names[0]] = 0.0
        length = re.compile(r":([-0-9.e+]+)").match(text, at)
        for name in names if length else []:
            depth[name] += float(length[1])  # type: ignore[index]
        above.append(names)
        return length.end() if length else at

    end = parse(0, [])
    assert text[end:] == ";\n"
    return depth


@pytest.mark.parametrize("name", ["readers", "stops", "services"])
def test_demo_plans_write_what_follows_from_the_definitions(tmp_path: Path, name: str) -> None:
    assert status_of(["run", str(DEMO / f"{name}.toml"), "--out", str(tmp_path / "o")]) == 0
    out = tmp_path / "o"
    assert {p.name for p in out.iterdir()} == {
        *("schedule.csv", "membership.csv", "proximity.csv"),
        *("tree.nwk", "order.csv", "summary.json", "clusters.json"),
        *(() if name == "services" else ("profiles.csv", "tests.csv")),
        *((*COUNTED, "dropped.csv") if name == "readers" else ()),
    }
    told = json.loads((out / "summary.json").read_text())
    schedule, matrix = rows(out / "schedule.csv"), rows(out / "proximity.csv")
    membership = rows(out / "membership.csv")
    labels = [row["label"] for row in matrix]
    kept = [row for row in membership if row["k3"]]
    assert [row["label"] for row in kept] == labels
    assert told["cases"]["kept"] == len(labels) == len(schedule) + 1
    assert told["cases"]["read"] == len(membership)
    assert len(told["cases"]["dropped"]) == len(membership) - len(labels)

    d = [[float(row[label]) for label in labels] for row in matrix]
    rule = told["plan"]["tree"]["linkage"]
    weights = {"stops": [float(r["readers"]) for r in rows(DEMO / "stops.csv")]}
    w = weights.get(name, [1.0] * len(labels))
    if name != "readers":  # the slow way through 208 cases takes minutes
        joins = trees.agglomerate(d, w, rule)
        for row, join in zip(schedule, joins, strict=True):
            assert float(row["height"]) == pytest.approx(float(join.height))
            assert row["left_label"] == labels[join.left[0]]
            assert (row["tied"], row["tie_matters"]) == (
                str(int(join.tied)),
                str(int(join.matters)),
            )
        for k in (2, 3, 4):
            if f"k{k}" in kept[0]:
                cut = trees.cut(joins, len(labels), len(labels) - k)
                assert [int(row[f"k{k}"]) for row in kept] == cut
    top = float(schedule[-1]["height"])
    depths = leaves((out / "tree.nwk").read_text())
    assert set(depths) == set(labels)
    assert all(depth == pytest.approx(top) for depth in depths.values())
    order = rows(out / "order.csv")
    assert sorted(row["label"] for row in order) == sorted(labels)
    assert order[0]["label"] == schedule[-1]["left_label"]


def test_schedule_reads_back_exactly_and_names_what_was_joined(tmp_path: Path) -> None:
    plan = study(tmp_path, plan=PLAN + '[tree]\nlinkage = "average"\n[cut]\nheights = [2.5, 3]\n')
    assert status_of(["run", str(plan), "--out", str(tmp_path / "o")]) == 0
    schedule = rows(tmp_path / "o" / "schedule.csv")
    # r1 = r6 and r2 = r3; r4 is dropped; then 2 between those, and r5 far away
    assert [(r["left"], r["right"]) for r in schedule] == [
        ("c1", "c6"), ("c2", "c3"), ("j1", "j2"), ("j3", "c5"),
    ]  # fmt: skip
    assert [float(r["height"]) for r in schedule] == [0, 0, 2, (38.25 + 31.25) / 2]
    assert [r["jump"] for r in schedule] == ["", "0.0", "2.0", "32.75"]
    assert [r["used_at"] for r in schedule] == ["3", "3", "4", "0"]
    assert [r["tied"] for r in schedule] == ["1", "0", "0", "0"]
    a, b = [1, 2, 2, 7, 1], [2.5, 1.5, 1.5, 4, 2.5]
    total = trees.within_ss([1] * 5, list(zip(a, b, strict=True)), [1, 1], [1] * 5)
    assert float(schedule[2]["r2"]) == pytest.approx(1 - 2 / total)
    members = rows(tmp_path / "o" / "membership.csv")
    assert [r["h2.5"] for r in members] == ["1", "1", "1", "", "2", "1"]
    assert [r["k4"] for r in members] == ["1", "2", "3", "", "4", "1"]
    assert "h3" in members[0]
    told = json.loads((tmp_path / "o" / "summary.json").read_text())
    assert told["cases"]["dropped"] == [{"case": 4, "label": "r4", "reason": "no answer to b"}]
    assert told["plan"]["missing"]["handling"] == "drop"


def test_weights_importance_and_roots_reach_the_tree(tmp_path: Path) -> None:
    plan = PLAN.replace('label = "id"', 'label = "id"\nweight = "w"') + (
        "importance = { a = 2.0 }\n[missing]\nhandling = 'mean'\n"
        '[scale]\nmethod = "zscore"\n[proximity]\nmeasure = "euclidean"\n'
    )
    assert status_of(["run", str(study(tmp_path, plan=plan)), "--out", str(tmp_path / "o")]) == 0
    w = [1.0, 2, 1, 1, 3, 1]
    b = [2.5, 1.5, 1.5, math.nan, 4, 2.5]
    known = [k for k in range(6) if not math.isnan(b[k])]
    b[3] = sum(w[k] * b[k] for k in known) / sum(w[k] for k in known)
    columns = [slow.scaled(x, "zscore", w) for x in ([1.0, 2, 2, 9, 7, 1], b)]
    x = list(zip(*columns, strict=True))
    d2 = [[slow.squared_euclidean(p, q, [2.0, 1.0]) for q in x] for p in x]
    joins = trees.agglomerate(d2, w, "ward")
    schedule = rows(tmp_path / "o" / "schedule.csv")
    heights = [math.sqrt(max(float(j.height), 0)) for j in joins]
    assert [float(r["height"]) for r in schedule] == pytest.approx(heights)
    assert [float(r["mass"]) for r in schedule] == [
        sum(w[i] for i in j.left + j.right) for j in joins
    ]
    within = trees.within_ss(trees.cut(joins, 6, 4), x, [2.0, 1.0], w)
    assert float(schedule[3]["within_ss"]) == pytest.approx(within)


def test_counts_and_choice_are_written_when_the_plan_asks(tmp_path: Path) -> None:
    asked = "[count]\nresamples = 3\nto = 3\nleft_out = ['dunn']\nchosen = 2\nreasons = 'ours'\n"
    plan = study(tmp_path, plan=PLAN + asked)
    assert status_of(["run", str(plan), "--out", str(tmp_path / "out")]) == 0
    table = rows(tmp_path / "out" / "counts.csv")
    choice = json.loads((tmp_path / "out" / "choice.json").read_text())
    assert [row["clusters"] for row in table] == ["2", "3"]
    assert set(table[0]) == {"clusters", "gap_se", "bootstrap-jaccard_min", *USUAL}
    assert [rule["key"] for rule in choice["rules"]] == list(USUAL)
    assert choice["chosen"] == 2
    assert choice["reasons"] == "ours"
    votes: dict[str, int] = {}
    for rule in choice["rules"]:
        assert (rule["best"] is None) == bool(rule["why"])
        assert rule["vote"] is (rule["no_vote"] is None)
        if rule["vote"]:
            votes[str(rule["answer"])] = votes.get(str(rule["answer"]), 0) + 1
    assert choice["votes"] == votes
    for key, best in (("silhouette", max), ("davies-bouldin", min)):
        values = {int(row["clusters"]): float(row[key]) for row in table if row[key]}
        told = next(rule["best"] for rule in choice["rules"] if rule["key"] == key)
        assert values[told] == best(values.values())
    assert not (tmp_path / "out" / "checks.json").exists()
    checked = (
        PLAN.replace('label = "id"', 'label = "id"\ngroups = "kind"') + "[cut]\ncounts = [2]\n"
    )
    checked += "[count]\nresamples = 3\nchecks = ['structure', 'splits', 'orders', 'support']\n"
    plan = study(tmp_path, plan=checked)
    assert status_of(["run", str(plan), "--out", str(tmp_path / "checks")]) == 0
    told = json.loads((tmp_path / "checks" / "checks.json").read_text())
    assert set(told) == {
        *("hopkins", "shuffled_cophenetic", "splits", "support", "orders", "known_groups"),
    }
    assert told["hopkins"]["why"] == told["splits"]["why"] == "5 cases are too few"
    assert told["support"] == {"drawn": "cases", "why": None}
    support = rows(tmp_path / "checks" / "support.csv")
    assert [row["join"] for row in support] == ["1", "2", "3", "4"]
    assert all(0 <= float(row["plain"]) <= 1 for row in support[:-1])
    assert support[-1]["plain"] == ""
    assert told["orders"]["2"] == {"together": 1.0, "lowest": 1.0}
    assert told["known_groups"]["column"] == "kind"
    silhouettes = rows(tmp_path / "checks" / "silhouettes.csv")
    mean = sum(float(row["silhouette"]) for row in silhouettes) / 5
    counts = rows(tmp_path / "checks" / "counts.csv")
    assert mean == pytest.approx(float(counts[0]["silhouette"]))
    own = {row["label"]: row["k2"] for row in rows(tmp_path / "checks" / "membership.csv")}
    assert all(row["cluster"] == own[row["label"]] for row in silhouettes)
    some = PLAN.replace('label = "id"', 'split = "g"') + "[count]\nrules = ['mojena', 'gap']\n"
    plan = study(tmp_path, plan=some)
    assert status_of(["run", str(plan), "--out", str(tmp_path / "split")]) == 0
    for group in "xy":  # three cases and two: counts are trimmed to what there is
        written = rows(tmp_path / "split" / group / "counts.csv")
        assert [row["clusters"] for row in written] == (["2"] if group == "x" else [])
        choice = json.loads((tmp_path / "split" / group / "choice.json").read_text())
        assert [rule["best"] for rule in choice["rules"]] == [None, None]
        assert all(rule["why"] for rule in choice["rules"])


def test_a_run_stopped_while_resampling_leaves_nothing(tmp_path: Path) -> None:
    plan = study(tmp_path, plan=PLAN + "[count]\nchecks = ['orders']\n")

    def stop(phase: Phase, share: float, last: Phase) -> None:
        if phase == last:
            raise Cancelled

    for last in (Phase.PAIRS, Phase.RESAMPLES, Phase.ORDERS):
        with pytest.raises(Cancelled):
            run_plan(plan, tmp_path / "out", progress=partial(stop, last=last))
        assert sorted(path.name for path in tmp_path.iterdir()) == ["p.toml", "t.csv"]


def test_groups_variables_and_few_cases(tmp_path: Path) -> None:
    split = PLAN.replace('label = "id"', 'split = "g"')
    assert status_of(["run", str(study(tmp_path, plan=split)), "--out", str(tmp_path / "s")]) == 0
    assert [r["case"] for r in rows(tmp_path / "s" / "x" / "membership.csv")] == ["1", "3", "5"]
    schedule = rows(tmp_path / "s" / "y" / "schedule.csv")
    assert [(r["left"], r["right"]) for r in schedule] == [("c2", "c6")]

    turned = PLAN + '[tree]\nof = "variables"\nlinkage = "single"\n'
    assert status_of(["run", str(study(tmp_path, plan=turned)), "--out", str(tmp_path / "v")]) == 0
    (row,) = rows(tmp_path / "v" / "schedule.csv")
    assert (row["left_label"], row["right_label"], row["r2"]) == ("a", "b", "")
    assert float(row["height"]) == 1.5**2 + 0.5**2 * 2 + 3**2 + 1.5**2

    one = TABLE.splitlines(keepends=True)
    for kept in (1, 2):
        plan = study(tmp_path, "".join(one[: kept + 1]))
        out = tmp_path / f"n{kept}"
        assert status_of(["run", str(plan), "--out", str(out)]) == 0
        assert len(rows(out / "schedule.csv")) == kept - 1
        assert json.loads((out / "summary.json").read_text())["cophenetic_correlation"] is None


BAD_PLANS = {
    "gorvel = 1\n[source": ["p.toml", "not TOML"],
    PLAN.replace("gorvel = 1", ""): ["gorvel = 1"],
    PLAN.replace("gorvel = 1", "gorvel = 2"): ["gorvel", "2"],
    PLAN.replace('file = "t.csv"', ""): ["[source] file", "required"],
    PLAN.replace("t.csv", "none.csv"): ["none.csv", "no such file"],
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
    PLAN + "importance = { use = 2.0 }\n": ["[variables] importance", '"use"', "not in use"],
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
    PLAN + "cap = { w = [1, 99] }\n": ["[variables] cap", '"w"', "not in use"],
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
    "id,a,b\n1,5,2\n2,5,3\n": ['variable "a"', "no spread"],
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
    monkeypatch.setattr(ways, "free_memory", lambda: 300.0)
    assert status_of(["run", str(study(tmp_path)), "--out", str(tmp_path / "o")]) == 3
    assert capsys.readouterr().err.startswith("gorvel: error: t.csv: 5 cases need")
    assert not (tmp_path / "o").exists()


def test_an_interrupted_run_ends_with_130_and_leaves_nothing(tmp_path: Path) -> None:
    x = np.random.default_rng(1).normal(size=(6000, 4))
    np.savetxt(tmp_path / "t.csv", x, delimiter=",", header="a,b,c,d", comments="")
    plan = tmp_path / "p.toml"
    plan.write_text(PLAN.replace('label = "id"', ""), encoding="utf-8")
    before = sorted(tmp_path.rglob("*"))
    command = [sys.executable, "-m", "gorvel", "run", str(plan), "--out", str(tmp_path / "o")]
    command.append("--matrix")  # which takes long to write
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as process:
        for _ in range(600):  # until it is at work, with its directory beside the target
            if len(sorted(tmp_path.rglob("*"))) > len(before):
                break
            with pytest.raises(subprocess.TimeoutExpired):
                process.wait(0.05)
        process.terminate()
        assert process.wait(20) == 130
        assert process.stderr is not None
        assert process.stderr.read() == "gorvel: error: cancelled\n"
    assert sorted(tmp_path.rglob("*")) == before


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


def test_a_reader_who_has_heard_enough_is_no_error(tmp_path: Path) -> None:
    read, write = os.pipe()
    os.close(read)
    out = tmp_path / "out"
    try:
        told = subprocess.run(
            [sys.executable, "-m", "gorvel", "run", str(study(tmp_path)), "--out", str(out)],
            stdout=write, stderr=subprocess.PIPE, text=True, check=False, timeout=120,
        )  # fmt: skip
    finally:
        os.close(write)
    assert (told.returncode, told.stderr) == (128 + signal.SIGPIPE, "")
    assert (out / "summary.json").exists()
