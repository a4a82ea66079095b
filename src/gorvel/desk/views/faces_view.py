"""Two trees face to face: pointed at, followed, zoomed, folded; what is marked is shared."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.tree.cluster_names import Identity
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark, mark_in
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.faces import FacesChart, FacesPlace
from gorvel.paint.theme import Theme

_STEP = 1.25  # of the zoom, by a turn of the wheel
_MOST = 200.0
_FOLDED_FROM = 6_000  # cases from which clusters are folded at first


class FacesView(ChartView[FacesChart, FacesPlace]):
    """titles : of the two trees.

    Signals: opened(case), a double click or Enter on a case of the tree in hand; turned(folded).
    """

    opened = Signal(int)
    turned = Signal(bool)
    paper = (170.0, 130.0)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        name = "Two trees face to face"
        super().__init__(name, (620, 420), (320, 200), keys=True, grows=True, parent=parent)
        self.focus = focus
        self.met: PairAtCut | None = None
        self.titles = ("", "")
        self.folded = False
        self._by_hand = False  # was it said whether clusters are folded
        self.zoom, self.scrolled = 1.0, 0.0
        self._held: QPointF | None = None
        self._kept: tuple[tuple[object, ...], FacesChart] | None = None
        focus.mark_changed.connect(self._marked)

    def _marked(self) -> None:
        self.update()

    def show_met(self, met: PairAtCut | None, titles: tuple[str, str]) -> None:
        """Show these two."""
        another = met is None or self.met is None or met.faced is not self.met.faced
        self.met, self.titles = met, titles
        if another:
            self.zoom, self.scrolled, self.place = 1.0, 0.0, None
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

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> FacesChart | None:
        met = self.met
        if met is None:
            return None
        sight = (self.zoom, self.scrolled) if screen else (1.0, 0.0)
        key = (met, theme, width, height, self.folded, self.titles, *sight)
        if self._kept is None or self._kept[0] != key:
            chart = FacesChart.of(theme, width, height, met, self.titles, self.folded)
            self._kept = key, replace(chart, zoom=sight[0], scrolled=sight[1])
        return self._kept[1]

    def ground_key(self, chart: FacesChart) -> object:
        return chart

    def paint_marks(self, chart: FacesChart, canvas: Canvas) -> None:
        chart.paint_marks(canvas, self.marked())

    @property
    def framed(self) -> bool:
        return super().framed and (self.place is None or self.place.line < 0)

    # what is marked

    def marked(self) -> tuple[int, ...]:
        """The common cases that are marked, here or in any view."""
        met, grown, mark = self.met, self.focus.grown, self.focus.mark
        if self.place is not None and self.place.line >= 0:
            return (self.place.line,)
        if self.place is not None and met is not None:
            clusters = met.crossed.its if self.place.right else met.crossed.own
            return tuple(np.flatnonzero(clusters == self.place.cluster - 1).tolist())
        places = None if met is None else met.places_in(grown)
        if places is None or mark is None or grown is None:
            return ()
        cases = np.concatenate([grown.tree.members(node) for node in self.focus.nodes_of(mark)])
        return tuple(np.flatnonzero(np.isin(places, cases)).tolist())

    def _mark_of(self, place: FacesPlace | None) -> Mark | None:
        """The mark of a place on the tree in hand, None where it is on the other one."""
        met = self.met
        if met is None or place is None:
            return None
        if place.line >= 0:
            return mark_in(met, place.line, self.focus.grown)
        pair = met.faced.pair
        here = (pair.other if place.right else pair.one) is self.focus.grown
        return Mark("cluster", place.cluster) if here else None

    def words(self, place: FacesPlace) -> str:
        met, chart = self.met, self.chart()
        if met is None or chart is None:
            return ""
        if place.line >= 0:
            return self.told_case(place.line)
        names = met.others if place.right else met.names
        look = (chart.right if place.right else chart.left).look
        size = int(look.tree.sizes[look.cut.roots[place.cluster - 1]])
        return f"{names[place.cluster - 1].told}: {size:,} {look.of}"

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

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        chart, at = self.chart(), event.position()
        if chart is not None and self._held is not None and self.zoom > 1:
            by = (self._held.y() - at.y()) / (chart.body * self.zoom)
            self._held = at
            self._scroll_to(self.scrolled + by)
        elif chart is not None:
            super().mouseMoveEvent(event)

    def point(self, place: FacesPlace | None) -> None:
        if place != self.place:
            super().point(place)
            self.focus.hover(self._mark_of(place))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()
        super().mousePressEvent(event)

    def press(self, place: FacesPlace | None) -> None:
        self.place = place
        self.focus.select(self._mark_of(place))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._open()

    def _open(self) -> None:
        selected = self.focus.selected
        if selected is not None and selected.kind == "case":
            self.opened.emit(selected.number)

    def wheelEvent(self, event: QWheelEvent) -> None:
        chart = self.chart()
        if chart is None:
            return
        turns = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._zoom_by(_STEP**turns, (event.position().y() - 26) / chart.body)
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

    def key(self, key: Qt.Key) -> bool:
        keys = Qt.Key
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
            return False
        return True

    def _step(self, by: int) -> None:
        """The next case down or up the left tree, of those that both have."""
        chart, marked = self.chart(), self.marked()
        if chart is None or not len(chart.cases):
            return
        order = np.argsort(chart.heights[0], kind="stable")
        at = int(np.flatnonzero(order == marked[0])[0]) + by if len(marked) == 1 else 0
        line = int(order[min(max(at, 0), len(order) - 1)])
        self.place = None
        mark = self._mark_of(FacesPlace(line))
        if mark is None:
            self.place = FacesPlace(line)
            self.update()
        else:
            self.focus.select(mark)
        share = float(chart.left.middles[chart.cases[line]])
        if not self.scrolled <= share <= self.scrolled + 1 / self.zoom:
            self._scroll_to(share - 0.5 / self.zoom)
