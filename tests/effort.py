"""How hard the tests try: `GORVEL_TESTS=full` as in `.ci/run`, or quickly as in `./gorvel test`."""

from __future__ import annotations

import os

FULL = os.environ.get("GORVEL_TESTS") == "full"
_QUICK = 12  # examples of one property at most


def examples(full: int) -> int:
    """Examples of a property that needs more of them than others."""
    return full if FULL else min(full, _QUICK)
