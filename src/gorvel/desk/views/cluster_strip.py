"""The clusters of the cut in hand as a strip, the key to their colours on every page."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.cluster_strip import ClusterStripChart
from gorvel.paint.theme import Theme

_HIGH = 18  # pixels
_MOST = 400  # clusters of which each has a pixel or more


class ClusterStrip(ChartView[ClusterStripChart, int]):
    """What is pointed at is marked on every view."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__("Clusters", (400, _HIGH), (100, _HIGH), parent=parent)
        self.focus = focus
        self.setFixedHeight(_HIGH)
        WhenSeen(
            self, self.update, focus.cut_changed, focus.tree_changed, focus.titles_changed,
            focus.mark_changed,
        )  # fmt: skip

    @property
    def has_any(self) -> bool:
        """Are there clusters to be shown?"""
        cut = self.focus.cut
        return self.focus.grown is not None and cut is not None and 1 < cut.clusters <= _MOST

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> ClusterStripChart | None:
        grown, cut, mark = self.focus.grown, self.focus.cut, self.focus.mark
        if grown is None or cut is None or not self.has_any:
            return None
        order = np.argsort(grown.tree.starts[cut.roots], kind="stable").tolist()
        marked = mark.number - 1 if mark is not None and mark.kind == "cluster" else -1
        return ClusterStripChart(
            theme, width, height, order, self.focus.identities,
            grown.tree.sizes[cut.roots].tolist(), grown.of, marked,
        )  # fmt: skip

    def point(self, place: int | None) -> None:
        self.focus.hover(None if place is None else Mark("cluster", place + 1))

    def press(self, place: int | None) -> None:
        self.focus.select(None if place is None else Mark("cluster", place + 1))
