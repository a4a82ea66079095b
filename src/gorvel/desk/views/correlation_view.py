"""The correlation map: the stronger, the darker; groups that say the same are framed."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import fixed
from gorvel.core.inspect.associations import CorrelationMap
from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.charts.associations import AssociationsChart
from gorvel.paint.theme import current


class CorrelationView(QWidget):
    """Signals: pair_chosen(first, second), when a cell is clicked."""

    pair_chosen = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.map: CorrelationMap | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Correlations of the active variables")

    def show_map(self, found: CorrelationMap | None) -> None:
        """Show the correlations of a study."""
        self.map = found
        self.update()

    def chart(self) -> AssociationsChart:
        """What is painted."""
        return AssociationsChart(self.map, current(), self.width(), self.height())

    def cell(self) -> float:
        """Pixels a cell has."""
        return self.chart().cell()

    def pair_at(self, point: QPointF) -> tuple[int, int] | None:
        """The row and column at a pixel."""
        return self.chart().pair_at(point)

    def title(self) -> str:
        """What there is to see, in words."""
        return self.chart().title()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            self.chart().paint(painter)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pair = self.pair_at(event.position())
        if pair is None or self.map is None:
            self.setToolTip("")
            return
        value = float(self.map.values[pair])
        name = self.map.coefficients[pair[0]][pair[1]]
        words = f"{name} not defined" if np.isnan(value) else f"{name} = {fixed(value, 3)}"
        if pair[0] == pair[1]:
            self.setToolTip(as_tip(self.map.names[pair[0]]))
            return
        first, second = (self.map.names[k] for k in pair)
        self.setToolTip(as_tip(f"{first} and {second}: {words}. Click to see them."))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        pair = self.pair_at(event.position())
        if pair is not None and self.map is not None and pair[0] != pair[1]:
            self.pair_chosen.emit(self.map.names[pair[0]], self.map.names[pair[1]])
