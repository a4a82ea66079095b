"""Charts of the answers: variables close up, patterns of gaps, correlations."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.inspect.associations import CorrelationMap
from gorvel.core.inspect.close_up import CloseUp
from gorvel.core.inspect.missing_patterns import Gaps
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.associations import AssociationsChart
from gorvel.paint.charts.close_up import CloseUpChart
from gorvel.paint.charts.gaps import GapsChart
from gorvel.paint.theme import Theme


class DetailView(ChartView[CloseUpChart, None]):
    """Draws what it is given; computes nothing."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Distribution of the selected variable", parent=parent)
        self.close_up = CloseUp("")  # nothing yet

    def show_close_up(self, close_up: CloseUp) -> None:
        """Show a chart, or only words where there is none."""
        self.close_up = close_up
        self.setAccessibleDescription(close_up.title)
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> CloseUpChart:
        return CloseUpChart(theme, width, height, self.close_up)


class GapsView(ChartView[GapsChart, str]):
    """Draws what it is given; the pointer tells which variable it is over."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Patterns of missing answers", parent=parent)
        self.gaps: Gaps | None = None

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> GapsChart | None:
        return None if self.gaps is None else GapsChart(theme, width, height, self.gaps)

    def can_press(self, place: str | None) -> bool:
        return False

    def show_gaps(self, gaps: Gaps | None) -> None:
        """Show the patterns of a study."""
        self.gaps = gaps
        self.keep_size()
        self.update()


class CorrelationView(ChartView[AssociationsChart, tuple[int, int]]):
    """Signals: pair_chosen(first, second), when a cell is clicked."""

    pair_chosen = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Correlations of the active variables", parent=parent)
        self.map: CorrelationMap | None = None

    def show_map(self, found: CorrelationMap | None) -> None:
        """Show the correlations of a study."""
        self.map = found
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> AssociationsChart:
        return AssociationsChart(theme, width, height, self.map)

    def can_press(self, place: tuple[int, int] | None) -> bool:
        return place is not None and place[0] != place[1]

    def press(self, place: tuple[int, int] | None) -> None:
        if place is not None and self.map is not None and place[0] != place[1]:
            self.pair_chosen.emit(self.map.names[place[0]], self.map.names[place[1]])
