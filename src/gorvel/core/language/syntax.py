"""What a text of the language is understood as: a tree of small frozen parts.

`at` is where a part begins in the text, in characters from 0.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass


@dataclass(frozen=True)
class Number:
    value: float
    at: int


@dataclass(frozen=True)
class Text:
    value: str
    at: int


@dataclass(frozen=True)
class Column:
    name: str
    at: int


@dataclass(frozen=True)
class Negative:
    """Minus its inner part."""

    inner: Node
    at: int


@dataclass(frozen=True)
class Sum:
    """signs : + or - before each of the terms."""

    terms: tuple[Node, ...]
    signs: tuple[str, ...]
    at: int


@dataclass(frozen=True)
class Product:
    """signs : * or / before each of the factors; the first has *."""

    factors: tuple[Node, ...]
    signs: tuple[str, ...]
    at: int


@dataclass(frozen=True)
class Power:
    base: Node
    exponent: Node
    at: int


@dataclass(frozen=True)
class Call:
    """A function of one or more parts."""

    name: str
    inputs: tuple[Node, ...]
    at: int


@dataclass(frozen=True)
class Comparison:
    """sign : = != < <= > >=."""

    left: Node
    sign: str
    right: Node
    at: int


@dataclass(frozen=True)
class OneOf:
    """Is a part equal to one of some numbers or texts?"""

    inner: Node
    values: tuple[Number | Text, ...]
    at: int


@dataclass(frozen=True)
class Missing:
    """Has a column no answer?"""

    column: Column
    at: int


@dataclass(frozen=True)
class Not:
    inner: Node
    at: int


@dataclass(frozen=True)
class All:
    tests: tuple[Node, ...]
    at: int


@dataclass(frozen=True)
class Any:
    tests: tuple[Node, ...]
    at: int


Test = Comparison | OneOf | Missing | Not | All | Any
Node = Number | Text | Column | Negative | Sum | Product | Power | Call | Test


def is_test(node: Node) -> bool:
    """Is it true or false, and no number?"""
    return isinstance(node, Test)


def parts(node: Node) -> Iterator[Node]:
    """It and all that is in it, in the order of the text."""
    yield node
    match node:
        case Negative(inner) | OneOf(inner) | Not(inner):
            inside: tuple[Node, ...] = (inner,)
        case Missing(column):
            inside = (column,)
        case Sum(terms):
            inside = terms
        case Product(factors):
            inside = factors
        case Power(base, exponent):
            inside = (base, exponent)
        case Call(_, inputs):
            inside = inputs
        case Comparison(left, _, right):
            inside = (left, right)
        case All(tests) | Any(tests):
            inside = tests
        case _:
            inside = ()
    for one in inside:
        yield from parts(one)


def columns_in(node: Node) -> tuple[str, ...]:
    """The columns that it names, each once, in the order of the text."""
    return tuple(dict.fromkeys(one.name for one in parts(node) if isinstance(one, Column)))
