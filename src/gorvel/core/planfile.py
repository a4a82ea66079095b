"""Plan files: a plan read from TOML with all that does not fit named, and written back."""

from __future__ import annotations

import os
import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from gorvel.core.errors import InputError
from gorvel.core.plan import Plan, nearest, validated
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.condition import parse_condition
from gorvel.core.table.levels import LEVELS
from gorvel.core.table.reading import WORKBOOKS

__all__ = ["load_plan", "parse_plan", "plan_text", "save_plan"]

_MOST_INLINE = 3  # entries of a table that is written in one line
_TABLE_ONLY = ("proximity", "variables", "scale", "missing")


def parse_plan(text: str, file: str) -> Plan:
    """Read a plan from TOML.

    Raises
    ------
    InputError : not TOML, an unknown table or key, a value or combination that does not fit;
        names the file and the key, and the nearest valid one.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"not TOML: {error}", file=file) from error
    if "gorvel" not in data:
        raise InputError("no format version", "gorvel = 1", place="gorvel", file=file)
    plan = validated(data, file)
    _check_fit(plan, data, file)
    return plan


def load_plan(path: Path) -> Plan:
    """Read a plan file (see `parse_plan`)."""
    try:
        text = path.read_text(encoding="utf-8")
    except FileNotFoundError:
        raise InputError("no such file", "a plan in TOML", file=path.name) from None
    except UnicodeDecodeError as error:
        raise InputError("not UTF-8 text", "a plan in TOML", file=path.name) from error
    except OSError as error:
        raise InputError(error.strerror or "unreadable", "a plan file", file=str(path)) from error
    return parse_plan(text, path.name)


def plan_text(plan: Plan) -> str:
    """The plan as TOML, with only what was chosen."""
    import tomlkit

    data = plan.model_dump(by_alias=True, exclude_unset=True, exclude_none=True, mode="json")
    document = tomlkit.document()
    document.add("gorvel", tomlkit.item(1))
    for key, value in data.items():
        if isinstance(value, Mapping):
            if not value and key != "count":
                continue
            table = tomlkit.table()
            for name, entry in value.items():
                if key == "variables" and not entry:
                    continue
                inline = tomlkit.inline_table()
                nested = any(isinstance(inner, Mapping) for inner in _inner(entry))
                if nested or len(_inner(entry)) > _MOST_INLINE:
                    table.add(name, tomlkit.item(entry))  # under a heading of its own
                    continue
                if isinstance(entry, Mapping):
                    inline.update(entry)
                    entry = inline
                table.add(name, entry)
            document.add(tomlkit.nl())
            document.add(key, table)
        elif key != "gorvel":
            document.add(key, value)
    return tomlkit.dumps(document)


def _inner(entry: Any) -> list[Any]:
    return list(entry.values()) if isinstance(entry, Mapping) else []


def save_plan(plan: Plan, path: Path) -> None:
    """Write the plan to a file, whole or not at all."""
    part = path.with_name(f".{path.name}.part")
    part.write_text(plan_text(plan), encoding="utf-8")
    os.replace(part, path)


def _check_fit(plan: Plan, data: Mapping[str, Any], file: str) -> None:
    """What one key alone cannot tell: do they go together?"""
    if plan.source.sheet is not None and not plan.source.file.lower().endswith(WORKBOOKS):
        place = "[source] sheet"
        raise InputError("a sheet", "none: only workbooks have sheets", place=place, file=file)
    if plan.source.kind == "proximities":
        for table in _TABLE_ONLY:
            if table in data:
                raise InputError(
                    "a table that does not fit a proximity matrix",
                    'it left out, or kind = "table"',
                    place=f"[{table}]",
                    file=file,
                )
        if not plan.source.header:
            place = "[source] header"
            raise InputError("false", "true: a matrix has its labels there", place=place, file=file)
        for key in ("label", "weight", "split", "groups", "keep", "set_aside", "place_set_aside"):
            if getattr(plan.cases, key):
                raise InputError(
                    "a key that does not fit a proximity matrix",
                    'it left out, or kind = "table"',
                    place=f"[cases] {key}",
                    file=file,
                )
        if plan.tree.of == "variables":
            raise InputError(
                '"variables"', '"cases": a matrix has no variables', place="[tree] of", file=file
            )
        return
    if plan.source.similarity:
        place = "[source] similarity"
        raise InputError("true", 'kind = "proximities" with it', place=place, file=file)
    if plan.cases.place_set_aside and plan.tree.of == "variables":
        place = "[cases] place_set_aside"
        raise InputError("true", "a tree of cases with it", place=place, file=file)
    _check_variables(plan, file)


def _check_variables(plan: Plan, file: str) -> None:
    variables = plan.variables
    if plan.cases.keep is not None:
        try:
            parse_condition(plan.cases.keep)
        except InputError as error:
            error.place = "[cases] keep"
            raise error.in_file(file) from None
    if not variables.use:
        raise InputError("no variables", "at least one", place="[variables] use", file=file)
    for key in ("importance", "cap", "trim"):
        for name in getattr(variables, key):
            if name not in variables.use:
                raise InputError(
                    f'"{name}", which is not in use',
                    f'a variable in use (nearest: "{nearest(name, variables.use)}")',
                    place=f"[variables] {key}",
                    file=file,
                )
    for key in ("cap", "trim"):
        for name, (low, high) in getattr(variables, key).items():
            if low >= high:
                raise InputError(
                    f"{low:g} to {high:g}",
                    "the lower percentile first",
                    place=f"[variables] {key}.{name}",
                    file=file,
                )
    for name in variables.profile:
        if name in variables.use:
            raise InputError(
                f'"{name}", which is in use',
                "a variable that is not in use",
                place="[variables] profile",
                file=file,
            )
    for name in variables.asymmetric:
        if variables.level(name) not in (None, "binary"):
            raise InputError(
                f'"{name}", which is {variables.level(name)}',
                "a binary variable",
                place="[variables] asymmetric",
                file=file,
            )
    for place, level in enumerate(LEVELS):
        for other in LEVELS[:place]:
            for name in set(getattr(variables, level)) & set(getattr(variables, other)):
                raise InputError(
                    f'"{name}", which is also {other}',
                    "one level for a variable",
                    place=f"[variables] {level}",
                    file=file,
                )
    measure = MEASURES[plan.proximity.measure]
    if not measure.importances:
        for name, value in variables.importance.items():
            if value != 1:
                raise InputError(
                    f"{value:g}",
                    f"no importances: {measure.name} takes all variables alike",
                    place=f"[variables] importance.{name}",
                    file=file,
                )
    if not measure.gaps and plan.handling == "pairwise":
        raise InputError(
            f'"pairwise" with {measure.key}',
            "drop, stop, mean, median or mode",
            place="[missing] handling",
            file=file,
        )
    mixed = measure.mixed
    if mixed and plan.handling in ("mean", "median", "mode"):
        raise InputError(
            f'"{plan.handling}" with {plan.proximity.measure}',
            "pairwise, drop or stop",
            place="[missing] handling",
            file=file,
        )
    if plan.count is not None and plan.count.to < plan.count.from_:
        found = f"to = {plan.count.to} below from = {plan.count.from_}"
        raise InputError(found, "from not above to", place="[count] to", file=file)
