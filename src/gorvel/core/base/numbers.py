"""Numbers and counts as they are read, in every sentence and table of the window."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

LARGEST = 1e100  # of what is computed with: squares, and sums and products of them, stay finite


def varies(values: NDArray[np.float64]) -> bool:
    """Do complete numbers differ?

    Equal ones can lie off their mean as rounded, and what a division makes of that looks like a
    result.
    """
    return bool(values.size) and bool((values != values[0]).any())


def is_too_large(cell: str) -> bool:
    """Does a cell hold a finite number beyond `LARGEST`?"""
    try:
        value = float(cell)
    except ValueError:
        return False
    return math.isfinite(value) and abs(value) > LARGEST


def wanted_number(cell: str) -> str:
    """What is expected in the place of a cell that is no number to compute with."""
    return "a number no larger than 1e100" if is_too_large(cell) else "a finite number"


def letters(number: int) -> str:
    """A, B, .. Z, AA, AB, ..: the letter of a number from 1, of a cluster or a column of cells."""
    out = ""
    while number:
        number, rest = divmod(number - 1, 26)
        out = chr(ord("A") + rest) + out
    return out


def number(value: float) -> str:
    """A number for reading: about four figures, a true minus; a dash for none."""
    if not math.isfinite(value):
        return "\u2013" if math.isnan(value) else "\u221e" if value > 0 else "\u2212\u221e"
    if value == round(value) and abs(value) < 1e6:
        return fixed(value, 0)
    if abs(value) >= 1e6 or abs(value) < 1e-4:
        return f"{value:.3g}".replace("-", "\u2212")
    decimals = 0 if abs(value) >= 1000 else 1 if abs(value) >= 100 else 2 if abs(value) >= 1 else 3
    return fixed(value, decimals)


def fixed(value: float, decimals: int, sign: bool = False) -> str:
    """A number with so many decimals and a true minus; nothing that rounds to 0 has a sign.

    sign : those above 0 have one, too.
    """
    if not math.isfinite(value):
        return number(value)
    rounded = round(value, decimals) + 0.0
    words = f"{abs(rounded):,.{decimals}f}"
    before = "\u2212" if rounded < 0 else "+" if sign and rounded > 0 else ""
    return before + words


def p_words(p: float, draws: int = 0) -> str:
    """A p value as it stands in a sentence: p = 0.034, or p < 0.001.

    draws : of a simulated one, told where it can go no lower.
    """
    if math.isnan(p):
        return "p \u2013"
    if p < 0.001:
        return "p < 0.001"
    least = draws and round(p * (draws + 1)) <= 1
    return f"p = {fixed(p, 3)}" + (f" ({draws:,} draws)" if least else "")


def counted(n: int, one: str, many: str = "") -> str:
    """So many of something. many : its plural, where that is not one with an s."""
    return f"{n:,} {one if n == 1 else many or one + 's'}"


def listed(words: Sequence[str], last: str = "and") -> str:
    """a, b and c. last : the word before the last of them."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {last} {words[-1]}"


def sentence(words: str) -> str:
    """Words with a capital at their beginning; the rest stays as it is."""
    return words[:1].upper() + words[1:]


def unit(of: str, n: int | None = None) -> str:
    """One of what a tree is of, or so many. of : "cases" or "variables"."""
    word = of.removesuffix("s")
    return word if n is None else counted(n, word, of)
