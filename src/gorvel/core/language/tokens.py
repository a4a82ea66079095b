"""Words, numbers, texts and signs of the language, each with its place."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import NamedTuple

from gorvel.core.base.errors import InputError

KEYWORDS = frozenset({"and", "or", "not", "in", "between", "is", "missing"})
FUNCTIONS = ("log", "log10", "log1p", "exp", "sqrt", "abs", "round", "min", "max", "mean")
_TOKEN = re.compile(
    r"""(?:
        (?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)(?![\w])
      | (?P<text>"[^"]*"|'[^']*')
      | (?P<column>`[^`]+`)
      | (?P<word>[^\W\d]\w*(?:\.\w+)*)
      | (?P<sign><=|>=|!=|<>|==|[=<>(),+\-*/^])
    )\s*""",
    re.VERBOSE,
)
_PLAIN = re.compile(r"[^\W\d]\w*(?:\.\w+)*")


class Token(NamedTuple):
    """A word, sign or number of a text.

    kind : number, text, column, word, call (a function and its bracket), key, sign or end; text :
    as written, keywords in lower case; at : of its first character, from 0.
    """

    kind: str
    text: str
    at: int

    @property
    def place(self) -> str:
        """Where it stands, for people."""
        return f'"{self.text}" at character {self.at + 1}' if self.text else "the end"


def cut(text: str) -> list[Token]:
    """The tokens of a text, the last one its end.

    Raises
    ------
    InputError : a character that nothing begins with; names its place.
    """
    tokens, at = [], len(text) - len(text.lstrip())
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None or found.lastgroup is None:
            raise InputError(
                f'"{text[at]}" at character {at + 1}',
                "a column, a number, a text in quotes or a comparison",
            )
        kind, words = found.lastgroup, found[found.lastgroup]
        if kind == "word" and words.lower() in KEYWORDS:
            kind, words = "key", words.lower()
        elif kind == "word" and words.lower() in FUNCTIONS and text.startswith("(", found.end()):
            kind, words = "call", words.lower()
        tokens.append(Token(kind, words, at))
        at = found.end()
    return [*tokens, Token("end", "", len(text))]


def named(column: str) -> str:
    """A column as the language names it.

    Raises
    ------
    InputError : its name has a backquote.
    """
    if "`" in column:
        raise InputError(f"the column name {column}", "a name without backquotes")
    plain = _PLAIN.fullmatch(column) and column.lower() not in KEYWORDS
    return column if plain else f"`{column}`"


def renamed(text: str, names: Mapping[str, str]) -> str:
    """A text in which columns have other names. names : new ones by old ones.

    Raises
    ------
    InputError : as `cut` and `named`.
    """
    out, end = [], 0
    for token in cut(text):
        old = token.text.strip("`")
        if token.kind in ("word", "column") and old in names:
            out += [text[end : token.at], named(names[old])]
            end = token.at + len(token.text)
    return "".join([*out, text[end:]])
