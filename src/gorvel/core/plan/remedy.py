"""Something that can be done about what was found: a change of the plan, with its words."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gorvel.core.plan.plan import Plan


@dataclass(frozen=True)
class Remedy:
    """words : of a link or button; change : of the plan in force when it is taken."""

    words: str
    change: Callable[[Plan], Plan]
