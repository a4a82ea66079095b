"""What went wrong, in a line across the window that stays until it is dismissed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QWidget

from gorvel.desk.controls.about import report_button
from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.texts import button, clear, text
from gorvel.paint.theme import SPACE


class Alarm(QWidget):
    """Hidden while all is well.

    mend : looks at how a file is read, where that may be why; save : brings the study into safety
    after a defect.
    """

    def __init__(
        self, mend: Callable[[], object], save: Callable[[], object], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.words = text(weight=600)
        self.words.setProperty("alarm", True)
        self.words.setAccessibleName("Error")
        self.mend = button("Open with options …", mend, "link")
        self._report = QHBoxLayout()
        fill_row(
            self, (self.words, 1), self.mend, self._report, button("Dismiss", self.hide, "link"),
            space=None, edges=(2 * SPACE, 0, 2 * SPACE, 0),
        )  # fmt: skip
        self._stays, self._save = False, save
        self.hide()

    @property
    def told(self) -> tuple[str, bool]:
        """What is said, and whether it is a defect; "" for nothing."""
        return ("" if self.isHidden() else self.words.text()), self._stays

    def settle(self) -> None:
        """All is well again; a defect stays until it is dismissed."""
        if not self._stays:
            self.hide()

    def tell(self, words: str, defect: bool = False) -> None:
        """Say what went wrong. defect : it is ours, of which a report can be copied."""
        self.mend.hide()
        clear(self._report)
        if defect:
            self.report = report_button("link")
            self._report.addWidget(self.report)
            self._report.addWidget(button("Save the study …", self._save, "link"))
        self._stays = defect
        self.words.setText(words)
        self.show()
