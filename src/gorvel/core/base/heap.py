"""What the C library keeps of memory that was freed, and how it goes back to the system.

Threads that work in turn each get a heap of their own, and a heap is only made smaller from its
end: a window that grew some trees would hold twice the memory that it uses.
"""

from __future__ import annotations

import ctypes

_ARENA_MAX = -8  # M_ARENA_MAX of malloc.h
_HEAPS = 2


def few_heaps() -> bool:
    """Let all threads share few heaps; is there a C library that can?"""
    library = _library()
    return library is not None and bool(library.mallopt(_ARENA_MAX, _HEAPS))


def give_back() -> bool:
    """Give back what is free in the heaps, which takes milliseconds; was there any?"""
    library = _library()
    return library is not None and bool(library.malloc_trim(0))


def _library() -> ctypes.CDLL | None:
    """The C library of the process, if it is GNU's."""
    library = ctypes.CDLL(None)
    return library if hasattr(library, "malloc_trim") and hasattr(library, "mallopt") else None
