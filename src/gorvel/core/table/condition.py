"""A small language for choosing rows: `visits > 2 and stop in ("Elm Mill", "Fell End")`.

    or      = and { "or" and }
    and     = not { "and" not }
    not     = "not" not | "(" or ")" | test
    test    = column ( compare value | ["not"] "in" "(" value {"," value} ")"
                     | ["not"] "between" value "and" value | "is" ["not"] "missing" )
    compare = "=" | "==" | "!=" | "<>" | "<" | "<=" | ">" | ">="
    column  = a name, or any name between backquotes
    value   = a number, or text between quotes

A missing answer makes a test neither true nor false (Kleene's logic); only rows for which the whole
is true are chosen. Columns of numbers compare as numbers, others as text.
"""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.table.table import Table

__all__ = ["TESTS", "Condition", "one_test", "parse_condition"]

Flags = NDArray[np.bool_]
CodesOf = Callable[[str], Sequence[str]]
Truth = tuple[Flags, Flags]  # where true, where false; neither is unknown
Node = Callable[[Table, CodesOf], Truth]

_TOKEN = re.compile(
    r"""\s*(?:
        (?P<number>[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)(?![\w])
      | (?P<text>"[^"]*"|'[^']*')
      | (?P<column>`[^`]+`)
      | (?P<word>[^\W\d]\w*(?:\.\w+)*)
      | (?P<sign><=|>=|!=|<>|==|[=<>(),])
    )""",
    re.VERBOSE,
)
_KEYWORDS = {"and", "or", "not", "in", "between", "is", "missing"}
_COMPARE: dict[str, Callable[[Any, Any], Any]] = {
    "=": operator.eq, "==": operator.eq, "!=": operator.ne, "<>": operator.ne,
    "<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge,
}  # fmt: skip


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
    if "`" in column:
        raise InputError(f"the column name {column}", "a name without backquotes")
    plain = re.fullmatch(r"[^\W\d]\w*(?:\.\w+)*", column) and column.lower() not in _KEYWORDS
    name = column if plain else f"`{column}`"
    if len(values) < (1 if wanted < 0 else wanted):
        raise InputError("no value", f"one to compare {column} with")
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
class _Token:
    kind: str
    text: str
    at: int


@dataclass(frozen=True)
class Condition:
    """A condition that was understood. text : as written; columns : it looks at, in order."""

    text: str
    columns: tuple[str, ...]
    _node: Node

    def rows(self, table: Table, codes_of: CodesOf = lambda name: ()) -> Flags:
        """(n,) flags of the rows for which it is true.

        Raises
        ------
        InputError : a column is not in the table, or a column of numbers is compared with text.
        """
        return self._node(table, codes_of)[0]


def parse_condition(text: str) -> Condition:
    """Understand a condition.

    Raises
    ------
    InputError : names the place in the text, what stands there and what was expected.
    """
    parser = _Parser(text)
    try:
        node = parser.either()
    except RecursionError:
        raise InputError("brackets nested too deeply", "a simpler condition") from None
    parser.end()
    return Condition(text, tuple(dict.fromkeys(parser.columns)), node)


class _Parser:
    """One function for each line of the grammar."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens = list(self._cut(text))
        self.place = 0
        self.columns: list[str] = []

    @staticmethod
    def _cut(text: str) -> list[_Token]:
        tokens, at = [], 0
        while text[at:].strip():
            found = _TOKEN.match(text, at)
            if found is None or found.lastgroup is None:
                start = at + len(text[at:]) - len(text[at:].lstrip())
                raise InputError(
                    f'"{text[start]}" at character {start + 1}',
                    "a column, a number, a text in quotes or a comparison",
                )
            kind, words = found.lastgroup, found[found.lastgroup]
            if kind == "word" and words.lower() in _KEYWORDS:
                kind, words = "key", words.lower()
            tokens.append(_Token(kind, words, found.start(found.lastgroup)))
            at = found.end()
        return tokens

    def _now(self) -> _Token:
        if self.place < len(self.tokens):
            return self.tokens[self.place]
        return _Token("end", "", len(self.text))

    def _take(self, *texts: str) -> bool:
        token = self._now()
        if token.kind in ("key", "sign") and token.text in texts:
            self.place += 1
            return True
        return False

    def _wrong(self, expected: str) -> InputError:
        token = self._now()
        found = f'"{token.text}" at character {token.at + 1}' if token.text else "the end"
        return InputError(found, expected)

    def end(self) -> None:
        if self._now().kind != "end":
            raise self._wrong('"and", "or" or the end')

    def either(self) -> Node:
        parts = [self._both()]
        while self._take("or"):
            parts.append(self._both())
        return parts[0] if len(parts) == 1 else _or(parts)

    def _both(self) -> Node:
        parts = [self._negated()]
        while self._take("and"):
            parts.append(self._negated())
        return parts[0] if len(parts) == 1 else _and(parts)

    def _negated(self) -> Node:
        if self._take("not"):
            return _not(self._negated())
        if self._take("("):
            inner = self.either()
            if not self._take(")"):
                raise self._wrong('")"')
            return inner
        return self._test()

    def _test(self) -> Node:
        token = self._now()
        if token.kind not in ("word", "column"):
            raise self._wrong("the name of a column")
        self.place += 1
        column = token.text.strip("`")
        self.columns.append(column)
        if self._take("is"):
            negated = self._take("not")
            if not self._take("missing"):
                raise self._wrong('"missing"')
            return _not(_missing(column)) if negated else _missing(column)
        negated = self._take("not")
        if self._take("in"):
            inner = _any_of(column, self._list())
        elif self._take("between"):
            low = self._value()
            if not self._take("and"):
                raise self._wrong('"and"')
            inner = _and([_compared(column, ">=", low), _compared(column, "<=", self._value())])
        elif negated:
            raise self._wrong('"in" or "between"')
        else:
            sign = self._now().text
            if not self._take(*_COMPARE):
                raise self._wrong('a comparison, "in", "between" or "is missing"')
            inner = _compared(column, sign, self._value())
        return _not(inner) if negated else inner

    def _list(self) -> list[str | float]:
        if not self._take("("):
            raise self._wrong('"("')
        values = [self._value()]
        while self._take(","):
            values.append(self._value())
        if not self._take(")"):
            raise self._wrong('"," or ")"')
        return values

    def _value(self) -> str | float:
        token = self._now()
        if token.kind == "number":
            self.place += 1
            return float(token.text)
        if token.kind == "text":
            self.place += 1
            return token.text[1:-1]
        raise self._wrong("a number, or a text in quotes")


def _or(parts: Sequence[Node]) -> Node:
    def node(table: Table, codes_of: CodesOf) -> Truth:
        found = [part(table, codes_of) for part in parts]
        true = np.logical_or.reduce([t for t, _ in found])
        return true, np.logical_and.reduce([f for _, f in found])

    return node


def _and(parts: Sequence[Node]) -> Node:
    return _not(_or([_not(part) for part in parts]))


def _not(part: Node) -> Node:
    def node(table: Table, codes_of: CodesOf) -> Truth:
        true, false = part(table, codes_of)
        return false, true

    return node


def _missing(column: str) -> Node:
    def node(table: Table, codes_of: CodesOf) -> Truth:
        _require(table, column)
        missing = table.cells(column, codes_of(column)).missing
        return missing, ~missing

    return node


def _any_of(column: str, values: Sequence[str | float]) -> Node:
    return _or([_compared(column, "=", value) for value in values])


def _compared(column: str, sign: str, value: str | float) -> Node:
    def node(table: Table, codes_of: CodesOf) -> Truth:
        _require(table, column)
        numbers = table.numbers(column, codes_of(column))
        if numbers.mostly and isinstance(value, float):
            known = ~np.isnan(numbers.values)
            true = np.asarray(_COMPARE[sign](numbers.values, value)) & known
            return true, known & ~true
        cells = table.cells(column, codes_of(column)).values
        if isinstance(value, float):
            raise InputError(
                f"the number {value:g} compared with {column}, a column of text",
                f'a text in quotes, such as "{next((c for c in cells if c is not None), "")}"',
            )
        known = np.array([cell is not None for cell in cells], dtype=bool)
        compare = _COMPARE[sign]
        true = np.array([c is not None and bool(compare(c, value)) for c in cells], dtype=bool)
        return true, known & ~true

    return node


def _require(table: Table, column: str) -> None:
    if column not in table.names:
        import difflib

        near = difflib.get_close_matches(column, table.names, n=1, cutoff=0.0)
        raise InputError(f'no column "{column}"', f'a column (nearest: "{near[0]}")')
