"""Made variables that are put in, changed, renamed and removed, and who uses them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gorvel.core.base.errors import InputError
from gorvel.core.language.condition import parse_condition
from gorvel.core.language.tokens import renamed
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan

_CASES = {"label": "labels the cases", "weight": "weights them", "split": "splits them",
          "groups": "is the known groups"}  # fmt: skip


def users_of(plan: Plan, make: MakePlan) -> list[str]:
    """Who uses what an entry makes, in words."""
    out = []
    if any(make.makes(name) for name in plan.variables.use):
        out.append("it is active")
    if any(make.makes(name) for name in plan.variables.profile):
        out.append("it is in the profiles")
    for key, words in _CASES.items():
        column = getattr(plan.cases, key)
        if column is not None and make.makes(column):
            out.append(f"it {words}")
    keep = plan.cases.keep
    if keep is not None and any(make.makes(name) for name in parse_condition(keep).columns):
        out.append("cases are chosen by it")
    others = [other for other in plan.make if other != make]
    return out + [f"“{other.name}” is created from it" for other in others
                  if any(make.makes(name) for name in other.looks_at)]  # fmt: skip


def with_entry(plan: Plan, old: MakePlan | None, new: MakePlan) -> Plan:
    """The plan with an entry in the place of another, or behind all; a new one becomes active.

    Where it has another name, all that use the old one follow.

    Raises
    ------
    InputError : as `Plan.with_made`.
    """
    if old is None:
        made = plan.with_made([*plan.make, new])
        return made.using([*made.variables.use, new.name])
    makes = [new if make == old else make for make in plan.make]
    names = _new_names(old, new)
    return _called_otherwise(plan, makes, names) if names else plan.with_made(makes)


def _new_names(old: MakePlan, new: MakePlan) -> dict[str, str]:
    """The columns that are called otherwise now, by their old names."""
    if old.separator is None:
        return {} if old.name == new.name else {old.name: new.name}
    ends = {name.removeprefix(f"{old.name}: "): name for name in old.named}
    now = {name.removeprefix(f"{new.name}: "): name for name in new.named}
    return {ends[end]: now[end] for end in ends if end in now and ends[end] != now[end]}


def without_entry(plan: Plan, make: MakePlan) -> Plan:
    """The plan without an entry; what it made is no longer active or in profiles.

    Raises
    ------
    InputError : another one is made of it, or cases are chosen, labelled, weighed or split by it.
    """
    needed = [words for words in users_of(plan, make) if words not in
              ("it is active", "it is in the profiles")]  # fmt: skip
    if needed:
        said = f"“{make.name}” is needed: {', '.join(needed)}."
        raise InputError(f'"{make.name}", which is needed', "it to stay", said=said)
    part = plan.variables
    changes: dict[str, Any] = {}
    for key in ("profile", "ordinal", "interval", "nominal", "binary", "count", "asymmetric"):
        kept = [name for name in getattr(part, key) if not make.makes(name)]
        if len(kept) != len(getattr(part, key)):
            changes[key] = kept
    for key in ("labels", "values", "missing"):
        said = getattr(part, key)
        if any(make.makes(name) for name in said):
            changes[key] = {name: value for name, value in said.items() if not make.makes(name)}
    use = [name for name in part.use if not make.makes(name)]
    changed = plan.using(use, **changes) if use != [*part.use] or changes else plan
    return changed.with_made([other for other in plan.make if other != make])


def _called_otherwise(plan: Plan, makes: list[MakePlan], names: Mapping[str, str]) -> Plan:
    """Names of columns put in the places of others. names : new ones by old ones."""
    whole = plan.model_dump(by_alias=True, exclude_unset=True)
    whole["make"] = [_entry_renamed(make, names) for make in makes]
    for part in ("cases", "variables", "design", "tree"):
        if whole.get(part):
            whole[part] = {key: _renamed(value, names) for key, value in whole[part].items()}
    keep = whole.get("cases", {}).get("keep")
    if keep is not None:
        whole["cases"]["keep"] = renamed(keep, names)
    for tree in whole.get("trees", ()):
        for key in ("use", "weight", "importance"):
            if tree.get(key) is not None:
                tree[key] = _renamed(tree[key], names)
    return plan.whole(whole)


def _entry_renamed(make: MakePlan, names: Mapping[str, str]) -> dict[str, Any]:
    entry = make.model_dump(by_alias=True, exclude_unset=True)
    for key in ("from", "mean", "sum"):
        if entry.get(key) is not None:
            entry[key] = _renamed(entry[key], names)
    if entry.get("formula") is not None:
        entry["formula"] = renamed(entry["formula"], names)
    return entry


def _renamed(value: Any, names: Mapping[str, str]) -> Any:
    """A name, a list of names, or a table by name."""
    if isinstance(value, str):
        return names.get(value, value)
    if isinstance(value, list | tuple):
        return [names.get(one, one) if isinstance(one, str) else one for one in value]
    if isinstance(value, Mapping):
        return {names.get(key, key): inner for key, inner in value.items()}
    return value
