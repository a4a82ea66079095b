"""A table with what its plan makes of it: new columns behind the others, entry by entry."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from threading import Lock

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import wanted_number
from gorvel.core.derive.conversions import Lesson, corrected, learn, turn, turned_items
from gorvel.core.language.formula import parse_formula
from gorvel.core.plan.kinds import nearest
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.source import Source
from gorvel.core.table.table import Level, Made, Table, Unturned

_FREE = 1e15  # whole numbers below are written without a point


class _Memory:
    """What was made of tables, remembered by each of them: the last few of a kind."""

    def __init__(self, kind: str, most: int) -> None:
        self.kind, self.most, self._lock = kind, most, Lock()

    def get(self, table: Table, key: object) -> object:
        return table.kept_makings.get((self.kind, key))

    def keep(self, table: Table, key: object, made: object, least: int = 0) -> None:
        """least : so many are remembered, however few the last ones are."""
        with self._lock:
            kept = table.kept_makings
            kept[self.kind, key] = made
            mine = [key for key in kept if key[0] == self.kind]
            for old in mine[: -max(self.most, least)]:
                del kept[old]


_WHOLE, _ENTRIES = _Memory("whole", 4), _Memory("entry", 40)


def _told(makes: Sequence[MakePlan]) -> tuple[str, ...]:
    return tuple(make.model_dump_json() for make in makes)


@dataclass(frozen=True)
class _Entry:
    """What one entry made."""

    series: tuple[pl.Series, ...]
    unturned: tuple[Unturned, ...]


def completed(source: Source, plan: Plan, like: Source | None = None) -> Source:
    """A table with the columns that a plan makes; a matrix, or a table without any, as it is.

    Cells that cannot be turned are gaps in it, and told (`Made.unturned`; see `check_turned`).
    What was made of a table is remembered by it, so that asking again costs nothing.

    Parameters
    ----------
    source : as it was read, or a table completed before, by any plan.
    like : the table that answers are turned like, where it is another one: with its options, its
        earliest day and its widest band.

    Raises
    ------
    InputError : a name that is taken, a column that is not there or is no column of numbers where
        it has to be; names the entry.
    """
    if not isinstance(source, Table):
        return source
    table = source.made.read if source.made is not None else source
    if not plan.make:
        return table
    if like is not None:
        teacher = completed(like, plan)
        return _Maker(table, plan, teacher if isinstance(teacher, Table) else None).result()
    looked_at = dict.fromkeys(column for make in plan.make for column in make.looks_at)
    codes = tuple((column, plan.codes(column)) for column in looked_at)
    key = (_told(plan.make), codes, plan.source.missing_codes)
    found = _WHOLE.get(table, key)
    if not isinstance(found, Table):
        found = _Maker(table, plan, None).result()
        _WHOLE.keep(table, key, found)
    return found


def as_completed(table: Table, plan: Plan) -> Table:
    """See `completed`: whoever is handed a table and a plan may be handed it as it was read."""
    out = completed(table, plan)
    assert isinstance(out, Table)
    return out


def check_turned(source: Source, rows: NDArray[np.int64] | None = None) -> None:
    """A table of which all could be made passes.

    rows : (from 0) that are looked at; None for all.

    Raises
    ------
    InputError : the first cell that could not be turned; names row, column and cell.
    """
    found = unturned_in(source, rows)
    if found:
        raise found[0].error(source.name)


def unturned_in(source: Source, rows: NDArray[np.int64] | None) -> list[Unturned]:
    """What could not be turned in some rows (from 0); None for all."""
    if not isinstance(source, Table) or source.made is None:
        return []
    if rows is None:
        return list(source.made.unturned)
    return [one for one in (all_.of_rows(rows) for all_ in source.made.unturned) if one.rows.size]


class _Maker:
    """The entries of a plan in their order."""

    def __init__(self, table: Table, plan: Plan, teacher: Table | None) -> None:
        self.table, self.plan, self.teacher = table, plan, teacher
        self.spared = frozenset(plan.source.missing_codes)
        self.levels: dict[str, Level] = {}
        self.unturned: list[Unturned] = []
        self.known: dict[str, object] = {}  # what each made column was made of
        self.now = table

    def result(self) -> Table:
        for make in self.plan.make:
            try:
                self._add(make)
            except InputError as error:
                error.place = error.place or f'[[make]] "{make.name}"'
                raise error.in_file(self.table.name) from None
        return self.now

    def _add(self, make: MakePlan) -> None:
        for column in make.looks_at:
            if column not in self.now.names:
                near = nearest(column, self.now.names)
                raise InputError(f'no column "{column}"', f'a column (nearest: "{near}")')
        asked = tuple(
            (column, self.known.get(column, self.plan.codes(column))) for column in make.looks_at
        )
        key = (*_told([make]), asked)
        made = _ENTRIES.get(self.table, key) if self.teacher is None else None
        if not isinstance(made, _Entry):
            made = self._made(make)
            if self.teacher is None:
                _ENTRIES.keep(self.table, key, made, 2 * len(self.plan.make))
        for series in made.series:
            if series.name in self.now.names:
                raise InputError(
                    f'the name "{series.name}", which another column already has',
                    "a name of its own",
                )
            self.levels[series.name] = make.level
            self.known[series.name] = key
        self.unturned += made.unturned
        self.now = Table(
            self.table.name, self.now.frame.with_columns(made.series), self.table.reading,
            Made(dict(self.levels), self.spared, tuple(self.unturned), self.table),
            self.table.cautions,
        )  # fmt: skip

    def _made(self, make: MakePlan) -> _Entry:
        if make.formula is not None:
            return self._by_formula(make, make.formula)
        if make.mean or make.sum:
            return self._of_items(make, make.mean or make.sum or ())
        column = make.from_ or ""
        codes = self.plan.codes(column)
        series = corrected(make, self.now.series(column, codes))
        teacher = self.now if self.teacher is None else self.teacher
        lesson = self._lesson(make, teacher)
        coded = (series.is_null() & self.now.series(column).is_not_null()).to_numpy()
        turned = turn(make, series, lesson, self.table.reading.decimal, coded)
        unturned = tuple(
            Unturned(
                make.name, column, one.bad, tuple(self.now.series(column).gather(one.bad)),
                one.expected,
            )
            for one in turned
            if one.bad.size
        )  # fmt: skip
        return _Entry(tuple(_written(one.name, one.values) for one in turned), unturned)

    def _lesson(self, make: MakePlan, teacher: Table) -> Lesson:
        column = make.from_ or ""
        if column not in teacher.names:
            return Lesson(options=make.options or ())
        answers = corrected(make, teacher.series(column, self.plan.codes(column)))
        return learn(make, answers, teacher.reading.decimal)

    def _by_formula(self, make: MakePlan, formula: str) -> _Entry:
        values, faults = parse_formula(formula).values(self.now, self.plan.codes)
        unturned = tuple(
            Unturned(
                make.name, "", fault.rows, fault.cells, fault.expected,
                f"{fault.found} at character {fault.at + 1} of the formula",
            )
            for fault in faults
        )  # fmt: skip
        return _Entry((_written(make.name, values),), unturned)

    def _of_items(self, make: MakePlan, items: Sequence[str]) -> _Entry:
        columns, unturned = [], []
        for item in items:
            codes = self.plan.codes(item)
            numbers = self.now.numbers(item, codes)
            if numbers.bad_row >= 0 and not numbers.mostly:
                found = f'"{item}", a column of text such as "{numbers.bad_cell}"'
                raise InputError(found, "columns of numbers")
            if numbers.bad_row >= 0:
                series = self.now.series(item, codes)
                bad = np.flatnonzero(series.is_not_null().to_numpy() & np.isnan(numbers.values))
                cells = tuple(series.gather(bad))
                unturned.append(Unturned(make.name, item, bad, cells, wanted_number(cells[0])))
            columns.append(numbers.values)
        return _Entry((_written(make.name, turned_items(make, columns)),), tuple(unturned))


def _written(name: str, values: NDArray[np.float64]) -> pl.Series:
    """Numbers as cells: whole ones without a point, others so that they read back exactly."""
    numbers = pl.Series(values + 0.0).fill_nan(None)  # no minus before 0
    whole = (numbers == numbers.round(0)) & (numbers.abs() < _FREE)
    if bool(whole.all()):
        return numbers.cast(pl.Int64).cast(pl.String).alias(name)
    texts = numbers.cast(pl.String)
    return texts.zip_with(~whole.fill_null(False), numbers.set(~whole.fill_null(False), None)
                          .cast(pl.Int64).cast(pl.String)).alias(name)  # fmt: skip
