"""The proximities of all pairs in tree order; only what is in sight is measured."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QRectF, QTimer, Signal
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QWidget

from gorvel.core.base.progress import Progress
from gorvel.core.export.views import ViewTable, proximities_table
from gorvel.core.scene.arrangement import Arrangement, in_file_order
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column
from gorvel.desk.work.jobs import JobKind, Jobs
from gorvel.paint.canvas import Canvas
from gorvel.paint.frame import Frame
from gorvel.paint.look import TreeLook
from gorvel.paint.proximities import Patch, ProximitiesPainter
from gorvel.paint.theme import Theme

__all__ = ["ProximitiesView"]

_SAMPLE = 300  # cases whose proximities tell where the colours end
_MOST = 0.95  # share of the pairs for which colours differ
_SETTLE = 40  # milliseconds without a change before pairs are measured anew
_MARKED = 300  # cases of a cluster that are marked one by one
_AT_ONCE = 600  # cases up to which pairs are looked up at once


class ProximitiesView(Column):
    """A press on a cell selects the pair. Across: all cases, or those that are in sight.

    Signals: failed(sentence) when pairs could not be measured.
    """

    failed = Signal(str)

    key = "proximities"
    title = "Proximity"
    follows = False  # across, too, only what is in sight
    of_file = False  # as in the file, not beside the tree

    def __init__(self, axis: CaseAxis, jobs: Jobs, parent: QWidget | None = None) -> None:
        self.jobs = jobs
        self._patch: Patch | None = None
        self._image: QImage | None = None
        self._painted: object = None  # for what the image was made
        self._most: tuple[object, float] = (None, 1.0)
        self._of_file: tuple[Arrangement, Arrangement] | None = None
        self._timer = QTimer()
        super().__init__(axis, parent)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._measure)

    def table(self, look: TreeLook) -> ViewTable | None:
        return proximities_table(self.focus.grown, look.arrangement) if self.focus.grown else None

    def heading(self, theme: Theme) -> str:
        shade = "light" if theme.name == "dark" else "dark"
        order = ", file order" if self.of_file else ""
        return f"Proximity · {shade} is alike{order}"

    def set_follows(self, follows: bool) -> None:
        """Show across only the cases that are in sight, or all."""
        self.follows = follows
        self._patch = None
        self.forget_picture()

    def set_file_order(self, of_file: bool) -> None:
        """Show the cases both ways as in the file, no longer beside the tree."""
        self.of_file = of_file
        self._of_file = None
        self._patch = None
        self.forget_picture()

    def _own(self, look: TreeLook) -> TreeLook:
        """The look with the order that this column is in."""
        if not self.of_file:
            return look
        if self._of_file is None or self._of_file[0] is not look.arrangement:
            self._of_file = (look.arrangement, in_file_order(look.arrangement))
        return replace(look, arrangement=self._of_file[1])

    def _ends(self, look: TreeLook, frame: Frame) -> tuple[float, float]:
        length = look.arrangement.length
        if not self.follows:
            return 0.0, length
        return frame.place(frame.top), min(frame.place(frame.bottom), length)

    def _scale(self, look: TreeLook) -> float:
        """Where the colours end: few pairs of some cases are further apart."""
        grown = self.focus.grown
        assert grown is not None
        if self._most[0] is not grown:
            some = np.unique(np.linspace(0, look.tree.n - 1, _SAMPLE).astype(np.int64))
            block = grown.pairs.block(some, some)
            apart = block[some[:, None] != some[None, :]]
            most = float(np.quantile(apart, _MOST)) if apart.size else 1.0
            self._most = (grown, most or 1.0)
        return self._most[1]

    def plot(self, look: TreeLook, frame: Frame) -> ProximitiesPainter:
        """What is painted."""
        own = self._own(look)
        return ProximitiesPainter(own, self._ends(own, frame), self._scale(own), not self.of_file)

    def paint_still(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look, frame)
        if look.tree.n <= _AT_ONCE:
            self._keep(plot, self._patch_for(plot, look, frame))
        elif self._needs_anew(look, frame):
            self._timer.start(_SETTLE)
        if self._image is not None and self._patch is not None:
            plot.paint(canvas, frame, self._image, self._patch)

    def paint_print(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        plot = self.plot(look, frame)
        patch = self._patch_for(plot, look, frame)
        plot.paint(canvas, frame, plot.image(patch), patch)

    def paint_foot(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        self.plot(look, frame).legend(canvas, frame)

    def _wanted_for(self, look: TreeLook, frame: Frame) -> tuple[object, ...]:
        return (look.arrangement, look.theme, frame, self._ends(look, frame), self.of_file)

    def _needs_anew(self, look: TreeLook, frame: Frame) -> bool:
        if self._patch is not None and self._painted is not None:
            kept = self._painted
            assert isinstance(kept, tuple)
            if kept[0] is not look.arrangement:
                self._image = self._patch = None
        return self._painted != self._wanted_for(look, frame)

    def _patch_for(self, plot: ProximitiesPainter, look: TreeLook, frame: Frame) -> Patch:
        grown = self.focus.grown
        assert grown is not None
        down, across, area, times = plot.wanted(frame)
        rows, in_rows = np.unique(down, return_inverse=True)
        columns, in_columns = np.unique(across, return_inverse=True)
        order = plot.look.arrangement.order
        values = grown.pairs.block(order[rows], order[columns])
        return Patch(rows, columns, values, area, in_rows, in_columns, times)

    def _keep(self, plot: ProximitiesPainter, patch: Patch) -> None:
        self._patch, self._image = patch, plot.image(patch)

    def _measure(self) -> None:
        """Measure the pairs in sight off the interface thread."""
        look, frame = self.axis.look(), self.frame()
        if look is None:
            return
        plot, wanted = self.plot(look, frame), self._wanted_for(look, frame)

        def work(progress: Progress) -> tuple[Patch, QImage]:
            patch = self._patch_for(plot, look, frame)
            return patch, plot.image(patch)

        def done(found: tuple[Patch, QImage]) -> None:
            self._patch, self._image = found
            self._painted = wanted
            self.forget_picture()

        self.jobs.start(JobKind.PROXIMITIES, work, done, self.failed.emit)

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        mark = self.focus.mark
        if mark is None:
            return
        plot = self.plot(look, frame)
        nodes = self.focus.nodes_of(mark)
        if self.of_file:
            cases = [case for node in nodes for case in look.tree.members(node).tolist()]
            nodes = cases if len(cases) <= _MARKED else []
        tint = QColor(look.theme.focus)
        tint.setAlpha(46)
        bottom = min(frame.bottom, frame.y(look.arrangement.length))
        within = QRectF(frame.left, frame.top, frame.right - frame.left, bottom - frame.top)
        for node in nodes:
            self._band(canvas, plot.look, frame, node)
            first, last = plot.look.arrangement.span(node)
            left, right = plot.x(frame, first), plot.x(frame, last)
            box = QRectF(left, frame.top, max(right - left, 2.0), bottom - frame.top)
            canvas.painter.fillRect(box.intersected(within), tint)

    def mark_at(self, x: float, y: float) -> Mark | None:
        look, frame = self.axis.look(), self.frame()
        if look is None or not frame.left <= x < frame.right:
            return None
        plot = self.plot(look, frame)
        at = plot.look.arrangement
        if not frame.top <= y < min(frame.bottom, frame.y(at.length)):
            return None
        node = at.unit(at.position(frame.place(y)))
        other = at.unit(at.position(plot.place_across(frame, x)))
        if node >= look.tree.n or other >= look.tree.n or node == other:
            return self.axis.mark_of(node)
        return Mark("pair", node, other)
