"""Numbers and counts as they are read, in every sentence and table of the window."""

from __future__ import annotations

import math

__all__ = ["LARGEST", "counted", "is_too_large", "letters", "number", "unit", "wanted_number"]

LARGEST = 1e100  # of what is computed with: squares, and sums and products of them, stay finite


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
    """A number for reading: about four figures, no trailing noise; a dash for none."""
    if not math.isfinite(value):
        return "\u2013" if math.isnan(value) else "\u221e" if value > 0 else "\u2212\u221e"
    if value == round(value) and abs(value) < 1e6:
        return f"{value:,.0f}"
    if abs(value) >= 1e6 or abs(value) < 1e-4:
        return f"{value:.3g}"
    decimals = 0 if abs(value) >= 1000 else 1 if abs(value) >= 100 else 2 if abs(value) >= 1 else 3
    return f"{value:,.{decimals}f}"


def counted(n: int, one: str, many: str = "") -> str:
    """So many of something. many : its plural, where that is not one with an s."""
    return f"{n:,} {one if n == 1 else many or one + 's'}"


def unit(of: str, n: int | None = None) -> str:
    """One of what a tree is of, or so many. of : "cases" or "variables"."""
    word = of.removesuffix("s")
    return word if n is None else counted(n, word, of)
