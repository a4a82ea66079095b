"""What becomes of the answers at the ends of a variable: kept, capped, or their cases left out."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QHBoxLayout, QWidget

from gorvel.core.base.numbers import number
from gorvel.core.inspect.close_up import Bounded
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.texts import text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import font

_HANDLINGS = {"keep": "Keep as they are", "cap": "Cap at these limits", "trim": "Exclude the case"}


class BoundsBar(QWidget):
    """Percentiles and what to do beyond them; each change is a step that can be taken back."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.bounded: Bounded | None = None
        self.low, self.high = (self._percentile(words) for words in ("Lower", "Upper"))
        self.handling = QComboBox()
        self.handling.setFont(font())
        self.handling.setAccessibleName("Answers outside these limits")
        for key, words in _HANDLINGS.items():
            self.handling.addItem(words, key)
        self.handling.currentIndexChanged.connect(self._changed)
        self.said = text(soft=True)
        row = QHBoxLayout()
        fill(self, row, self.said, space=None)
        for part in ("Outside", self.low, "and", self.high, "answers", self.handling):
            row.addWidget(text(part, wrap=False) if isinstance(part, str) else part)
        row.addStretch(1)

    def _percentile(self, end: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setFont(font())
        box.setRange(0, 100)
        box.setDecimals(1)
        box.setSuffix("%")
        box.setKeyboardTracking(False)
        box.setAccessibleName(f"{end} percentile")
        box.valueChanged.connect(self._changed)
        return box

    def show_bounded(self, bounded: Bounded | None) -> None:
        """Show the ends of a variable; hidden where there is none to show."""
        self.bounded = bounded
        self.setVisible(bounded is not None)
        if bounded is None:
            return
        for widget in (self.low, self.high, self.handling):
            widget.blockSignals(True)
        self.low.setValue(bounded.percentiles[0])
        self.high.setValue(bounded.percentiles[1])
        self.handling.setCurrentIndex(self.handling.findData(bounded.handling))
        for widget in (self.low, self.high, self.handling):
            widget.blockSignals(False)
        low, high = bounded.ends
        self.said.setText(
            f"{bounded.beyond:,} answers lie below {number(low)} or above {number(high)}."
        )

    def _changed(self) -> None:
        plan, bounded = self.focus.shelf.plan, self.bounded
        low, high = self.low.value(), self.high.value()
        if plan is None or bounded is None:
            return
        if low >= high:
            with QSignalBlocker(self.low), QSignalBlocker(self.high):
                self.low.setValue(bounded.percentiles[0])
                self.high.setValue(bounded.percentiles[1])
            return
        parts = {
            key: {k: list(v) for k, v in getattr(plan.variables, key).items()}
            for key in ("cap", "trim")
        }
        for part in parts.values():
            part.pop(bounded.variable, None)
        handling = self.handling.currentData()
        if handling in parts:
            parts[handling][bounded.variable] = [low, high]
        self.bounded = Bounded(
            bounded.variable, handling, (low, high), bounded.ends, bounded.beyond
        )
        self.focus.shelf.change("variables", **parts)
