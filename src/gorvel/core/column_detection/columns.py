"""What one column of answers looks like."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

from gorvel.core.column_detection.vocabulary import Scale, plain, scale_of, vocabulary
from gorvel.core.derive.bands import band_of
from gorvel.core.derive.dates import date_of, dates_in
from gorvel.core.derive.numbers import numbers_in, the_one
from gorvel.core.derive.times import hours_of
from gorvel.core.table.table import Table, parse_number
from gorvel.core.table.tallies import Tally, tallied

Kind = Literal[
    "empty", "constant", "number", "identifier", "yes-no", "order", "numbered", "bands", "date",
    "time", "clothes", "several", "tick", "words", "text", "codes",
]  # fmt: skip

_MOST_WORDS = 11  # steps of a scale
_MOST_BANDS = 40
_MOST_OPTIONS = 40
_NEARLY = 0.95  # share of answers that have to look alike
_SEPARATORS = (";", "|", "\n", ",", "/")
_LONG = 24  # characters of an answer, on average, that is free text
_MOST_CLOTHES = 8  # different words around numbers
_CODE = re.compile(r"[A-Z]{3}")  # of a currency
_NUMBERED_NAME = re.compile(r"(?P<name>[^0-9]*[^\W\d_]{3,})[ .:#-]+(?P<number>[0-9]{1,9})")
_DIGIT = re.compile(r"[0-9]")
_SIMPLE = re.compile(r"((?:[^0-9]*[\W_])?)[0-9]+(?:[.,][0-9]+)*([^0-9]*)")  # one number
_BARE = re.compile(r"\s*(?P<number>-?[0-9]{1,2})\s*")
_LEADING = re.compile(
    r"\s*[(\[]?(?P<number>-?[0-9]{1,2})[)\]]?\s*(?:[=:.)\-\u2013\u2014]\s*)?(?P<words>\D.*)"
)
_TRAILING = re.compile(
    r"(?P<words>.*?\D)\s*[(\[=:\-\u2013\u2014]?\s*(?P<number>-?[0-9]{1,2})\s*[)\]]?\s*"
)


@dataclass(frozen=True)
class Look:
    """What a column was taken for.

    kind : of it. scale, words : of ordered words, all its steps as they would stand in a plan;
    separator, options : of several answers in a cell; written : the format of dates, "" for ISO;
    missing : answers, as written, that say that there is none; sure : nothing else fits as well.
    """

    kind: Kind
    scale: Scale | None = None
    words: tuple[str, ...] = ()
    separator: str = ""
    options: tuple[str, ...] = ()
    written: str = ""
    missing: tuple[str, ...] = ()
    sure: bool = True


@dataclass(frozen=True, eq=False)
class Column:
    """A column and its different answers. counts : of `answers`, the most frequent first."""

    name: str
    answers: tuple[str, ...]
    counts: tuple[int, ...]
    different: int
    answered: int
    decimal: str
    missing: tuple[str, ...] = field(default=())

    @classmethod
    def of(cls, name: str, tally: Tally, decimal: str) -> Column:
        """Words for missing are set aside where other answers are left."""
        listed = vocabulary().missing
        words = (answer for answer in tally.answers if not _DIGIT.search(answer))  # as all listed
        gone = {answer for answer in words if (plain(answer) or answer) in listed}
        if len(gone) == len(tally.answers):
            gone = set()
        kept = [(a, t) for a, t in zip(tally.answers, tally.counts, strict=True) if a not in gone]
        lost = sum(t for a, t in zip(tally.answers, tally.counts, strict=True) if a in gone)
        return cls(
            name, tuple(a for a, _ in kept), tuple(t for _, t in kept), tally.different - len(gone),
            tally.answered - lost, decimal, tuple(a for a in tally.answers if a in gone),
        )  # fmt: skip

    @cached_property
    def plain(self) -> tuple[str, ...]:
        return tuple(plain(answer) for answer in self.answers)

    @property
    def usual(self) -> tuple[str, ...]:
        """The answers without the rarest, which may be slips, as long as nearly all are kept."""
        kept, left = len(self.answers), (1 - _NEARLY) * sum(self.counts)
        while kept and self.counts[kept - 1] <= left:
            kept -= 1
            left -= self.counts[kept]
        return self.answers[:kept]

    @property
    def few(self) -> bool:
        """Has it so few different answers that they could be steps of a scale?"""
        return len(self.answers) == self.different <= _MOST_WORDS

    def nearly_all(self, fits: Sequence[bool]) -> bool:
        """Is something so of nearly all of the answers?

        Where most are different, the few that come again are not counted by how often they do.
        """
        share = sum(t for t, fit in zip(self.counts, fits, strict=True) if fit)
        if share >= _NEARLY * sum(self.counts):
            return True
        return self.different > len(self.answers) and sum(fits) >= _NEARLY * len(fits)


def look_at(table: Table, name: str, codes: Sequence[str] = ()) -> tuple[Column, Look]:
    """What a column holds; see `look_at_all`."""
    return look_at_all(table, [name], lambda _: codes)[0]


def look_at_all(
    table: Table, names: Sequence[str], codes_of: Callable[[str], Sequence[str]]
) -> list[tuple[Column, Look]]:
    """What columns hold, by their most frequent answers.

    codes_of : cells of a column that are read as missing already.
    """
    out: list[tuple[Column, Look]] = []
    for name, column in _columns(table, names, codes_of).items():
        if column is None:
            out.append((Column(name, (), (), 0, 0, table.reading.decimal), Look("number")))
            continue
        look = _looked(column, table)
        out.append((column, replace(look, missing=column.missing) if column.missing else look))
    return out


def _columns(
    table: Table, names: Sequence[str], codes_of: Callable[[str], Sequence[str]]
) -> dict[str, Column | None]:
    """Columns with their answers, counted together; None for those of numbers alone."""
    words = {n: tally for n in names if (tally := table.overview[n].tally) is not None}
    coded = [table.series(n, codes).alias(n) for n in words if (codes := codes_of(n))]
    tallies = words | tallied(coded)
    return {
        n: Column.of(n, tallies[n], table.reading.decimal) if n in words else None for n in names
    }


def _looked(column: Column, table: Table) -> Look:
    if not column.answered:
        return Look("empty")
    decimal = column.decimal
    if table.overview[column.name].finite and column.nearly_all(
        [
            parse_number(answer, decimal) == parse_number(answer, decimal)
            for answer in column.answers
        ]
    ):
        return Look("clothes" if _some_in_clothes(column, table) else "number")
    if column.different == 1:
        gaps = table.series(column.name).null_count()
        return Look("tick" if gaps else "constant", options=column.answers)
    for found in (
        _timed(column),
        _yes_no(column),
        _ordered(column),
        _numbered(column),
        _banded(column),
    ):
        if found is not None:
            return found
    written = dates_in(list(column.answers))
    if written is not None:
        return Look("date", written=written, sure=written == "" or _one_order(column, written))
    if _is_identifier(column, table):
        return Look("identifier")
    if _in_clothes(column):
        return Look("clothes")
    return _several(column) or _worded(column)


def _timed(column: Column) -> Look | None:
    times = [hours_of(answer) is not None for answer in column.answers]
    return Look("time") if column.nearly_all(times) else None


def _yes_no(column: Column) -> Look | None:
    if len({*column.plain}) != 2:
        return None
    for no, yes in vocabulary().yes_no:
        if {*column.plain} == {no, yes}:
            words = [column.answers[column.plain.index(word)] for word in (no, yes)]
            return Look("yes-no", words=tuple(words))
    return None


def _ordered(column: Column) -> Look | None:
    usual = column.usual
    if not column.few or len(usual) < 3:
        return None
    scale = scale_of(frozenset(column.plain)) or scale_of(frozenset(map(plain, usual)))
    if scale is None:
        return None
    return Look("order", scale=scale, words=scaled_words(scale, [column]))


def scaled_words(scale: Scale, columns: Sequence[Column]) -> tuple[str, ...]:
    """The steps of a scale in the words of some columns; the usual word where none has one."""
    said: dict[int, str] = {}
    for column in columns:
        for answer, word in zip(column.answers, column.plain, strict=True):
            place = scale.place(word)
            if place is not None:
                said.setdefault(place, answer.strip())
    capital = any(word[:1].isupper() for word in said.values())
    usual = [words[0][:1].upper() + words[0][1:] if capital else words[0] for words in scale.steps]
    return tuple(said.get(k, word) for k, word in enumerate(usual))


def numbered(answers: Sequence[str]) -> dict[int, str] | None:
    """Answers by the numbers that stand before or behind their words; None where some have none.

    Numbers alone may stand between those with words.
    """
    for pattern in (_LEADING, _TRAILING):
        found: dict[int, str] = {}
        words: list[str] = []
        for answer in answers:
            bare = _BARE.fullmatch(answer)
            match = bare or pattern.fullmatch(answer)
            if match is None or int(match["number"]) in found:
                break
            found[int(match["number"])] = answer
            words += [] if bare else [plain(match["words"])]
        else:
            if len(words) >= 2 and len({*words}) == len(words):
                return found
    return None


def _numbered(column: Column) -> Look | None:
    if not column.few or column.different < 3:
        return None
    found = numbered(column.answers)
    if found is None:
        return None
    low, high = min(found), max(found)
    if high - low >= _MOST_WORDS:
        return None
    return Look("numbered", words=tuple(found.get(k, str(k)) for k in range(low, high + 1)))


def _banded(column: Column) -> Look | None:
    if column.different > _MOST_BANDS:
        return None
    bands = [band_of(answer, column.decimal) for answer in column.answers]
    real = [band is not None and band.start != band.end for band in bands]
    if not column.nearly_all([band is not None for band in bands]) or sum(real) < 2:
        return None
    return Look("bands")


def _one_order(column: Column, written: str) -> bool:
    """Would day and month in the other order make no dates?"""
    turned = written.replace("%d", "\0").replace("%m", "%d").replace("\0", "%m")
    if written[:2] not in ("%d", "%m") or "%b" in written or "%B" in written:
        return True
    return any(date_of(answer, turned) is None for answer in column.answers)


def _is_identifier(column: Column, table: Table) -> bool:
    """Are all answers different, and codes such as R001 or names such as Region 12?"""
    if not column.different == column.answered == table.n > 2:
        return False
    if all(" " not in answer and any(c.isdigit() for c in answer) for answer in column.answers):
        return True
    named = [_NUMBERED_NAME.fullmatch(answer) for answer in column.answers]
    return all(
        one is not None and not _CODE.fullmatch(one["name"]) and int(one["number"]) <= 10 * table.n
        for one in named
    )  # amounts are larger, or come again


def _in_clothes(column: Column) -> bool:
    """Is there one number in nearly each answer, and are few other words around them?"""
    found, clothes = [], set()
    for answer in column.answers:
        simple = _SIMPLE.fullmatch(answer)
        if simple is not None:
            found.append(True)  # whether thousands are parted well is seen when it is turned
            clothes.add(simple.groups())
            continue
        at = the_one(numbers_in(answer, column.decimal))
        found.append(at is not None)
        if at is None:
            continue
        before = answer[: at.start]
        if at.unit and not _CODE.fullmatch(before.strip()):
            return False  # R001 names something
        clothes.add((before, answer[at.end :]))
    different = {(before.strip(), after.strip()) for before, after in clothes}
    return column.nearly_all(found) and len(different) <= _MOST_CLOTHES


def _some_in_clothes(column: Column, table: Table) -> bool:
    """Do some cells of a column of numbers hold one number and a mark, and no other cell more?"""
    codes = {*column.missing}
    known = table.series(column.name).drop_nulls().unique().to_list()
    others = [
        cell
        for cell in known
        if cell not in codes and math.isnan(parse_number(cell, column.decimal))
    ]
    return bool(others) and all(
        the_one(numbers_in(cell, column.decimal)) is not None for cell in others
    )


def _several(column: Column) -> Look | None:
    """Do answers stand together in cells, parted by a mark, and come again in others?"""
    for separator in _SEPARATORS:
        parts = [[p.strip() for p in a.split(separator) if p.strip()] for a in column.answers]
        many = sum(t for t, p in zip(column.counts, parts, strict=True) if len(p) > 1)
        if many < max(0.1 * sum(column.counts), 2):
            continue
        cells: dict[str, int] = {}  # different ones in which an answer stands
        for cell in parts:
            for part in dict.fromkeys(map(_option, cell)):
                cells[part] = cells.get(part, 0) + 1
        once = [part for part, count in cells.items() if count < 2]
        if not 2 <= len(cells) <= _MOST_OPTIONS or len(once) > 0.3 * len(cells):
            continue
        if max(map(len, cells)) > 2 * _LONG:
            continue
        return Look("several", separator=separator, options=tuple(cells))
    return None


def _option(part: str) -> str:
    """An answer, or "Other: *" for whatever stands behind "Other:"."""
    head, mark, tail = part.partition(":")
    if mark and tail.strip() and plain(head) in vocabulary().other:
        return f"{head.strip()}: *"
    return part


def _worded(column: Column) -> Look:
    """A few words in no known order, or free text."""
    length = sum(map(len, column.answers)) / len(column.answers)
    if column.few and column.different >= 2 and length <= 2 * _LONG:
        return Look("words", words=column.answers, sure=False)
    if 2 * column.different > column.answered or length > _LONG:
        return Look("text")
    return Look("codes")
