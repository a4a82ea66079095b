"""What is told of a rule for the cluster count."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Family = Literal["spread", "separation", "heights", "resampling"]
Need = Literal["variables", "answers", "proximities", "heights", "resamples"]

FAMILIES: dict[Family, str] = {
    "spread": "Within-cluster variation",
    "separation": "Separation",
    "heights": "Joining heights",
    "resampling": "Resampling",
}


@dataclass(frozen=True)
class Direction:
    """Which value is best. told : in results; sign : 1 the largest, -1 the smallest, 0 another."""

    told: str
    sign: float = 0.0


LARGEST, SMALLEST = Direction("max", 1.0), Direction("min", -1.0)


@dataclass(frozen=True)
class CountRule:
    """One published rule for the number of clusters.

    key : in plan files and results; name : on screen; family : rules that look at the same thing;
    formula, favours, misleads, source : for people; direction : which value is best; needs : what
    it is worked out from; further : only where a plan asks for it by name.

    never : why it never votes, "" for one that does; twin : a rule that says the same in other
    words and has the vote, `twin_under` a linkage, "" for any.
    """

    key: str
    name: str
    family: Family
    formula: str
    favours: str
    misleads: str
    source: str
    direction: Direction
    needs: tuple[Need, ...]
    further: bool = False
    never: str = ""
    twin: str = ""
    twin_under: str = ""

    @property
    def extreme(self) -> bool:
        """Is the best value the largest or the smallest, so that it may still rise at the end?"""
        return self.direction.sign != 0
