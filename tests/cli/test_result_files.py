"""Columns, types and keys of the result files are those of the description, for any study."""

from __future__ import annotations

import csv
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import GorvelError
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.file import parse_plan, save_plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.run import run_plan
from plans import LEAST, table

SCHEDULE = (
    "join", "left", "right", "left_label", "right_label", "size", "mass", "height", "jump",
    "clusters", "left_made_at", "right_made_at", "used_at", "tied", "tie_matters", "within_ss",
    "r2", "semipartial_r2",
)  # fmt: skip
WHOLE = ("join", "size", "clusters", "left_made_at", "right_made_at", "used_at")
SUMMARY = {
    "gorvel": str, "plan": dict, "cases": dict, "cophenetic_correlation": (float, int, type(None)),
    "agglomerative_coefficient": (float, int, type(None)), "inversions": int, "ties": int,
    "ties_that_matter": int, "cautions": list, "seconds": dict, "peak_memory_mb": (float, int),
}  # fmt: skip
RULE = {
    "key": str, "name": str, "direction": str, "best": (int, type(None)),
    "why": (str, type(None)), "runner_up": (int, type(None)), "family": str, "vote": bool,
}  # fmt: skip


def rows(path: Path) -> list[dict[str, str]]:
    """A CSV file, strictly: UTF-8, commas, every row as long as its head."""
    data = path.read_bytes()
    assert b"\r" not in data
    with path.open(encoding="utf-8", newline="") as file:
        reader = csv.DictReader(file, strict=True, restkey="over")
        found = list(reader)
    assert all("over" not in row and None not in row.values() for row in found)
    return found


def head(path: Path) -> list[str]:
    """The names of its columns."""
    return path.read_text(encoding="utf-8").splitlines()[0].split(",")


def number(cell: str) -> float:
    """A cell that reads back exactly, NaN where it is empty."""
    if cell == "":
        return float("nan")
    value = float(cell)
    assert np.isfinite(value)
    assert "," not in cell
    assert float(repr(value)) == value
    return value


@st.composite
def plans(draw: st.DrawFn) -> dict[str, Any]:
    """Keys of a plan that as a rule can be carried out."""
    measure = draw(st.sampled_from(sorted(MEASURES)))
    heights = st.lists(st.sampled_from([0.5, 1.0, 2.25]), max_size=2, unique=True)
    use = ["yes"] if MEASURES[measure].kind == "binary" else ["a", "b", "d"]
    return {
        "cases": {"label": draw(st.sampled_from([None, "word"])),
                  "weight": draw(st.sampled_from([None, "d"])),
                  "set_aside": draw(st.lists(st.integers(1, 9), unique=True, max_size=2))},
        "variables": {"use": use}, "missing": {"handling": draw(st.sampled_from(["drop", "mode"]))},
        "proximity": {"measure": measure},
        "tree": {"linkage": draw(st.sampled_from(sorted(LINKAGES)))},
        "cut": {"counts": draw(st.lists(st.integers(1, 4), max_size=3, unique=True)),
                "heights": draw(heights)},
        "count": {"to": 4, "resamples": 2, "checks": draw(st.sampled_from([[], ["structure"]])),
                  "rules": draw(st.sampled_from([list(COUNT_RULES), ["silhouette", "gap"]]))},
    }  # fmt: skip


@pytest.mark.slow
@settings(max_examples=examples(50))
@given(st.integers(0, 10**6), plans())
def test_files_are_as_described(
    tmp_path_factory: pytest.TempPathFactory, seed: int, keys: dict[str, Any]
) -> None:
    place = tmp_path_factory.mktemp("r")
    table(seed).frame.write_csv(place / "t.csv")
    plan = parse_plan(LEAST, "p.toml")
    try:
        plan = plan.with_parts(keys)
        save_plan(plan, place / "p.toml")
        outcome = run_plan(place / "p.toml", place / "out")
    except GorvelError:
        assert not (place / "out").exists()
        return
    out, told = place / "out", outcome.summaries[""]
    assert sorted(outcome.files) == sorted(path.name for path in out.iterdir())
    check_summary(out, told)
    kept = [
        case for case in range(1, 10) if case not in {d["case"] for d in told["cases"]["dropped"]}
    ]
    check_schedule(out / "schedule.csv", kept, plan.cases.weight is not None)
    check_memberships(out / "membership.csv", kept, keys["cut"])
    check_order(out, kept)
    check_count(out, keys["count"], len(kept))


def check_summary(out: Path, told: dict[str, Any]) -> None:
    found = json.loads((out / "summary.json").read_text(encoding="utf-8"))
    assert found == json.loads(json.dumps(told))
    counted = {"verdict"} if (out / "choice.json").exists() else set()
    assert set(found) == set(SUMMARY) | counted
    for key, kind in SUMMARY.items():
        assert isinstance(found[key], kind), key
    cases = found["cases"]
    assert cases["read"] == 9
    assert cases["kept"] == 9 - len(cases["dropped"])
    assert all(set(d) == {"case", "label", "reason"} for d in cases["dropped"])
    assert all(set(c) == {"code", "text"} for c in found["cautions"])
    assert found["plan"]["cut"]["counts"] is not None


def check_schedule(path: Path, kept: list[int], weighted: bool) -> None:
    assert tuple(head(path)) == SCHEDULE
    found = rows(path)
    n = len(kept)
    assert [int(row["join"]) for row in found] == list(range(1, n))
    made: dict[str, set[int]] = {f"c{case}": {case} for case in kept}
    used: dict[str, int] = {}
    before = float("nan")
    for k, row in enumerate(found, 1):
        assert all(str(int(row[name])) == row[name] for name in WHOLE)
        left, right = made[row["left"]], made[row["right"]]
        assert min(left) < min(right)
        made[f"j{k}"] = left | right
        assert int(row["size"]) == len(left | right)
        assert weighted or number(row["mass"]) == len(left | right)
        for side in ("left", "right"):
            part = row[side]
            assert int(row[f"{side}_made_at"]) == (int(part[1:]) if part[0] == "j" else 0)
            assert used.setdefault(part, k) == k
        assert int(row["clusters"]) == n - k
        jump = number(row["jump"])
        assert np.isnan(jump) if k == 1 else jump == pytest.approx(number(row["height"]) - before)
        before = number(row["height"])
        assert row["tied"] in ("0", "1")
        assert row["tie_matters"] in ("0", row["tied"])
        if row["within_ss"] == "":  # there are no sums of squares
            assert row["r2"] == row["semipartial_r2"] == ""
        else:
            assert number(row["within_ss"]) >= 0
    for k, row in enumerate(found, 1):
        assert int(row["used_at"]) == used.get(f"j{k}", 0)


def check_memberships(path: Path, kept: list[int], cut: dict[str, Any]) -> None:
    found = rows(path)
    names = [name for name in head(path) if name not in ("case", "label", "placed")]
    counts = [f"k{count}" for count in cut["counts"]]
    assert names[: len(counts)] == counts
    assert all(name.startswith("h") for name in names[len(counts) :])
    assert len(names) == len(cut["counts"]) + len(cut["heights"])
    assert [int(row["case"]) for row in found] == list(range(1, 10))
    for name in names:
        given_to = {int(row["case"]): row[name] for row in found}
        assert all((given_to[case] == "") is (case not in kept) for case in given_to)
        numbers = [int(given_to[case]) for case in kept]
        first = list(dict.fromkeys(numbers))
        assert first == list(range(1, len(first) + 1))  # by the earliest case
        assert name[0] != "k" or len(first) == int(name[1:])


def check_order(out: Path, kept: list[int]) -> None:
    found = rows(out / "order.csv")
    assert head(out / "order.csv") == ["position", "case", "label"]
    assert [int(row["position"]) for row in found] == list(range(1, len(kept) + 1))
    assert sorted(int(row["case"]) for row in found) == kept
    newick = (out / "tree.nwk").read_text(encoding="utf-8")
    assert newick.endswith(";\n")
    assert newick.count("(") == newick.count(")") == len(kept) - 1
    matrix = rows(out / "proximity.csv")
    assert len(matrix) == len(kept)
    assert head(out / "proximity.csv")[0] == "label"


def check_count(out: Path, asked: dict[str, Any], n: int) -> None:
    choice = json.loads((out / "choice.json").read_text(encoding="utf-8"))
    told = {rule["key"]: rule for rule in choice["rules"]}
    assert set(told) == set(asked["rules"])
    counts = list(range(2, min(4, n - 1) + 1))
    found = rows(out / "counts.csv") if counts else []
    assert [int(row["clusters"]) for row in found] == counts
    for key, rule in told.items():
        assert all(isinstance(rule[name], kind) for name, kind in RULE.items()), rule
        assert (rule["why"] is None) is (rule["best"] is not None)
        assert rule["best"] is None or rule["best"] in {1, *counts}
        assert all(np.isfinite(v) or row[key] == "" for row in found for v in [number(row[key])])
    answers = [str(rule["answer"]) for rule in told.values() if rule["vote"]]
    assert choice["votes"] == {k: answers.count(k) for k in set(answers)}
    for rule in told.values():
        assert rule["best"] is None or rule["answer"] == rule["best"]
        assert rule["vote"] is (rule["no_vote"] is None)
        assert rule["answer"] is not None or not rule["vote"]
    verdict = choice["verdict"]
    assert verdict["groups"] in (None, "yes", "no", "unsure")
    assert (verdict["groups"] is None) is (verdict["p"] is None)
    assert verdict["count"] in {None, 1, *counts}
    assert verdict["sentence"].endswith(".")
    summary = json.loads((out / "summary.json").read_text(encoding="utf-8"))
    assert summary["verdict"] == verdict["sentence"]
    assert (out / "checks.json").exists() is bool(asked["checks"])
