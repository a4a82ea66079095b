"""Conditions: which rows of a table are chosen, as in `visits > 2 and stop in ("Elm", "Fell")`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.language.evaluating import CodesOf, Evaluation
from gorvel.core.language.parser import parse
from gorvel.core.language.syntax import Node, columns_in
from gorvel.core.language.tokens import named
from gorvel.core.table.table import Table

# what a column can be asked, in words, and how many values that takes (-1: one or more)
TESTS: dict[str, tuple[str, int]] = {
    "is": ("=", 1), "is not": ("!=", 1), "is one of": ("in", -1), "is none of": ("not in", -1),
    "is above": (">", 1), "is at least": (">=", 1), "is below": ("<", 1), "is at most": ("<=", 1),
    "is between": ("between", 2), "is missing": ("is missing", 0),
    "is answered": ("is not missing", 0),
}  # fmt: skip


def one_test(column: str, test: str, values: Sequence[str | float] = ()) -> str:
    """One test of a condition as text that is understood again.

    test : a key of `TESTS`; values : numbers, or text of any kind.

    Raises
    ------
    InputError : a name with a backquote, a text with both kinds of quotes, too few values.
    """
    sign, wanted = TESTS[test]
    name = named(column)
    if len(values) < (1 if wanted < 0 else wanted):
        raise InputError("no value", f"a value to compare {column} with")
    told = [_value_text(value) for value in values]
    if wanted == 0:
        return f"{name} {sign}"
    if wanted == 1:
        return f"{name} {sign} {told[0]}"
    if wanted == 2:
        return f"{name} between {told[0]} and {told[1]}"
    return f"{name} {sign} ({', '.join(told)})"


def _value_text(value: str | float) -> str:
    if isinstance(value, float):
        return f"{value:.17g}" if float(f"{value:.12g}") != value else f"{value:.12g}"
    if '"' not in value:
        return f'"{value}"'
    if "'" not in value:
        return f"'{value}'"
    raise InputError(f"the text {value}", "one without both kinds of quotes")


@dataclass(frozen=True)
class Condition:
    """A condition that was understood. text : as written; columns : it looks at, in order."""

    text: str
    columns: tuple[str, ...]
    _node: Node

    def rows(self, table: Table, codes_of: CodesOf = lambda name: ()) -> NDArray[np.bool_]:
        """(n,) flags of the rows for which it is true.

        A missing answer makes a test neither true nor false.

        Raises
        ------
        InputError : a column is not in the table, a column of numbers is compared with text, or
            something has no finite result, such as a division by 0; names the row.
        """
        at = Evaluation(table, codes_of, exact=False)
        chosen = at.truth(self._node).true
        for fault in at.faults:
            place = f"row {fault.rows[0] + 1}"
            raise InputError(
                f"{fault.found} at character {fault.at + 1}", fault.expected, place=place
            )
        return chosen


def parse_condition(text: str) -> Condition:
    """Understand a condition.

    Raises
    ------
    InputError : names the place in the text, what stands there and what was expected.
    """
    node = parse(text, test=True)
    return Condition(text, columns_in(node), node)
