"""Numbers in clothes: "€79,974", "12 %", "about 60 m2"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import polars as pl

from gorvel.core.base.numbers import LARGEST

_BLANK = " \u00a0\u2009\u202f"  # also those that do not break, and narrow ones
_MINUS = "-\u2212"
_CURRENCY = "€$£¥₹₽₺₩₪₫₴₦₱฿"


@dataclass(frozen=True)
class Found:
    """A number in a text.

    start, end : where its digits are; value : without a sign before it; negative : a minus stands
    before it, of which it may be part; unit : a letter stands before it, as in "m2".
    """

    start: int
    end: int
    value: float
    negative: bool
    unit: bool


def _pattern(decimal: str) -> re.Pattern[str]:
    other = "," if decimal == "." else "."
    point, mark = re.escape(decimal), re.escape(other)
    return re.compile(
        rf"""
        (?P<whole>
            [0-9]{{1,3}}(?:[{_BLANK}][0-9]{{3}})+(?![0-9])   # 12 000
          | [0-9]{{1,3}}(?:{mark}[0-9]{{2,3}})*{mark}[0-9]{{3}}(?![0-9])  # 12,000 and 1,20,000
          | [0-9]+
        )?
        (?P<part>{point}[0-9]+)?
        (?P<power>[eE][+-]?[0-9]+(?![\w]))?
        """,
        re.VERBOSE,
    )


_PATTERNS = {decimal: _pattern(decimal) for decimal in ".,"}
_DIGIT = re.compile(r"[0-9]")
_BEFORE = re.compile(rf"(?:^|[^\w])[{_MINUS}][{_BLANK}{_CURRENCY}]*$")


def numbers_in(text: str, decimal: str = ".") -> list[Found]:
    """All numbers in a text, in their order.

    decimal : the mark before decimals; the other one, and blanks, may part thousands. A group that
    thousands marks would make and that is none parts two numbers.
    """
    found, at = [], 0
    pattern = _PATTERNS[decimal]
    while (digit := _DIGIT.search(text, at)) is not None:
        start = digit.start()
        if start > at and text[start - 1] == decimal:
            start -= 1  # .5
        match = pattern.match(text, start)
        if match is None or match.end() <= digit.start():
            match = pattern.match(text, digit.start())
        assert match is not None
        whole = re.sub(r"[^0-9]", "", match["whole"] or "")
        part = (match["part"] or "").replace(decimal, ".")
        value = float((whole or "0") + part + (match["power"] or ""))
        before = text[: match.start()]
        unit = bool(before) and before[-1].isalpha() and match["whole"] is not None
        found.append(Found(match.start(), match.end(), value, bool(_BEFORE.search(before)), unit))
        at = match.end()
    return found


def the_numbers(answers: Sequence[str], decimal: str = ".") -> list[float | None]:
    """`the_number` of each, many at once: those in plain clothes by one expression."""
    other = "," if decimal == "." else "."
    point, mark = re.escape(decimal), re.escape(other)
    plain = rf"^[^0-9.,\-\u2212]*([0-9]{{1,3}}(?:{mark}[0-9]{{3}})+|[0-9]+)({point}[0-9]+)?[^0-9]*$"
    found = pl.Series(answers, dtype=pl.String).str.extract_groups(plain).struct.unnest()
    whole = found["1"].str.replace_all(other, "", literal=True)
    part = found["2"].fill_null("").str.replace(decimal, ".", literal=True)
    values: list[float | None] = (whole + part).cast(pl.Float64, strict=False).to_list()
    return [
        the_number(answer, decimal) if value is None or value > LARGEST else value
        for answer, value in zip(answers, values, strict=True)
    ]


def the_number(text: str, decimal: str = ".") -> float | None:
    """The one number in a text; None where there is none, or more than one.

    Currency signs, %, units, words and thousands marks are passed over; a minus before it counts. A
    number at the end of a word, as in m2, is that of a unit where there is another one.
    """
    found = the_one(numbers_in(text, decimal))
    if found is None:
        return None
    return -found.value if found.negative else found.value


def the_one(found: list[Found]) -> Found | None:
    """Of the numbers in a text, the one that it is about; see `the_number`."""
    if len(found) > 1:
        found = [one for one in found if not one.unit]
    return found[0] if len(found) == 1 and found[0].value <= LARGEST else None
