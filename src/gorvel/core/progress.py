"""How long work tells where it is, and how it is stopped."""

from __future__ import annotations

from collections.abc import Callable

__all__ = ["Progress", "progress_words", "seconds_left", "silent"]

# Called with the name of the phase and the share of it that is done (0 to 1).
# It stops the work by raising `gorvel.core.errors.Cancelled`.
Progress = Callable[[str, float], None]

_WORDS = {
    "reading": "Reading the file",
    "proximities": "Measuring all pairs of cases",
    "kernels": "Compiling loops for large studies (once)",
    "joins": "Joining the nearest clusters",
    "ties": "Ordering joins of one height",
    "schedule": "Making the schedule",
    "pairs": "Passing over all pairs",
    "ranks": "Putting all distances in order",
    "resamples": "Resampling",
    "correlation": "Comparing heights with proximities",
    "writing": "Writing the results",
}
_SURE = 0.02, 0.3  # share done and seconds spent from which an estimate is worth something


def silent(phase: str, share: float) -> None:
    """Progress that nobody watches."""


def seconds_left(spent: float, share: float) -> float:
    """Of a phase that went on for some seconds; below 0 when nobody can tell yet."""
    least, patience = _SURE
    return spent * (1 - share) / share if share > least and spent > patience else -1.0


def progress_words(phase: str, share: float, left: float) -> str:
    """Where long work is; left : see `seconds_left`."""
    time_left = f", about {max(1, round(left))} s left" if left >= 0 else ""
    return f"{_WORDS.get(phase, phase)}: {share:.0%}{time_left}"
