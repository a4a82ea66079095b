"""Each way in which a column of answers becomes numbers.

A way first learns what it needs of the whole column (`Lesson`), so that answers of another file can
be turned by the lesson of the first one.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.derive.bands import Band, band_of, widest
from gorvel.core.derive.dates import PARTS, date_of
from gorvel.core.derive.numbers import the_numbers
from gorvel.core.derive.times import PER_HOUR, hours_of
from gorvel.core.plan.making import MakePlan, option_title, plain_word

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Lesson:
    """What a way knows of a whole column.

    options : of several answers in a cell, as written; first : the earliest day; widest : see
    `bands.widest`; places : of bands by their start.
    """

    options: tuple[str, ...] = ()
    first: date | None = None
    widest: float | None = None
    places: dict[float, int] | None = None


@dataclass(frozen=True)
class Turned:
    """A column made.

    values : (n,), NaN for gaps and cells that could not be turned; bad : (m,) rows of these;
    expected : instead of what stands there.
    """

    name: str
    values: Floats
    bad: NDArray[np.int64]
    expected: str


def _different(series: pl.Series) -> list[str]:
    """The different answers, in the order in which they first appear."""
    return series.unique(maintain_order=True).drop_nulls().to_list()


def corrected(make: MakePlan, series: pl.Series) -> pl.Series:
    """The answers with those put right that an entry corrects; what becomes empty is a gap."""
    if not make.correct:
        return series
    right = {plain_word(old): new.strip() or None for old, new in make.correct.items()}
    found = [answer for answer in _different(series) if plain_word(answer) in right]
    if not found:
        return series
    new = [right[plain_word(answer)] for answer in found]
    return series.replace(pl.Series(found, dtype=pl.String), pl.Series(new, dtype=pl.String))


def learn(make: MakePlan, series: pl.Series, decimal: str) -> Lesson:
    """What a way has to know of a column of answers."""
    if make.way == "separator":
        return Lesson(options=make.options or _options_in(series, make.separator or ""))
    if make.way == "date":
        found = (date_of(cell, make.format) for cell in _different(series))
        return Lesson(first=min((day for day in found if day is not None), default=None))
    if make.way == "bands":
        bands = [band_of(cell, decimal) for cell in _different(series)]
        known = [band for band in bands if band is not None]
        starts = sorted({band.start for band in known})
        places = {start: place for place, start in enumerate(starts, 1)}
        return Lesson(widest=widest(known), places=places)
    return Lesson()


def _parted(cell: str, separator: str) -> list[str]:
    """The answers in a cell, without blanks around them."""
    return [part for part in (part.strip() for part in cell.split(separator)) if part]


def _options_in(series: pl.Series, separator: str) -> tuple[str, ...]:
    seen: dict[str, str] = {}
    for cell in _different(series):
        for part in _parted(cell, separator):
            seen.setdefault(plain_word(part), part)
    return tuple(seen.values())


def turn(
    make: MakePlan, series: pl.Series, lesson: Lesson, decimal: str, coded: NDArray[np.bool_]
) -> list[Turned]:
    """The columns that an entry makes of one column of answers; null is a gap.

    coded : (n,) rows of which the gap was a code for missing, and no empty cell.
    """
    if make.way == "separator":
        return _turned_options(make, series, lesson, coded)
    if make.way == "order":
        places = {plain_word(word): float(k) for k, word in enumerate(make.order or (), 1)}
        expected = f"one of: {', '.join(make.order or ())}"
        values, bad = _by_answer(series, lambda cell: places.get(plain_word(cell)))
        if make.reverse:
            values = len(places) + 1 - values
        return [Turned(make.name, values, bad, expected)]
    if make.way == "number":
        answers = _different(series)
        values, bad = _put_in(series, answers, the_numbers(answers, decimal))
        return [Turned(make.name, _reversed(make, values), bad, "one number in the cell")]
    if make.way == "bands":
        return [_turned_bands(make, series, lesson, decimal)]
    if make.way == "time":
        return [_turned_times(make, series)]
    return [_turned_dates(make, series, lesson)]


def _by_answer(
    series: pl.Series, turned: Callable[[str], float | None]
) -> tuple[Floats, NDArray[np.int64]]:
    """Each different answer turned once; the rows of those that could not be."""
    answers = _different(series)
    return _put_in(series, answers, [turned(answer) for answer in answers])


def _put_in(
    series: pl.Series, answers: Sequence[str], values: Sequence[float | None]
) -> tuple[Floats, NDArray[np.int64]]:
    """The values of different answers in the places of these."""
    if not answers:
        return np.full(len(series), np.nan), np.empty(0, dtype=np.int64)
    new = pl.Series(values, dtype=pl.Float64)
    found = series.replace_strict(pl.Series(answers, dtype=pl.String), new, default=None)
    bad = np.flatnonzero((found.is_null() & series.is_not_null()).to_numpy())
    return found.fill_null(np.nan).to_numpy().astype(np.float64), bad


def _reversed(make: MakePlan, values: Floats) -> Floats:
    if isinstance(make.reverse, tuple):
        return make.reverse[0] + make.reverse[1] - values
    return values


def _turned_options(
    make: MakePlan, series: pl.Series, lesson: Lesson, coded: NDArray[np.bool_]
) -> list[Turned]:
    """One yes/no column for each option."""
    separator = make.separator or ""
    place_of = _places(lesson.options)
    answers = _different(series)
    ticked = np.zeros((len(answers) + 1, len(lesson.options)))  # the last row is an empty cell
    strange = np.zeros(len(answers) + 1, dtype=bool)
    for row, answer in enumerate(answers):
        for part in _parted(answer, separator):
            at = place_of(part)
            if at is None:
                strange[row] = True
            else:
                ticked[row, at] = 1.0
    ticked[strange] = np.nan
    if make.empty == "missing":
        ticked[-1] = np.nan
    which = np.full(len(series), len(answers))
    if answers:
        rows = pl.Series(range(len(answers)), dtype=pl.Int64)
        keys = pl.Series(answers, dtype=pl.String)
        found = series.replace_strict(keys, rows, default=len(answers))
        which = found.fill_null(len(answers)).to_numpy()
    bad = np.flatnonzero(strange[which])
    expected = f"answers among: {', '.join(lesson.options)}"
    values = ticked[which]
    values[coded] = np.nan
    none = np.empty(0, dtype=np.int64)
    return [
        Turned(f"{make.name}: {option_title(option)}", values[:, k], none if k else bad, expected)
        for k, option in enumerate(lesson.options)
    ]


def _places(options: Sequence[str]) -> Callable[[str], int | None]:
    """Finds the place of an answer among options, of which some end in * for whatever follows."""
    exact = {plain_word(option): k for k, option in enumerate(options)}
    begins = [(plain_word(option[:-1]), k) for k, option in enumerate(options)
              if option.endswith("*")]  # fmt: skip

    def place_of(answer: str) -> int | None:
        word = plain_word(answer)
        if word in exact:
            return exact[word]
        return next((k for start, k in begins if word.startswith(start)), None)

    return place_of


def _turned_bands(make: MakePlan, series: pl.Series, lesson: Lesson, decimal: str) -> Turned:
    places = lesson.places or {}

    def middle(cell: str) -> float | None:
        band = band_of(cell, decimal)
        return None if band is None else band.middle(lesson.widest)

    def place(cell: str) -> float | None:
        band = band_of(cell, decimal)
        return None if band is None else _place(band, places)

    values, bad = _by_answer(series, middle if make.bands == "middle" else place)
    expected = 'a band such as "18-24", "65+" or "under 18"'
    if make.bands == "middle" and lesson.widest is None:
        expected += ', of which some have two ends (or bands = "order")'
    return Turned(make.name, values, bad, expected)


def _place(band: Band, places: dict[float, int]) -> float | None:
    """Of a band among those of the column it was learned from."""
    found = places.get(band.start)
    return None if found is None else float(found)


def _turned_dates(make: MakePlan, series: pl.Series, lesson: Lesson) -> Turned:
    def told(cell: str) -> float | None:
        day = date_of(cell, make.format)
        if day is None:
            return None
        if make.date == "days":
            return float((day - (lesson.first or day)).days)
        return float(PARTS[make.date or "year"](day))

    values, bad = _by_answer(series, told)
    written = "such as 2026-02-15" if make.format is None else f"written as {make.format}"
    return Turned(make.name, values, bad, f"a date {written}")


def _turned_times(make: MakePlan, series: pl.Series) -> Turned:
    times = PER_HOUR[make.time or "hours"]

    def told(cell: str) -> float | None:
        hours = hours_of(cell)
        return None if hours is None else hours * times

    values, bad = _by_answer(series, told)
    return Turned(make.name, values, bad, "a time such as 14:35 or 0:12:31")


def turned_items(make: MakePlan, items: Sequence[Floats]) -> Floats:
    """(n,) mean or sum of items, NaN where fewer are answered than are needed.

    items : of (n,) numbers each, NaN for gaps. A sum is scaled up to all items.
    """
    answers = np.column_stack(items)
    answered = (~np.isnan(answers)).sum(axis=1)
    needed = make.at_least or len(items)
    mean = np.where(np.isnan(answers), 0.0, answers).sum(axis=1) / np.maximum(answered, 1)
    out = mean * len(items) if make.sum else mean
    return _reversed(make, np.where(answered >= needed, out, np.nan))
