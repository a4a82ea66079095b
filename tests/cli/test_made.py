"""A survey in words, as it is exported, becomes a tree by its plan alone."""

from __future__ import annotations

import csv
import json
import re
from collections.abc import Callable
from pathlib import Path

import pytest

from gorvel.main import DEMO, status_of
from reference import making as plain

AGREE = ["Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree"]
STATEMENTS = (
    "I come for the people on board", "I like to sit down and read", "I tell others about the bus",
)  # fmt: skip


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def exported() -> dict[str, list[str | None]]:
    """The columns of the file, refused answers taken out."""
    with (DEMO / "online.csv").open(encoding="utf-8") as file:
        header, *cases = list(csv.reader(file))[2:]
    gone = {"", "Prefer not to say", "Don't know"}
    return {
        name: [None if row[k] in gone else row[k] for row in cases] for k, name in enumerate(header)
    }


def number(cell: str | None) -> float | None:
    return None if cell is None else float(re.sub(r"[^0-9.]", "", cell))


def test_the_online_questionnaire_in_words(tmp_path: Path) -> None:
    assert status_of(["run", str(DEMO / "online.toml"), "--out", str(tmp_path / "o")]) == 0
    columns = exported()
    items = [plain.ordered(columns[name], AGREE, False) for name in STATEMENTS]
    items.append(plain.ordered(columns["I am in and out within minutes"], AGREE, True))
    at_home = plain.combined(list(zip(*items, strict=True)), "mean", 3, None)
    told = {
        "at home": at_home,
        "age": plain.banded(columns["How old are you?"], "middle"),
        "income": [number(cell) for cell in columns["Yearly household income"]],
        "read": [number(cell) for cell in columns["Share of loans you read to the end"]],
    }
    membership = rows(tmp_path / "o" / "membership.csv")
    kept = {int(row["case"]): row["k3"] for row in membership if row["k3"]}
    assert [row["label"] for row in membership] == columns["Answer no."]
    profiles = rows(tmp_path / "o" / "profiles.csv")
    seen = 0
    for row in profiles:
        if row["count"] == "3" and row["variable"] in told:
            answers = [
                value for case, value in enumerate(told[row["variable"]], 1)
                if value is not None and kept.get(case) == row["cluster"]
            ]  # fmt: skip
            assert int(row["n"]) == len(answers)
            assert float(row["mean"]) == pytest.approx(sum(answers) / len(answers))
            seen += 1
    assert seen == 12
    understood = json.loads((tmp_path / "o" / "summary.json").read_text())["plan"]
    assert [make["name"] for make in understood["make"]][:2] == ["people", "sit down"]


def edited(tmp_path: Path, plan: Callable[[str], str], data: Callable[[str], str]) -> Path:
    (tmp_path / "online.csv").write_text(data((DEMO / "online.csv").read_text()))
    path = tmp_path / "p.toml"
    path.write_text(plan((DEMO / "online.toml").read_text()))
    return path


@pytest.mark.parametrize(
    ("plan", "data", "said"),
    [
        (lambda p: p, lambda d: d.replace("50 %", "about 50 of 60"),
         'online.csv: row 1, column "Share of loans you read to the end": "about 50 of 60"'
         ' (for [[make]] "read"); expected one number in the cell'),
        (lambda p: p.replace('name = "age"', 'name = "Finished on"'), lambda d: d,
         '[[make]] "Finished on": the name "Finished on", which another column already has'),
        (lambda p: p.replace('from = "How old are you?"', 'from = "How old"'), lambda d: d,
         'no column "How old"; expected a column (nearest: "How old are you?")'),
        (lambda p: p.replace("number = true", ""), lambda d: d,
         'p.toml: [[make]] "income": no way to make it; expected one of: order, separator, number'),
        (lambda p: p.replace("log10(income)", "log10(income - income)"), lambda d: d,
         "row 1: no finite log10 at character 1"),
        (lambda p: p.replace('"Other: maps", ', ""), lambda d: d, 'expected answers among: Novels'),
    ],
)  # fmt: skip
def test_what_cannot_be_made_ends_a_run_with_its_place(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], plan: Callable[[str], str],
    data: Callable[[str], str], said: str,
) -> None:  # fmt: skip
    path = edited(tmp_path, plan, data)
    assert status_of(["run", str(path), "--out", str(tmp_path / "o")]) == 2
    errors = capsys.readouterr().err.strip().splitlines()
    assert said in errors[-1]
    assert not (tmp_path / "o").exists()


def test_a_split_by_what_was_made_has_folders_without_points(tmp_path: Path) -> None:
    split = '[cases]\nsplit = "ahead"\n'
    path = edited(
        tmp_path,
        lambda p: p.replace("[cases]\n", split).replace('"at home", "ahead",', '"at home",'),
        lambda d: d,
    )
    assert status_of(["run", str(path), "--out", str(tmp_path / "o")]) == 0
    assert {p.name for p in (tmp_path / "o").iterdir()} == {"1", "2", "3", "4", "5"}


def test_new_cases_are_turned_like_those_of_the_tree(tmp_path: Path) -> None:
    """By the days, bands and options of the first file."""
    first = ["2026-01-01,20-40,a;b", "2026-01-03,65+,a", "2026-01-21,20-40,b", "2026-01-23,65+,a;b"]
    other = ["2026-01-21,20-40,b", "2025-12-31,65+,"]
    for name, lines in (("one.csv", first), ("two.csv", other)):
        (tmp_path / name).write_text("\n".join(["d,a,t", *lines]))
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "one.csv"\n'
        '[[make]]\nname = "day"\nfrom = "d"\ndate = "days"\n'
        '[[make]]\nname = "age"\nfrom = "a"\nbands = "middle"\n'
        '[[make]]\nname = "t:"\nfrom = "t"\nseparator = ";"\n'
        '[variables]\nuse = ["day", "age"]\n[cut]\ncounts = [2]\n[assign]\nfile = "two.csv"\n'
    )
    out = tmp_path / "o"
    assert status_of(["run", str(tmp_path / "p.toml"), "--out", str(out)]) == 0
    membership, assigned = rows(out / "membership.csv"), rows(out / "assigned.csv")
    assert assigned[0]["k2"] == membership[2]["k2"]
    centres = {}
    days, ages = [0, 2, 20, 22], [30, 75, 30, 75]
    for cluster in "12":
        at = [k for k in range(4) if membership[k]["k2"] == cluster]
        centres[cluster] = (
            sum(days[k] for k in at) / len(at), sum(ages[k] for k in at) / len(at)
        )  # fmt: skip
    for row, case in zip(assigned, [(20, 30), (-1, 75)], strict=True):
        far = {c: sum((x - y) ** 2 for x, y in zip(case, at, strict=True)) for c, at in
               centres.items()}  # fmt: skip
        assert row["k2"] == min(far, key=far.__getitem__)
