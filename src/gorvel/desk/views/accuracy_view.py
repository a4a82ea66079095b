"""How many cases a short form gives right, by its number of questions."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.profile.short_form import ShortForm
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.accuracy import paint_accuracy, question_at
from gorvel.paint.theme import current


class AccuracyView(QWidget):
    """Signals: chosen(questions), a click on so many."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.form: ShortForm | None = None
        self.chance = 0.0
        self.count = 0
        self.setMinimumHeight(130)
        self.setAccessibleName("Accuracy by the number of questions")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(380, 180)

    def show_form(self, form: ShortForm | None, chance: float, count: int) -> None:
        """chance : share given right by naming the largest cluster; count : questions in hand."""
        self.form, self.chance, self.count = form, chance, count
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.form is not None:
            painter = QPainter(self)
            paint_accuracy(Canvas(painter), self.form, self.chance, self.count, current(),
                           self.width(), self.height())  # fmt: skip
            painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.form is not None:
            questions = question_at(self.form, event.position().x(), self.width())
            if questions:
                self.chosen.emit(questions)
