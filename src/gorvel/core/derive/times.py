"""Times of the day, and how long something took: "14:35", "2:05 pm", "0:12:31", "14h30"."""

from __future__ import annotations

import re

PER_HOUR = {"hours": 1.0, "minutes": 60.0, "seconds": 3600.0}
_TIME = re.compile(
    r"(?P<hours>[0-9]{1,4})[:h](?P<minutes>[0-5][0-9])(?::(?P<seconds>[0-5][0-9](?:[.,][0-9]+)?))?"
    r"\s*(?P<half>[ap]\.?m\.?)?",
    re.IGNORECASE,
)


def hours_of(text: str) -> float | None:
    """Hours since midnight, or that something took; None where an answer tells none.

    Two parts are hours and minutes, three hours, minutes and seconds.
    """
    found = _TIME.fullmatch(text.strip())
    if found is None:
        return None
    hours = int(found["hours"])
    if found["half"]:
        if not 1 <= hours <= 12:
            return None
        hours = hours % 12 + (12 if found["half"][0] in "pP" else 0)
    seconds = float((found["seconds"] or "0").replace(",", "."))
    return hours + int(found["minutes"]) / 60 + seconds / 3600
