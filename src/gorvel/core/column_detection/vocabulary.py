"""The words that surveys answer with, as `words.toml` beside this file lists them."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Collection
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from gorvel.core.plan.making import plain_word

_BLANKS = re.compile(r"\s+")
_QUOTES = str.maketrans({"\u2019": "'", "\u2018": "'", "\u00b4": "'", "`": "'"})
_ENDS = " .!:"


@lru_cache(maxsize=10_000)
def plain(word: str) -> str:
    """A word as it is looked for: case, apostrophes, blanks and a full stop do not matter."""
    return _BLANKS.sub(" ", plain_word(word).translate(_QUOTES)).strip(_ENDS)


@dataclass(frozen=True)
class Scale:
    """Words that run from the least to the most.

    about : what they tell, such as "agreement"; language : two letters; steps : plain words of
    each, the first one the usual.
    """

    about: str
    language: str
    steps: tuple[tuple[str, ...], ...]

    def place(self, word: str) -> int | None:
        """The step, from 0, of a plain word; None where it is not in it."""
        return next((k for k, words in enumerate(self.steps) if word in words), None)

    def places(self, words: Collection[str]) -> dict[str, int] | None:
        """The steps of plain words, where all of them have different ones."""
        found = {word: place for word in words if (place := self.place(word)) is not None}
        if len(found) < len({*words}) or len({*found.values()}) < len(found):
            return None
        return found


@dataclass(frozen=True)
class Vocabulary:
    """scales : shorter ones first; missing, other : plain words; yes_no : no and yes."""

    scales: tuple[Scale, ...]
    missing: frozenset[str]
    other: frozenset[str]
    yes_no: tuple[tuple[str, str], ...]


@cache
def vocabulary() -> Vocabulary:
    """What is listed."""
    told = tomllib.loads(Path(__file__).with_name("words.toml").read_text(encoding="utf-8"))
    scales = [
        Scale(about, language, tuple(_words(step) for step in line.split(" < ")))
        for language, topics in told.items()
        if isinstance(topics, dict)
        for about, lines in topics.items()
        for line in lines
    ]
    return Vocabulary(
        tuple(sorted(scales, key=lambda scale: len(scale.steps))),
        frozenset(map(_listed, told["missing"])),
        frozenset(map(plain, told["other"])),
        tuple((plain(no), plain(yes)) for no, yes in told["yes_no"]),
    )


@lru_cache(maxsize=1000)
def scale_of(words: frozenset[str]) -> Scale | None:
    """The shortest scale that has all of some plain words, each at a step of its own."""
    with_first = _scales_by_word().get(next(iter(words), ""), ())
    return next((scale for scale in with_first if scale.places(words) is not None), None)


@cache
def _scales_by_word() -> dict[str, list[Scale]]:
    out: dict[str, list[Scale]] = {}
    for scale in vocabulary().scales:
        for step in scale.steps:
            for word in step:
                out.setdefault(word, []).append(scale)
    return out


def _listed(word: str) -> str:
    """Words of signs alone keep them."""
    return plain(word) or word


def _words(step: str) -> tuple[str, ...]:
    return tuple(plain(word) for word in step.split(" | "))
