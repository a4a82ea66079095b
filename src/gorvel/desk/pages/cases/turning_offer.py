"""A line that offers to turn answers into numbers, where there are some."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import counted
from gorvel.core.words.proposals import whole_words
from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.texts import button, text
from gorvel.desk.work.derived_variables import Turning
from gorvel.paint.theme import SPACE


class TurningOffer(QWidget):
    """Hidden where nothing waits to be turned. Signals: wanted()."""

    wanted = Signal()

    def __init__(self, turning: Turning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.turning, self._offered = turning, True
        self.says = text(wrap=False)
        self.go = button("Convert answers to numbers …", self.wanted.emit, "main", "Ctrl+E")
        fill_row(self, self.says, self.go, None, space=2 * SPACE)
        turning.changed.connect(self._follow)
        turning.focus.shelf.columns_changed.connect(self._follow)
        self._follow()

    def show_offer(self, on: bool) -> None:
        """Offer it, or not, while it is done."""
        self._offered = on
        self._follow()

    def _follow(self) -> None:
        table = self.turning.table
        waits = any(p.makes_something and p.sure for p in self.turning.proposals)
        made = self.turning.so_far
        bad = 0 if made is None else sum(len(cell.rows) for cell in made.unturned)
        self.setVisible(self._offered and table is not None and (waits or bad > 0))
        self.says.setProperty("alarm", bad > 0)
        self.says.style().polish(self.says)
        if bad:
            self.says.setText(
                f"{counted(bad, 'cell')} cannot be converted into what the plan creates."
            )
        elif table is not None:
            self.says.setText(f"{whole_words(self.turning.proposals, len(table.names))}.")
