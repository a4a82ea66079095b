"""Variables made from others: what a plan may ask for in `[[make]]`, entry by entry."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field

from gorvel.core.base.errors import InputError
from gorvel.core.language.formula import parse_formula
from gorvel.core.plan.kinds import Finite, Names, Part, Whole, as_tuple
from gorvel.core.plan.misfit import Misfit
from gorvel.core.table.table import Level

WAYS = ("order", "separator", "number", "bands", "date", "time", "mean", "sum", "formula")
_FROM_ONE = ("order", "separator", "number", "bands", "date", "time")  # ways that turn one column
_ONLY_WITH = {  # keys that say more of a way
    "options": ("separator",), "empty": ("separator",), "format": ("date",),
    "at_least": ("mean", "sum"), "reverse": ("order", "number", "mean", "sum"),
    "correct": _FROM_ONE,
}  # fmt: skip
_YEAR, _MONTH, _DAY = ("%Y", "%y"), ("%m", "%b", "%B"), ("%d", "%j")


def plain_word(word: str) -> str:
    """A word of an answer as it is compared: case and outer blanks do not matter."""
    return word.strip().casefold()


def option_title(option: str) -> str:
    """An option as its column is called: "Other: *", which is whatever begins so, as "Other"."""
    return option.removesuffix("*").rstrip(" :") or option


def _apart(words: tuple[str, ...]) -> tuple[str, ...]:
    """Words of answers that can be told from each other."""
    seen: dict[str, str] = {}
    for word in words:
        plain = plain_word(word)
        if not plain:
            raise ValueError("words that are not empty")
        if plain in seen:
            raise ValueError(f'each word once ("{word}" is "{seen[plain]}" again)')
        seen[plain] = word
    return words


def _trimmed(words: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(word.strip() for word in words)


Words = Annotated[
    tuple[str, ...], BeforeValidator(as_tuple), AfterValidator(_trimmed), AfterValidator(_apart)
]
Name = Annotated[str, AfterValidator(str.strip), Field(min_length=1)]


class MakePlan(Part):
    """One variable, or with a separator some of them, made from others in one of the `WAYS`."""

    name: Name
    from_: Annotated[str | None, Field(alias="from")] = None
    order: Annotated[Words, Field(min_length=2)] | None = None  # words that become 1, 2, 3 …
    reverse: bool | Annotated[tuple[Finite, Finite], BeforeValidator(as_tuple)] = False
    separator: Annotated[str, Field(min_length=1)] | None = None  # between answers of one cell
    options: Annotated[Words, Field(min_length=1)] | None = None
    empty: Literal["none", "missing"] = "none"
    number: bool = False
    bands: Literal["middle", "order"] | None = None
    date: Literal["days", "year", "month", "weekday"] | None = None
    format: str | None = None  # of dates that are not written as in ISO 8601
    time: Literal["hours", "minutes", "seconds"] | None = None  # of the day, or that it took
    mean: Annotated[Names, Field(min_length=1)] | None = None
    sum: Annotated[Names, Field(min_length=1)] | None = None
    at_least: Whole | None = None
    formula: str | None = None
    # cells that are read as others before they are turned
    correct: dict[str, str] = Field(default_factory=dict)

    @property
    def ways(self) -> tuple[str, ...]:
        """The ways it names; in a plan that stands just one."""
        return tuple(way for way in WAYS if getattr(self, way) not in (None, False))

    @property
    def way(self) -> str:
        """In which of the `WAYS` it is made."""
        return self.ways[0]

    @property
    def level(self) -> Level:
        """The level of what is made, where the plan gives it no other."""
        kinds: dict[str, Level] = {"order": "ordinal", "separator": "binary"}
        return kinds.get(self.way, "interval")

    @property
    def named(self) -> tuple[str, ...]:
        """The columns that it makes, as far as it says so without the table."""
        if self.separator is None:
            return (self.name,)
        return tuple(f"{self.name}: {option_title(option)}" for option in self.options or ())

    @property
    def looks_at(self) -> tuple[str, ...]:
        """The columns it is made from, each once."""
        if self.formula is not None:
            return parse_formula(self.formula).columns
        return self.mean or self.sum or (self.from_ or "",)

    def makes(self, column: str) -> bool:
        """Is a column of this name made by it?"""
        if self.separator is not None:
            return column.startswith(f"{self.name}: ")
        return column == self.name


def make_misfits(makes: Sequence[MakePlan]) -> Iterator[Misfit]:
    """What does not go together in entries, or among them."""
    for place, make in enumerate(makes):
        where = f'[[make]] "{make.name}"'
        if any(make.name == other.name for other in makes[:place]):
            yield Misfit(where, "the name of two entries", "a name of its own for each")
        problem = _problem(make)
        if problem is not None:
            yield Misfit(where, *problem)
            continue
        for column in make.looks_at:
            if any(other.makes(column) for other in makes[place:]) and not any(
                other.makes(column) for other in makes[:place]
            ):
                found = f'"{column}", which is made ' + ("later" if column != make.name else "here")
                yield Misfit(where, found, "columns of the file, or made by an entry before it")


def _problem(make: MakePlan) -> tuple[str, str] | None:
    """What does not go together in an entry: what was found, and what was expected."""
    if len(make.ways) != 1:
        told = " and ".join(make.ways) if make.ways else "no way to make it"
        return told, f"one of: {', '.join(WAYS)}"
    way = make.way
    if way in _FROM_ONE and not make.from_:
        return f"{way} without from", "from, the column whose answers it turns"
    if way not in _FROM_ONE and make.from_ is not None:
        return f"from beside {way}", f"{way} alone, which names its columns"
    for key, ways in _ONLY_WITH.items():
        if key in make.model_fields_set and getattr(make, key) and way not in ways:
            return f"{key} with {way}", f"it left out, or one of: {', '.join(ways)}"
    return _reverse_problem(make) or _text_problem(make)


def _reverse_problem(make: MakePlan) -> tuple[str, str] | None:
    if make.reverse is True and make.way != "order":
        return "reverse = true", "the lowest and the highest answer, such as [1, 5]"
    if isinstance(make.reverse, tuple):
        if make.way == "order":
            return "two ends to reverse", "reverse = true: an order has its ends"
        if make.reverse[0] >= make.reverse[1]:
            return "the ends to reverse", "the lower one first"
    return None


def _text_problem(make: MakePlan) -> tuple[str, str] | None:
    """What is wrong within a key."""
    items = make.mean or make.sum or ()
    if items and make.at_least and make.at_least > len(items):
        return f"at_least = {make.at_least}", f"at most {len(items)}, as many as items"
    if make.format is not None:
        return _format_problem(make.format, make.date or "days")
    if make.formula is not None:
        try:
            parse_formula(make.formula)
        except InputError as error:
            return f"in the formula, {error.found}", error.expected
    return None


def _format_problem(written: str, wanted: str) -> tuple[str, str] | None:
    """Can dates be read by a format, and is what is wanted in it?"""
    codes = set(re.findall(r"%[A-Za-z]", written))
    needed = {"year": (_YEAR,), "month": (_MONTH,)}.get(wanted, (_YEAR, _MONTH, _DAY))
    by_day_of_year = "%j" in codes
    for kind in needed:
        if not codes & set(kind) and not (by_day_of_year and kind is _MONTH):
            return f'the format "{written}"', f"one with {' or '.join(kind)}, such as %d.%m.%Y"
    moment = datetime(2026, 2, 15)
    try:
        datetime.strptime(moment.strftime(written), written)
    except ValueError:
        return f'the format "{written}"', "one that dates can be read by, such as %d.%m.%Y"
    return None


def needed_for(makes: tuple[MakePlan, ...], columns: set[str]) -> tuple[MakePlan, ...]:
    """The entries on which columns stand, directly or through others, in their order."""
    wanted, found = set(columns), []
    for make in reversed(makes):
        if any(make.makes(name) for name in wanted):
            found.append(make)
            wanted.update(make.looks_at)
    return tuple(reversed(found))
