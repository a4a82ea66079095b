"""Memory that was freed goes back to the system."""

from __future__ import annotations

import resource
from pathlib import Path

import pytest

from gorvel.core.base import heap

BLOCK, BLOCKS = 60_000, 2_000  # too small for the C library to ask the system for each


def in_memory() -> int:
    """Bytes of this process that are in memory."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize()


def test_what_was_freed_between_what_is_kept_goes_back() -> None:
    blocks = [bytearray(BLOCK) for _ in range(BLOCKS)]
    kept = blocks[::100]
    before = in_memory()
    blocks.clear()
    if not heap.give_back():
        pytest.skip("another C library than GNU's, which gives back by itself")
    assert before - in_memory() > 0.8 * BLOCK * BLOCKS
    assert all(len(block) == BLOCK for block in kept)


def test_another_library_is_left_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("gorvel.core.base.heap.ctypes.CDLL", lambda name: object())
    assert not heap.few_heaps()
    assert not heap.give_back()
