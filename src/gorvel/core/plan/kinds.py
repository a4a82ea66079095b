"""Kinds of values in a plan, and how each is checked."""

from __future__ import annotations

import difflib
import re
from collections.abc import Collection
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

from gorvel.core.base.numbers import LARGEST

_MOST = 1_000_000_000  # of whole numbers, which count cases or clusters
_MOST_ROUNDS = 1_000_000
IN_FILE = "file"  # the order of neighbours, where it is that of the rows
HANDLINGS = ("drop", "stop", "mean", "median", "mode", "pairwise")


def nearest(word: str, valid: Collection[str]) -> str:
    """The valid word most like a mistyped one."""
    return difflib.get_close_matches(word.lower(), list(valid), n=1, cutoff=0.0)[0]


def one_of(valid: Collection[str]) -> AfterValidator:
    """A word that is among the valid ones."""

    def check(word: str) -> str:
        if word not in valid:
            raise ValueError(f'one of {", ".join(valid)} (nearest: "{nearest(word, valid)}")')
        return word

    return AfterValidator(check)


def as_tuple(value: Any) -> Any:
    """A list of a file, as what is frozen."""
    return tuple(value) if isinstance(value, list) else value


def _code(value: Any) -> Any:
    """Missing codes may be written as numbers."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return value
    return f"{value:g}" if isinstance(value, float) else str(value)


def _distinct(values: tuple[Any, ...]) -> tuple[Any, ...]:
    for place, value in enumerate(values):
        if value in values[:place]:
            raise ValueError(f'each entry once ("{value}" appears twice)')
    return values


def _count_key(key: str) -> str:
    if not (key.isascii() and key.isdigit() and key[0] != "0"):
        raise ValueError("a cluster count, from 1")
    return key


def _colours(colours: tuple[str, ...]) -> tuple[str, ...]:
    for colour in colours:
        if colour and not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise ValueError('a colour such as "#2F66B5"', colour)
    return colours


def _told_once(titles: tuple[str, ...]) -> tuple[str, ...]:
    _distinct(tuple(title for title in titles if title))
    return titles


Positive = Annotated[float, Field(gt=0, le=LARGEST, allow_inf_nan=False)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Percentiles = Annotated[tuple[Percent, Percent], BeforeValidator(as_tuple)]
Finite = Annotated[float, Field(ge=-LARGEST, le=LARGEST, allow_inf_nan=False)]
Whole = Annotated[int, Field(ge=1, le=_MOST)]
Rounds = Annotated[int, Field(ge=1, le=_MOST_ROUNDS)]  # of drawing, or starting anew
Names = Annotated[tuple[str, ...], BeforeValidator(as_tuple), AfterValidator(_distinct)]
Numbers = Annotated[tuple[Whole, ...], BeforeValidator(as_tuple), AfterValidator(_distinct)]
Code = Annotated[str, BeforeValidator(_code)]
Title = Annotated[str, AfterValidator(str.strip)]
Titles = Annotated[tuple[Title, ...], BeforeValidator(as_tuple), AfterValidator(_told_once)]
Texts = Annotated[tuple[Title, ...], BeforeValidator(as_tuple)]
Colours = Annotated[tuple[str, ...], BeforeValidator(as_tuple), AfterValidator(_colours)]
CountKey = Annotated[str, AfterValidator(_count_key)]
TOLD_OF_CLUSTERS = ("names", "portraits", "notes", "colours")  # keys of [cut]
# keys, by part, of what was decided about the tree of a plan, and about no other
OF_ONE_TREE = {"cut": (*TOLD_OF_CLUSTERS, "branches"), "count": ("chosen", "reasons")}


class Part(BaseModel):
    """A part of a plan: frozen, and without keys that nobody knows."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, populate_by_name=True)


def each_of(valid: Collection[str]) -> AfterValidator:
    """Words that are among the valid ones, or None."""

    def check(words: tuple[str, ...] | None) -> tuple[str, ...] | None:
        for word in words or ():
            if word not in valid:
                expected = f'one of {", ".join(valid)} (nearest: "{nearest(word, valid)}")'
                raise ValueError(expected, word)
        return words

    return AfterValidator(check)
