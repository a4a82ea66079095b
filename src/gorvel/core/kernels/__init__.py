"""Compiled loops over arrays: no objects, no errors, no progress; each has a slow twin in tests."""

from __future__ import annotations

import threading

__all__ = ["MANY", "ONE_AT_A_TIME", "loaded", "now_loaded", "worth_compiling"]

ONE_AT_A_TIME = threading.Lock()  # held while kernels run: not all their thread pools can be shared
MANY = 2500  # cases from which kernels pay, though they have to be loaded or compiled first
_SOME = 200  # cases from which they pay once they are there

_there = threading.Event()


def now_loaded() -> None:
    """From here on nothing has to wait for kernels."""
    _there.set()


def loaded() -> bool:
    """Are the kernels there?"""
    return _there.is_set()


def worth_compiling(cases: int) -> bool:
    """Are kernels faster for so many cases, the time counted in that it takes until they are there?

    They give the same numbers to the last bit wherever this decides.
    """
    return cases > MANY or (cases >= _SOME and loaded())
