"""Memory for one matrix after another.

The first touch of memory fresh from the system takes longer than measuring all pairs of cases, so a
matrix that has been consumed leaves its memory to the next. Between two the system may take it back
whenever it is short; it counts as free until then.
"""

from __future__ import annotations

import mmap
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray

_MOST = 1 << 30  # bytes that are held
_held: list[mmap.mmap] = []  # at most one; taken and left in one step, so that threads can share it


@contextmanager
def square_space(n: int) -> Iterator[NDArray[np.float64]]:
    """An (n, n) array holding anything, to be filled and consumed: nothing may look at it later.

    Raises
    ------
    MemoryError : the system has not so much.
    """
    size = max(8 * n * n, 1)
    try:
        memory = _held.pop()
    except IndexError:
        memory = None
    if memory is None or len(memory) < size:
        memory = None  # goes before the other comes
        memory = _fresh(size)
    try:
        yield np.frombuffer(memory, dtype=np.float64, count=n * n).reshape(n, n)
    finally:
        if len(memory) <= _MOST and _advised(memory, "MADV_FREE"):
            _held[:] = [memory]


def _fresh(size: int) -> mmap.mmap:
    try:
        memory = mmap.mmap(-1, size, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
    except OSError as error:
        raise MemoryError from error
    _advised(memory, "MADV_HUGEPAGE")
    return memory


def _advised(memory: mmap.mmap, advice: str) -> bool:
    """Tell the system how memory is used; not every one takes every advice."""
    try:
        memory.madvise(getattr(mmap, advice))
    except (AttributeError, OSError):
        return False
    return True


def let_go() -> None:
    """Give back what is held, for work that needs no matrix."""
    _held.clear()
