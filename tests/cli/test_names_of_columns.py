"""Columns may be called anything: a name is never taken for a pattern, nor for a column of ours."""

from __future__ import annotations

import csv
import json
import tempfile
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from gorvel.core.column_detection.columns import look_at
from gorvel.core.column_detection.proposals import applied, proposed
from gorvel.core.derive.making import completed
from gorvel.core.export.membership import typed_frame, write_frame
from gorvel.core.inspect.close_up import bars_of
from gorvel.core.inspect.missing_patterns import find_gaps
from gorvel.core.language.tokens import named
from gorvel.core.plan.file import save_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.run import run_plan
from gorvel.core.table.reading import read_table
from gorvel.core.table.summary import describe_column
from gorvel.core.table.table import Table
from looks import take_all

ROLES = ("key", "mass", "group", "one", "two", "kind", "more", "far")
ROWS = [
    ("r1", "1", "x", "1", "2", "red", "yes", "7"), ("r2", "2", "y", "2", "1", "blue", "no", "5"),
    ("r3", "1", "x", "2", "1", "red", "no", "3"), ("r4", "1", "y", "9", "", "red", "yes", "9"),
    ("r5", "3", "x", "7", "4", "blue", "no", "2"), ("r6", "1", "y", "1", "2", "blue", "yes", "9"),
    ("r7", "1", "y", "5", "3", "green", "", "4"),
]  # fmt: skip
ODD = (
    "*", "^.*$", "^[a-z]$", "^$", "times", "cells", "literal", "len", "count", "index", "gap",
    "cluster", "case", "label", "names", "0", "$", "a b", 'say "no"', "~", "in", "mean", "row_nr",
)  # fmt: skip
PLAIN = [f"Q{k}" for k in range(len(ROLES))]


@cache
def expected() -> dict[str, Any]:
    """What is written where no name is odd."""
    return results(PLAIN)


def results(names: list[str]) -> dict[str, Any]:
    """What a run writes where the columns are called so."""
    called = dict(zip(ROLES, names, strict=True))
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        for stem, roles in (("t", ROLES[:-1]), ("further", ("key", "far"))):
            with (folder / f"{stem}.csv").open("w", encoding="utf-8", newline="") as file:
                writer = csv.writer(file)
                writer.writerow([called[role] for role in roles])
                writer.writerows([[row[ROLES.index(role)] for role in roles] for row in ROWS])
        plan = Plan.model_validate(
            {
                "source": {
                    "file": "t.csv", "missing_codes": ("9",),
                    "join": ({"file": "further.csv", "by": called["key"]},),
                },
                "make": ({"name": "made", "formula": f"{named(called['one'])} * 2 + 1"},),
                "cases": {
                    "label": called["key"], "weight": called["mass"], "groups": called["group"],
                    "keep": f"{named(called['mass'])} < 9"
                    f" and {named(called['kind'])} in ('red', 'blue')",
                },
                "variables": {
                    "use": (called["one"], called["two"], called["kind"], called["far"], "made"),
                    "profile": (called["more"],),
                },
                "proximity": {"measure": "gower"}, "tree": {"linkage": "average"},
                "cut": {"counts": (2, 3)},
            }
        )  # fmt: skip
        save_plan(plan, folder / "p.toml")
        run_plan(folder / "p.toml", folder / "out")
        out: dict[str, Any] = {}
        for path in sorted((folder / "out").rglob("*.csv")):
            with path.open(encoding="utf-8", newline="") as file:
                out[path.name] = list(csv.reader(file))
        summary = json.loads((folder / "out" / "summary.json").read_text(encoding="utf-8"))
        out["cautions"] = [caution["code"] for caution in summary["cautions"]]
        return out


ANY = st.permutations(ODD).map(lambda names: list(names[: len(ROLES)]))


@pytest.mark.slow
@settings(max_examples=8)
@given(names=ANY)
@example(names=["*", "^.*$", "^[a-z]$", "^$", "times", "cells", "literal", "len"])
@example(names=["label", "times", "*", "^$", "^.*$", "cluster", "case", "$"])
def test_any_names_give_what_plain_ones_give(names: list[str]) -> None:
    found = results(names)
    assert list(found) == list(expected())
    called = dict(zip(PLAIN, names, strict=True))
    for file, rows in expected().items():
        assert found[file] == [
            [called.get(cell, cell) for cell in row] if file.endswith(".csv") else row
            for row in rows
        ], file


@pytest.mark.slow
@settings(max_examples=6)
@given(names=ANY)
@example(names=["*", "^.*$", "^[a-z]$", "^$", "times", "cells", "literal", "len"])
def test_what_is_seen_of_a_column_is_not_its_name(names: list[str]) -> None:
    """Looks, what is recognised and made of it, and the table as it is saved."""

    def table_of(called: list[str]) -> Table:
        frame = pl.DataFrame(
            {name: [row[k] or None for row in ROWS] for k, name in enumerate(called)}
        )
        return Table("t.csv", frame)

    def plan_of(called: list[str]) -> Plan:
        return Plan.model_validate(
            {
                "source": {"file": "t.csv", "missing_codes": ("9",)},
                "variables": {"use": called[3:], "nominal": [called[5], called[6]]},
                "proximity": {"measure": "gower"},
            }
        )

    table, plan = table_of(names), plan_of(names)
    take_all(table, plan)
    other, usual = table_of(PLAIN), plan_of(PLAIN)
    gaps, as_usual = find_gaps(table, plan), find_gaps(other, usual)
    assert replace(gaps, variables=()) == replace(as_usual, variables=())
    for name, plain in zip(names, PLAIN, strict=True):
        one = describe_column(table, name, ["9"])
        assert replace(one, name="") == replace(describe_column(other, plain, ["9"]), name="")
        assert bars_of(table, name, ["9"]) == bars_of(other, plain, ["9"])
        assert table.looks_numeric(name) == other.looks_numeric(plain)
        (column, look), (same, as_seen) = look_at(table, name, ["9"]), look_at(other, plain, ["9"])
        assert (column.answers, column.counts, column.missing) == (
            same.answers, same.counts, same.missing,
        )  # fmt: skip
        assert look.kind == as_seen.kind
    offered, usually = proposed(table, plan), proposed(other, usual)
    assert [one.answers for one in offered] == [one.answers for one in usually]
    taken = applied(plan, offered, names)
    made = completed(table, taken).frame
    as_made = completed(other, applied(usual, usually, PLAIN)).frame
    assert [c.to_list() for c in made] == [c.to_list() for c in as_made]

    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "m.xlsx"
        write_frame(typed_frame(table), path)
        back = read_table(path)
        assert back.names == names
        assert [c.to_list() for c in back.frame] == [c.to_list() for c in table.frame]
        write_frame(typed_frame(table), path.with_suffix(".csv"), apostrophes=True)
        assert read_table(path.with_suffix(".csv")).frame.equals(back.frame)
