"""Formulas: a number for each row of a table, as in `log10(income) + 2 * (age > 40)`."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.language.evaluating import CodesOf, Evaluation, Fault
from gorvel.core.language.parser import parse
from gorvel.core.language.syntax import Column, Missing, Node, columns_in, parts
from gorvel.core.table.table import Table


@dataclass(frozen=True)
class Formula:
    """A formula that was understood. text : as written; columns : it looks at, in order."""

    text: str
    columns: tuple[str, ...]
    _node: Node

    def values(
        self, table: Table, codes_of: CodesOf = lambda name: ()
    ) -> tuple[NDArray[np.float64], list[Fault]]:
        """(n,) numbers, NaN for gaps and for rows at fault; and the faults.

        A gap in any column that is named makes a gap, but for columns asked whether they are
        missing. A test is 1 where it is true, 0 where it is not.

        Raises
        ------
        InputError : a column is not in the table, or one of text stands where numbers are wanted.
        """
        asked = {id(part.column) for part in parts(self._node) if isinstance(part, Missing)}
        named = {
            part.name
            for part in parts(self._node)
            if isinstance(part, Column) and id(part) not in asked
        }
        at = Evaluation(table, codes_of, exact=True)
        gaps = np.zeros(table.n, dtype=bool)
        for name in sorted(named & set(table.names)):
            gaps |= table.series(name, codes_of(name)).is_null().to_numpy()
        at.gaps = gaps
        found = at.numbers(self._node)
        values = np.where(gaps | ~found.known, np.nan, found.values)
        for fault in at.faults:
            values[fault.rows] = np.nan
        return values, at.faults


def parse_formula(text: str) -> Formula:
    """Understand a formula.

    Raises
    ------
    InputError : names the place in the text, what stands there and what was expected.
    """
    node = parse(text, test=False)
    return Formula(text, columns_in(node), node)
