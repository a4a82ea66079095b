"""Are there groups: the tree beside data without any."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import counted, number
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.words.conclusion import beside_words, groups_words, peaks_p
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import button, heading, scrolled, text
from gorvel.desk.pages.count.rule_menus import IndexMenu
from gorvel.desk.views.count_views import EvidenceView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting

_BEFORE = (
    "Data without groups are simulated with the same marginal distributions and "
    "correlations. Their trees show which silhouettes arise by chance."
)
_BAND = "At each number the band covers the middle 90% of data sets without groups."
_LEGEND = f"{_BAND[:-1]}; the ring marks the number highest above them."


class EvidenceCard(QWidget):
    """What is drawn is shown as it grows, and stays when it is stopped."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.view = EvidenceView(counting)
        self.by = IndexMenu(counting)
        self.more = text(soft=True)
        self.more.setAccessibleName("What is shown of groups")
        self.ask = button("Ask", lambda: counting.check("groups"), "",
                          "Simulate data without groups, as often as the plan says")  # fmt: skip
        self.stop = button("Stop", counting.work["groups"].stop, "link")
        self.bar = JobBar(self._show_work, at_once=True)
        self.bar.setMinimumWidth(40)
        self.take = TakeAway.of(actions, "null")
        head = in_row(
            heading("Are there groups?"), self.by, None, (self.bar, 2), self.stop, self.ask,
            self.take,
        )  # fmt: skip
        words = QWidget()
        fill(words, self.more, None)
        fill(self, head, (self.view, 4), (scrolled(words), 1))
        self._seen = WhenSeen(self, self._follow, counting.changed, counting.looked)
        self._follow()
        self.bar.watch_work(counting.work["groups"])

    def _follow(self) -> None:
        found, told = self.counting.checks.groups, self.counting.conclusion
        self.view.setVisible(self.view.chart() is not None)
        self.by.setEnabled(found is None or not found.why)
        self.ask.setText("Ask" if found is None else "Run again")
        self.ask.setEnabled(self.counting.complete)
        if found is None or told is None or self.counting.undecided:
            self.more.setText(_BEFORE)
            return
        said = groups_words(told, found, self.counting.board_of) if found.why else _LEGEND
        key = self.counting.questions.index
        if key == "silhouette" or found.why:
            self.more.setText(f"{said} {_how(found)}".strip())
        else:
            self.more.setText(f"{_BAND} {beside_words(found, key)}")

    def _show_work(self, working: bool) -> None:
        self.ask.setVisible(not working)
        for widget in (self.bar, self.stop):
            widget.setVisible(working)


def _how(found: Evidence) -> str:
    """What the data without groups keep of the study, where that is more than usual."""
    words = []
    if found.tails is not None:
        stretched = (
            "in the residuals of each" if found.tails.of_rest else "in all variables together"
        )
        words.append(
            f"Joint tails, {stretched}: t copula, {number(found.tails.freedom)} degrees of freedom."
        )
    if found.part:
        words.append(f"Run on a random sample of {counted(found.part, 'case')}.")
    if found.peaks is not None:
        words.append(
            f"Several peaks in one variable, clearest in {found.peaks.variable}:"
            f" {peaks_p(found.peaks)} (dip test, adjusted for all variables)."
        )
    return " ".join(words)
