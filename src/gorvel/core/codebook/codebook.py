"""Codebooks: what the columns and codes of a survey mean, read from and written to open standards.

DDI-Codebook (XML) is in `ddi.py`; Table Schema is here.

Table Schema (Frictionless Data, version 2) is an open standard in JSON. Used of it: `missingValues`
of the schema and of a field; of a field `name`, `title`, `type`, `categories` (values, or values
with labels) and `categoriesOrdered`. A data resource or package around the schema is opened too.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from gorvel.core.base.errors import InputError
from gorvel.core.base.reading import bytes_of, guarded
from gorvel.core.base.writing import replacing
from gorvel.core.plan.plan import Plan
from gorvel.core.table.ddi import ddi_text, read_ddi
from gorvel.core.table.levels import LEVELS, NUMERIC
from gorvel.core.table.table import Level, Table

_TYPES = {
    "string", "number", "integer", "boolean", "date", "datetime", "time", "year", "any", "list",
    "yearmonth", "duration", "geopoint", "object", "array", "geojson",
}  # fmt: skip
_MOST_BYTES = 50 << 20


@dataclass(frozen=True)
class Entry:
    """What is known of a column.

    level : None where the codebook does not tell; title : the question; labels : code -> words;
    missing : codes for no answer.
    """

    name: str
    title: str = ""
    level: Level | None = None
    labels: dict[str, str] = field(default_factory=dict)
    missing: tuple[str, ...] = ()


@dataclass(frozen=True)
class Codebook:
    """entries : of columns; missing : codes for no answer in every column."""

    entries: tuple[Entry, ...]
    missing: tuple[str, ...] = ()


def read_codebook(path: Path) -> Codebook:
    """Read a Table Schema (.json) or a DDI-Codebook (.xml).

    Raises
    ------
    InputError : no such file, not of its kind, a column without a name; names the place.
    """
    try:
        with guarded(path.name, "a codebook (JSON or XML)"):
            if path.stat().st_size > _MOST_BYTES:
                raise InputError("more than 50 MiB", "a codebook")
            data = bytes_of(path)
            if path.suffix.lower() == ".xml":
                return Codebook(tuple(Entry(*variable) for variable in read_ddi(data)))
            return _table_schema(data)
    except InputError as error:
        raise error.in_file(path.name) from None


def _table_schema(data: bytes) -> Codebook:
    try:
        told = json.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise InputError(f"not JSON: {error}", "a Table Schema") from error
    schema = _schema(told)
    entries = tuple(_entry(place, item) for place, item in enumerate(schema["fields"], 1))
    return Codebook(entries, _codes(schema.get("missingValues", []), "missingValues"))


def _schema(data: Any) -> dict[str, Any]:
    """The schema itself, or that of the first resource around it."""
    if isinstance(data, dict) and isinstance(data.get("resources"), list) and data["resources"]:
        data = data["resources"][0]
    if isinstance(data, dict) and isinstance(data.get("schema"), dict):
        data = data["schema"]
    if not isinstance(data, dict) or not isinstance(data.get("fields"), list):
        raise InputError("no list of fields", 'a Table Schema with "fields"')
    return data


def _entry(place: int, item: Any) -> Entry:
    where = f"field {place}"
    if not isinstance(item, dict) or not isinstance(item.get("name"), str):
        raise InputError("no name", 'a field with a "name"', place=where)
    where += f' ("{item["name"]}")'
    kind = item.get("type", "any")
    if kind not in _TYPES:
        raise InputError(f'the type "{kind}"', "a type of Table Schema", place=where)
    labels = _labels(item.get("categories", []), where)
    level: Level | None = None
    if item.get("categoriesOrdered") is True:
        level = "ordinal"
    elif kind == "boolean" or (len(labels) == 2 and kind == "string"):
        level = "binary"
    elif labels:
        level = "nominal"
    elif kind == "integer" and _least(item) == 0:
        level = "count"
    elif kind in ("number", "integer", "year"):
        level = "interval"
    title = item.get("title", "")
    missing = _codes(item.get("missingValues", []), f"{where} missingValues")
    return Entry(item["name"], title if isinstance(title, str) else "", level, labels, missing)


def _least(item: dict[str, Any]) -> Any:
    """The smallest value allowed, where the codebook gives one."""
    constraints = item.get("constraints")
    return constraints.get("minimum") if isinstance(constraints, dict) else None


def _labels(categories: Any, where: str) -> dict[str, str]:
    if not isinstance(categories, list):
        raise InputError("categories that are no list", "a list", place=where)
    labels = {}
    for item in categories:
        value = item.get("value") if isinstance(item, dict) else item
        if isinstance(value, bool) or not isinstance(value, str | int | float):
            raise InputError("a category without a value", "a text or a number", place=where)
        words = item.get("label", value) if isinstance(item, dict) else value
        labels[f"{value}"] = f"{words}"
    return labels


def _codes(values: Any, where: str) -> tuple[str, ...]:
    if not isinstance(values, list):
        raise InputError("no list", "a list of codes", place=where)
    codes = [value.get("value") if isinstance(value, dict) else value for value in values]
    return tuple(dict.fromkeys(f"{code}" for code in codes if code not in ("", None)))


def apply_codebook(plan: Plan, table: Table, book: Codebook) -> Plan:
    """The plan with levels, labels and missing codes of the columns that the table has.

    Raises
    ------
    InputError : the codebook knows none of the columns.
    """
    entries = [entry for entry in book.entries if entry.name in table.names]
    if not entries:
        raise InputError("no column of this table", f"some of: {', '.join(table.names[:8])}")
    part = plan.variables
    known = {entry.name for entry in entries if entry.level is not None}
    lists = {
        level: [name for name in getattr(part, level) if name not in known]
        + [entry.name for entry in entries if entry.level == level]
        for level in LEVELS
    }
    asymmetric = [name for name in part.asymmetric if name not in known or name in lists["binary"]]
    missing = {name: list(codes) for name, codes in part.missing.items()}
    missing |= {entry.name: list(entry.missing) for entry in entries if entry.missing}
    labels = dict(part.labels) | {entry.name: entry.title for entry in entries if entry.title}
    values = {name: dict(words) for name, words in part.values.items()}
    values |= {entry.name: entry.labels for entry in entries if entry.labels}
    codes = list(dict.fromkeys((*plan.source.missing_codes, *book.missing)))
    changed = plan.with_("source", missing_codes=codes)
    return changed.with_(
        "variables", **lists, asymmetric=asymmetric, missing=missing, labels=labels, values=values
    )


def codebook_of(plan: Plan, table: Table) -> Codebook:
    """What the plan knows of the columns of a table."""
    part = plan.variables
    entries = []
    for name in table.names:
        numeric = table.numbers(name, plan.codes(name)).mostly
        level = part.level(name) or ("interval" if numeric else None)
        labels, missing = dict(part.values.get(name, {})), tuple(part.missing.get(name, ()))
        entries.append(Entry(name, part.labels.get(name, ""), level, labels, missing))
    return Codebook(tuple(entries), plan.source.missing_codes)


def save_codebook(book: Codebook, path: Path) -> None:
    """Write a DDI-Codebook to an .xml file, else a Table Schema; whole or not at all.

    DDI knows no codes for the whole file, so that each variable gets them.
    """
    if path.suffix.lower() == ".xml":
        variables = []
        for e in book.entries:
            codes = tuple(dict.fromkeys((*book.missing, *e.missing)))
            variables.append((e.name, e.title, e.level, e.labels, codes))
        text = ddi_text(variables)
    else:
        text = _schema_text(book)
    with replacing(path) as part:
        part.write_text(text, encoding="utf-8")


def _schema_text(book: Codebook) -> str:
    fields = []
    for entry in book.entries:
        kind = "number" if entry.level in NUMERIC else "string"
        item: dict[str, Any] = {"name": entry.name, "type": kind}
        if entry.title:
            item["title"] = entry.title
        if entry.labels:
            item["categories"] = [
                {"value": _number(value) if kind == "number" else value, "label": words}
                for value, words in entry.labels.items()
            ]
        if entry.level == "ordinal":
            item["categoriesOrdered"] = True
        if entry.level == "count":
            item |= {"type": "integer", "constraints": {"minimum": 0}}
        if entry.level == "binary" and not entry.labels:
            item["type"] = "boolean"
        if entry.missing:
            item["missingValues"] = ["", *entry.missing]
        fields.append(item)
    schema = {
        "$schema": "https://datapackage.org/profiles/2.0/tableschema.json",
        "fields": fields,
        "missingValues": ["", *book.missing],
    }
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def _number(text: str) -> float | int | str:
    try:
        value = float(text)
    except ValueError:
        return text
    return int(value) if value == int(value) else value
