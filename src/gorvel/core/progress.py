"""How long work tells where it is, and how it is stopped."""

from __future__ import annotations

from collections.abc import Callable

__all__ = ["Progress", "silent"]

# Called with the name of the phase and the share of it that is done (0 to 1).
# It stops the work by raising `gorvel.core.errors.Cancelled`.
Progress = Callable[[str, float], None]


def silent(phase: str, share: float) -> None:
    """Progress that nobody watches."""
