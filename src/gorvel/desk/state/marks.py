"""What is pointed at or selected, in any view."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gorvel.core.grow.grown import Grown
from gorvel.core.study.tree_pairs import PairAtCut


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


def mark_in(met: PairAtCut, common: int, grown: Grown | None) -> Mark | None:
    """A case of two trees as it is marked on one of them; None where that is neither."""
    places = met.places_in(grown)
    return None if places is None else Mark("case", int(places[common]))
