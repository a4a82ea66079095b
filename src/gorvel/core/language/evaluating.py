"""What a text of the language says of the rows of a table, all rows at once.

A number that is not known (a gap) makes what is worked out of it unknown, and a test of it neither
true nor false (Kleene's logic). What has no finite result where all is known is a `Fault`.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import reduce
from typing import Any as Whatever

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import LARGEST
from gorvel.core.language.syntax import (
    All,
    Any,
    Call,
    Column,
    Comparison,
    Missing,
    Negative,
    Node,
    Not,
    Number,
    OneOf,
    Power,
    Product,
    Sum,
    Text,
)
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
CodesOf = Callable[[str], Sequence[str]]

_COMPARE: dict[str, Callable[[Whatever, Whatever], Whatever]] = {
    "=": operator.eq, "!=": operator.ne, "<": operator.lt, "<=": operator.le, ">": operator.gt,
    ">=": operator.ge,
}  # fmt: skip


_SIGNS: dict[str, Callable[..., Floats]] = {
    "+": np.add, "-": np.subtract, "*": np.multiply, "/": np.divide,
}  # fmt: skip


def _rounded(x: Floats) -> Floats:
    """To whole numbers, halves away from zero."""
    below = np.floor(np.abs(x))
    out: Floats = np.copysign(below + (np.abs(x) - below >= 0.5), x)
    return out


_OF_ONE: dict[str, Callable[[Floats], Floats]] = {
    "log": np.log, "log10": np.log10, "log1p": np.log1p, "exp": np.exp, "sqrt": np.sqrt,
    "abs": np.abs, "round": _rounded,
}  # fmt: skip
_OF_MANY: dict[str, Callable[[Floats], Floats]] = {
    "min": lambda x: x.min(axis=0), "max": lambda x: x.max(axis=0), "mean": lambda x: x.mean(axis=0)
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """Cells from which nothing can be worked out.

    rows : (m,) from 0, ascending; cells : what stands there, by row; found, expected : the same for
    all of them; at : the place in the text, from 0.
    """

    rows: NDArray[np.int64]
    cells: tuple[str, ...]
    found: str
    expected: str
    at: int


@dataclass(frozen=True)
class Numbers:
    """values, known : (n,), or one for all rows; where not known, the value says nothing."""

    values: Floats
    known: Flags


@dataclass(frozen=True)
class Truth:
    """true, false : (n,) flags; where neither, it is unknown."""

    true: Flags
    false: Flags

    def numbers(self) -> Numbers:
        """1 where true, 0 where false."""
        return Numbers(self.true.astype(np.float64), self.true | self.false)


@dataclass
class Evaluation:
    """One text held against one table.

    exact : a cell of a column of numbers that is none is a fault, too; else it is unknown.
    gaps : (n,) rows of which nothing is told, so that they have no faults either.
    """

    table: Table
    codes_of: CodesOf
    exact: bool
    gaps: Flags | None = None
    faults: list[Fault] = field(default_factory=list)

    def truth(self, node: Node) -> Truth:
        """Of a test.

        Raises
        ------
        InputError : a column is not in the table, or one of text stands where numbers are wanted.
        """
        match node:
            case Comparison():
                return self._compared(node)
            case OneOf(inner, values):
                return self._one_of(inner, values)
            case Missing(column):
                self._require(column)
                codes = self.codes_of(column.name)
                missing = self.table.series(column.name, codes).is_null().to_numpy()
                return Truth(missing, ~missing)
            case Not(inner):
                found = self.truth(inner)
                return Truth(found.false, found.true)
            case All(tests):
                all_of = [self.truth(test) for test in tests]
                return Truth(
                    np.logical_and.reduce([one.true for one in all_of]),
                    np.logical_or.reduce([one.false for one in all_of]),
                )
            case Any(tests):
                any_of = [self.truth(test) for test in tests]
                return Truth(
                    np.logical_or.reduce([one.true for one in any_of]),
                    np.logical_and.reduce([one.false for one in any_of]),
                )
        raise AssertionError(f"no test: {node}")

    def numbers(self, node: Node) -> Numbers:
        """Of what is worked out; 1 and 0 of a test.

        Raises
        ------
        InputError : as `truth`.
        """
        match node:
            case Number(value):
                return Numbers(np.float64(value), np.True_)  # type: ignore[arg-type]
            case Column():
                return self._column(node)
            case Negative(inner):
                found = self.numbers(inner)
                return Numbers(-found.values, found.known)
            case Sum(terms, signs):
                out = self.numbers(terms[0])
                for term, sign in zip(terms[1:], signs[1:], strict=True):
                    out = self._worked(_SIGNS[sign], [out, self.numbers(term)], term)
                return out
            case Product(factors, signs):
                out = self.numbers(factors[0])
                for factor, sign in zip(factors[1:], signs[1:], strict=True):
                    by = self.numbers(factor)
                    if sign == "/":
                        self._look(by.known & (by.values == 0), "a division by 0", factor)
                    out = self._worked(_SIGNS[sign], [out, by], factor)
                return out
            case Power(base, exponent):
                both = [self.numbers(base), self.numbers(exponent)]
                return self._worked(np.power, both, node)
            case Call(name, inputs):
                return self._called(name, inputs, node)
        return self.truth(node).numbers()

    def _called(self, name: str, inputs: tuple[Node, ...], node: Node) -> Numbers:
        found = [self.numbers(one) for one in inputs]
        if name in _OF_ONE:
            return self._worked(_OF_ONE[name], found, node, name)
        many = _OF_MANY[name]
        return self._worked(lambda *x: many(np.stack(np.broadcast_arrays(*x))), found, node)

    def _worked(
        self, work: Callable[..., Floats], of: Sequence[Numbers], node: Node, name: str = ""
    ) -> Numbers:
        """The outcome of a function; a fault where all is known and it is not finite."""
        known = reduce(np.logical_and, [one.known for one in of])
        with np.errstate(all="ignore"):
            values = work(*(one.values for one in of))
        said = f"no finite {name}" if name else "no finite result"
        self._look(known & ~(np.abs(values) <= LARGEST), said, node, of[0].values if name else None)
        return Numbers(values, known)

    def _look(self, bad: Flags, found: str, node: Node, of: Floats | None = None) -> None:
        """Keep a fault where there are bad rows. of : the numbers it is of, which it shows."""
        rows = np.flatnonzero(np.broadcast_to(bad, (self.table.n,)))
        cells = [""] * rows.size
        if of is not None:
            cells = [f"{x:.12g}" for x in np.broadcast_to(of, (self.table.n,))[rows].tolist()]
        self._keep(rows, cells, found, node)

    def _keep(self, rows: NDArray[np.int64], cells: Sequence[str], found: str, node: Node) -> None:
        """A fault in those of the rows that have none yet, and of which something is told."""
        free = np.ones(self.table.n, dtype=bool) if self.gaps is None else ~self.gaps
        for fault in self.faults:
            free[fault.rows] = False
        kept = free[rows]
        if kept.any():
            shown = tuple(cell for cell, stays in zip(cells, kept, strict=True) if stays)
            self.faults.append(Fault(rows[kept], shown, found, "a finite number", node.at))

    def _column(self, column: Column) -> Numbers:
        self._require(column)
        codes = self.codes_of(column.name)
        numbers = self.table.numbers(column.name, codes)
        if not numbers.mostly and numbers.bad_row >= 0:
            found = f"{column.name} at character {column.at + 1}, a column of text"
            raise InputError(f'{found} such as "{numbers.bad_cell}"', "a column of numbers")
        known = ~np.isnan(numbers.values)
        if self.exact and numbers.bad_row >= 0:
            self._look_at_cells(column, codes, known)
        return Numbers(numbers.values, known)

    def _look_at_cells(self, column: Column, codes: Sequence[str], known: Flags) -> None:
        series = self.table.series(column.name, codes)
        rows = np.flatnonzero(series.is_not_null().to_numpy() & ~known)
        self._keep(rows, series.gather(rows).to_list(), f'a cell of "{column.name}"', column)

    def _require(self, column: Column) -> None:
        if column.name not in self.table.names:
            import difflib

            near = difflib.get_close_matches(column.name, self.table.names, n=1, cutoff=0.0)
            found = f'no column "{column.name}" at character {column.at + 1}'
            raise InputError(found, f'a column (nearest: "{near[0]}"), or a text in quotes')

    def _is_text(self, node: Node) -> bool:
        """Is it a text, or a column of texts?"""
        if isinstance(node, Column):
            self._require(node)
            codes = self.codes_of(node.name)
            numbers = self.table.numbers(node.name, codes)
            return not numbers.mostly and numbers.bad_row >= 0
        return isinstance(node, Text)

    def _compared(self, test: Comparison) -> Truth:
        left, right = test.left, test.right
        if isinstance(left, Text) or isinstance(right, Text):
            return self._texts_compared(test)
        if self._is_text(left) and self._is_text(right):
            return self._texts_compared(test)
        for one, other in ((left, right), (right, left)):
            if isinstance(one, Column) and isinstance(other, Number) and self._is_text(one):
                raise self._text_beside_number(one, other)
        first, second = self.numbers(left), self.numbers(right)
        known = np.broadcast_to(first.known & second.known, (self.table.n,))
        true = np.asarray(_COMPARE[test.sign](first.values, second.values)) & known
        return Truth(true, known & ~true)

    def _text_beside_number(self, column: Column, number: Number) -> InputError:
        cells = self.table.series(column.name, self.codes_of(column.name)).drop_nulls()
        return InputError(
            f"the number {number.value:g} compared with {column.name}, a column of text",
            f'a text in quotes, such as "{cells[0] if len(cells) else ""}"',
        )

    def _texts(self, node: Node) -> pl.Series:
        """A column's cells, or one text for all rows."""
        if isinstance(node, Column):
            self._require(node)
            return self.table.series(node.name, self.codes_of(node.name))
        if isinstance(node, Text):
            return pl.Series([node.value], dtype=pl.String)
        raise InputError(f"numbers at character {node.at + 1}", "a column to compare with the text")

    def _texts_compared(self, test: Comparison) -> Truth:
        found = _COMPARE[test.sign](self._texts(test.left), self._texts(test.right))
        return self._truth_of(found)

    def _truth_of(self, found: pl.Series) -> Truth:
        true = found.fill_null(False).to_numpy()
        false = (~found).fill_null(False).to_numpy()
        shape = (self.table.n,)
        return Truth(np.broadcast_to(true, shape), np.broadcast_to(false, shape))

    def _one_of(self, inner: Node, values: Sequence[Number | Text]) -> Truth:
        numbers = [value for value in values if isinstance(value, Number)]
        texts = [value.value for value in values if isinstance(value, Text)]
        true = np.zeros(self.table.n, dtype=bool)
        false = np.ones(self.table.n, dtype=bool)
        if numbers:
            if isinstance(inner, Column) and self._is_text(inner):
                raise self._text_beside_number(inner, numbers[0])
            told = self.numbers(inner)
            among = np.isin(told.values, [one.value for one in numbers])
            true |= among & told.known
            false &= ~among & told.known
        if texts:
            said = self._truth_of(self._texts(inner).is_in(texts))
            true |= said.true
            false &= said.false
        return Truth(true, false)
