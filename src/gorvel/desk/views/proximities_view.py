"""The proximities of all pairs in tree order; only what is in sight is measured."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QRectF, QTimer, Signal
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QWidget

from gorvel.core.base.progress import Progress
from gorvel.core.results.table import ResultTable
from gorvel.core.results.tree import proximities_table
from gorvel.core.scene.arrangement import Arrangement, in_file_order
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.desk.views.column import Column
from gorvel.desk.work.jobs import JobKind, Jobs
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.proximities import Patch, ProximitiesPicture
from gorvel.paint.tree_style import TreeLook

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
        self._ready: tuple[QImage, Patch] | None = None
        self._painted: tuple[object, ...] = ()  # for what that was made
        self._most: tuple[object, float] = (None, 1.0)
        self._of_file: tuple[Arrangement, Arrangement] | None = None
        self._timer = QTimer()
        super().__init__(axis, parent)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._measure)

    def table(self, look: TreeLook) -> ResultTable | None:
        return proximities_table(self.focus.grown, look.arrangement) if self.focus.grown else None

    def set_follows(self, follows: bool) -> None:
        """Show across only the cases that are in sight, or all."""
        self.follows = follows
        self._ready = None
        self.forget_picture()

    def set_file_order(self, of_file: bool) -> None:
        """Show the cases both ways as in the file, no longer beside the tree."""
        self.of_file = of_file
        self._of_file = None
        self._ready = None
        self.forget_picture()

    def _own(self, look: TreeLook) -> TreeLook:
        """The look with the order that this column is in."""
        if not self.of_file:
            return look
        if self._of_file is None or self._of_file[0] is not look.arrangement:
            self._of_file = (look.arrangement, in_file_order(look.arrangement))
        return replace(look, arrangement=self._of_file[1])

    def _scale(self, look: TreeLook) -> float:
        """Where the colours end: few pairs of some cases are further apart."""
        grown = self.focus.grown
        assert grown is not None
        if self._most[0] is not grown.tree:
            some = np.unique(np.linspace(0, look.tree.n - 1, _SAMPLE).astype(np.int64))
            block = grown.pairs.block(some, some)
            apart = block[some[:, None] != some[None, :]]
            most = float(np.quantile(apart, _MOST)) if apart.size else 1.0
            self._most = (grown.tree, most or 1.0)
        return self._most[1]

    def picture(self, look: TreeLook, final: bool = False) -> ProximitiesPicture | None:
        """Measured in printing; on the screen as far as it is measured yet."""
        grown = self.focus.grown
        if grown is None:
            return None
        own = self._own(look)
        shown = ProximitiesPicture(own, grown.pairs, self._scale(own), self.follows, self.of_file)
        if final:
            return shown
        frame = self.frame()
        if look.tree.n <= _AT_ONCE:
            if self._needs_anew(look, frame):
                self._ready, self._painted = shown.measured(frame), self._wanted_for(look, frame)
        elif self._needs_anew(look, frame):
            self._timer.start(_SETTLE)
        return replace(shown, ready=self._ready or shown.nothing)

    def _wanted_for(self, look: TreeLook, frame: Frame) -> tuple[object, ...]:
        return (look.arrangement, look.theme, frame, self.follows, self.of_file)

    def _needs_anew(self, look: TreeLook, frame: Frame) -> bool:
        if self._ready is not None and self._painted[:1] != (look.arrangement,):
            self._ready = None
        return self._ready is None or self._painted != self._wanted_for(look, frame)

    def _measure(self) -> None:
        """Measure the pairs in sight off the interface thread."""
        look, frame = self.axis.look(), self.frame()
        shown = None if look is None else self.picture(look, final=True)
        if look is None or shown is None:
            return
        wanted = self._wanted_for(look, frame)

        def done(found: tuple[QImage, Patch]) -> None:
            self._ready, self._painted = found, wanted
            self.forget_picture()

        work = partial(_measured, shown, frame)
        self.jobs.start(
            JobKind.PROXIMITIES, work, done, self.failed.emit, of=self.focus, asker=self
        )

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        mark = self.focus.mark
        if mark is None:
            return
        plot = self.picture(look, final=True)
        if plot is None:
            return
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
        plot = self.picture(look, final=True)
        if plot is None:
            return None
        at = plot.look.arrangement
        if not frame.top <= y < min(frame.bottom, frame.y(at.length)):
            return None
        node = at.unit(at.position(frame.place(y)))
        other = at.unit(at.position(plot.place_across(frame, x)))
        if node >= look.tree.n or other >= look.tree.n or node == other:
            return self.axis.mark_of(node)
        return Mark("pair", node, other)


def _measured(shown: ProximitiesPicture, frame: Frame, progress: Progress) -> tuple[QImage, Patch]:
    """On a worker thread."""
    return shown.measured(frame)
