"""Names that a half-written formula or condition could go on with."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from gorvel.core.language.tokens import FUNCTIONS, named

_WORD, _QUOTED = re.compile(r"[^\W\d][\w.]*$"), re.compile(r"`[^`]*$")


@dataclass(frozen=True)
class Completion:
    """words : to be shown; text : put in the place of what stands from `start` to the cursor."""

    words: str
    text: str
    start: int


def completions(text: str, cursor: int, names: Sequence[str], most: int = 12) -> list[Completion]:
    """What the word before the cursor could become: columns and functions, best first.

    Those that begin with it come before those that have it inside.
    """
    before = text[:cursor]
    open_name = before.count("`") % 2 == 1
    half = (_QUOTED if open_name else _WORD).search(before)
    if half is None or (not open_name and _in_quotes(before)):
        return []
    word = half[0].strip("`").casefold()
    columns = [name for name in names if word in name.casefold() and "`" not in name]
    columns.sort(key=lambda name: not name.casefold().startswith(word))
    found = [Completion(name, named(name), half.start()) for name in columns]
    if not open_name:
        found += [
            Completion(f"{name}( )", f"{name}(", half.start())
            for name in FUNCTIONS
            if name.startswith(word)
        ]
    return found[:most]


def _in_quotes(before: str) -> bool:
    """Does the text end within quotes?"""
    quote = ""
    for letter in before:
        if quote:
            quote = "" if letter == quote else quote
        elif letter in "\"'":
            quote = letter
    return bool(quote)
