"""The clusters side by side: pointed at, clicked, and walked through with the keys."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Literal

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QMoveEvent, QPaintEvent
from PySide6.QtWidgets import QMenu, QWidget

from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import Beside, CellFigure, Profiles, SpreadKind
from gorvel.core.profile.spread import Spread
from gorvel.core.tree.cluster_names import by_letter
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.plain_text import as_item
from gorvel.desk.state.focus import Focus
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.lanes import LanesChart
from gorvel.paint.charts.lanes_layout import LanesPlace
from gorvel.paint.theme import Theme

_Key = Qt.Key


class LanesView(ChartView[LanesChart, LanesPlace]):
    """figure, kind, spreads, beside : as of the chart.

    Signals: chosen(cluster), the number from 0 of a column or letter that was clicked;
    pointed(row, cluster), -1 for none; hidden(name of a question), it is not wanted; reached(row),
    by keys.
    """

    chosen = Signal(int)
    pointed = Signal(int, int)
    hidden = Signal(str)
    reached = Signal(int)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        name = "What the clusters are like"
        super().__init__(name, (640, 420), keys=True, grows=True, parent=parent)
        self.focus = focus
        self.lanes: list[Lane] = []
        self.place: LanesPlace = LanesPlace()
        self.selected = -1
        self.figure: CellFigure = "mean"
        self.kind: SpreadKind | Literal[""] = ""
        self.common = False  # are lanes on one scale?
        self.spreads: Mapping[str, Spread] = {}
        self.beside: Beside | None = None

    @property
    def row(self) -> int:
        """The row that is pointed at, -1 for none."""
        return self.place.row

    @property
    def cluster(self) -> int:
        """The cluster that is pointed at, -1 for none."""
        return self.place.cluster

    def show_lanes(self, lanes: list[Lane]) -> None:
        """Show these, in this order."""
        self.lanes = lanes
        self.place = LanesPlace(self.row if self.row < len(lanes) else -1, other=self.place.other)
        chart = self.chart()
        self.setMinimumSize(*((0, 0) if chart is None else map(int, chart.least)))
        self.update()

    @property
    def order(self) -> list[int]:
        """Clusters (from 0) by their letters."""
        return [] if self.focus.cut is None else by_letter(self.focus.identities)

    @property
    def profiles(self) -> Profiles:
        """What is shown, and how."""
        return Profiles(self.lanes, self.figure, self.kind, self.spreads, self.beside, self.common)

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> LanesChart | None:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or not self.lanes:
            return None
        chart = LanesChart.of(
            theme, width, height, self.profiles, grown, cut, self.focus.identities
        )
        if not screen:
            return chart
        return replace(
            chart, row=self.row, cluster=self.cluster, selected=self.selected, above=self.above
        )

    def paint_ground(self, chart: LanesChart, canvas: Canvas, event: QPaintEvent | None) -> None:
        span = None if event is None else (event.rect().top(), event.rect().bottom())
        chart.paint(canvas, span)

    @property
    def framed(self) -> bool:
        """The row is marked instead."""
        return False

    @property
    def above(self) -> float:
        """Pixels that are scrolled out of sight above, where the head stays."""
        return max(-float(self.y()), 0.0)

    def moveEvent(self, event: QMoveEvent) -> None:
        super().moveEvent(event)
        self.update()

    # pointing

    def point(self, place: LanesPlace | None) -> None:
        """A row and a cluster, or a group of the other grouping, are looked at."""
        place = place or LanesPlace()
        if place != self.place:
            super().point(place)
            self.pointed.emit(place.row, place.cluster)

    def can_press(self, place: LanesPlace | None) -> bool:
        return place is not None and place.cluster >= 0

    def press(self, place: LanesPlace | None) -> None:
        if place is not None and place.cluster >= 0:
            self.choose(place.cluster)

    def choose(self, cluster: int) -> None:
        """Select a cluster (from 0)."""
        self.selected = cluster
        self.chosen.emit(cluster)
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row, cluster, _ = self.at(QPointF(event.pos())) or LanesPlace()
        menu = delete_on_close(QMenu(self))
        if row >= 0:
            name = self.lanes[row].name
            menu.addAction(as_item(f"Hide “{name}”"), partial(self.hidden.emit, name))
        if cluster >= 0:
            called = self.focus.identities[cluster].told
            menu.addAction(as_item(f"Show {called}"), partial(self.choose, cluster))
        if menu.actions():
            menu.exec(event.globalPos())

    # keys

    def key(self, key: Qt.Key) -> bool:
        order = self.order
        if not self.lanes:
            return False
        if key in (_Key.Key_Up, _Key.Key_Down):
            step = 1 if key == _Key.Key_Down else -1
            row = min(max(self.row + step, 0), len(self.lanes) - 1)
            self.point(LanesPlace(row, self.cluster))
            self.reached.emit(row)
        elif key in (_Key.Key_Left, _Key.Key_Right) and order:
            step = 1 if key == _Key.Key_Right else -1
            here = order.index(self.cluster) + step if self.cluster in order else 0
            cluster = order[min(max(here, 0), len(order) - 1)]
            self.point(LanesPlace(max(self.row, 0), cluster))
        elif key in (_Key.Key_Return, _Key.Key_Space) and self.cluster >= 0:
            self.choose(self.cluster)
        elif key == _Key.Key_Delete and self.row >= 0:
            self.hidden.emit(self.lanes[self.row].name)
        else:
            return False
        return True
