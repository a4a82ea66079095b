"""Checks made when asked for: is there structure, do splits and branches hold, what of order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from gorvel.core.base.numbers import sentence
from gorvel.core.words.checks import (
    CheckWords,
    orders_words,
    splits_words,
    structure_words,
    support_words,
)
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import button, scrolled, text
from gorvel.desk.views.moving_strip import MovingStrip
from gorvel.desk.work.counting import Counting
from gorvel.desk.work.moving import Moving
from gorvel.paint.theme import SPACE


@dataclass(frozen=True)
class _Section:
    """One check. words : what is said of it now."""

    what: str
    run: QPushButton
    stop: QPushButton
    bar: JobBar
    words: Callable[[], CheckWords | None]
    before: str


class ChecksCard(QWidget):
    """One section for each check, with its button, its progress, and what it found."""

    def __init__(self, counting: Counting, moving: Moving, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting, self.focus = counting, counting.focus
        self.moving = MovingStrip(moving)
        self.sections: dict[str, _Section] = {}
        self.answers: dict[str, QLabel] = {}
        self.found: dict[str, QLabel] = {}
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setContentsMargins(0, 0, SPACE, 0)
        self._column.setSpacing(SPACE // 2)
        for what, title, words, before in (
            (
                "structure",
                "Is there any structure?",
                self._structure,
                "Hopkins statistic, and the cophenetic correlation of shuffled answers.",
            ),
            (
                "splits",
                "Is each split significant?",
                self._splits,
                (
                    "Each split, from the top, against one normal distribution (after Kimes et al. "
                    "2017; covariance shrunk as in Ledoit & Wolf 2004)."
                ),
            ),
            (
                "support",
                "Are branches recovered?",
                self._support,
                (
                    "Resamples cases (Hennig 2007) or, from 30 variables on, variables at ten "
                    "scales (Shimodaira 2004). Support then appears in the dendrogram and the "
                    "schedule."
                ),
            ),
            (
                "orders",
                "Does case order matter?",
                self._orders,
                (
                    "The tree is grown again with cases reordered, which changes how ties are "
                    "broken."
                ),
            ),
        ):
            self._section(what, title, words, before)
        self._column.addWidget(self.moving)
        self._column.addStretch(1)
        fill(self, scrolled(inside))
        WhenSeen(
            self, self._follow, counting.changed, self.focus.cut_changed,
            self.focus.faithful_changed,
        ).follow()  # fmt: skip

    def _section(
        self, what: str, title: str, words: Callable[[], CheckWords | None], before: str
    ) -> None:
        start = button("Check", lambda: self.counting.check(what), "chip")
        start.setAccessibleName(title)
        stop = button("Stop", self.counting.work[what].stop, "link")
        bar = JobBar(partial(self._show_work, what), at_once=True)
        bar.setMaximumWidth(90)
        row = in_row(text(title, "table", 600, soft=True, wrap=False), None, bar, stop, start)
        answer, found = text(weight=600), text(size="table", soft=True)
        answer.setAccessibleName(f"{title} Answer")
        found.setAccessibleName(f"{title} Result")
        self._column.addLayout(row)
        self._column.addWidget(answer)
        self._column.addWidget(found)
        self.answers[what] = answer
        self.sections[what] = _Section(what, start, stop, bar, words, before)
        self.found[what] = found
        bar.watch_work(self.counting.work[what])

    def _follow(self) -> None:
        for what, section in self.sections.items():
            words = section.words()
            self.answers[what].setText("" if words is None else words.answer)
            self.answers[what].setVisible(words is not None)
            self.found[what].setText(section.before if words is None else words.words)
            section.run.setText("Run again" if words else "Check")
            section.run.setEnabled(self.focus.grown is not None)

    def _show_work(self, what: str, working: bool) -> None:
        section = self.sections[what]
        section.run.setVisible(not working)
        section.stop.setVisible(working)
        section.bar.setVisible(working)

    def _structure(self) -> CheckWords | None:
        checks, grown = self.counting.checks, self.focus.grown
        if checks.hopkins is None or grown is None:
            return None
        of = grown.of
        known = self.focus.faithful
        own = known.correlation if known else None
        return structure_words(checks.hopkins, checks.shuffled, own, of)

    def _splits(self) -> CheckWords | None:
        tests = self.counting.checks.splits
        return None if tests is None else splits_words(tests)

    def _support(self) -> CheckWords | None:
        support = self.counting.checks.support
        if support is None:
            return None
        if support.why:
            return CheckWords("Not computed", f"{sentence(support.why)}.")
        return support_words(support)

    def _orders(self) -> CheckWords | None:
        orders, grown, cut = self.counting.checks.orders, self.focus.grown, self.focus.cut
        if orders is None or grown is None or cut is None:
            return None
        ties, of = int(grown.tree.tie_matters.sum()), grown.of
        return orders_words(orders, ties, cut.clusters, of)
