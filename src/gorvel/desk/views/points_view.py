"""Cases in a plane: pointed at, clicked, walked through with the keys; what is marked is shared."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.profile.planes import Clusters
from gorvel.core.scene.points import Points
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.chart_view import ARROWS, ChartView
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import PointsChart, PointsPlace
from gorvel.paint.theme import Theme


def clusters_now(focus: Focus, finer: bool = False) -> Clusters | None:
    """Those of the cut in hand. finer : with what one more cluster would split."""
    grown, cut = focus.grown, focus.cut
    if grown is None or cut is None:
        return None
    return Clusters.of(grown.tree, cut, focus.identities_of, focus.stays, finer)


class PointsView(ChartView[PointsChart, PointsPlace]):
    """more : what is said of a case that is pointed at, besides its cluster.

    Signals: opened(case), by a double click or Enter.
    """

    opened = Signal(int)

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
        return super().framed and chart is not None and chart.selected < 0

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
