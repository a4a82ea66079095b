"""Bars of work: how far something is, the way out, and the way back in."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import button, text
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import Job
from gorvel.paint.theme import SPACE


class InquiryBar(QWidget):
    """Hidden while there is nothing to say.

    again : begins the work that was stopped; words : said while nothing is known of its progress;
    mendable : what stands in the way can be mended outside the program, so that it is tried again.
    """

    def __init__(
        self, inquiry: Inquiry, again: Callable[[], None], words: str,
        parent: QWidget | None = None, *, mendable: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.inquiry, self._words, self._mendable = inquiry, words, mendable
        self.says = text(soft=True)
        self.bar = JobBar(self.setVisible, self.says)
        self.stop = button("Stop", inquiry.stop, "link")
        self.again = button("Compute", again)
        fill_row(self, (self.says, 1), self.bar, self.stop, self.again, space=2 * SPACE)
        inquiry.worked.connect(self._worked)
        inquiry.changed.connect(self._follow)
        self._worked(inquiry.job)

    def _worked(self, job: Job | None) -> None:
        self.hide()
        self.bar.watch(job, self._words)
        self._follow()

    def _follow(self) -> None:
        working = self.inquiry.job is not None
        for widget in (self.bar, self.stop):
            widget.setVisible(working)
        failed = bool(self.inquiry.problem) and self._mendable
        self.again.setVisible(self.inquiry.stopped or failed)
        self.again.setText("Run again" if failed else "Compute")
        if working:
            return
        self.says.setText("Stopped." if self.inquiry.stopped else self.inquiry.problem)
        self.setVisible(bool(self.says.text()))


class BusyBar(QWidget):
    """Hidden while nothing is read, and for reading that is over at once."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = text(soft=True, wrap=False)
        self.bar = JobBar(self.setVisible, self.words)
        self.stop = button("Stop", actions.stop_reading, tip="Keep what was open before")
        fill_row(
            self, self.words, (self.bar, 1), self.stop, space=2 * SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 0),
        )  # fmt: skip
        self.hide()
        actions.reading.connect(self._follow)

    def _follow(self, job: Job | None) -> None:
        self.bar.watch(job, "Reading the file …")
