"""Plan files: a plan read from TOML with all that does not fit named, and written back."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from gorvel.core.base.errors import InputError
from gorvel.core.base.reading import guarded, text_of
from gorvel.core.base.writing import replacing
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.plan import Plan, validated

_MOST_INLINE = 3  # entries of a table that is written in one line


def parse_plan(text: str, file: str, unfinished: bool = False) -> Plan:
    """Read a plan from TOML.

    unfinished : what is still to be chosen may be open.

    Raises
    ------
    InputError : not TOML, an unknown table or key, a value or combination that does not fit;
        names the file and the key, and the nearest valid one.
    """
    with guarded(file, "a plan in TOML"):
        try:
            data = tomllib.loads(text)
        except tomllib.TOMLDecodeError as error:
            raise InputError(f"not TOML: {error}", file=file) from error
    if "gorvel" not in data:
        raise InputError("no format version", "gorvel = 1", place="gorvel", file=file)
    plan = validated(data, file)
    check_fit(plan, file, unfinished)
    return plan


def load_plan(path: Path) -> Plan:
    """Read a plan file (see `parse_plan`)."""
    return parse_plan(text_of(path, "a plan in TOML"), path.name)


def plan_text(plan: Plan) -> str:
    """The plan as TOML, with only what was chosen."""
    import tomlkit

    data = plan.model_dump(by_alias=True, exclude_unset=True, exclude_none=True, mode="json")
    document = tomlkit.document()
    document.add("gorvel", tomlkit.item(1))
    for key, value in data.items():
        if isinstance(value, Mapping):
            if key == "variables":
                value = {name: entry for name, entry in value.items() if entry}
            if not value and Plan.model_fields[key].default is not None:
                continue  # as if it were not there; an empty [consensus] asks for something
            table = tomlkit.table()
            for name, entry in value.items():
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
    """Write the plan to a file, whole or not at all.

    Raises
    ------
    InputError : the place cannot be written.
    """
    with replacing(path) as part:
        part.write_text(plan_text(plan), encoding="utf-8")
