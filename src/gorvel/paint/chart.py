"""What each chart can do: paint itself, say what lies at a point, and what that is in words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import Theme

Place = TypeVar("Place")  # what can lie at a point: a count, a cell, a case


@dataclass(frozen=True, eq=False)
class Chart(Generic[Place]):
    """A chart on a ground of some pixels. width, height : of the ground."""

    theme: Theme
    width: float
    height: float

    @property
    def least(self) -> tuple[float, float]:
        """Pixels across and down below which something is cut."""
        return 0.0, 0.0

    def paint(self, canvas: Canvas) -> None:
        """Everything."""
        raise NotImplementedError

    def at(self, x: float, y: float) -> Place | None:
        """What lies at a pixel, None for nothing."""
        return None

    def tip(self, place: Place) -> str:
        """What lies somewhere, in words; "" where there is nothing to say."""
        return ""
