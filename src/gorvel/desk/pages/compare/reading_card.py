"""What differs between two trees, read out; and the cases of what was chosen."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QStackedWidget, QVBoxLayout, QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.study.groups import group_words
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.words.comparison import (
    agree_words,
    counts_words,
    moves_words,
    same_words,
    set_apart,
    whole_words,
)
from gorvel.core.words.differences import differences
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import button, card, heading, scrolled, text
from gorvel.desk.views.case_list import PairList
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.theme import SPACE


class ReadingCard(QWidget):
    """Sentences, or a list of cases in their place."""

    def __init__(
        self, actions: Actions, comparing: Comparing, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.focus, self.comparing = actions, actions.focus, comparing
        self.differ, self.agree = text(weight=600), text()
        self.whole, self.same, self.moves, self.apart = text(), text(), text(), text()
        self.counts = text(soft=True)
        self.list = PairList(self.focus)
        self.hand = button("Make the right one current", self._take)
        self.copy = button("Copy", self._copy, "link")
        self.back = button("Back to the reading", self.read, "link")
        words = QWidget()
        inside = QVBoxLayout(words)
        inside.setContentsMargins(0, 0, SPACE, 0)
        inside.setSpacing(SPACE)
        self._all = (self.differ, self.agree, self.whole, self.same, self.moves, self.apart,
                     self.counts)  # fmt: skip
        for one in self._all:
            inside.addWidget(one)
        inside.insertWidget(2, self.hand, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addStretch(1)
        self.pages = QStackedWidget()
        self.pages.addWidget(scrolled(words))
        self.pages.addWidget(self.list)
        head = in_row((heading("Reading"), 1), self.back, self.copy)
        layout = card(self)
        layout.addLayout(head)
        layout.addWidget(self.pages, 1)
        self.read()

    # what is said

    def follow(self) -> None:
        """Another pair, another cut, or other names."""
        met = self.comparing.met
        for label, words in zip(self._all, self._words(met), strict=True):
            label.setText(words)
            label.setVisible(bool(words))
        study = self.focus.shelf.study
        self.hand.setVisible(study is not None and self.comparing.right[0] > 0
                              and self.comparing.right[0] != study.in_hand)  # fmt: skip
        if self.pages.currentIndex() == 1 and (met is None or self.list.met is not met):
            self.read()
        self.copy.setEnabled(met is not None)

    def _words(self, met: PairAtCut | None) -> Sequence[str]:
        if met is None:
            return ("",) * 7
        found, faced = met.crossed, met.faced
        names, others = ([who.told for who in whos] for whos in (met.names, met.others))
        other = differences(*faced.plans)
        differ = f"On the right: {'; '.join(other)}." if other else "Both grow the same tree."
        if faced.left[1] != faced.right[1]:
            groups = [
                "all cases" if group is None else group_words(plan, group)
                for plan, (_, group) in zip(faced.plans, (faced.left, faced.right), strict=True)
            ]
            differ = f"{differ if other else ''} On the left {groups[0]}, on the right {groups[1]}."
        trees, most, every = faced.of
        if trees:
            differ = (
                f"On the right: the consensus of {trees} trees (Lapointe & Cucumel 1997). Most "
                f"of them share {most:,} branches, all of them {every:,}."
            )
        of = faced.pair.one.of
        if not faced.pair.common:
            words = f"The trees have no {of} in common."
            if faced.left[1] is not None and faced.right[1] is not None:
                words += " Split groups shows whether each finds the clusters of the other."
            return (differ.strip(), words, *("",) * 5)
        move = met.move
        return (
            differ.strip(), agree_words(found, of), whole_words(found, names, others),
            same_words(found, names, met.stands), moves_words(found, names, others),
            "" if move is None else set_apart(move, met.lanes, names, others),
            counts_words(faced.counts, found.one.clusters),
        )  # fmt: skip

    def sentences(self) -> str:
        """All that is said."""
        return " ".join(words for words in self._words(self.comparing.met) if words)

    def _copy(self) -> None:
        QApplication.clipboard().setText(self.sentences())
        self.acts.said.emit("Copied.", False)

    def _take(self) -> None:
        self.focus.shelf.take(self.comparing.right[0])

    # cases

    def read(self) -> None:
        """Back to the sentences."""
        self.pages.setCurrentIndex(0)
        self.back.hide()
        self.copy.show()

    def list_cases(self, cell: tuple[int, int] | None) -> None:
        """List the cases of a cell (clusters of the left and right tree), or all that move."""
        met = self.comparing.met
        if met is None:
            return
        found = met.crossed
        if cell is None:
            common, title = np.flatnonzero(found.moved), "Cases that move"
        else:
            common = np.flatnonzero((found.own == cell[0]) & (found.its == cell[1]))
            title = f"In {met.names[cell[0]].told}, there in {met.others[cell[1]].told}"
        self.list.show_pair(met, common.tolist(), title)
        self.pages.setCurrentIndex(1)
        self.back.show()
        self.copy.hide()

    def table(self) -> ResultTable | None:
        """The list as it stands, where one is shown."""
        return self.list.table() if self.pages.currentIndex() == 1 else None
