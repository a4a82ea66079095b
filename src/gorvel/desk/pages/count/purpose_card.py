"""What clusters are for: sliders that weigh characteristics, and how the counts stand by them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QGridLayout, QSlider, QWidget

from gorvel.core.plan.purposes import CHARACTERISTICS, MOST_WEIGHT, PURPOSES
from gorvel.core.words.count import purpose_words
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.views.count_views import PurposeView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import SPACE


class PurposeCard(QWidget):
    """Clusters are measured when it is looked at; weights are part of the plan."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.view = PurposeView(counting)
        self.says = text(soft=True)
        self.says.setAccessibleName("Numbers of clusters ranked by this purpose")
        self.sliders: dict[str, QSlider] = {}
        self.bar = JobBar(self._show_work, at_once=True)
        self.bar.setMinimumWidth(40)
        self.stop = button("Stop", counting.work["purpose"].stop, "link")
        self.ask = button("Measure", counting.questions.measure, "",
                          "Compute characteristics of clusters and random groupings")  # fmt: skip
        self.take = TakeAway.of(actions, "purpose")
        head = in_row(
            heading("What are your clusters for?"), None, self.bar, self.stop, self.ask,
            self.take,
        )  # fmt: skip
        fill(self, head, self._usual(), self._weights(), (self.view, 1), self.says)
        WhenSeen(self, self._follow, counting.changed, counting.focus.shelf.plan_changed)
        self._follow()
        self.bar.watch_work(counting.work["purpose"])

    def _usual(self) -> QWidget:
        take = self.counting.questions.weigh
        return flowing(
            *(
                button(one.name, partial(take, dict(one.weights)), "", one.tip)
                for one in PURPOSES.values()
            )
        )

    def _weights(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE)
        grid.setVerticalSpacing(2)
        half = (len(CHARACTERISTICS) + 1) // 2
        for place, (key, one) in enumerate(CHARACTERISTICS.items()):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(0, MOST_WEIGHT)
            slider.setPageStep(1)
            slider.setTracking(False)
            slider.setMinimumWidth(36)
            slider.setAccessibleName(f"Weight: {one.name}")
            name = text(one.name, wrap=False)
            for widget in (slider, name):
                widget.setToolTip(as_tip(f"{one.formula} ({one.source})"))
            slider.valueChanged.connect(self._weigh)
            self.sliders[key] = slider
            column = 0 if place < half else 2
            grid.addWidget(name, place % half, column)
            grid.addWidget(slider, place % half, column + 1)
        return grid

    def _weigh(self) -> None:
        self.counting.questions.weigh(
            {key: float(slider.value()) for key, slider in self.sliders.items()}
        )

    def showEvent(self, event: QShowEvent) -> None:
        self.counting.questions.measure_at_once()
        super().showEvent(event)

    def _follow(self) -> None:
        weights = self.counting.asked.purpose
        for key, slider in self.sliders.items():
            with QSignalBlocker(slider):
                slider.setValue(round(weights.get(key, 0.0)))
        found, board = self.counting.checks.purpose, self.counting.board
        self.ask.setEnabled(self.counting.complete)
        if found is None or board is None:
            self.says.setText(
                "Clusters at each count are held against random groupings of the same cases; what"
                " matters to you decides how the counts stand."
            )
        else:
            stable = board.coming_back(found.counts)
            self.says.setText(purpose_words(found, weights, stable))
        self.view.update()
        if self.isVisible():
            self.counting.questions.measure_at_once()

    def _show_work(self, working: bool) -> None:
        self.ask.setVisible(not working and self.counting.checks.purpose is None)
        for widget in (self.bar, self.stop):
            widget.setVisible(working)
