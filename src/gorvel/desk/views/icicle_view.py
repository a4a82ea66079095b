"""The icicle plot: with how many clusters are two neighbours still apart?"""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPen

from gorvel.core.results.table import ResultTable
from gorvel.core.results.tree import icicle_table
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.column import Column
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.icicle import IciclePicture
from gorvel.paint.tree_style import TreeLook

_UP_TO = 12


class IcicleView(Column):
    """A press on a column's number cuts there; a drag moves the cut."""

    key = "icicle"
    title = IciclePicture.title
    most = 0  # clusters of the last column; 0 for the usual number
    least = 1

    def picture(self, look: TreeLook, final: bool = False) -> IciclePicture:
        """Up to a few columns beyond the cut, or the range asked for."""
        cases = look.tree.n
        usual = max(_UP_TO, min(look.cut.clusters + 3, 40))
        last = min(self.most or usual, cases)
        return IciclePicture(look, min(self.least, last), last)

    def show_counts(self, least: int, most: int) -> None:
        """Show a range of cluster counts; 0 as the last for the usual number."""
        self.least, self.most = max(least, 1), most
        self.forget_picture()

    def table(self, look: TreeLook) -> ResultTable | None:
        plot = self.picture(look)
        if self.focus.grown is None:
            return None
        return icicle_table(self.focus.grown, look.arrangement, plot.first, plot.last)

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        super().paint_live(canvas, look, frame)
        mark = self.focus.mark
        if mark is None or mark.kind != "level":
            return
        plot = self.picture(look)
        left, right = plot.x(frame, mark.clusters), plot.x(frame, mark.clusters + 1)
        canvas.painter.setPen(QPen(QColor(look.theme.focus), 1.0))
        bottom = min(frame.bottom, frame.y(look.arrangement.length))
        canvas.painter.drawRect(QRectF(left, frame.top, right - left, bottom - frame.top))

    def mark_at(self, x: float, y: float) -> Mark | None:
        look, frame = self.axis.look(), self.frame()
        node = self.unit_at(y)
        if look is None or node is None or not frame.left <= x < frame.right:
            return None
        at = look.arrangement
        top, bottom = look.extent(frame, node)
        start, size = int(at.starts[node]), int(look.tree.sizes[node])
        position = start - 1 if y < (top + bottom) / 2 else start + size
        if not 0 <= position < look.tree.n:
            position = start + size if position < 0 else start - 1
        if not 0 <= position < look.tree.n:
            return self.axis.mark_of(node)
        own = int(at.order[start if position < start else start + size - 1])
        count = self.picture(look).count_at(frame, x)
        return Mark("level", own, int(at.order[position]), count)

    def pressed(self, x: float, y: float) -> bool:
        look, frame = self.axis.look(), self.frame()
        if look is None or y <= frame.bottom:
            return False
        self.focus.set_count(self.picture(look).count_at(frame, x))
        return True
