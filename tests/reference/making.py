"""How variables are made from others, written from the definitions, cell by cell."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date

Cell = str | None
Value = float | None


class Unturned(Exception):
    """A cell that says nothing. row : from 0."""

    def __init__(self, row: int) -> None:
        super().__init__(row)
        self.row = row


def ordered(cells: Sequence[Cell], order: Sequence[str], reverse: bool) -> list[Value]:
    """Words as 1, 2, 3 …, or turned round."""
    words = [word.strip().lower() for word in order]
    out: list[Value] = []
    for row, cell in enumerate(cells):
        if cell is None:
            out.append(None)
            continue
        if cell.strip().lower() not in words:
            raise Unturned(row)
        place = words.index(cell.strip().lower()) + 1
        out.append(float(len(words) + 1 - place if reverse else place))
    return out


def ticked(
    cells: Sequence[Cell], separator: str, options: Sequence[str] | None, empty: str
) -> dict[str, list[Value]]:
    """Options of several answers in a cell."""
    parts = [[p.strip() for p in (c or "").split(separator) if p.strip()] for c in cells]
    if options is None:
        options = list(dict.fromkeys(part for cell in parts for part in cell))
    out: dict[str, list[Value]] = {option: [] for option in options}
    for row, (cell, answers) in enumerate(zip(cells, parts, strict=True)):
        if any(answer not in options for answer in answers):
            raise Unturned(row)
        for option in options:
            gap = cell is None and empty == "missing"
            out[option].append(None if gap else float(option in answers))
    return out


def banded(cells: Sequence[Cell], kind: str) -> list[Value]:
    """Bands "a-b", "a+", "under b" as their middles, or in order of where they start."""
    found: list[tuple[float, float | None, bool] | None] = []
    for row, cell in enumerate(cells):
        text = None if cell is None else re.sub(r"\s", "", cell.lower()).replace("–", "-")
        if text is None:
            found.append(None)
        elif both := re.fullmatch(r"([\d.]+)(?:-|to)([\d.]+)", text):
            low, high = float(both[1]), float(both[2])
            if high < low:
                raise Unturned(row)
            found.append((low, high, False))
        elif open_above := re.fullmatch(r"([\d.]+)(?:\+|andover)", text):
            found.append((float(open_above[1]), None, False))
        elif open_below := re.fullmatch(r"under([\d.]+)", text):
            found.append((0.0, float(open_below[1]), True))
        else:
            raise Unturned(row)
    closed = [b[1] - b[0] for b in found if b is not None and b[1] is not None and not b[2]]
    starts = sorted({band[0] for band in found if band is not None})
    out: list[Value] = []
    for row, band in enumerate(found):
        if band is None:
            out.append(None)
        elif kind == "order":
            out.append(float(starts.index(band[0]) + 1))
        elif band[1] is None:
            if not closed:
                raise Unturned(row)
            out.append(band[0] + max(closed) / 2)
        else:
            out.append((band[0] + band[1]) / 2)
    return out


def dated(days: Sequence[date | None], kind: str) -> list[Value]:
    """Days since the earliest, or a part of the date."""
    first = min((day for day in days if day is not None), default=None)
    out: list[Value] = []
    for day in days:
        if day is None or first is None:
            out.append(None)
        elif kind == "days":
            out.append(float((day - first).days))
        elif kind == "weekday":
            out.append(float(day.weekday() + 1))
        else:
            out.append(float(day.year if kind == "year" else day.month))
    return out


def timed(seconds: Sequence[int | None], kind: str) -> list[Value]:
    """Hours, minutes or seconds of a time told in seconds."""
    unit = {"hours": 3600, "minutes": 60, "seconds": 1}[kind]
    return [None if one is None else one / unit for one in seconds]


def combined(
    rows: Sequence[Sequence[Value]], kind: str, at_least: int | None,
    reverse: tuple[float, float] | None,
) -> list[Value]:  # fmt: skip
    """Mean or sum of items, row by row."""
    out: list[Value] = []
    for row in rows:
        known = [value for value in row if value is not None]
        if len(known) < (len(row) if at_least is None else at_least):
            out.append(None)
            continue
        value = sum(known) / len(known)
        if kind == "sum":
            value *= len(row)
        out.append(value if reverse is None else reverse[0] + reverse[1] - value)
    return out
