"""The silhouettes of all cases at the count in hand and, beside it, at another."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.chart_view import ChartView
from gorvel.desk.work.counting import Counting
from gorvel.paint.charts.silhouettes import Bar, SilhouettesChart
from gorvel.paint.theme import Theme


class SilhouettesView(ChartView[SilhouettesChart, Bar]):
    """A click on a bar selects the case, in all views."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__("Silhouettes of the cases", (420, 230), (0, 80), parent=parent)
        self.counting, self.focus = counting, counting.focus
        self.other = 0  # the count beside, 0 for none
        for signal in (counting.changed, self.focus.cut_changed, self.focus.mark_changed):
            signal.connect(self.update)

    def count(self) -> int:
        """In hand."""
        return self.focus.cut.clusters if self.focus.cut is not None else 0

    def beside(self, count: int) -> None:
        """Show another count as well; 0 for none."""
        self.other = count
        self.update()

    def names(self, count: int) -> list[Identity]:
        """Of the clusters of a count."""
        assert self.focus.grown is not None
        return self.focus.identities_of(cut_at_count(self.focus.grown.tree, count))

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> SilhouettesChart | None:
        counts = [self.count()]
        if self.other and self.other != self.count():
            counts.append(self.other)
        found = [self.counting.silhouettes(count) for count in counts]
        shown = [(one, self.names(one.count)) for one in found if one is not None]
        grown, mark = self.focus.grown, self.focus.mark
        if grown is None or not shown:
            return None
        marked = mark.number if screen and mark is not None and mark.kind == "case" else -1
        return SilhouettesChart(theme, width, height, shown, grown.prepared.labels, marked)

    def _mark_of(self, place: Bar | None) -> Mark | None:
        chart = self.chart()
        if place is None or chart is None:
            return None
        return Mark("case", chart.case_of(place))

    def point(self, place: Bar | None) -> None:
        self.focus.hover(self._mark_of(place))

    def press(self, place: Bar | None) -> None:
        self.focus.select(self._mark_of(place))
