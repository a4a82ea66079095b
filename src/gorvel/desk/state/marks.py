"""What is pointed at or selected, in any view."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Mark:
    """What is pointed at or selected.

    kind, number : a join or a case (from 0), or a cluster (from 1);
    "pair" : cases number and other; "level" : the same, as they stand with so many clusters;
    "answer" : of case number to variable other (from 0).
    """

    kind: Literal["join", "case", "cluster", "pair", "level", "answer"]
    number: int
    other: int = -1
    clusters: int = 0
