"""Bands of numbers: "18-24", "65+", "under 18"."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache

from gorvel.core.derive.numbers import numbers_in

_DASHES = "-\u2010\u2011\u2012\u2013\u2014\u2212"
_TO = {"to", "bis", "tot", "do", "a", "à", "until", "through", "and"}
_UP_BEFORE = {"over", "above", "more than", "at least", "from", ">", ">=", "≥", "über", "ab",
              "mehr als", "plus de", "más de", "più di", "meer dan", "ponad"}  # fmt: skip
_UP_AFTER = {"+", "and over", "and above", "and more", "and older", "and up", "or over", "or above",
             "or more", "or older", "plus", "und mehr", "und älter", "und darüber", "et plus",
             "y más", "o más", "e più", "e oltre", "en meer", "en ouder", "i więcej"}  # fmt: skip
_DOWN_BEFORE = {"under", "below", "less than", "up to", "younger than", "<", "<=", "≤", "at most",
                "unter", "bis", "weniger als", "moins de", "menos de", "hasta", "meno di", "fino a",
                "minder dan", "onder", "poniżej", "do", "jusqu'à"}  # fmt: skip
_DOWN_AFTER = {"or less", "or under", "or younger", "or below", "and under", "and younger",
               "and below", "and less", "und weniger", "und jünger", "et moins", "o menos",
               "o meno", "en minder", "i mniej"}  # fmt: skip
_SIGNS = ("<=", ">=", "<", ">", "≤", "≥", "+")
_NOISE = re.compile(r"[€$£¥₹%.,:;()\[\]]")


@dataclass(frozen=True)
class Band:
    """A band of numbers.

    start : 0 of one that is open below; end : None of one that is open above; below : it is open
    below.
    """

    start: float
    end: float | None
    below: bool = False

    def middle(self, widest: float | None) -> float | None:
        """The mean of its ends; where it is open above, its start and half the widest band.

        widest : see `widest`; None where no band is closed, and then an open one has no middle.
        """
        if self.end is not None:
            return (self.start + self.end) / 2
        return None if widest is None else self.start + widest / 2


@lru_cache(maxsize=10_000)
def band_of(text: str, decimal: str = ".") -> Band | None:
    """The band that an answer names; None where it is none. A single number is a band of its own.

    Case and blanks do not matter; a hyphen, a dash or "to" stands between two ends.
    """
    numbers = numbers_in(text, decimal)
    if not numbers or len(numbers) > 2:
        return None
    before = _plain(text[: numbers[0].start])
    after = _plain(text[numbers[-1].end :])
    first = numbers[0].value
    if len(numbers) == 2:
        between = _plain(text[numbers[0].end : numbers[1].start])
        parted, last = bool(set(between) & {"-", *_TO}), numbers[1].value
        if not parted or _has(after, _UP_AFTER) or last < first:
            return None
        return Band(first, last)
    if _has(before, _DOWN_BEFORE) or _has(after, _DOWN_AFTER):
        return Band(0.0, first, below=True)
    if _has(before, _UP_BEFORE) or _has(after, _UP_AFTER):
        return Band(first, None)
    if "-" in before or "-" in after:  # one end is wanting
        return None
    return Band(first, first)


def _plain(text: str) -> list[str]:
    """The words of a text in lower case, each sign a word, dashes as hyphens."""
    text = re.sub(f"[{_DASHES}]", " - ", text.casefold())
    for sign in _SIGNS:
        text = text.replace(sign, f" {sign} ") if sign not in ("<", ">") else text
    text = re.sub(r"([<>])(?!\s?=)", r" \1 ", text)
    return _NOISE.sub(" ", text).split()


def _has(words: list[str], phrases: Collection[str]) -> bool:
    said = f" {' '.join(words)} "
    return any(f" {phrase} " in said for phrase in phrases)


def widest(bands: Collection[Band]) -> float | None:
    """The width of the widest band that is closed; None where there is none."""
    widths = [band.end - band.start for band in bands if band.end is not None and not band.below]
    return max(widths, default=None)
