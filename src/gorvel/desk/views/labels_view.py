"""The labels of the cases, with the bar of the cluster that each is in."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from gorvel.core.results.table import ResultTable
from gorvel.core.results.tree import labels_table
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.column import Column
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.labels import STRIP, LabelsPicture
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

_TOLD_BELOW = 10.0  # pixels a case below which the label of a marked one is shown on its own


class LabelsView(Column):
    """A press on a label selects the case, on a bar the cluster."""

    covered = STRIP - 4.0
    key = "labels"
    title = "Case"

    def picture(self, look: TreeLook, final: bool = False) -> LabelsPicture:
        return LabelsPicture(look)

    def natural(self, look: TreeLook, share: float) -> float:
        return self.picture(look).natural(share)

    def table(self, look: TreeLook) -> ResultTable | None:
        grown = self.focus.grown
        if grown is None:
            return None
        names = [who.name for who in look.names]
        return labels_table(grown, look.arrangement, names, look.cut.membership.tolist())

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        super().paint_live(canvas, look, frame)
        mark = self.focus.mark
        if mark is None or frame.row >= _TOLD_BELOW:
            return
        at = font("note", 600)
        nodes = list(self.focus.pair or self.focus.nodes_of(mark))
        for node in nodes:
            if node >= look.tree.n:
                continue
            top, bottom = look.extent(frame, node)
            box = QRectF(frame.left + STRIP - 4, (top + bottom) / 2 - 10, 0, 20)
            words = canvas.shortened(look.labels[node], at, frame.right - box.left() - 4)
            box.setRight(min(box.left() + canvas.wide(words, at) + 10, frame.right + 6))
            canvas.painter.fillRect(box, QColor(look.theme.tint))
            canvas.write(box.adjusted(4, 0, 0, 0), words, look.theme.focus, at, turned=True)

    def mark_at(self, x: float, y: float) -> Mark | None:
        node, cut = self.unit_at(y), self.focus.cut
        look = self.axis.look()
        if node is None or cut is None or look is None:
            return None
        if x < self.frame().left + STRIP - 4:
            return Mark("cluster", int(cut.membership[look.tree.firsts[node]]))
        return self.axis.mark_of(node)
