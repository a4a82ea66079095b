"""Cases that are out are out: nobody asks their cells to be numbers, in a run or in the window."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.inspect.associations import correlation_map
from gorvel.core.inspect.close_up import close_up
from gorvel.core.inspect.screening import screen
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.run import run_plan
from gorvel.core.table.reading import read_table
from gorvel.core.table.table import Table

ODD = "x y"  # neither a number, nor a word of a scale, nor yes or no


def plan_of(text: str) -> Plan:
    return parse_plan('gorvel = 1\n[source]\nfile = "t.csv"\n' + text, "p.toml")


def written(folder: Path, columns: dict[str, list[object]]) -> Table:
    pl.DataFrame({k: [str(v) for v in column] for k, column in columns.items()}).write_csv(
        folder / "t.csv"
    )
    return read_table(folder / "t.csv")


# a column in every place in which a plan asks cells to be something, and its good cells
PLACES = {
    "number": ('[variables]\nuse = ["a", "z"]\n', lambda n: list(range(n))),
    "ordinal": ('[variables]\nuse = ["a", "z"]\nordinal = ["z"]\n', lambda n: [1, 2, 3, 4] * n),
    "count": ('[variables]\nuse = ["a", "z"]\ncount = ["z"]\n', lambda n: [0, 1, 2] * n),
    "binary": (
        '[variables]\nuse = ["a", "z"]\nbinary = ["z"]\n', lambda n: ["no", "yes"] * n,
    ),
    "weight": ('[cases]\nweight = "z"\n[variables]\nuse = ["a"]\n', lambda n: [1, 2] * n),
    "trim": ('[variables]\nuse = ["a", "z"]\ntrim = { z = [0, 90] }\n', lambda n: list(range(n))),
    "order": (
        '[[make]]\nname = "m"\nfrom = "z"\norder = ["low", "mid", "high"]\n'
        '[variables]\nuse = ["a", "m"]\n', lambda n: ["low", "mid", "high"] * n,
    ),
    "formula": ('[[make]]\nname = "m"\nformula = "z * 2"\n[variables]\nuse = ["m", "a"]\n',
                lambda n: list(range(n))),
    "neighbours": ('[variables]\nuse = ["a"]\n[tree]\nneighbours = "z"\n',
                   lambda n: list(range(n))),
    "profile": ('[variables]\nuse = ["a"]\nprofile = ["z"]\ninterval = ["z"]\n',
                lambda n: list(range(n))),
    "replicates": ('[variables]\nuse = ["a"]\n[design]\nreplicates = ["z", "y"]\nkind = "brr"\n',
                   lambda n: [1 + k % 2 for k in range(n)]),
}  # fmt: skip


def with_cases(text: str, keys: str) -> str:
    """A plan with more keys of [cases]."""
    return text.replace("[cases]\n", f"[cases]\n{keys}\n") if "[cases]" in text else (
        f"{text}[cases]\n{keys}\n"
    )  # fmt: skip


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("how", ["keep", "set_aside"])
def test_a_row_that_is_out_is_asked_nothing(place: str, how: str, tmp_path: Path) -> None:
    text, cells = PLACES[place]
    n, out = 12, 4
    rng = np.random.default_rng(3)
    good = {"id": list(range(1, n + 1)), "a": rng.integers(0, 9, n).tolist(), "z": cells(n)[:n],
            "y": [1] * n}  # fmt: skip
    bad = {**good, "z": [ODD if k == out - 1 else cell for k, cell in enumerate(good["z"])]}
    keys = f'keep = "id != {out}"' if how == "keep" else f"set_aside = [{out}]"
    results = []
    for name, columns in (("good", good), ("bad", bad)):
        folder = tmp_path / name
        folder.mkdir()
        written(folder, columns)
        plan = folder / "p.toml"
        plan.write_text('gorvel = 1\n[source]\nfile = "t.csv"\n' + with_cases(text, keys))
        run_plan(plan, folder / "out")
        files = {}
        for path in sorted((folder / "out").rglob("*.*")):
            if path.name == "summary.json":
                told = json.loads(path.read_text())
                files[path.name] = json.dumps([told["cases"], told["cautions"]])
            else:
                files[path.name] = path.read_text()
        results.append(files)
    assert results[0] == results[1]  # but for the odd cell, which nobody looked at
    # without the condition it is told, with its row and column
    plan.write_text('gorvel = 1\n[source]\nfile = "t.csv"\n' + text)
    with pytest.raises(InputError) as told:
        run_plan(plan, folder / "all")
    assert f"row {out}" in str(told.value)


@settings(max_examples=examples(40))
@given(st.integers(0, 10**6), st.integers(0, 4))
def test_pages_look_at_the_rows_that_are_in(seed: int, odd: int) -> None:
    """What Cases says of a table with odd rows that are out is what it says of it without them."""
    rng = np.random.default_rng(seed)
    n = 30
    columns = {k: rng.integers(0, 40, n).astype(str).tolist() for k in "abc"}
    columns["yes"] = rng.choice(["yes", "no"], n).tolist()
    columns["yes"][:2] = ["yes", "no"]
    where = sorted(rng.choice(n, odd, replace=False).tolist())
    use = '[variables]\nuse = ["a", "b", "c", "yes"]\nbinary = ["yes"]\n'
    plain = Table("t.csv", pl.DataFrame(columns)).of_rows(np.setdiff1d(np.arange(n), where))
    for column in columns.values():
        for row in where:
            column[row] = ODD
    table = Table("t.csv", pl.DataFrame(columns))
    plan = plan_of(f"[cases]\nset_aside = {[row + 1 for row in where]}\n{use}")
    other = plan_of(use)
    assert screen(table, plan) == screen(plain, other)
    assert correlation_map(table, plan).names == correlation_map(plain, other).names
    np.testing.assert_array_equal(
        correlation_map(table, plan).values, correlation_map(plain, other).values
    )
    for name in "ab":
        mine, its = close_up(table, plan, [name], True), close_up(plain, other, [name], True)
        assert mine.title == its.title
    one, two = prepare(table, plan), prepare(plain, other)
    assert one.raw is not None
    assert two.raw is not None
    np.testing.assert_array_equal(one.raw, two.raw)


def test_yes_and_no_are_binary_where_a_measure_looks_for_nothing_else(tmp_path: Path) -> None:
    cells: dict[str, list[object]] = {
        "a": ["Yes", "no", "YES", "no"], "b": ["true", "false", "true", "true"], "c": [1, 2, 2, 1],
        "d": ["Yes", "true", "no", "no"],
    }  # fmt: skip
    table = written(tmp_path, cells)
    text = '[variables]\nuse = {}\n[proximity]\nmeasure = "jaccard"\n[tree]\nlinkage = "average"\n'
    prepared = prepare(table, plan_of(text.format('["a", "b", "c"]')))
    assert [variable.level for variable in prepared.variables] == ["binary"] * 3
    assert prepared.raw is not None
    assert prepared.raw.T.tolist() == [[1, 0, 1, 0], [1, 0, 1, 1], [0, 1, 1, 0]]
    with pytest.raises(InputError) as told:  # three words are no yes and no
        prepare(table, plan_of(text.format('["a", "d"]')))
    assert 'variable "d"' in str(told.value)
    # elsewhere it stays nominal, and the way out is named
    with pytest.raises(InputError) as told:
        prepare(table, plan_of('[variables]\nuse = ["a", "c"]\n'))
    assert "list it under binary" in str(told.value)
