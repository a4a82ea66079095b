"""Each flag is raised where it was planted, nowhere else, and its remedy removes it."""

from __future__ import annotations

import numpy as np
import polars as pl
import pytest

from gorvel.core.cases.prepare import prepare
from gorvel.core.inspect.screening import Flag, grouped, screen
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.main import DEMO

N = 60
RNG = np.random.default_rng(11)
CLEAN = {
    "a": [f"{v:.3f}" for v in RNG.normal(10, 2, N)],
    "b": [str(v) for v in RNG.integers(1, 6, N)],
    "c": [f"{v:.3f}" for v in RNG.uniform(0, 9, N)],
    "age": [str(v) for v in RNG.integers(18, 99, N - 1)] + ["99"],  # an answer, not a code
}


def planted(**columns: list[str | None]) -> tuple[Table, Plan]:
    cells = {**CLEAN, **columns}
    frame = pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String))
    variables = {"use": tuple(cells)}
    plan = Plan.model_validate(
        {"source": {"file": "t.csv"}, "variables": variables, "scale": {"method": "zscore"}}
    )
    return Table("t.csv", frame), plan


def flags_of(table: Table, plan: Plan) -> dict[tuple[str, str], Flag]:
    return {(flag.column, flag.kind): flag for flag in screen(table, plan)}


def test_clean_columns_raise_no_flag() -> None:
    assert flags_of(*planted()) == {}


doubled = [f"{2 * float(v) + 0.01 * k % 3:.3f}" for k, v in enumerate(CLEAN["a"])]
coded: list[str | None] = [*CLEAN["b"][:-3], "98", "99", "99"]


@pytest.mark.parametrize(
    ("kind", "cells", "words"),
    [
        ("constant", ["7"] * N, "every answer is 7"),
        ("nearly-constant", ["1"] * (N - 2) + ["2", "3"], "97% are 1"),
        ("mostly-missing", ["1", "2", "4"] * 7 + [None] * (N - 21), "65% missing"),
        ("follows", doubled, "nearly duplicates a (r = "),
        ("codes", coded, "98, 99 look like missing-value codes in x (3)"),
        ("codes", [*CLEAN["b"][:-1], "-9"], "-9 look like missing-value codes"),
        ("identifier", [f"p{k}" for k in range(N)], "every value is different"),
        ("identifier", [str(k + 1) for k in range(N)], "every value is different"),
        (
            "nominal",
            ["a", "b", "a"] * (N // 3),
            "is nominal, which squared Euclidean distance cannot",
        ),
        ("no-number", [*CLEAN["c"][:-1], "oops"], "row 60 holds “oops”"),
        ("heavy-tail", [*CLEAN["a"][:-1], "900"], "1 extreme value"),
    ],
)
def test_a_planted_fault_is_flagged_and_its_remedy_removes_it(
    kind: str, cells: list[str | None], words: str
) -> None:
    table, plan = planted(x=cells)
    found = flags_of(table, plan)
    assert ("x", kind) in found
    flag = found["x", kind]
    assert words in flag.text
    assert {column for column, _ in found} == {"x"}
    assert flag.remedy is not None
    mended = flag.remedy.change(plan)
    assert ("x", kind) not in flags_of(table, mended)
    if flag.remedy.change.kind == "leave out":
        assert mended.variables.use == plan.variables.use[:-1]
    if flag.remedy.change.kind == "name cases":
        assert mended.cases.label == "x"


def test_many_flags_of_a_kind_become_one_with_a_remedy_for_all() -> None:
    tails: dict[str, list[str | None]] = {}
    for k in range(5):
        tails[f"t{k}"] = [f"{v:.3f}" for v in RNG.normal(10, 2, N)]
        tails[f"t{k}"][k] = "900"
    table, plan = planted(**tails)
    flags = screen(table, plan)
    assert grouped(flags, 5) == flags
    (one,) = grouped(flags)
    assert set(one.columns) == set(tails)
    assert one.text == "5 variables have extreme values: t0, t1, t2, t3 and 1 more"
    assert one.remedy is not None
    mended = one.remedy.change(plan)
    assert set(mended.variables.cap) == set(tails)
    assert screen(table, mended) == []


def test_one_scale_that_would_decide_alone() -> None:
    table, plan = planted(income=[f"{v:.0f}" for v in RNG.normal(30_000, 9_000, N)])
    assert ("income", "scale") not in flags_of(table, plan)
    raw = plan.with_("scale", method="none")
    flag = flags_of(table, raw)["income", "scale"]
    assert flag.remedy is not None
    assert flag.remedy.change(raw) == raw.with_("scale", method="zscore")


def test_the_demo_survey_shows_what_was_planted_in_it() -> None:
    plan = load_plan(DEMO / "readers.toml")
    bare = plan.with_("source", missing_codes=[]).with_(
        "variables", use=[*plan.variables.use[:2], "renewals", *plan.variables.use[2:]]
    )
    source = read_source(bare, DEMO / "readers.csv")
    assert isinstance(source, Table)
    found = flags_of(source, bare)
    ratings = ("quiet", "staff", "hours", "events_pull")
    coded = {name for name in ratings if {98, 99} & set(source.numbers(name).values.tolist())}
    (flag,) = (flag for (_, kind), flag in found.items() if kind == "codes")
    assert flag.remedy is not None
    assert set(flag.remedy.change.columns) == coded
    mended = flag.remedy.change(bare)
    assert mended.codes("quiet") == ("98", "99")
    assert mended.codes("loans") == ()  # one reader did take out 98
    kept = prepare(source, mended).n
    # given for the whole file, the codes take a case each that lent 98 and stayed 98 minutes
    everywhere = plan.with_("variables", use=mended.variables.use)
    assert kept == prepare(source, everywhere).n + 2
    (lost,) = (f for (_, kind), f in flags_of(source, everywhere).items() if kind == "lost")
    assert "loans (1), minutes (1)" in lost.text
    assert lost.remedy is not None
    confined = lost.remedy.change(everywhere)
    assert confined.source.missing_codes == ()
    assert prepare(source, confined).n == kept
    assert not any(kind == "lost" for _, kind in flags_of(source, confined))
    assert found["renewals", "follows"].text.startswith("nearly duplicates loans (r = 0.99")
    assert ("minutes", "heavy-tail") in found or ("travel_km", "heavy-tail") in found
