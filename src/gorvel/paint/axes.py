"""From shares and places to pixels, shared by all painted views of a tree."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Frame:
    """Where the height axis and the case axis run.

    The height axis runs from `right` (share 0, the cases) to `left` (share 1, the top of the tree);
    cases run down from `top` with `row` pixels each, the first `scrolled` pixels being above it.
    """

    left: float
    right: float
    top: float
    bottom: float
    row: float
    scrolled: float = 0.0

    def x(self, share: float) -> float:
        """Pixel of a share of the height axis."""
        return self.right - share * (self.right - self.left)

    def share(self, x: float) -> float:
        """Share of the height axis at a pixel."""
        return (self.right - x) / max(self.right - self.left, 1.0)

    def y(self, place: float) -> float:
        """Pixel of a place on the case axis."""
        return self.top + place * self.row - self.scrolled

    def place(self, y: float) -> float:
        """Place on the case axis at a pixel."""
        return (y - self.top + self.scrolled) / self.row

    def shown(self, cases: int) -> tuple[int, int]:
        """The first case in sight, and one past the last."""
        first = int(max(0.0, self.place(self.top)))
        last = int(self.place(self.bottom)) + 1
        return min(first, cases), min(max(last, 0), cases)
