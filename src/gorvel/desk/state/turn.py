"""What changes together is followed once.

A new tree, a click on a count or a step of undo changes several things, each with a signal of its
own. Views that hang on more than one of them put their following off until all is told.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from types import TracebackType
from typing import ParamSpec, TypeVar

from PySide6.QtCore import QObject

P = ParamSpec("P")
R = TypeVar("R")


def is_there(who: QObject) -> bool:
    """Was it not done away with yet?"""
    try:
        who.objectName()
    except RuntimeError:
        return False
    return True


class _Turn:
    """Of the interface thread; a turn within a turn is part of it."""

    def __init__(self) -> None:
        self._depth = 0
        self._due: dict[QObject, Callable[[], None]] = {}

    def at_end(self, who: QObject, act: Callable[[], None]) -> None:
        """Act once when the turn is over, however often it is asked; at once outside of one."""
        if self._depth:
            self._due.setdefault(who, act)
        else:
            act()

    def __enter__(self) -> None:
        self._depth += 1

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:  # fmt: skip
        try:
            while self._depth == 1 and self._due:
                who = next(iter(self._due))
                act = self._due.pop(who)
                if is_there(who):
                    act()
        finally:
            self._depth -= 1


TURN = _Turn()


def in_one_turn(change: Callable[P, R]) -> Callable[P, R]:
    """All that a function changes is followed once, before it returns."""

    @wraps(change)
    def turned(*args: P.args, **keys: P.kwargs) -> R:
        with TURN:
            return change(*args, **keys)

    return turned
