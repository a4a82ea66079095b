"""Cases in a plane: pointed at, clicked, walked through with the keys; what is marked is shared."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.scene.points import splits_next
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.chart_view import ARROWS, ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import Points, PointsChart, PointsPlace
from gorvel.paint.theme import Theme

Floats = NDArray[np.float64]

_LOOSE = 0.5  # of the other trees: a case that stays less often with its cluster


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


class PointsView(ChartView[PointsChart, PointsPlace]):
    """more : what is said of a case that is pointed at, besides its cluster.

    Signals: opened(case), by a double click or Enter.
    """

    opened = Signal(int)
    paper = (150.0, 120.0)

    def __init__(
        self, focus: Focus, name: str, more: Callable[[int], str] | None = None,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(name, (640, 480), (220, 180), keys=True, grows=True, parent=parent)
        self.focus, self._more = focus, more
        self.points: Points | None = None
        focus.mark_changed.connect(self._marked)

    def _marked(self) -> None:
        self.update()

    def show_points(self, points: Points | None) -> None:
        """Show these."""
        self.points = points
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> PointsChart | None:
        if self.points is None:
            return None
        selected, hovered, cluster = -1, -1, -1
        n = len(self.points.own)
        for mark, over in ((self.focus.selected, False), (self.focus.hovered, True)):
            if mark is None or not screen:
                continue
            if mark.kind == "case" and mark.number < n:
                selected, hovered = (selected, mark.number) if over else (mark.number, hovered)
            elif mark.kind == "cluster":
                cluster = mark.number - 1
        return PointsChart(theme, width, height, self.points, selected, hovered, cluster)

    def ground_key(self, chart: PointsChart) -> object:
        return self.points, chart.theme, chart.cluster

    def paint_ground(self, chart: PointsChart, canvas: Canvas, event: QPaintEvent | None) -> None:
        chart.paint_ground(canvas)

    def paint_marks(self, chart: PointsChart, canvas: Canvas) -> None:
        chart.paint_marks(canvas)

    @property
    def framed(self) -> bool:
        chart = self.chart()
        return self.hasFocus() and chart is not None and chart.selected < 0

    # pointing

    def point(self, place: PointsPlace | None) -> None:
        self.focus.hover(_mark_of(place))

    def press(self, place: PointsPlace | None) -> None:
        self.focus.select(_mark_of(place))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        super().mousePressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        place = self.at(event.position())
        if place is not None and place.kind == "case":
            self.opened.emit(place.number)

    def words(self, place: PointsPlace) -> str:
        grown, names = self.focus.grown, self.focus.identities
        if grown is None or self.points is None:
            return ""
        if place.kind == "cluster":
            return names[place.number].told
        own = names[int(self.points.own[place.number])].told
        more = self._more(place.number) if self._more is not None else ""
        return f"{grown.prepared.labels[place.number]}, in {own}{more}"

    def key(self, key: Qt.Key) -> bool:
        chart, step, selected = self.chart(), ARROWS.get(key), self.focus.selected
        if chart is not None and step is not None:
            case = chart.next_case(chart.selected, *step)
            if case >= 0:
                self.focus.select(Mark("case", case))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and selected is not None:
            if selected.kind == "case":
                self.opened.emit(selected.number)
        else:
            return False
        return True


def _mark_of(place: PointsPlace | None) -> Mark | None:
    if place is None:
        return None
    return Mark(place.kind, place.number + (place.kind == "cluster"))


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
