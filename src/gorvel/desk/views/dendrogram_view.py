"""The dendrogram with the height chart at its foot: hover, select, drag the cut."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QSize, Qt
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import number
from gorvel.core.results.table import ResultTable
from gorvel.core.results.tree import schedule_table
from gorvel.core.scene.axis import axis_of
from gorvel.core.scene.dendrogram import DendrogramScene, hit
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.column import Column
from gorvel.desk.views.layout import Layout
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import cases_box
from gorvel.paint.columns.dendrogram import DendrogramPicture
from gorvel.paint.tree_style import TreeLook

_GRAB = 6.0  # pixels around the cut line that take hold of it
_NEAR = 7.0  # pixels around a bracket that count as pointing at it


class DendrogramView(Column):
    """The tree itself; its height axis and frames are those of the layout."""

    key = "dendrogram"
    title = DendrogramPicture.title
    margin = DendrogramPicture.margin

    def __init__(self, layout: Layout, parent: QWidget | None = None) -> None:
        self.shown = layout
        self._scene: DendrogramScene | None = None
        self._dragging = False
        super().__init__(layout.axis, parent)
        layout.rescaled.connect(self._rescale)
        layout.framed_anew.connect(self.forget_picture)
        self.setMinimumSize(QSize(200, 140))

    # geometry

    @property
    def scene(self) -> DendrogramScene | None:
        """Joins and cases along both axes."""
        grown, at = self.focus.grown, self.axis.arrangement
        if grown is None or at is None:
            return None
        if self._scene is None or self._scene.arrangement is not at:
            kept = self._scene.axis if self._scene and self._scene.tree is at.tree else None
            heights = kept or axis_of(at.tree, self.shown.scale, grown.schedule.spread)
            self._scene = DendrogramScene(at, heights)
        return self._scene

    def _rescale(self) -> None:
        self._scene = None
        self.forget_picture()

    def picture(self, look: TreeLook, final: bool = False) -> DendrogramPicture | None:
        scene = self.scene
        if scene is None:
            return None
        height = self.focus.cut_height
        line = None if height is None else float(scene.axis.share(height))
        grown = self.focus.grown
        cross_table = grown is not None and grown.prepared.chi_square is not None
        unit = "chi-square lost" if cross_table else "height"
        return DendrogramPicture(scene, look, self.shown.framed, line, unit)

    def cut_x(self) -> float | None:
        """The pixel of the cut line."""
        look = self.axis.look()
        shown = None if look is None else self.picture(look)
        return None if shown is None else self.frame().x(shown.cut_at)

    def table(self, look: TreeLook) -> ResultTable | None:
        return schedule_table(self.focus.grown) if self.focus.grown else None

    # painting

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        shown, mark = self.picture(look), self.focus.mark
        if shown is None or mark is None:
            return
        tree = look.tree
        nodes = self.focus.nodes_of(mark)
        if self.focus.pair is not None and mark.kind == "case":
            nodes = list(self.focus.pair)
        if len(nodes) == 2:
            nodes.append(tree.n + tree.meeting(*nodes))
        canvas.painter.save()
        canvas.clip(cases_box(frame, self.extent()[0]))
        for node in nodes:
            if node >= tree.n and len(nodes) == 1:
                shown.paint_subtree(canvas.painter, frame, node - tree.n)
            shown.paint_dot(canvas, frame, node)
        canvas.painter.restore()

    # pointer

    def mark_at(self, x: float, y: float) -> Mark | None:
        scene, frame = self.scene, self.frame()
        if scene is None or not frame.top <= y <= frame.bottom:
            return None
        wide = max(frame.right - frame.left, 1.0)
        found = hit(scene, frame.share(x), frame.place(y), _NEAR / wide, _NEAR / frame.row)
        return None if found is None else Mark("join", found)

    def _over_cut(self, x: float, y: float) -> bool:
        at, frame = self.cut_x(), self.frame()
        if at is None:
            return False
        handle = y < frame.top and abs(x - at) < 50
        return handle or abs(x - at) <= _GRAB

    def pressed(self, x: float, y: float) -> bool:
        self._dragging = self._over_cut(x, y) or y > self.frame().bottom
        if self._dragging:
            self.focus.hover(None)
            if not self._over_cut(x, y):
                self._cut_at(x)
        return self._dragging

    def dragged(self, x: float, y: float) -> bool:
        if self._dragging:
            self._cut_at(x)
        return self._dragging

    def _cut_at(self, x: float) -> None:
        if self.scene is not None:
            self.focus.set_height(self.scene.axis.height(self.frame().share(x)))

    def released(self) -> None:
        self._dragging = False

    def hovered(self, x: float, y: float) -> None:
        over = self._over_cut(x, y)
        across = Qt.CursorShape.SplitVCursor if self.axis.upright else Qt.CursorShape.SplitHCursor
        self.setCursor(across if over else Qt.CursorShape.ArrowCursor)
        self.focus.hover(None if over else self.mark_at(x, y))
        if y > self.frame().bottom:
            self._tell_span(x, QPointF(y, x) if self.axis.upright else QPointF(x, y))

    def _tell_span(self, x: float, at: QPointF) -> None:
        """Over which heights the count at a pixel holds."""
        scene, cut = self.scene, self.focus.cut
        look = self.axis.look()
        if scene is None or cut is None or look is None:
            return
        height = scene.axis.height(self.frame().share(x))
        found = scene.spans.at(height)
        if found is not None:
            clusters, low, high = found
            text = (
                f"{clusters:,} cluster{'s hold' if clusters > 1 else ' holds'} from height"
                f" {number(low)} to {number(high)}. Click to cut here."
            )
            show_tip(self.mapToGlobal(QPoint(int(at.x()), int(at.y()))), text, self)
