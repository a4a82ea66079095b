"""Two trees face to face: pointed at, followed, zoomed, folded; what is marked is shared."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QSize, Qt, Signal
from PySide6.QtGui import (
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.core.scene.arrangement import Arrangement, arrange, branches_of_cut
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark, mark_in
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.faces import Face, FacesPainter
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, Theme, current
from gorvel.paint.tree_style import TreeLook

_STEP = 1.25  # of the zoom, by a turn of the wheel
_MOST = 200.0
_FOLDED_FROM = 6_000  # cases from which clusters are folded at first


class FacesView(QWidget):
    """titles : of the two trees.

    Signals: opened(case), a double click or Enter on a case of the tree in hand; turned(folded).
    """

    opened = Signal(int)
    turned = Signal(bool)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.met: PairAtCut | None = None
        self.titles = ("", "")
        self.folded = False
        self._by_hand = False  # was it said whether clusters are folded
        self.zoom, self.scrolled = 1.0, 0.0
        self._held: QPointF | None = None
        self._hovered = -1  # a common case
        self._over: tuple[bool, int] | None = None  # a cluster: right side?, from 1
        self._made: tuple[tuple[object, ...], FacesPainter] | None = None
        self._ground: tuple[tuple[object, ...], QPixmap] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Two trees face to face")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 200)
        focus.mark_changed.connect(self._marked)

    def sizeHint(self) -> QSize:
        return QSize(620, 420)

    def _marked(self) -> None:
        self.update()

    def show_met(self, met: PairAtCut | None, titles: tuple[str, str]) -> None:
        """Show these two."""
        another = met is None or self.met is None or met.faced is not self.met.faced
        self.met, self.titles = met, titles
        if another:
            self.zoom, self.scrolled, self._hovered, self._over = 1.0, 0.0, -1, None
            if not self._by_hand:
                large = 0 if met is None else met.faced.pair.one.tree.n
                self.folded = large > _FOLDED_FROM
        self.update()

    def fold(self, folded: bool) -> None:
        """Show clusters as wedges, or every case."""
        self.folded, self._by_hand = folded, True
        self.turned.emit(folded)
        self.update()

    # painting

    def painter(
        self, theme: Theme | None = None, width: float = 0.0, height: float = 0.0
    ) -> FacesPainter | None:
        """What paints it; None where there is nothing. width, height : 0 for the screen."""
        met = self.met
        if met is None:
            return None
        size = (width or float(self.width()), height or float(self.height()))
        sight = (1.0, 0.0) if width else (self.zoom, self.scrolled)
        key = (met, theme or current(), *size, self.folded, self.titles, *sight)
        if self._made is None or self._made[0] != key:
            made = self._painter(met, theme or current(), *size)
            self._made = key, replace(made, zoom=sight[0], scrolled=sight[1])
        return self._made[1]

    def _painter(self, met: PairAtCut, theme: Theme, width: float, height: float) -> FacesPainter:
        facing, pair, found = met.faced.facing, met.faced.pair, met.crossed
        of = pair.one.of
        faces = [
            Face(title, TreeLook(self._arranged(at, cut), cut, names, (), theme, of=of))
            for title, at, cut, names in (
                (self.titles[0], facing.left, found.one, met.names),
                (self.titles[1], facing.right, found.other, met.others),
            )
        ]
        return FacesPainter(
            faces[0], faces[1], pair.mine, pair.its, found.own, found.moved, theme, width, height
        )

    def _arranged(self, at: Arrangement, cut: Cut) -> Arrangement:
        if not self.folded:
            return at
        return arrange(at.tree, at.flipped, branches_of_cut(at.tree, cut))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is None:
            return
        ground = QPainter(self)
        ground.drawPixmap(0, 0, self._pixels(painter))
        painter.paint_marks(Canvas(ground), self.marked())
        if self.hasFocus() and self._hovered < 0:
            ground.setPen(current().focus)
            ground.drawRect(self.rect().adjusted(0, 0, -1, -1))
        ground.end()

    def _pixels(self, painter: FacesPainter) -> QPixmap:
        """The ground, kept until something but what is marked changes."""
        ratio = self.devicePixelRatioF()
        key = (painter, ratio)
        if self._ground is None or self._ground[0] != key:
            pixels = QPixmap(self.size() * ratio)
            pixels.setDevicePixelRatio(ratio)
            pixels.fill(Qt.GlobalColor.transparent)
            inner = QPainter(pixels)
            painter.paint(Canvas(inner))
            inner.end()
            self._ground = key, pixels
        return self._ground[1]

    # what is marked

    def marked(self) -> tuple[int, ...]:
        """The common cases that are marked, here or in any view."""
        met, grown, mark = self.met, self.focus.grown, self.focus.mark
        if self._hovered >= 0:
            return (self._hovered,)
        if self._over is not None and met is not None:
            right, cluster = self._over
            clusters = met.crossed.its if right else met.crossed.own
            return tuple(np.flatnonzero(clusters == cluster - 1).tolist())
        places = None if met is None else met.places_in(grown)
        if places is None or mark is None or grown is None:
            return ()
        cases = np.concatenate([grown.tree.members(node) for node in self.focus.nodes_of(mark)])
        return tuple(np.flatnonzero(np.isin(places, cases)).tolist())

    def _mark_of(self, common: int) -> Mark | None:
        """The mark of a common case on the tree in hand."""
        return None if self.met is None else mark_in(self.met, common, self.focus.grown)

    def told(self, x: float, y: float) -> str:
        """What is at a point, in words."""
        met, painter = self.met, self.painter()
        if met is None or painter is None:
            return ""
        line = painter.line_at(x, y)
        if line >= 0:
            return self.told_case(line)
        at = painter.cluster_at(x, y)
        if at is None:
            return ""
        right, cluster = at
        names = met.others if right else met.names
        look = (painter.right if right else painter.left).look
        size = int(look.tree.sizes[look.cut.roots[cluster - 1]])
        return f"{names[cluster - 1].told}: {size:,} {look.of}"

    def told_case(self, common: int) -> str:
        """Where a common case is, in words."""
        met = self.met
        assert met is not None
        label = met.faced.pair.one.prepared.labels[int(met.faced.pair.mine[common])]
        here, there = self._names_of(met, common)
        moved = ", elsewhere than its cluster" if met.crossed.moved[common] else ""
        return f"{label}: in {here.told} here, in {there.told} there{moved}"

    def _names_of(self, met: PairAtCut, common: int) -> tuple[Identity, Identity]:
        found = met.crossed
        return met.names[int(found.own[common])], met.others[int(found.its[common])]

    # pointing and keys

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            point = QPointF(event.pos())
            show_tip(event.globalPos(), self.told(point.x(), point.y()), self)
            return True
        return super().event(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        if painter is None:
            return
        if self._held is not None and self.zoom > 1:
            by = (self._held.y() - at.y()) / (painter.body * self.zoom)
            self._held = at
            self._scroll_to(self.scrolled + by)
            return
        line, over = painter.line_at(at.x(), at.y()), painter.cluster_at(at.x(), at.y())
        if (line, over) != (self._hovered, self._over):
            self._hovered, self._over = line, over
            self.focus.hover(self._mark_of(line) if line >= 0 else self._mark_over())
            self.update()

    def _mark_over(self) -> Mark | None:
        """The cluster pointed at, where its tree is in hand."""
        met = self.met
        if met is None or self._over is None:
            return None
        right, cluster = self._over
        pair = met.faced.pair
        here = (pair.other if right else pair.one) is self.focus.grown
        return Mark("cluster", cluster) if here else None

    def leaveEvent(self, event: QEvent) -> None:
        if self._hovered >= 0 or self._over is not None:
            self._hovered, self._over = -1, None
            self.focus.hover(None)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        self._held = at
        if painter is None:
            return
        line = painter.line_at(at.x(), at.y())
        if line >= 0:
            self.focus.select(self._mark_of(line))
            return
        self._over = painter.cluster_at(at.x(), at.y())
        self.focus.select(self._mark_over())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._open()

    def _open(self) -> None:
        selected = self.focus.selected
        if selected is not None and selected.kind == "case":
            self.opened.emit(selected.number)

    def wheelEvent(self, event: QWheelEvent) -> None:
        painter = self.painter()
        if painter is None:
            return
        turns = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._zoom_by(_STEP**turns, (event.position().y() - 26) / painter.body)
        else:
            self._scroll_to(self.scrolled - turns * 0.15 / self.zoom)
        event.accept()

    def _zoom_by(self, factor: float, around: float = 0.5) -> None:
        """around : share of the picture's height that stays where it is."""
        zoom = min(max(self.zoom * factor, 1.0), _MOST)
        held = self.scrolled + min(max(around, 0.0), 1.0) / self.zoom
        self.zoom = zoom
        self._scroll_to(held - min(max(around, 0.0), 1.0) / zoom)

    def _scroll_to(self, share: float) -> None:
        self.scrolled = min(max(share, 0.0), 1.0 - 1.0 / self.zoom)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, keys = event.key(), Qt.Key
        if key in (keys.Key_Plus, keys.Key_Equal):
            self._zoom_by(_STEP)
        elif key == keys.Key_Minus:
            self._zoom_by(1 / _STEP)
        elif key == keys.Key_0:
            self._zoom_by(1 / self.zoom)
        elif key in (keys.Key_PageDown, keys.Key_PageUp):
            way = 1 if key == keys.Key_PageDown else -1
            self._scroll_to(self.scrolled + way * 0.8 / self.zoom)
        elif key in (keys.Key_Down, keys.Key_Up):
            self._step(1 if key == keys.Key_Down else -1)
        elif key == keys.Key_F:
            self.fold(not self.folded)
        elif key in (keys.Key_Return, keys.Key_Enter):
            self._open()
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        """The next case down or up the left tree, of those that both have."""
        painter, marked = self.painter(), self.marked()
        if painter is None or not len(painter.cases):
            return
        order = np.argsort(painter.heights[0], kind="stable")
        at = int(np.flatnonzero(order == marked[0])[0]) + by if len(marked) == 1 else 0
        line = int(order[min(max(at, 0), len(order) - 1)])
        self._hovered, self._over = -1, None
        mark = self._mark_of(line)
        if mark is None:
            self._hovered = line
            self.update()
        else:
            self.focus.select(mark)
        share = float(painter.left.middles[painter.cases[line]])
        if not self.scrolled <= share <= self.scrolled + 1 / self.zoom:
            self._scroll_to(share - 0.5 / self.zoom)

    def sheet(self, title: str) -> Sheet | None:
        """The picture for print."""
        if self.met is None:
            return None

        def draw(canvas: Canvas, width: float, height: float) -> None:
            painter = self.painter(LIGHT, width, height)
            if painter is not None:
                painter.paint(canvas)

        return Sheet(draw, 170.0, 130.0, title=title)
