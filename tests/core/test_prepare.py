"""From answers to the numbers that are measured, against the steps done slowly, one by one."""

from __future__ import annotations

import math
import re
import statistics
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.rows import left_out, split_words
from gorvel.core.column_detection.first_plan import (
    looks_like_matrix,
    propose_matrix_plan,
    propose_plan,
)
from gorvel.core.grow.grown import analyse, grow_prepared
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.plan.plan import Plan
from gorvel.core.table.matrix import read_matrix
from gorvel.core.table.reading import read_table
from gorvel.core.table.summary import describe_column
from gorvel.core.table.table import Table
from reference import proximities as slow

CELL = st.sampled_from(["", "98", "0", "1", "2.5", "7"])
ROWS = st.lists(st.tuples(CELL, CELL, CELL), min_size=2, max_size=9)


def table(columns: dict[str, list[str]]) -> Table:
    cells = {name: [c or None for c in column] for name, column in columns.items()}
    return Table("t.csv", pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String)))


def plan(use: str = "abc", **parts: object) -> Plan:
    source = {"file": "t.csv", "missing_codes": ("98",)}
    variables = {"use": tuple(use)} | parts.pop("variables", {})  # type: ignore[operator]
    return Plan.model_validate({"source": source, "variables": variables, **parts})


def known(cell: str) -> float:
    return math.nan if cell in ("", "98") else float(cell)


def centre(values: list[float], handling: str) -> float:
    if handling == "mode":
        return min(set(values), key=lambda v: (-values.count(v), v))
    return {"mean": statistics.fmean, "median": statistics.median}[handling](values)


@pytest.mark.parametrize("handling", ["drop", "stop", "mean", "median", "mode", "pairwise"])
@given(rows=ROWS)
def test_missing_answers_are_handled_as_asked(
    handling: str, rows: list[tuple[str, str, str]]
) -> None:
    answers = [[known(cell) for cell in row] for row in rows]
    whole = [i for i, row in enumerate(answers) if not any(map(math.isnan, row))]
    filled = [[v if v == v else None for v in column] for column in zip(*answers, strict=True)]
    source = table({name: [row[k] for row in rows] for k, name in enumerate("abc")})
    asked = plan(variables={"interval": tuple("abc")}, missing={"handling": handling})
    gone = [i for i in range(len(rows)) if i not in whole]
    refused = (
        (handling == "drop" and not whole)
        or (handling == "stop" and gone)
        or (handling in ("mean", "median", "mode") and any(set(c) == {None} for c in filled))
    )
    if refused:
        with pytest.raises(InputError) as caught:
            prepare(source, asked)
        assert str(caught.value).startswith("t.csv: ")
        return
    told = prepare(source, asked)
    if handling == "drop":
        answers = [answers[i] for i in whole]
        assert [d.case for d in told.dropped] == [i + 1 for i in gone]
        assert told.numbers.tolist() == [i + 1 for i in whole]
    elif handling in ("mean", "median", "mode"):
        centres = [centre([v for v in column if v is not None], handling) for column in filled]
        answers = [
            [c if math.isnan(v) else v for v, c in zip(row, centres, strict=True)]
            for row in answers
        ]
    assert told.answers is not None
    np.testing.assert_allclose(told.answers.values, answers, rtol=1e-12)
    assert told.read == len(rows)


def test_levels_become_numbers_and_only_gower_ranks() -> None:
    source = table(
        {
            "rating": ["10", "20", "20", "90"],
            "minutes": ["1", "2", "3", "6"],
            "stop": ["b", "a", "b", "c"],
            "app": ["yes", "no", "No", "YES"],
        }
    )
    names = {"use": ("rating", "minutes", "app"), "ordinal": ("rating",), "binary": ("app",)}
    told = prepare(source, plan(variables=names, scale={"method": "range01"}))
    assert told.answers is not None
    assert told.answers.values[:, 0].tolist() == [0, 0.125, 0.125, 1]
    assert told.answers.values[:, 2].tolist() == [1, 0, 0, 1]  # a binary one is not scaled

    names = {**names, "use": ("rating", "minutes", "stop", "app"), "asymmetric": ("app",)}
    mixed = plan(variables=names, proximity={"measure": "gower"})
    told = prepare(source, mixed)
    assert told.answers is not None
    assert told.answers.values[:, 0].tolist() == [1, 2.5, 2.5, 4]
    assert not told.measurable_spread
    grown = analyse(source, mixed)
    # rows 2 and 3: rating equal, minutes 1/5, stop differs, app absent in both and left out
    assert grown.pairs.matrix[1, 2] == pytest.approx((0 + 0.2 + 1) / 3)
    assert grown.schedule.spread is None


def test_cases_are_chosen_and_set_aside_before_anything_else() -> None:
    source = table(
        {
            "a": ["1", "2", "98", "4", "", "6", "7"],
            "w": ["1", "1", "1", "0", "1", "1", "1"],
            "stop": ["x", "x", "x", "y", "x", "x", None],
        }
    )
    asked = plan(
        "a", cases={"keep": "stop = 'x'", "set_aside": (6, 1), "weight": "w"},
        scale={"method": "range01"},
    )  # fmt: skip
    # only cases 2, 3 and 5 are left to look at; 3 and 5 have no answer, and one value has no range
    with pytest.raises(InputError, match="constant"):
        prepare(source, asked)
    told = prepare(source, asked.with_("scale", method="none"))
    assert told.numbers.tolist() == [2]
    assert told.read == 7
    assert {d.case: d.reason for d in told.dropped} == {
        1: "set aside", 3: "no answer to a", 4: "not chosen by stop = 'x'", 5: "no answer to a",
        6: "set aside", 7: "not chosen by stop = 'x'",
    }  # fmt: skip
    for wrong, place in (
        ({"keep": "stop = 'z'"}, "[cases] keep: none of 7 cases used"),
        ({"keep": "spot = 'x'"}, "[cases] keep: no column"),
        ({"set_aside": (8,)}, "[cases] set_aside: case 8; expected 1 to 7"),
    ):
        with pytest.raises(InputError, match=re.escape(place)):
            prepare(source, plan("a", cases=wrong))


@given(cells=st.lists(st.sampled_from(["", "98", "1", "2", "3", "50", "-4"]), min_size=1))
def test_cases_beyond_percentiles_of_those_chosen_are_trimmed(cells: list[str]) -> None:
    """Percentiles by their definition: between the two sorted answers at (m - 1) q / 100."""
    source = table({"a": [*cells, "1000"], "b": ["1"] * (len(cells) + 1)})
    asked = plan("b", cases={"set_aside": (len(cells) + 1,)}).with_(
        "variables", use=["a", "b"], trim={"a": [10, 75]}
    )
    told = left_out(source, asked)
    answers = sorted(known(cell) for cell in cells if not math.isnan(known(cell)))

    def percentile(q: float) -> float:
        at = (len(answers) - 1) * q / 100
        low = int(at)
        high = min(low + 1, len(answers) - 1)
        return answers[low] + (at - low) * (answers[high] - answers[low])

    beyond = {
        row
        for row, cell in enumerate(cells)
        if not math.isnan(known(cell))
        and not percentile(10) - 1e-9 <= known(cell) <= percentile(75) + 1e-9
    }
    assert {row for row, why in told.items() if why == "trimmed for a"} == beyond
    assert told[len(cells)] == "set aside"


def test_counts_are_numbers_that_are_not_negative_and_labels_may_be_words() -> None:
    source = table({"a": ["0", "3", "4"], "b": ["1", "-2", "5"], "stop": ["1", "2", "1"]})
    asked = plan(
        "a",
        cases={"label": "stop", "groups": "stop"},
        variables={"count": ("a",), "values": {"stop": {"1": "Elm Mill"}}, "profile": ("b",)},
    )
    told = prepare(source, asked)
    assert told.variables[0].level == "count"
    assert told.labels == ("Elm Mill", "2", "Elm Mill")
    with pytest.raises(InputError, match=r'row 2, column "b": -2; expected 0 or more'):
        prepare(source, asked.with_("variables", use=["b"], profile=[], count=["b"]))
    with pytest.raises(InputError, match=r'\[cases\] groups: no column "stops"'):
        prepare(source, asked.with_("cases", groups="stops"))
    with pytest.raises(InputError, match=r'\[variables\] profile: "a", which is active'):
        parse_plan(plan_text(asked.with_("variables", profile=["a"])), "plan.toml")


def test_groups_of_a_split_are_told_with_those_too_small() -> None:
    source = table({"a": list("12345"), "g": ["x", "y", "x", "z", "y"]})
    asked = plan("a", cases={"split": "g", "set_aside": (5,)})
    assert split_words(source, asked) == (
        "3 groups by g: x 2, y 1, z 1. Too small for a tree: y, z."
    )


def test_codes_of_one_column_are_answers_in_another() -> None:
    source = table({"a": ["1", "98", "3"], "b": ["98", "2", "99"]})
    asked = plan("ab", variables={"missing": {"b": ("99",)}}).with_("source", missing_codes=[])
    told = prepare(source, asked)
    assert told.numbers.tolist() == [1, 2]
    assert told.raw is not None
    assert told.raw.tolist() == [[1, 98], [98, 2]]


@given(
    x=st.lists(st.floats(-90, 90), min_size=3, max_size=12, unique=True),
    ends=st.sampled_from([(0, 100), (10, 90), (25.5, 60)]),
)
def test_answers_are_capped_at_percentiles_of_the_cases_kept(
    x: list[float], ends: tuple[float, float]
) -> None:
    source = table({"a": [repr(v) for v in x] + ["98", ""], "b": ["1"] * len(x) + ["2", "3"]})
    told = prepare(source, plan("ab", variables={"cap": {"a": ends}}))

    def percentile(share: float) -> float:
        place = (len(x) - 1) * share / 100
        low = min(int(place), len(x) - 2)
        ordered = sorted(x)
        return ordered[low] + (place - low) * (ordered[low + 1] - ordered[low])

    low, high = percentile(ends[0]), percentile(ends[1])
    assert told.answers is not None
    expected = [min(max(v, low), high) for v in x]
    np.testing.assert_allclose(told.answers.values[:, 0], expected, rtol=1e-9, atol=1e-9)
    assert told.raw is not None
    assert told.raw[:, 0].tolist() == x  # profiles will speak of the answers as given


def test_variables_stand_where_cases_stood() -> None:
    rng = np.random.default_rng(3)
    x = rng.normal(size=(7, 3))
    source = table({name: [repr(v) for v in x[:, k].tolist()] for k, name in enumerate("abc")})
    turned = plan(scale={"method": "zscore"}, tree={"of": "variables", "linkage": "complete"})
    grown = analyse(source, turned)
    columns = [slow.scaled(x[:, k].tolist(), "zscore", None) for k in range(3)]
    for i in range(3):
        for j in range(3):
            d = slow.squared_euclidean(columns[i], columns[j], [1.0] * 7)
            assert grown.pairs.matrix[i, j] == pytest.approx(d)
    assert grown.prepared.labels == ("a", "b", "c")
    assert grown.schedule.spread is None


@pytest.mark.parametrize("linkage", sorted(LINKAGES))
@pytest.mark.parametrize("measure", ["squared-euclidean", "euclidean", "city-block"])
def test_heights_and_cautions_follow_linkage_and_measure(linkage: str, measure: str) -> None:
    rng = np.random.default_rng(8)
    columns = {name: [repr(v) for v in rng.normal(size=6).tolist()] for name in "abc"}
    columns["w"] = ["2"] * 6
    asked = plan(proximity={"measure": measure}, tree={"linkage": linkage}, cases={"weight": "w"})
    grown = analyse(table(columns), asked)
    smallest = grown.pairs.matrix[np.triu_indices(6, 1)].min()
    root_2 = math.sqrt(2) if measure != "squared-euclidean" else 2  # ward: all masses are 2
    assert grown.tree.heights[0] == pytest.approx(smallest * (root_2 if linkage == "ward" else 1))
    codes = {caution.code for caution in grown.cautions}
    assert ("weights-ignored" in codes) == (not LINKAGES[linkage].masses)
    crosses = LINKAGES[linkage].squares and measure == "city-block"
    assert ("linkage-geometry" in codes) == crosses


def test_order_of_columns_shifts_and_reflections_change_nothing() -> None:
    rng = np.random.default_rng(9)
    x = rng.normal(size=(12, 3))

    def tree_of(columns: np.ndarray, names: str) -> list[list[float]]:
        source = table({n: [repr(v) for v in columns[:, k].tolist()] for k, n in enumerate(names)})
        grown = grow_prepared(prepare(source, plan("abc")), plan("abc"), {})
        return [grown.tree.left.tolist(), grown.tree.right.tolist(), grown.tree.heights.tolist()]

    first = tree_of(x, "abc")
    for other in (tree_of(x[:, ::-1], "cba"), tree_of(x + 5, "abc"), tree_of(-x, "abc")):
        assert other[:2] == first[:2]
        np.testing.assert_allclose(other[2], first[2], rtol=1e-9)


def test_a_first_plan_is_a_fair_guess(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text(
        "who,no,hours,rating,app,stop,weight,flat\n"
        + "".join(
            f"p{k},{k + 1},{k * k / 3},{k % 5 + 1},{('no', 'yes')[k % 2]},{'ab'[k % 2]},{k + 1},7\n"
            for k in range(9)
        )
    )
    told = propose_plan(read_table(path))
    assert told.cases.label == "who"
    assert told.variables.use == ("hours", "rating", "app")
    assert told.variables.ordinal == ("rating",)
    assert told.variables.binary == ("app",)
    assert not looks_like_matrix(path)
    assert analyse(read_table(path), told).tree.n == 9

    path.write_text(",a,b\na,5,1\nb,1,5\n")
    assert looks_like_matrix(path)
    assert propose_matrix_plan(read_matrix(path, similarity=None)).source.similarity
    path.write_text(",a,b\na\nb,1\n")
    assert not propose_matrix_plan(read_matrix(path, similarity=None)).source.similarity
    path.write_text(",a,b\na,0,1\n")  # a row short
    assert not looks_like_matrix(path)


@pytest.mark.parametrize("n", [300, 3000])
def test_a_matrix_is_known_by_the_beginning_of_its_file(tmp_path: Path, n: int) -> None:
    path, names = tmp_path / "m.csv", [f"case {k}" for k in range(n)]
    lines = [",".join(["", *names]), *(f"{name},{'1,' * (n - 1)}1" for name in names)]
    path.write_text("\n".join(lines))
    assert path.stat().st_size > 1 << 17
    assert looks_like_matrix(path)
    lines[2] = lines[3]
    path.write_text("\n".join(lines))
    assert not looks_like_matrix(path)


@given(cells=st.lists(st.sampled_from(["", "1", "2", "2.5", "x", "y"]), min_size=1, max_size=12))
def test_a_column_is_summed_up(cells: list[str]) -> None:
    told = describe_column(table({"a": cells}), "a")
    valid = [cell for cell in cells if cell]
    numbers = [float(cell) for cell in valid if cell[0] in "12"]
    assert (told.valid, told.missing) == (len(valid), len(cells) - len(valid))
    assert told.numeric == (2 * len(numbers) > len(valid))
    if told.numeric:
        assert told.mean == pytest.approx(statistics.fmean(numbers))
        assert (told.low, told.high) == (min(numbers), max(numbers))
        if len(numbers) > 1:
            assert told.sd == pytest.approx(statistics.stdev(numbers))
    elif valid:
        most = max(valid.count(cell) for cell in valid)
        assert told.mode_share == pytest.approx(most / len(valid))
        assert valid.count(told.mode) == most
