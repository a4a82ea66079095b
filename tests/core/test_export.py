"""Result files: exact, whole or not at all, and safe in their names."""

from __future__ import annotations

import csv
import json
import math
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import replacing
from gorvel.core.export.files import results_directory, write_csv
from gorvel.core.export.membership import membership_frame, save_membership
from gorvel.core.export.newick import newick
from gorvel.core.export.results import height_name, safe_name, write_results
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.linkage.agglomerate import grow
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count


def grown(directory: Path, text: str, use: tuple[str, ...]) -> tuple[Table, Plan, Grown]:
    (directory / "t.csv").write_text(text, encoding="utf-8")
    plan = Plan.model_validate({"source": {"file": "t.csv"}, "variables": {"use": use}})
    source = read_source(plan, directory / "t.csv")
    assert isinstance(source, Table)
    return source, plan, analyse(source, plan)


TABLE = "id,code,a,b,mixed\nx,007,1,2.5,1\ny,010,2,,x\nz,,9,1,\n,100,1.5,2,3\n"


def test_memberships_join_the_table_without_harm(tmp_path: Path) -> None:
    source, plan, tree = grown(tmp_path, TABLE, ("a", "b"))
    frame = membership_frame(source, plan, tree, cut_at_count(tree.tree, 2))
    assert frame["code"].to_list() == ["007", "010", None, "100"]  # codes stay text
    assert frame["a"].to_list() == [1, 2, 9, 1.5]
    assert frame["mixed"].to_list() == ["1", "x", None, "3"]
    assert frame["cluster_k2"].to_list() == [1, None, 2, 1]
    assert frame["letter_k2"].to_list() == ["A", None, "B", "A"]
    again = Table("t.csv", frame.cast(pl.String))
    twice = membership_frame(again, plan, tree, cut_at_count(tree.tree, 2))
    assert twice.columns[-2:] == ["cluster_k2_2", "letter_k2_2"]

    for name in ("m.csv", "m.xlsx"):
        save_membership(source, plan, tree, cut_at_count(tree.tree, 2), tmp_path / name)
    read = pl.read_excel(tmp_path / "m.xlsx", infer_schema_length=0)
    assert read["letter_k2"].to_list() == ["A", None, "B", "A"]
    assert pl.read_csv(tmp_path / "m.csv")["cluster_k2"].to_list() == [1, None, 2, 1]
    with pytest.raises(InputError, match=r'"\.doc"'):
        save_membership(source, plan, tree, cut_at_count(tree.tree, 2), tmp_path / "m.doc")
    with pytest.raises(InputError, match="nowhere"):
        save_membership(
            source, plan, tree, cut_at_count(tree.tree, 2), tmp_path / "nowhere" / "m.csv"
        )
    assert sorted(p.name for p in tmp_path.iterdir()) == ["m.csv", "m.xlsx", "t.csv"]


def test_doubled_and_awkward_labels_are_written_as_they_are(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    labels = ["it's", 'a "b"', "c,d", "it's", "line\nbreak"]
    text = "id,a\n" + "".join(
        f'"{label.replace(chr(34), chr(34) * 2)}",{k * k}\n' for k, label in enumerate(labels)
    )
    (tmp_path / "t.csv").write_text(text, encoding="utf-8")
    plan = Plan.model_validate(
        {"source": {"file": "t.csv"}, "cases": {"label": "id"}, "variables": {"use": ("a",)}}
    )
    tree = analyse(read_source(plan, tmp_path / "t.csv"), plan)
    monkeypatch.setattr("gorvel.core.export.results._CELLS", 10)  # two rows at a time
    told: list[float] = []
    write_results(
        tree,
        plan,
        labels,
        range(1, 6),
        tmp_path / "o",
        None,
        progress=lambda _, share: told.append(share),
    )
    assert told == sorted(told)
    with (tmp_path / "o" / "proximity.csv").open(encoding="utf-8", newline="") as file:
        rows = list(csv.reader(file))
    assert rows[0] == ["label", *labels]
    assert [row[0] for row in rows[1:]] == labels
    np.testing.assert_array_equal(np.array([r[1:] for r in rows[1:]], float), tree.pairs.matrix)
    text = (tmp_path / "o" / "tree.nwk").read_text(encoding="utf-8")
    assert text.count("'it''s':") == 2
    assert "'line break':" in text
    json.loads((tmp_path / "o" / "summary.json").read_text())


@given(st.lists(st.floats(allow_infinity=False), min_size=1, max_size=8))
def test_numbers_read_back_exactly(
    tmp_path_factory: pytest.TempPathFactory, values: list[float]
) -> None:
    path = tmp_path_factory.mktemp("csv") / "x.csv"
    write_csv({"x": np.array(values), "n": list(range(len(values)))}, path)
    with path.open(encoding="utf-8", newline="") as file:
        cells = [row["x"] for row in csv.DictReader(file)]
    assert [math.nan if c == "" else float(c) for c in cells] == pytest.approx(
        values, rel=0, abs=0, nan_ok=True
    )


@given(st.floats(-1e300, 1e300))
def test_the_name_of_a_cut_by_height_reads_back(height: float) -> None:
    assert float(height_name(height).removeprefix("h")) == height
    assert height_name(3.0) == "h3"
    assert height_name(2.5) == "h2.5"


@given(st.lists(st.text(min_size=1, max_size=12), max_size=6))
def test_names_of_groups_are_safe_and_different(values: list[str]) -> None:
    names: list[str] = []
    for value in values:
        names.append(safe_name(value, names))
    assert len({name.lower() for name in names}) == len(values)
    for name in names:
        assert name not in ("", ".", "..")
        assert not set(name) & set('/\\\0:*?"<>|\n')


def test_a_deep_chain_needs_no_deep_stack() -> None:
    n = 3000
    places = np.cumsum(np.arange(n, dtype=float))  # ever wider gaps: single linkage makes a chain
    tree = grow(np.abs(places[:, None] - places[None]), "single")
    text = newick(tree, [f"c{k}" for k in range(n)])
    assert text.count("(") == text.count(")") == n - 1
    assert tree.order.tolist() == list(range(n))


def test_a_failure_leaves_no_trace(tmp_path: Path) -> None:
    def fail_half_way(place: Path) -> None:
        with results_directory(place) as directory:
            (directory / "half.csv").write_text("x")
            raise RuntimeError

    def fail_in_a_file(place: Path) -> None:
        with replacing(place) as part:
            part.write_text("half")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail_half_way(tmp_path / "a" / "b")
    assert list(tmp_path.iterdir()) == []
    target = tmp_path / "t.csv"
    target.write_text("before")
    with pytest.raises(InputError, match=r"t\.csv: cannot be written \(RuntimeError\)"):
        fail_in_a_file(target)
    assert target.read_text() == "before"
    assert [p.name for p in tmp_path.iterdir()] == ["t.csv"]
