"""Rows of counts joined by the least loss of chi-square, against slow code from the definition."""

from __future__ import annotations

import csv
import itertools
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.counts import chi_square_distances
from gorvel.core.column_detection.first_plan import propose_plan
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.run import run_plan
from gorvel.core.table.reading import read_table
from gorvel.core.words.plan import plan_phrases
from gorvel.core.words.tree import describe_join

Counts = list[list[int]]


def chi_square(table: Counts) -> Fraction:
    whole = sum(map(sum, table))
    rows, columns = [sum(row) for row in table], [sum(c) for c in zip(*table, strict=True)]
    out = Fraction(0)
    for i, row in enumerate(table):
        for k, cell in enumerate(row):
            expected = Fraction(rows[i] * columns[k], whole)
            out += (cell - expected) ** 2 / expected
    return out


def joined_slowly(table: Counts) -> list[tuple[tuple[int, ...], tuple[int, ...], Fraction]]:
    """The pair of rows is merged whose merging lowers chi-square least, from the whole table."""
    clusters = [(i,) for i in range(len(table))]
    rows = [list(row) for row in table]
    out = []
    while len(clusters) > 1:
        now = chi_square(rows)
        found = []
        for a, b in itertools.combinations(range(len(clusters)), 2):
            merged = [row for k, row in enumerate(rows) if k not in (a, b)]
            merged.append([x + y for x, y in zip(rows[a], rows[b], strict=True)])
            found.append((now - chi_square(merged), clusters[a][0], clusters[b][0], a, b))
        lost, _, _, a, b = min(found)
        out.append((clusters[a], clusters[b], lost))
        whole = tuple(sorted(clusters[a] + clusters[b]))
        merged_row = [x + y for x, y in zip(rows[a], rows[b], strict=True)]
        pairs = [(c, r) for k, (c, r) in enumerate(zip(clusters, rows, strict=True))
                 if k not in (a, b)] + [(whole, merged_row)]  # fmt: skip
        pairs.sort(key=lambda pair: pair[0][0])
        clusters, rows = [c for c, _ in pairs], [r for _, r in pairs]
    return out


def grown(table: Counts, folder: Path, more: str = "") -> Grown:
    names = [f"c{k}" for k in range(len(table[0]))]
    lines = ["row," + ",".join(names)]
    lines += [f"r{i}," + ",".join(map(str, row)) for i, row in enumerate(table)]
    (folder / "t.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\nkind = "counts"\n[cases]\nlabel = "row"\n'
        f"[variables]\nuse = {names}\n{more}".replace("'", '"')
    )
    (folder / "p.toml").write_text(text, encoding="utf-8")
    plan = parse_plan(text, "p.toml")
    return analyse(read_table(folder / "t.csv"), plan)


@given(st.integers(0, 10**6), st.integers(1, 6), st.integers(1, 5), st.integers(1, 9))
def test_joins_lose_the_least_chi_square(
    tmp_path_factory: pytest.TempPathFactory, seed: int, n: int, p: int, most: int
) -> None:
    rng = np.random.default_rng(seed)
    table = rng.integers(0, most + 1, (n, p))
    table[table.sum(axis=1) == 0, 0] = 1
    table[0, table.sum(axis=0) == 0] = 1
    found = grown(table.tolist(), tmp_path_factory.mktemp("t"))
    joins = joined_slowly(table.tolist())
    heights = [float(lost) for _, _, lost in joins]
    assert found.tree.heights == pytest.approx(heights, abs=1e-9)
    for k, (one, other, _) in enumerate(joins):
        assert sorted(found.tree.members(int(found.tree.left[k])).tolist()) == list(one)
        assert sorted(found.tree.members(int(found.tree.right[k])).tolist()) == list(other)
    total = float(chi_square(table.tolist()))
    assert found.prepared.chi_square == pytest.approx(total, abs=1e-9)
    assert sum(found.tree.heights) == pytest.approx(total, abs=1e-9)


@given(st.integers(0, 10**6), st.integers(2, 6), st.integers(2, 5))
def test_distances_are_those_of_the_definition(seed: int, n: int, p: int) -> None:
    counts = np.random.default_rng(seed).integers(1, 9, (n, p)).astype(float)
    found, _ = chi_square_distances(counts)
    whole = counts.sum()
    for i in range(n):
        for j in range(n):
            total = 0.0
            for k in range(p):
                one, other = counts[i, k] / counts[i].sum(), counts[j, k] / counts[j].sum()
                total += (one - other) ** 2 / (counts[:, k].sum() / whole)
            assert found[i, j] == pytest.approx(total**0.5, abs=1e-12)


def test_proportional_rows_are_at_nought(tmp_path: Path) -> None:
    found = grown([[1, 2, 4], [7, 1, 0], [3, 6, 12]], tmp_path)
    assert found.tree.heights[0] == 0
    assert found.pairs.matrix is not None
    assert found.pairs.matrix[0, 2] == 0


def read(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


TABLE = [[30, 5, 2], [28, 6, 3], [4, 20, 9], [1, 8, 30]]


def test_a_run_tells_chi_square_kept_and_lost(tmp_path: Path) -> None:
    grown(TABLE, tmp_path)
    outcome = run_plan(tmp_path / "p.toml", tmp_path / "out")
    rows = read(tmp_path / "out" / "schedule.csv")
    total = float(chi_square(TABLE))
    left = total
    for row in rows:
        left -= float(row["chi2_lost"])
        assert float(row["chi2"]) == pytest.approx(left, abs=1e-9)
        assert float(row["chi2_lost"]) == float(row["height"])
        assert float(row["r2"]) == pytest.approx(left / total, abs=1e-9)
        assert float(row["semipartial_r2"]) == pytest.approx(float(row["height"]) / total)
        assert row["within_ss"] == ""
    assert float(rows[-1]["chi2"]) == 0
    assert [float(row["mass"]) for row in rows][-1] == sum(map(sum, TABLE))
    proximity = read(tmp_path / "out" / "proximity.csv")
    wanted, _ = chi_square_distances(np.array(TABLE, dtype=float))
    assert float(proximity[0]["r2"]) == wanted[0, 2]
    told = outcome.summaries[""]
    assert told["cophenetic_correlation"] is not None
    assert "linkage-geometry" not in {caution["code"] for caution in told["cautions"]}
    assert not {"profiles.csv", "tests.csv"} & set(outcome.files)


def test_columns_are_joined_as_rows_of_the_table_turned(tmp_path: Path) -> None:
    turned = [list(column) for column in zip(*TABLE, strict=True)]
    (tmp_path / "a").mkdir()
    columns = grown(TABLE, tmp_path, '[tree]\nof = "variables"\n')
    rows = grown(turned, tmp_path / "a")
    assert columns.tree.heights.tolist() == rows.tree.heights.tolist()
    assert columns.prepared.labels == ("c0", "c1", "c2")
    assert columns.prepared.weights is not None
    assert columns.prepared.weights.tolist() == [sum(row) for row in turned]
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    assert [r["label"] for r in read(tmp_path / "out" / "membership.csv")] == ["c0", "c1", "c2"]


@pytest.mark.parametrize("of", ["cases", "variables"])
def test_whatever_is_asked_of_the_count_is_answered_or_said_why_not(
    tmp_path: Path, of: str
) -> None:
    more = (
        f'[tree]\nof = "{of}"\n[count]\nto = 3\nresamples = 4\nmore = "all"\n'
        'checks = ["structure", "splits", "support", "orders"]\n'
    )
    grown(TABLE, tmp_path, more)
    outcome = run_plan(tmp_path / "p.toml", tmp_path / "out")
    assert {"choice.json", "counts.csv", "checks.json"} <= set(outcome.files)


def test_only_neighbouring_rows_may_be_joined(tmp_path: Path) -> None:
    found = grown([TABLE[0], TABLE[2], TABLE[1], TABLE[3]], tmp_path,
                  '[tree]\nneighbours = "file"\n')  # fmt: skip
    members = sorted(found.tree.members(4).tolist())
    assert members[1] - members[0] == 1
    assert sum(found.tree.heights) == pytest.approx(float(chi_square(TABLE)))


@pytest.mark.parametrize(
    ("cells", "words"),
    [
        ("r1,1,,3", 'row 2, column "c1"'), ("r1,1,-2,3", 'row 2, column "c1"'),
        ("r1,0,0,0", "row 2"), ("r1,1,x,3", 'row 2, column "c1"'),
    ],
)  # fmt: skip
def test_cells_that_are_no_counts(tmp_path: Path, cells: str, words: str) -> None:
    grown(TABLE, tmp_path)
    (tmp_path / "t.csv").write_text(f"row,c0,c1,c2\nr0,1,2,3\n{cells}\n", encoding="utf-8")
    with pytest.raises(InputError) as caught:
        run_plan(tmp_path / "p.toml", tmp_path / "out")
    assert words in str(caught.value)


def test_a_column_without_counts(tmp_path: Path) -> None:
    with pytest.raises(InputError, match='column "c1"'):
        grown([[1, 0, 3], [4, 0, 5]], tmp_path)


@pytest.mark.parametrize(
    ("more", "place"),
    [
        ('[scale]\nmethod = "zscore"', r"\[scale\]"),
        ('[proximity]\nmeasure = "euclidean"', r"\[proximity\]"),
        ('[missing]\nhandling = "drop"', r"\[missing\]"),
        ('[tree]\nlinkage = "average"', r"\[tree\] linkage"),
        ('[[trees]]\nname = "a"\nlinkage = "average"', r"\[\[trees\]\]"),
        ('[sweep]\nlinkages = "all"', r"\[sweep\]"), ("[reassign]\ncounts = [2]", r"\[reassign\]"),
        ("[kmeans]\nfrom = 2", r"\[kmeans\]"), ("[profile]\nmap = true", r"\[profile\]"),
        ('[assign]\nfile = "u.csv"', r"\[assign\]"), ('[design]\npsu = "c0"', r"\[design\]"),
    ],
)  # fmt: skip
def test_what_does_not_go_with_counts(tmp_path: Path, more: str, place: str) -> None:
    with pytest.raises(InputError, match=place):
        grown(TABLE, tmp_path, more)


def test_a_weight_does_not_go_with_counts() -> None:
    text = (
        'gorvel = 1\n[source]\nfile = "t.csv"\nkind = "counts"\n[cases]\nweight = "w"\n[variables]'
        '\nuse = ["c0"]\n'
    )
    with pytest.raises(InputError, match="weight"):
        parse_plan(text, "p.toml")


def test_a_first_plan_and_its_sentence(tmp_path: Path) -> None:
    found = grown(TABLE, tmp_path)
    plan = propose_plan(read_table(tmp_path / "t.csv"), SourcePlan(file="t.csv", kind="counts"))
    assert (plan.cases.label, plan.variables.use) == ("row", ("c0", "c1", "c2"))
    sentence = "".join(phrase.text for phrase in plan_phrases(plan, 4))
    assert sentence == (
        "Group 4 rows of counts by 3 columns, joined by the least loss of chi-square."
    )
    assert "chi-square of the table that is lost" in describe_join(found, 0)
