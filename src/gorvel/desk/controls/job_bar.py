"""A bar that shows how far a job is: shown after a little patience, with words beside it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLabel, QProgressBar

from gorvel.core.base.progress import Phase, progress_words
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import Job

_PATIENCE = 250  # milliseconds before progress is shown, so that short work does not flicker


class JobBar(QProgressBar):
    """Follows one job after the other.

    show_work : shows or hides what stands there while there is work; says : where it is, in words,
    else the tip says so; at_once : without patience.
    """

    def __init__(
        self, show_work: Callable[[bool], None], says: QLabel | None = None, at_once: bool = False
    ) -> None:
        super().__init__()
        self.setTextVisible(False)
        self.setRange(0, 1000)
        self._show_work, self._says = show_work, says
        self._patience = QTimer(self, singleShot=True, interval=0 if at_once else _PATIENCE)
        self._patience.timeout.connect(lambda: show_work(True))

    def setValue(self, value: int) -> None:
        """Be painted with the rest of the window.

        The usual one is painted as soon as it is told something, and whatever else has changed with
        it: half of a page, which is painted once more when it is whole.
        """
        if value != self.value():
            self.setUpdatesEnabled(False)
            super().setValue(value)
            self.setUpdatesEnabled(True)

    def watch(self, job: Job | None, words: str = "") -> None:
        """Follow a job, None for none any more. words : said while nothing is known of it."""
        self._patience.stop()
        if job is None:
            self._show_work(False)
            return
        self.setValue(0)
        if self._says is not None:
            self._says.setText(words)
        job.progressed.connect(self._tell)
        if self._patience.interval():
            self._patience.start()
        else:
            self._show_work(True)

    def watch_work(self, inquiry: Inquiry) -> None:
        """Follow the work on a question, begun before or later."""
        inquiry.worked.connect(self.watch)
        self.watch(inquiry.job)

    def _tell(self, phase: Phase, share: float, left: float) -> None:
        self.setValue(round(1000 * share))
        words = progress_words(phase, share, left)
        if self._says is None:
            self.setToolTip(as_tip(words))
        else:
            self._says.setText(words)
