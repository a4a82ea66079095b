"""A table as it was read: cells of text, with numbers made from them on demand."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.numbers import LARGEST, wanted_number
from gorvel.core.table.overview import Overview, looked_over

Level = Literal["interval", "ordinal", "nominal", "binary", "count"]
_NUMBER = re.compile(r"[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]+)?")
_CELLS_AT_ONCE = 20_000_000  # whose numbers are made together
_LOOK = 1000  # answers at which a column is first looked at
_NOTHING = pl.Series([None], dtype=pl.String)  # an empty cell


@dataclass(frozen=True)
class Reading:
    """How a file was read.

    delimiter, decimal, encoding : as in plan files; header : whether the first row names the
    columns; skip : lines, or rows of a sheet, above it.
    """

    delimiter: str = ","
    decimal: str = "."
    encoding: str = "utf-8"
    header: bool = True
    skip: int = 0


@dataclass(frozen=True)
class Numbers:
    """A column as numbers.

    values : (n,) float64, NaN where missing or not a finite number.
    bad_row, bad_cell : the first cell that is neither missing nor a finite number up to `LARGEST`,
        or -1 and "".
    mostly : more than half of the cells that are not missing are finite numbers.
    """

    values: NDArray[np.float64]
    bad_row: int
    bad_cell: str
    mostly: bool

    @cached_property
    def two_valued(self) -> bool:
        """Are there no more than two different numbers?"""
        known = self.values[~np.isnan(self.values)]
        if np.unique(known[:_LOOK]).size > 2:  # as a rule seen at once
            return False
        return bool(known.size == 0 or ((known == known.min()) | (known == known.max())).all())


@dataclass(frozen=True)
class Cells:
    """A column as text: (n,) objects, None where missing."""

    values: NDArray[np.object_]

    @property
    def missing(self) -> NDArray[np.bool_]:
        return np.array([cell is None for cell in self.values], dtype=bool)


@dataclass(frozen=True, eq=False)
class Unturned:
    """Cells from which a variable could not be made.

    make : its name; column : in which they stand, "" for none; rows : (m,) from 0, ascending;
    cells : what stands there, "" where it is no cell; found : what is wrong with all of them, ""
    where the cell says it; expected : in words.
    """

    make: str
    column: str
    rows: NDArray[np.int64]
    cells: tuple[str, ...]
    expected: str
    found: str = ""

    def of_rows(self, rows: NDArray[np.int64]) -> Unturned:
        """Those of them that stand in some rows."""
        inside = np.flatnonzero(np.isin(self.rows, rows))
        cells = tuple(self.cells[at] for at in inside.tolist()) if self.cells else ()
        return replace(self, rows=self.rows[inside], cells=cells)

    def error(self, file: str) -> InputError:
        """The first of them as an error that names row, column and cell."""
        place = f"row {self.rows[0] + 1}"
        if self.column:
            place += f', column "{self.column}"'
        cell = f'"{self.cells[0]}"' if self.cells and self.cells[0] else ""
        found = f"{self.found} of {cell}" if self.found and cell else self.found or cell
        found = f'{found} (for [[make]] "{self.make}")'
        return InputError(found, self.expected, place=place, file=file)


@dataclass(frozen=True, eq=False)
class Made:
    """What was made of a table.

    levels : of the new columns, by name; spared : codes for missing that say nothing in them;
    unturned : cells that were read as gaps though they are none; read : the table as it was before.
    """

    levels: Mapping[str, Level]
    spared: frozenset[str]
    unturned: tuple[Unturned, ...]
    read: Table


@dataclass(frozen=True, eq=False)
class Table:
    """Cells of text; nothing is interpreted yet.

    name : the file's name; frame : string columns, null for an empty cell, white space stripped;
    made : where some of its columns were made from others, which stand behind those.
    """

    name: str
    frame: pl.DataFrame
    reading: Reading = field(default_factory=Reading)
    made: Made | None = None
    cautions: tuple[Caution, ...] = ()  # what has to be known of how it was read
    _numbers: dict[tuple[str, tuple[str, ...]], Numbers] = field(
        default_factory=dict, init=False, repr=False, compare=False
    )

    # what was made of this one, as `making` keeps it
    kept_makings: dict[tuple[str, object], object] = field(
        default_factory=dict, init=False, repr=False, compare=False
    )

    @property
    def n(self) -> int:
        return self.frame.height

    @cached_property
    def overview(self) -> dict[str, Overview]:
        """What each column holds at first sight, looked at together."""
        return self._looked_over(keep=False)

    def _looked_over(self, keep: bool) -> dict[str, Overview]:
        """See `overview`. keep : the numbers of columns that hold nothing else."""
        out: dict[str, Overview] = {}
        at_once = max(_CELLS_AT_ONCE // self.n, 1)
        for begin in range(0, len(self.names), at_once):
            part = self.frame[self.names[begin : begin + at_once]]
            seen, numbers = looked_over(part, self._as_floats(pl.all()))
            out |= seen
            for series in numbers.select(pl.all().fill_null(np.nan)) if keep else ():
                self._numbers[series.name, ()] = Numbers(series.to_numpy(), -1, "", mostly=True)
        return out

    def _own_codes(self, column: str, codes: Collection[str]) -> Collection[str]:
        """The codes for missing that count in a column."""
        if self.made is None or column not in self.made.levels:
            return codes
        return [code for code in codes if code not in self.made.spared]

    @property
    def names(self) -> list[str]:
        return self.frame.columns

    def series(self, column: str, codes: Collection[str] = ()) -> pl.Series:
        """The column as text; cells equal to one of the missing codes become null.

        The series has no name: one such as "*" or "^a" would be taken for a pattern of names.
        """
        series = self.frame[column].alias("")
        codes = self._own_codes(column, codes)
        if not codes:
            return series
        as_numbers = {code: parse_number(code) for code in codes}
        numbers = [value for value in as_numbers.values() if not math.isnan(value)]
        gone = np.zeros(len(series), dtype=bool)
        if numbers:  # 98 is written 98.0 in some exports
            gone = np.isin(self._floats(series).to_numpy(), numbers)
        same = pl.Series(gone)
        for code, value in as_numbers.items():
            if math.isnan(value):
                same |= series == code
        return series.zip_with(~same, _NOTHING)

    def _floats(self, series: pl.Series) -> pl.Series:
        """See `_as_floats`; for one column three times as fast as by an expression."""
        if self.reading.decimal == ",":
            return series.to_frame().select(self._as_floats(pl.all())).to_series()
        return series.cast(pl.Float64, strict=False)

    def _as_floats(self, cells: pl.Expr) -> pl.Expr:
        """Cells as numbers, null where they are none."""
        if self.reading.decimal == ",":
            cells = cells.str.replace(",", ".", literal=True)
        return cells.cast(pl.Float64, strict=False)

    def cells(self, column: str, codes: Collection[str] = ()) -> Cells:
        """The column as text; cells equal to one of the missing codes become None."""
        values = np.empty(self.n, dtype=object)
        values[:] = self.series(column, codes).to_list()
        return Cells(values)

    def numbers(self, column: str, codes: Collection[str] = ()) -> Numbers:
        """The column as numbers; cells equal to one of the missing codes become NaN.

        What was made once is kept: pages, screening and preparation ask for the same columns.
        """
        if self.made is not None and column not in self.made.levels:
            return self.made.read.numbers(column, codes)
        key = (column, tuple(codes))
        if key not in self._numbers:
            self._numbers[key] = self._made_numbers(column, codes)
        return self._numbers[key]

    def read_numbers(self) -> None:
        """Make the numbers of all columns that hold nothing else, at once."""
        self.__dict__.setdefault("overview", self._looked_over(keep=True))

    def looks_numeric(self, column: str) -> bool:
        """Are more than half of the first cells that are not missing numbers?"""
        some = self.series(column).drop_nulls().head(_LOOK)
        return len(some) > 0 and self._floats(some).is_between(-LARGEST, LARGEST).sum() * 2 > len(
            some
        )

    def _made_numbers(self, column: str, codes: Collection[str]) -> Numbers:
        series = self.series(column, codes)
        values = self._floats(series).to_numpy().astype(np.float64)
        finite = np.abs(values) <= LARGEST
        present = series.is_not_null().to_numpy()
        bad = np.flatnonzero(present & ~finite)
        return Numbers(
            values=np.where(finite, values, np.nan),
            bad_row=int(bad[0]) if bad.size else -1,
            bad_cell=str(series[int(bad[0])]) if bad.size else "",
            mostly=bool(2 * np.count_nonzero(finite) > np.count_nonzero(present)),
        )

    def clean_numbers(
        self, column: str, codes: Collection[str] = (), rows: NDArray[np.int64] | None = None
    ) -> NDArray[np.float64]:
        """The column as numbers, NaN where missing.

        rows : (from 0) in which a cell has to be a number; None for all.

        Raises
        ------
        InputError : a cell is not a finite number; names the row, the column and the cell.
        """
        numbers = self.numbers(column, codes)
        row, cell = numbers.bad_row, numbers.bad_cell
        if row >= 0 and rows is not None:
            series = self.series(column, codes)
            bad = np.isnan(numbers.values) & series.is_not_null().to_numpy()
            asked = np.sort(rows)
            first = asked[bad[asked]][:1]
            row = int(first[0]) if first.size else -1
            cell = str(series[row]) if first.size else ""
        if row >= 0:
            place = f'row {row + 1}, column "{column}"'
            raise InputError(f'"{cell}"', wanted_number(cell), place=place, file=self.name)
        return numbers.values

    def of_rows(self, rows: NDArray[np.int64]) -> Table:
        """The same columns of some rows (from 0), which are counted from 1 anew."""
        made = self.made and Made(
            self.made.levels, self.made.spared, (), self.made.read.of_rows(rows)
        )
        return Table(self.name, self.frame[rows], self.reading, made, self.cautions)


def parse_number(text: str, decimal: str = ".") -> float:
    """The number a cell holds, or NaN. Only plain decimal notation is one, up to `LARGEST`."""
    if decimal == ",":
        text = text.replace(",", ".")
    if _NUMBER.fullmatch(text.strip()) is None:
        return math.nan
    value = float(text)
    return value if abs(value) <= LARGEST else math.nan
