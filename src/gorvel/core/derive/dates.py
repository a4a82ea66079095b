"""Dates: as ISO 8601 writes them, or in a format of their own."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from datetime import date, datetime

_ISO = re.compile(r"(\d{4})-(\d{2})-(\d{2})(?:[T ]\d{2}:\d{2}.*)?", re.ASCII)
_LIKE_A_DATE = re.compile(  # there are three parts, or a month in words
    r"[0-9]{1,4}[-./][0-9]{1,2}[-./][0-9]{2,4}|[0-9]{8}|[^\W\d_]{3}.*[0-9]{4}"
)
PARTS: dict[str, Callable[[date], int]] = {
    "year": lambda day: day.year, "month": lambda day: day.month,
    "weekday": lambda day: day.isoweekday(),
}  # fmt: skip
COMMON = (  # formats that are looked for
    "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%Y/%m/%d", "%d.%m.%y", "%d/%m/%y",
    "%d %b %Y", "%d %B %Y", "%b %d, %Y", "%B %d, %Y", "%Y%m%d", "%d.%m.%Y %H:%M",
    "%d/%m/%Y %H:%M", "%m/%d/%Y %H:%M", "%d.%m.%Y %H:%M:%S", "%d/%m/%Y %H:%M:%S",
    "%m/%d/%Y %H:%M:%S",
)  # fmt: skip


def date_of(text: str, written: str | None = None) -> date | None:
    """The day that an answer names; None where it names none.

    written : the format, with the codes of strftime; None for ISO dates, of which the time of the
    day is passed over.
    """
    text = text.strip()
    if written is not None:
        try:
            return datetime.strptime(text, written).date()
        except ValueError:
            return None
    found = _ISO.fullmatch(text)
    if found is None:
        return None
    try:
        return date(int(found[1]), int(found[2]), int(found[3]))
    except ValueError:
        return None


def formats_of(cells: Sequence[str]) -> list[str]:
    """All of the common formats in which some answers are dates; "" is ISO."""
    formats = [*COMMON] if cells else []
    found = [written for written in formats if all(date_of(c, written) for c in cells)]
    return ["", *found] if cells and all(date_of(cell) for cell in cells) else found


def dates_in(cells: list[str]) -> str | None:
    """The format in which all of some answers are dates: "" for ISO, None where there is none.

    Of two that fit, such as day and month in either order, the first of `COMMON`.
    """
    if not cells or not _LIKE_A_DATE.search(cells[0]):
        return None
    if all(date_of(cell) is not None for cell in cells):
        return ""
    for written in COMMON:
        if all(date_of(cell, written) is not None for cell in cells):
            return written
    return None
