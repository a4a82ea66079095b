"""How many cases a short form gives right, by its number of questions."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.profile.short_form import ShortForm
from gorvel.desk.views.chart_view import ChartView
from gorvel.paint.charts.accuracy import AccuracyChart
from gorvel.paint.theme import Theme


class AccuracyView(ChartView[AccuracyChart, int]):
    """Signals: chosen(questions), a click on so many."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        name = "Accuracy by the number of questions"
        super().__init__(name, (380, 180), (0, 130), parent=parent)
        self.form: ShortForm | None = None
        self.chance = 0.0
        self.count = 0

    def show_form(self, form: ShortForm | None, chance: float, count: int) -> None:
        """chance : share given right by naming the largest cluster; count : questions in hand."""
        self.form, self.chance, self.count = form, chance, count
        self.update()

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> AccuracyChart | None:
        if self.form is None:
            return None
        return AccuracyChart(theme, width, height, self.form, self.chance, self.count)

    def press(self, place: int | None) -> None:
        if place:
            self.chosen.emit(place)
