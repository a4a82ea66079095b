"""What all painted views of one tree at one cut have in common."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut
from gorvel.core.tree.tree import Tree
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.cluster_marks import paint_bar
from gorvel.paint.theme import Theme


@dataclass(frozen=True, eq=False)
class TreeLook:
    """A tree as it is shown.

    names : of the clusters of the cut, in its order; support : (n-1,) of each join, 0 to 1, where
    it was measured; of : what the tree is of, cases or variables.
    """

    arrangement: Arrangement
    cut: Cut
    names: Sequence[Identity]
    labels: Sequence[str]
    theme: Theme
    support: NDArray[np.float64] | None = None
    of: str = "cases"

    @property
    def tree(self) -> Tree:
        return self.arrangement.tree

    def colour(self, cluster: int) -> QColor:
        """Of a cluster number from 1; ink for 0, which is above the cut."""
        if cluster <= 0:
            return QColor(self.theme.ink)
        return self.theme.identity(self.names[cluster - 1])

    def extent(self, frame: Frame, node: int) -> tuple[float, float]:
        """The pixels between which a node lies."""
        first, last = self.arrangement.span(node)
        return frame.y(first), frame.y(last)

    def positions(self, frame: Frame) -> tuple[int, int]:
        """The first position in sight, and one past the last."""
        at = self.arrangement
        return at.position(frame.place(frame.top)), at.position(frame.place(frame.bottom)) + 1

    def bar(self, canvas: Canvas, frame: Frame, cluster: int, left: float, wide: float) -> None:
        """A cluster as a bar with its name, so that colour is never alone."""
        top, bottom = self.extent(frame, int(self.cut.roots[cluster - 1]))
        if bottom < frame.top or top > frame.bottom:
            return
        gap = 1.0 if bottom - top > 4 else 0.0
        box = QRectF(left, top + gap, wide, max(bottom - top - 2 * gap, 1.0))
        seen = box.intersected(QRectF(left, frame.top, wide, frame.bottom - frame.top))
        paint_bar(canvas, self.theme, seen, self.names[cluster - 1])
