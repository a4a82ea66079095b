"""The plan: one frozen object, changed only into another one whose parts go together."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, get_args

import pydantic
from pydantic import BaseModel

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import number
from gorvel.core.plan.consistency import check_fit, misfits
from gorvel.core.plan.growth import GrowthKey, Method, growth_key, method_of
from gorvel.core.plan.kinds import OF_ONE_TREE, nearest
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.parts import DEFAULT_COUNTS, WholePlan


class Plan(WholePlan):
    """Every choice of one analysis; see `WholePlan` for what there is to choose."""

    def growth(self, group: str | None = None) -> GrowthKey:
        """What makes the tree, of all cases or of one group of the split."""
        return growth_key(self, group)

    def grows_as(self, other: Plan) -> bool:
        """Does another plan grow the same trees, of the same groups?"""
        if self is other:
            return True
        return self.growth() == other.growth() and self.cases.split == other.cases.split

    @property
    def method(self) -> Method:
        """How the cases it chooses are measured and joined."""
        return method_of(self)

    def with_(self, part: str, **changes: Any) -> Plan:
        """A copy with some keys of one part changed; see `with_parts`."""
        return self.with_parts({part: changes})

    def with_parts(self, changes: Mapping[str, Mapping[str, Any]]) -> Plan:
        """A copy with keys of some parts changed together; checked like a plan file.

        What is still to be chosen may stay open.

        Raises
        ------
        InputError : a value is none of its key, or the parts no longer go together.
        """

        def change(whole: dict[str, Any]) -> None:
            for part, changed in changes.items():
                if changed:
                    whole[part] = (whole.get(part) or {}) | dict(changed)

        return self.edited(change)

    def edited(self, change: Callable[[dict[str, Any]], None]) -> Plan:
        """A copy in which what was said, as a plan file has it, is changed.

        Raises
        ------
        InputError : as `with_parts`.
        """
        whole = self.model_dump(by_alias=True, exclude_unset=True)
        change(whole)
        return self.whole(whole)

    def why_not(self, part: str, **changes: Any) -> str:
        """Why a part would no longer go with the others, as a sentence; empty where it would.

        changes : valid values of keys of the part.
        """
        changed = getattr(self, part).model_copy(update=changes)
        plan = self.model_copy(update={part: changed})
        return next((misfit.sentence for misfit in misfits(plan) if not misfit.unfinished), "")

    def with_made(self, makes: Sequence[MakePlan]) -> Plan:
        """A copy that makes these variables of others.

        Raises
        ------
        InputError : as `with_parts`.
        """
        told = [make.model_dump(by_alias=True, exclude_unset=True) for make in makes]
        return self.edited(lambda whole: whole.update(make=told))

    @staticmethod
    def whole(data: Mapping[str, Any]) -> Plan:
        """A plan of plain data, which may still be to complete.

        Raises
        ------
        InputError : as `with_parts`.
        """
        plan = validated(data, "plan")
        check_fit(plan, unfinished=True)
        return plan

    def with_whole(self, part: str, keys: Mapping[str, Any] | None) -> Plan:
        """A copy with another part that plans may do without, such as the design, or without it.

        Raises
        ------
        InputError : as `with_parts`.
        """

        def change(whole: dict[str, Any]) -> None:
            whole.pop(part, None)
            if keys is not None:
                whole[part] = dict(keys)

        return self.edited(change)

    @property
    def open_choice(self) -> str:
        """What has still to be chosen before a tree can grow, as a sentence; empty if nothing."""
        return next((misfit.sentence for misfit in misfits(self) if misfit.unfinished), "")

    def using(self, names: Sequence[str], **changes: Any) -> Plan:
        """A copy with these variables in use; what was said of others that were is forgotten.

        changes : other keys of [variables] that change with it.
        """
        part = self.variables
        kept = {
            key: {name: value for name, value in getattr(part, key).items() if name in names}
            for key in ("importance", "cap", "trim")
            if getattr(part, key)
        }
        return self.with_("variables", use=list(names), **kept | changes)

    @property
    def decided(self) -> dict[tuple[str, str], Any]:
        """What was decided about its tree, by part and key; see `OF_ONE_TREE`."""
        parts = {"cut": self.cut, "count": self.counting}
        found = {(part, k): getattr(parts[part], k) for part, ks in OF_ONE_TREE.items() for k in ks}
        return {place: said for place, said in found.items() if said}

    def without_decisions(
        self, of: Plan | None = None, parts: Sequence[str] = tuple(OF_ONE_TREE)
    ) -> Plan:
        """A copy for another tree: without what was decided about the tree of this plan.

        of : only what this plan decides likewise is left out; None for all; parts : in which.
        """
        theirs = self.decided if of is None else of.decided
        mine = {place: said for place, said in self.decided.items() if place[0] in parts}
        gone = [place for place, said in mine.items() if theirs.get(place) == said]
        if not gone:
            return self
        whole = self.model_dump(by_alias=True, exclude_unset=True)
        for part, key in gone:
            del whole[part][key]
        return validated(whole, "plan")

    def understood(self) -> dict[str, Any]:
        """The plan with all defaults filled in, as plain data."""
        data = self.model_dump(by_alias=True, mode="json")
        data["missing"]["handling"] = self.handling
        data["tree"]["proximities_are"] = self.proximities_are
        if self.cut.counts is None:
            data["cut"]["counts"] = list(DEFAULT_COUNTS)
        return data


def validated(data: Mapping[str, Any], file: str) -> Plan:
    """A plan from plain data.

    Raises
    ------
    InputError : names the key, what was found and what was expected.
    """
    try:
        return Plan.model_validate(data)
    except pydantic.ValidationError as error:
        raise _in_words(_plainest(error.errors()), file) from None


def _plainest(problems: Sequence[Any]) -> Any:
    """The first problem; a key that nobody knows rather than the one that is missing for it."""
    first = problems[0]
    mistyped = (
        one for one in problems
        if one["type"] == "extra_forbidden" and one["loc"][:-1] == first["loc"][:-1]
    )  # fmt: skip
    return next(mistyped, first) if first["type"] == "missing" else first


def _fields(path: tuple[str | int, ...]) -> list[str]:
    """The valid keys of a table of the plan, or of an entry of a list of tables."""
    model: type[BaseModel] = Plan
    for step in path:
        if isinstance(step, int):  # an entry of a list
            continue
        named = {field.alias or name: field for name, field in model.model_fields.items()}
        found = _model_in(named[step].annotation) if step in named else None
        if found is None:
            return []
        model = found
    return [field.alias or name for name, field in model.model_fields.items()]


def _model_in(kind: Any) -> type[BaseModel] | None:
    """The kind of table that a key holds, alone or in a list; None where it holds none."""
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        return kind
    return next((found for one in get_args(kind) if (found := _model_in(one))), None)


def _in_words(problem: Any, file: str) -> InputError:
    loc = tuple(problem["loc"])
    table, *keys = loc
    place = f"[{table}]" if keys else str(table)
    if keys:
        place += " " + ".".join(str(key) for key in keys if not isinstance(key, int))
    value = problem["input"]
    if problem["type"] == "extra_forbidden":
        valid = _fields(loc[:-1])
        kind = "table" if isinstance(value, Mapping) and len(loc) == 1 else "key"
        hint = f'nearest valid: "{nearest(str(loc[-1]), valid)}"' if valid else "no such key"
        return InputError(f'unknown {kind} "{loc[-1]}"', hint, place=place, file=file)
    if problem["type"] == "missing" and isinstance(loc[-1], int):
        return InputError("too few entries", _EXPECTED["too_short"], place=place, file=file)
    if problem["type"] == "missing":
        return InputError("nothing", "a value: this key is required", place=place, file=file)
    words: tuple[str, ...] = getattr(problem.get("ctx", {}).get("error"), "args", ())
    if len(words) == 2:  # what was expected, and which of several is not
        return InputError(f'"{words[1]}"', words[0], place=place, file=file)
    found = f'"{value}"' if isinstance(value, str) else _short(value)
    if problem["type"] == "less_than_equal":
        return InputError(found, f"at most {number(problem['ctx']['le'])}", place=place, file=file)
    expected = _EXPECTED.get(problem["type"]) or problem["msg"].removeprefix("Value error, ")
    expected = expected.removeprefix("Input should be ").replace("a valid ", "a ").replace("'", '"')
    return InputError(found, expected, place=place, file=file)


_EXPECTED = {
    "tuple_type": "a list",
    "dict_type": "a table",
    "model_type": "a table",
    "string_type": "a text",
    "bool_type": "true or false",
    "int_type": "a whole number",
    "float_type": "a number",
    "too_short": "two percentiles, such as [1, 99]",
    "too_long": "two percentiles, such as [1, 99]",
}


def _short(value: Any) -> str:
    text = str(value).replace("True", "true").replace("False", "false")
    return text if len(text) <= 60 else text[:57] + "..."
