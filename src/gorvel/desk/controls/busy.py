"""A line that shows how far reading a file is, with a way to stop it."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from gorvel.core.base.progress import Phase, progress_words
from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.growing import PATIENCE, progress_bar
from gorvel.desk.controls.texts import button, text
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.jobs import Job
from gorvel.paint.theme import SPACE


class BusyBar(QWidget):
    """Hidden while nothing is read, and for reading that is over at once."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = text(soft=True, wrap=False)
        self.bar = progress_bar()
        self.stop = button("Stop", actions.stop_reading, tip="Keep what was open before")
        fill_row(
            self, self.words, (self.bar, 1), self.stop, space=2 * SPACE,
            edges=(3 * SPACE, 0, 3 * SPACE, 0),
        )  # fmt: skip
        self._patience = QTimer(self, singleShot=True, interval=PATIENCE)
        self._patience.timeout.connect(self.show)
        self.hide()
        actions.reading.connect(self._follow)

    def _follow(self, job: Job | None) -> None:
        self._patience.stop()
        if job is None:
            self.hide()
            return
        self.bar.setValue(0)
        self.words.setText("Reading the file …")
        job.progressed.connect(self._tell)
        self._patience.start()

    def _tell(self, phase: Phase, share: float, left: float) -> None:
        self.bar.setValue(round(1000 * share))
        self.words.setText(progress_words(phase, share, left))
