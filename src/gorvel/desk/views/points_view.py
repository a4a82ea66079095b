"""Cases in a plane: pointed at, clicked, walked through with the keys; what is marked is shared."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.scene.points import splits_next
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import Points, PointsPainter
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, Theme, current

Floats = NDArray[np.float64]

_LOOSE = 0.5  # of the other trees: a case that stays less often with its cluster
_Key = Qt.Key
_STEPS = {_Key.Key_Left: (-1, 0), _Key.Key_Right: (1, 0), _Key.Key_Up: (0, -1),
          _Key.Key_Down: (0, 1)}  # fmt: skip


def points_now(
    focus: Focus, places: Floats, across: str = "", along: str = "", square: bool = True,
    arrows: Sequence[tuple[str, float, float]] = (), shadow: bool = False,
) -> Points | None:  # fmt: skip
    """Cases with the clusters of the cut in hand.

    places : (n, 2); shadow : with outlines of the parts that the next count would make.
    """
    grown, cut = focus.grown, focus.cut
    if grown is None or cut is None:
        return None
    own, names = cut.membership - 1, focus.identities
    parts, shown = None, []
    if shadow and cut.clusters < grown.tree.n:
        finer = cut_at_count(grown.tree, cut.level + 1)
        if cut.split:
            below = grown.tree.n - finer.clusters
            finer = cut_branches(grown.tree, finer.clusters, [j for j in cut.split if j < below])
        parts = finer.membership - 1
        called = focus.identities_of(finer)
        shown = [(part, called[part].name) for part, _ in splits_next(own, parts)]
    stays = focus.stays
    loose = None if stays is None or len(stays) != len(own) else stays < _LOOSE
    return Points(places, own, names, across, along, square, arrows, parts, shown, loose=loose)


class PointsView(QWidget):
    """words : what is said of a case that is pointed at.

    Signals: opened(case), by a double click or Enter.
    """

    opened = Signal(int)

    def __init__(
        self, focus: Focus, name: str, words: Callable[[int], str] | None = None,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.focus, self._words = focus, words
        self.points: Points | None = None
        self._ground: tuple[tuple[object, ...], QPixmap] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(220, 180)
        focus.mark_changed.connect(self._marked)

    def sizeHint(self) -> QSize:
        return QSize(640, 480)

    def _marked(self) -> None:
        self.update()

    def show_points(self, points: Points | None) -> None:
        """Show these."""
        self.points = points
        self.update()

    def painter(
        self, theme: Theme | None = None, width: float = 0.0, height: float = 0.0
    ) -> PointsPainter | None:
        """What paints it; None where there is nothing. width, height : 0 for the screen."""
        if self.points is None:
            return None
        selected, hovered, cluster = -1, -1, -1
        n = len(self.points.own)
        for mark, over in ((self.focus.selected, False), (self.focus.hovered, True)):
            if mark is None or width:
                continue
            if mark.kind == "case" and mark.number < n:
                selected, hovered = (selected, mark.number) if over else (mark.number, hovered)
            elif mark.kind == "cluster":
                cluster = mark.number - 1
        return PointsPainter(
            self.points, theme or current(), width or float(self.width()),
            height or float(self.height()), selected, hovered, cluster,
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is None:
            return
        ground = QPainter(self)
        ground.drawPixmap(0, 0, self._pixels(painter))
        painter.paint_marks(Canvas(ground))
        if self.hasFocus() and painter.selected < 0:
            ground.setPen(current().focus)
            ground.drawRect(self.rect().adjusted(0, 0, -1, -1))
        ground.end()

    def _pixels(self, painter: PointsPainter) -> QPixmap:
        """The ground, kept until something but the pointer changes."""
        ratio, theme = self.devicePixelRatioF(), current()
        key = (self.points, theme, painter.cluster, self.size() * ratio)
        if self._ground is None or self._ground[0] != key:
            pixels = QPixmap(self.size() * ratio)
            pixels.setDevicePixelRatio(ratio)
            pixels.fill(Qt.GlobalColor.transparent)
            inner = QPainter(pixels)
            painter.paint_ground(Canvas(inner))
            inner.end()
            self._ground = key, pixels
        return self._ground[1]

    # pointing

    def mark_at(self, x: float, y: float) -> Mark | None:
        """A cluster by its letter, or a case."""
        painter = self.painter()
        if painter is None:
            return None
        letter = painter.letter_at(x, y)
        if letter >= 0:
            return Mark("cluster", letter + 1)
        case = painter.case_at(x, y)
        return Mark("case", case) if case >= 0 else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        mark = self.mark_at(event.position().x(), event.position().y())
        self.focus.hover(mark)
        hand = Qt.CursorShape.PointingHandCursor
        self.setCursor(hand if mark is not None else Qt.CursorShape.ArrowCursor)

    def leaveEvent(self, event: QEvent) -> None:
        self.focus.hover(None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.button() == Qt.MouseButton.LeftButton:
            self.focus.select(self.mark_at(event.position().x(), event.position().y()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        mark = self.mark_at(event.position().x(), event.position().y())
        if mark is not None and mark.kind == "case":
            self.opened.emit(mark.number)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            mark = self.mark_at(event.pos().x(), event.pos().y())
            show_tip(event.globalPos(), self.told(mark), self)
            return True
        return super().event(event)

    def told(self, mark: Mark | None) -> str:
        """What is pointed at, in words."""
        grown, names = self.focus.grown, self.focus.identities
        if mark is None or grown is None or self.points is None:
            return ""
        if mark.kind == "cluster":
            return names[mark.number - 1].told
        own = names[int(self.points.own[mark.number])].told
        label = grown.prepared.labels[mark.number]
        more = self._words(mark.number) if self._words is not None else ""
        return f"{label}, in {own}{more}"

    def keyPressEvent(self, event: QKeyEvent) -> None:
        painter, step = self.painter(), _STEPS.get(_Key(event.key()))
        selected = self.focus.selected
        if painter is not None and step is not None:
            case = painter.next_case(painter.selected, *step)
            if case >= 0:
                self.focus.select(Mark("case", case))
        elif event.key() in (_Key.Key_Return, _Key.Key_Enter) and selected is not None:
            if selected.kind == "case":
                self.opened.emit(selected.number)
        else:
            super().keyPressEvent(event)


def points_table(view: PointsView, across: str, along: str) -> ResultTable | None:
    """A row for each case with a place."""
    points, grown = view.points, view.focus.grown
    if points is None or grown is None:
        return None
    rows: list[tuple[str | int | float | None, ...]] = []
    for case in np.flatnonzero(points.known).tolist():
        x, y = points.places[case].tolist()
        name = points.names[int(points.own[case])].told
        rows.append((grown.prepared.labels[case], name, x, y))
    return ResultTable(("case", "cluster", across, along), rows)


def points_sheet(view: PointsView, title: str) -> Sheet | None:
    """The picture for print."""
    if view.points is None:
        return None

    def draw(canvas: Canvas, width: float, height: float) -> None:
        painter = view.painter(LIGHT, width, height)
        if painter is not None:
            painter.paint(canvas)

    return Sheet(draw, 150.0, 120.0, title=title)
