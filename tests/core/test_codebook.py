"""Code books: what is written is read, what is read reaches the plan, nonsense is refused."""

from __future__ import annotations

import json
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.codebook.codebook import (
    Codebook,
    Entry,
    apply_codebook,
    codebook_of,
    read_codebook,
    save_codebook,
)
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.main import DEMO

TABLE = Table(
    "t.csv",
    pl.DataFrame(
        {
            "q1": ["1", "2", "9"],
            "app": ["1", "2", "1"],
            "stop": ["a", "b", "-"],
            "n": ["1", "5", "7"],
        }
    ),
)
PLAN = Plan.model_validate(
    {"source": {"file": "t.csv"}, "variables": {"use": ("q1", "n"), "ordinal": ("n",)}}
)
SCHEMA = {
    "fields": [
        {"name": "q1", "title": "How helpful?", "type": "integer", "categoriesOrdered": True,
         "categories": [{"value": 1, "label": "poor"}, {"value": 2, "label": "fair"}],
         "missingValues": ["9"]},
        {"name": "app", "type": "boolean"},
        {"name": "stop", "type": "string", "categories": ["a", "b", "c"]},
        {"name": "n", "type": "number"},
        {"name": "gone", "type": "string"},
    ],
    "missingValues": ["", "-"],
}  # fmt: skip
WORDS = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=6
)


def written(directory: Path, data: object) -> Path:
    path = directory / "book.json"
    path.write_text(data if isinstance(data, str) else json.dumps(data), encoding="utf-8")
    return path


@pytest.mark.parametrize(
    "around", [lambda s: s, lambda s: {"schema": s}, lambda s: {"resources": [{"schema": s}]}]
)
def test_a_table_schema_reaches_the_plan(tmp_path: Path, around) -> None:  # type: ignore[no-untyped-def]
    book = read_codebook(written(tmp_path, around(SCHEMA)))
    plan = apply_codebook(PLAN, TABLE, book)
    part = plan.variables
    assert (part.ordinal, part.binary, part.nominal, part.interval) == (
        ("q1",), ("app",), ("stop",), ("n",),
    )  # fmt: skip
    assert part.labels == {"q1": "How helpful?"}
    assert part.values["q1"] == {"1": "poor", "2": "fair"}
    assert plan.codes("q1") == ("-", "9")
    assert plan.codes("stop") == ("-",)
    assert prepare(TABLE, plan).n == 2
    save_codebook(codebook_of(plan, TABLE), tmp_path / "again.json")
    assert apply_codebook(PLAN, TABLE, read_codebook(tmp_path / "again.json")) == plan


def test_the_demo_plan_holds_what_its_code_book_says() -> None:
    plan = load_plan(DEMO / "readers.toml")
    table = read_source(plan, DEMO / "readers.csv")
    assert isinstance(table, Table)
    assert set(plan.variables.labels) == set(table.names)
    again = apply_codebook(plan, table, read_codebook(DEMO / "readers.schema.json"))
    assert again.understood() == plan.understood()


DDI = """<?xml version="1.0"?>
<codeBook xmlns="ddi:codebook:2_5"><dataDscr>
 <var name="q1" nature="ordinal"><labl>How <i>helpful</i>?</labl>
  <catgry><catValu>1</catValu><labl>poor</labl></catgry>
  <catgry missing="Y"><catValu>9</catValu><labl>refused</labl></catgry></var>
 <var name="n" intrvl="contin"/>
</dataDscr></codeBook>"""
BOMB = """<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>
<codeBook><dataDscr><var name="q1"><labl>&b;</labl></var></dataDscr></codeBook>"""


def test_a_ddi_code_book_reaches_the_plan(tmp_path: Path) -> None:
    path = tmp_path / "book.xml"
    path.write_text(DDI, encoding="utf-8")
    plan = apply_codebook(PLAN, TABLE, read_codebook(path))
    assert (plan.variables.ordinal, plan.variables.interval) == (("q1",), ("n",))
    assert plan.variables.labels == {"q1": "How helpful?"}
    assert plan.variables.values == {"q1": {"1": "poor"}}
    assert plan.codes("q1") == ("9",)
    save_codebook(codebook_of(plan, TABLE), tmp_path / "again.xml")
    again = apply_codebook(PLAN, TABLE, read_codebook(tmp_path / "again.xml"))
    assert again.variables.model_copy(update={"interval": ("n",)}) == plan.variables


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (BOMB, "line 1: a document type or entities"),
        ("<codeBook>", "not XML"),
        ("<codeBook/>", "no variables"),
        ("<codeBook><var/></codeBook>", "var 1: no name"),
    ],
)
def test_xml_that_is_no_code_book_is_refused(tmp_path: Path, text: str, said: str) -> None:
    path = tmp_path / "book.xml"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(InputError) as caught:
        read_codebook(path)
    assert said in str(caught.value)
    assert str(caught.value).startswith("book.xml: ")


@given(
    names=st.lists(WORDS, min_size=1, max_size=4, unique=True),
    titles=st.lists(st.text(max_size=5), min_size=4, max_size=4),
    labels=st.dictionaries(WORDS, WORDS, min_size=3, max_size=4),
    missing=st.lists(WORDS, max_size=2, unique=True),
)
def test_what_was_written_is_read(
    tmp_path_factory: pytest.TempPathFactory,
    names: list[str],
    titles: list[str],
    labels: dict[str, str],
    missing: list[str],
) -> None:
    entries = [
        Entry(name, title, "nominal", labels, tuple(missing))
        for name, title in zip(names, titles, strict=False)
    ]
    book = Codebook(tuple(entries), tuple(missing))
    path = tmp_path_factory.mktemp("book") / "b.json"
    save_codebook(book, path)
    assert read_codebook(path) == book


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ("{", "not JSON"),
        ("[" * 50_000, "not JSON"),
        ({}, "no list of fields"),
        ({"fields": [{}]}, "field 1: no name"),
        ({"fields": [{"name": "q1", "type": "colour"}]}, 'field 1 ("q1"): the type "colour"'),
        ({"fields": [{"name": "q1", "categories": [{}]}]}, "a category without a value"),
        ({"fields": [{"name": "q1", "missingValues": "9"}]}, "missingValues: no list"),
        ({"fields": [{"name": "other"}]}, "no column of this table"),
    ],
)
def test_what_is_no_code_book_is_refused(tmp_path: Path, data: object, said: str) -> None:
    path = written(tmp_path, data)
    with pytest.raises(InputError) as caught:
        apply_codebook(PLAN, TABLE, read_codebook(path))
    assert said in str(caught.value)
