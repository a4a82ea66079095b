"""`gorvel run`: what it writes."""

from __future__ import annotations

import json
import math
import re
from functools import partial
from pathlib import Path

import pytest

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.plan.count_rules import USUAL
from gorvel.core.run import run_plan
from gorvel.main import DEMO, status_of
from reference import proximities as slow
from reference import trees
from runs import PLAN, TABLE, rows, study

COUNTED = ("counts.csv", "choice.json", "silhouettes.csv", "checks.json")


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
        *("hopkins", "shuffled_cophenetic", "splits", "support", "orders", "known_groups")
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
