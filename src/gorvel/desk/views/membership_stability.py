"""How surely each case stays with its cluster in the other trees of the shelf."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QWidget

from gorvel.core.results.table import ResultTable
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column
from gorvel.paint.columns.stays import StaysPicture
from gorvel.paint.tree_style import TreeLook


class StaysView(Column):
    """Empty while no other tree was compared."""

    key = "stays"
    title = "Pairs kept"

    def __init__(self, axis: CaseAxis, parent: QWidget | None = None) -> None:
        super().__init__(axis, parent)
        self.focus.stays_changed.connect(self.forget_picture)

    @property
    def available(self) -> bool:
        """Is it known for the cut in hand?"""
        return self.focus.stays is not None

    def picture(self, look: TreeLook, final: bool = False) -> StaysPicture | None:
        """While it is known."""
        stays = self.focus.stays
        if stays is None or len(stays) != look.tree.n:
            return None
        return StaysPicture(look, stays)

    def natural(self, look: TreeLook, share: float) -> float:
        picture = self.picture(look)
        return 0.0 if picture is None else picture.natural(share)

    def table(self, look: TreeLook) -> ResultTable | None:
        grown, stays = self.focus.grown, self.focus.stays
        if grown is None or stays is None:
            return None
        numbers, labels = grown.prepared.numbers, grown.prepared.labels
        rows = [
            (int(numbers[case]), labels[case],
             None if np.isnan(stays[case]) else float(stays[case]))
            for case in look.arrangement.order.tolist()
        ]  # fmt: skip
        return ResultTable(("case", "label", "pairs kept"), rows)
