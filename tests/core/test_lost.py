"""Those left out for gaps beside those kept: as defined, weighted, on all that both answered."""

from __future__ import annotations

import math

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.prepare import prepare
from gorvel.core.plan.plan import validated
from gorvel.core.profile.dropped_cases import lost_cases
from gorvel.core.table.table import Table
from gorvel.core.words.lost import lost_words

CELL = st.none() | st.integers(0, 4)
ROW = st.tuples(
    CELL, CELL, CELL, st.none() | st.sampled_from(["Elm", "Fell", "Mill"]),
    st.none() | st.sampled_from(["yes", "no"]), st.sampled_from([0.5, 1.0, 2.0]),
)  # fmt: skip


def mean_of(pairs: list[tuple[float, float]]) -> float:
    return sum(x * w for x, w in pairs) / sum(w for _, w in pairs)


@given(rows=st.lists(ROW, min_size=3, max_size=14), weighted=st.booleans())
def test_every_column_is_compared_as_defined(rows: list[tuple], weighted: bool) -> None:  # type: ignore[type-arg]
    rows = [(1, 2, 3, "Elm", "yes", 1.0), (0, 1, 0, "Fell", "no", 2.0), *rows]
    names = ("a", "b", "c", "stop", "app", "w")
    columns = {
        name: [None if row[k] is None else str(row[k]) for row in rows]
        for k, name in enumerate(names)
    }
    table = Table("t.csv", pl.DataFrame(columns, schema=dict.fromkeys(names, pl.String)))
    plan = validated(
        {"source": {"file": "t.csv"}, "variables": {"use": ["a", "b"], "binary": ["app"]}}
        | ({"cases": {"weight": "w"}} if weighted else {}), "p.toml",
    )  # fmt: skip
    found = {
        (one.variable, one.level): one for one in lost_cases(table, plan, prepare(table, plan))
    }
    lacks = [row[0] is None or row[1] is None for row in rows]
    wanted: dict[tuple[str, str], list[tuple[float | None, float, bool]]] = {}
    for row, lost in zip(rows, lacks, strict=True):
        weight = row[5] if weighted else 1.0
        for name, value in zip(("a", "b", "c"), row[:3], strict=True):
            wanted.setdefault((name, ""), []).append((value, weight, lost))
        for stop in ("Elm", "Fell", "Mill"):
            share = None if row[3] is None else float(row[3] == stop)
            wanted.setdefault(("stop", stop), []).append((share, weight, lost))
        app = None if row[4] is None else float(row[4] == "yes")
        wanted.setdefault(("app", "yes"), []).append((app, weight, lost))
        if not weighted:
            wanted.setdefault(("w", ""), []).append((row[5], 1.0, lost))
    if not any(row[3] == "Mill" for row in rows):
        del wanted["stop", "Mill"]
    for key, answers in wanted.items():
        sides = [[(x, w) for x, w, lost in answers if lost is side and x is not None]
                 for side in (False, True)]  # fmt: skip
        if not all(sides):
            assert key not in found
            continue
        one, both = found.pop(key), sides[0] + sides[1]
        assert (one.n_kept, one.n_lost) == (len(sides[0]), len(sides[1]))
        assert one.kept == pytest.approx(mean_of(sides[0]))
        assert one.lost == pytest.approx(mean_of(sides[1]))
        spread = mean_of([((x - mean_of(both)) ** 2, w) for x, w in both])
        if not key[1]:
            total = sum(w for _, w in both)
            spread *= total / (total - 1) if total > 1 else 0.0
        wanted_effect = one.difference / math.sqrt(spread) if spread > 1e-12 else 0.0
        assert one.effect == pytest.approx(wanted_effect, abs=1e-9)
    assert not found


def test_the_largest_differences_come_first_and_are_told() -> None:
    rng = np.random.default_rng(5)
    age = np.r_[rng.normal(46, 8, 80), rng.normal(57, 8, 20)]
    frame = pl.DataFrame(
        {
            "id": [str(k) for k in range(100)],
            "x": [str(k % 7) for k in range(80)] + [None] * 20,
            "age": [f"{a:.1f}" for a in age],
            "noise": [f"{a:.1f}" for a in np.tile([1.0, 2.0, 3.0, 4.0, 5.0], 20)],
            "lives": ["alone" if k % 4 == 0 or k > 88 else "together" for k in range(100)],
            "free": [f"text {k} of its own" for k in range(100)],
        }
    )
    table = Table("t.csv", frame)
    plan = validated(
        {"source": {"file": "t.csv"}, "cases": {"label": "id"}, "variables": {"use": ["x"]}},
        "p.toml",
    )
    found = lost_cases(table, plan, prepare(table, plan))
    assert [one.variable for one in found] == ["age", "lives", "lives", "noise"]
    words = lost_words(found, {"age": "How old are you?"}, 20)
    assert words[0].startswith("How old are you? higher, 5")
    assert words[1].startswith("lives: “")
    assert len(words) == 2
    assert lost_words([], {}, 0) == []
    assert (
        "No clear difference between excluded and used cases" in lost_words([found[-1]], {}, 20)[0]
    )


def test_nobody_is_lost_where_gaps_are_filled() -> None:
    table = Table("t.csv", pl.DataFrame({"x": ["1", None, "3", "4"], "y": ["1", "2", "3", "5"]}))
    data = {"source": {"file": "t.csv"}, "variables": {"use": ["x"]}}
    dropped = validated(data | {"cases": {"set_aside": [4]}}, "p.toml")
    filled = validated(data | {"missing": {"handling": "mean"}}, "p.toml")
    assert [one.n_lost for one in lost_cases(table, dropped, prepare(table, dropped))] == [1]
    assert not lost_cases(table, filled, prepare(table, filled))


@pytest.mark.slow
def test_of_cases_that_are_left_out_at_random_little_is_told() -> None:
    """In 60 studies of 20 columns that have nothing to do with who is left out."""
    rng, told = np.random.default_rng(8), 0
    for _ in range(60):
        columns = {f"v{k}": [f"{x:.2f}" for x in rng.normal(size=120)] for k in range(20)}
        answers = [None if rng.random() < 0.2 else str(k % 5) for k in range(120)]
        table = Table("t.csv", pl.DataFrame(columns | {"x": answers}))
        plan = validated({"source": {"file": "t.csv"}, "variables": {"use": ["x"]}}, "p.toml")
        found = lost_cases(table, plan, prepare(table, plan))
        words = lost_words(found, {}, answers.count(None))
        told += not words[0].startswith("No clear difference between excluded and used cases")
    assert told <= 20
    few = lost_words(found[:0], {}, 3)
    assert "only large differences could be detected" in few[0]
