"""From a text of the language to what it is understood as.

    or      = and { "or" and }
    and     = not { "and" not }
    not     = "not" not | test
    test    = sum [ compare sum | ["not"] "in" "(" value {"," value} ")"
                  | ["not"] "between" sum "and" sum | "is" ["not"] "missing" ]
    sum     = product { ("+" | "-") product }
    product = minus { ("*" | "/") minus }
    minus   = ("-" | "+") minus | power
    power   = atom [ "^" minus ]
    atom    = number | text | column | function "(" or {"," or} ")" | "(" or ")"
    compare = "=" | "==" | "!=" | "<>" | "<" | "<=" | ">" | ">="
    column  = a name, or any name between backquotes
    value   = a number, or text between quotes

There is one function for each line.
"""

from __future__ import annotations

from difflib import get_close_matches
from functools import lru_cache

from gorvel.core.base.errors import InputError
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
    is_test,
)
from gorvel.core.language.tokens import FUNCTIONS, Token, cut

_SIGNS = {"==": "=", "<>": "!="} | {sign: sign for sign in ("=", "!=", "<", "<=", ">", ">=")}
_SEVERAL = ("min", "max", "mean")  # functions of more than one part
_DEEPEST = 60  # brackets within brackets
_MEANT = {"ln": "log", "lg": "log10", "avg": "mean", "average": "mean"}  # elsewhere called so
_KEPT = 8  # texts, of which one may be long: a list of 100,000 values takes some 20 MB


@lru_cache(maxsize=_KEPT)
def parse(text: str, test: bool) -> Node:
    """Understand a text. test : it has to be true or false; else it has to be a number.

    What was understood of the latest texts is kept: a run and a window ask for the same again.

    Raises
    ------
    InputError : names the place in the text, what stands there and what was expected.
    """
    parser = _Parser(text)
    node = parser.either()
    if test and not is_test(node):
        raise parser.wrong('a comparison, "in", "between" or "is missing"')
    parser.end('"and", "or" or the end' if is_test(node) else "a sign such as + or the end")
    if isinstance(node, Text):
        raise InputError(f"a text at character {node.at + 1}", "a number")
    return node


class _Parser:
    def __init__(self, text: str) -> None:
        self.tokens = cut(text)
        self.place = 0
        self.depth = 0

    @property
    def now(self) -> Token:
        return self.tokens[self.place]

    def _next(self) -> Token:
        token = self.now
        self.place += token.kind != "end"
        return token

    def _take(self, *texts: str) -> bool:
        found = self.now.kind in ("key", "sign") and self.now.text in texts
        self.place += found
        return found

    def _need(self, sign: str, expected: str = "") -> None:
        if not self._take(sign):
            raise self.wrong(expected or f'"{sign}"')

    def wrong(self, expected: str) -> InputError:
        """What stands here is not what was expected."""
        return InputError(self.now.place, expected)

    def end(self, expected: str) -> None:
        if self.now.kind != "end":
            raise self.wrong(expected)

    def _deeper(self) -> None:
        self.depth += 1
        if self.depth > _DEEPEST:
            found = f"brackets nested more than {_DEEPEST} deep at character {self.now.at + 1}"
            raise InputError(found, "a simpler text")

    def either(self) -> Node:
        at, first = self.now, self._both()
        tests = [first]
        while self._take("or"):
            tests.append(self._both())
        return first if len(tests) == 1 else Any(self._tests(tests), at.at)

    def _both(self) -> Node:
        at, first = self.now, self._negated()
        tests = [first]
        while self._take("and"):
            tests.append(self._negated())
        return first if len(tests) == 1 else All(self._tests(tests), at.at)

    def _tests(self, nodes: list[Node]) -> tuple[Node, ...]:
        for node in nodes:
            if not is_test(node):
                found = f"no comparison at character {node.at + 1}"
                raise InputError(found, "a comparison on each side of and, or")
        return tuple(nodes)

    def _negated(self) -> Node:
        at = self.now.at
        if not self._take("not"):
            return self._test()
        self._deeper()
        inner = self._negated()
        self.depth -= 1
        if not is_test(inner):
            raise self.wrong('a comparison, "in", "between" or "is missing"')
        return Not(inner, at)

    def _test(self) -> Node:
        left = self._sum()
        at = left.at
        if self._take("is"):
            negated = self._take("not")
            self._need("missing")
            if not isinstance(left, Column):
                raise InputError(f"no column at character {at + 1}", "a column that is missing")
            return Not(Missing(left, at), at) if negated else Missing(left, at)
        negated = self._take("not")
        if self._take("in"):
            test: Node = OneOf(left, self._values(), at)
        elif self._take("between"):
            low = self._sum()
            self._need("and")
            ends = Comparison(left, ">=", low, at), Comparison(left, "<=", self._sum(), at)
            test = All(ends, at)
        elif negated:
            raise self.wrong('"in" or "between"')
        elif self.now.kind == "sign" and self.now.text in _SIGNS:
            sign = _SIGNS[self._next().text]
            test = Comparison(left, sign, self._sum(), at)
        else:
            return left
        return Not(test, at) if negated else test

    def _values(self) -> tuple[Number | Text, ...]:
        self._need("(")
        values = [self._value()]
        while self._take(","):
            values.append(self._value())
        self._need(")", '"," or ")"')
        return tuple(values)

    def _value(self) -> Number | Text:
        at, negative = self.now.at, self._take("-")
        token = self.now
        if token.kind == "number":
            value = float(self._next().text)
            return Number(-value if negative else value, at)
        if token.kind == "text" and not negative:
            return Text(self._next().text[1:-1], at)
        raise self.wrong("a number" if negative else "a number, or a text in quotes")

    def _sum(self) -> Node:
        first = self._product()
        terms, signs = [first], ["+"]
        while self.now.kind == "sign" and self.now.text in ("+", "-"):
            signs.append(self._next().text)
            terms.append(self._product())
        return first if len(terms) == 1 else Sum(_numbers(terms), tuple(signs), first.at)

    def _product(self) -> Node:
        first = self._minus()
        factors, signs = [first], ["*"]
        while self.now.kind == "sign" and self.now.text in ("*", "/"):
            signs.append(self._next().text)
            factors.append(self._minus())
        return first if len(factors) == 1 else Product(_numbers(factors), tuple(signs), first.at)

    def _minus(self) -> Node:
        at, sign = self.now.at, self.now.text
        if not self._take("-", "+"):
            return self._power()
        self._deeper()
        (inner,) = _numbers([self._minus()])
        self.depth -= 1
        return Negative(inner, at) if sign == "-" else inner

    def _power(self) -> Node:
        base = self._atom()
        if not self._take("^"):
            return base
        self._deeper()
        base, exponent = _numbers([base, self._minus()])
        self.depth -= 1
        return Power(base, exponent, base.at)

    def _atom(self) -> Node:
        token = self.now
        if token.kind == "number":
            return Number(float(self._next().text), token.at)
        if token.kind == "text":
            return Text(self._next().text[1:-1], token.at)
        if token.kind == "word" and self.tokens[self.place + 1].text == "(":
            word = token.text.lower()
            near = _MEANT.get(word) or get_close_matches(word, FUNCTIONS, n=1, cutoff=0.0)[0]
            expected = f'one of {", ".join(FUNCTIONS)} (nearest: "{near}")'
            raise InputError(f"the function {token.place}", expected)
        if token.kind in ("word", "column"):
            return Column(self._next().text.strip("`"), token.at)
        if token.kind == "call":
            self._next()
            return Call(token.text, self._inputs(token), token.at)
        if not self._take("("):
            value = self.place > 0 and self.tokens[self.place - 1].text in {*_SIGNS, "between"}
            raise self.wrong(
                "a number, a column or a text in quotes" if value else "the name of a column"
            )
        self._deeper()
        inner = self.either()
        self.depth -= 1
        self._need(")")
        return inner

    def _inputs(self, function: Token) -> tuple[Node, ...]:
        self._need("(")
        self._deeper()
        inputs = [self.either()]
        while self._take(","):
            inputs.append(self.either())
        self.depth -= 1
        self._need(")", '"," or ")"')
        if len(inputs) > 1 and function.text not in _SEVERAL:
            found = f"{len(inputs)} inputs of {function.place}"
            raise InputError(found, "one")
        return _numbers(inputs)


def _numbers(nodes: list[Node]) -> tuple[Node, ...]:
    """The same, where none of them is a text."""
    for node in nodes:
        if isinstance(node, Text):
            raise InputError(
                f"a text at character {node.at + 1}", "a number or a column of numbers"
            )
    return tuple(nodes)
