"""A line that shows how far reading a file is, with a way to stop it."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import button, text
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import Job
from gorvel.paint.theme import SPACE


class BusyBar(QWidget):
    """Hidden while nothing is read, and for reading that is over at once."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = text(soft=True, wrap=False)
        self.bar = JobBar(self.setVisible, self.words)
        self.stop = button("Stop", actions.stop_reading, tip="Keep what was open before")
        fill_row(
            self, self.words, (self.bar, 1), self.stop, space=2 * SPACE,
            edges=(3 * SPACE, 0, 3 * SPACE, 0),
        )  # fmt: skip
        self.hide()
        actions.reading.connect(self._follow)

    def _follow(self, job: Job | None) -> None:
        self.bar.watch(job, "Reading the file …")
