"""Which clusters stand whatever the tree, and which cases stay with theirs."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from gorvel.core.base.numbers import fixed
from gorvel.core.results.comparison import stability_table
from gorvel.core.words.comparison import standing_words
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.texts import button, clear, heading, panel, scrolled, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.case_list import CaseList
from gorvel.desk.views.moving_strip import MovingStrip
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.moving import Moving
from gorvel.paint.theme import SPACE, font

_HEADS = ("cluster", "cases", "pairs kept", "with others", "loosely attached")
_BARS = (2, 3)
_WORDS = "A stable cluster has 1 and 0. Point at a column head for its definition."


class _Loose(CaseList):
    """Cases by how little they stay with their cluster."""

    heads = ("case", "label", "in", "stays")

    def __init__(self, comparing: Comparing) -> None:
        self.comparing = comparing
        super().__init__(comparing.focus, "Least stable cases")
        for column, wide in enumerate((52, 120, 44)):
            self.view.setColumnWidth(column, wide)
        self.view.sortByColumn(3, Qt.SortOrder.AscendingOrder)

    @property
    def known(self) -> bool:
        return self.comparing.standing is not None

    def cells(self, case: int) -> tuple[int | str, ...]:
        number, label = super().cells(case)
        cut, found = self.focus.cut, self.comparing.standing
        assert cut is not None
        assert found is not None
        who = self.focus.identities[int(cut.membership[case]) - 1]
        share = float(found.cases[case])
        return number, label, who.name, "–" if np.isnan(share) else fixed(share, 2)


class StandsCard(QWidget):
    """Follows the cut in hand, and which trees count.

    Signals: averaged(), the average of the trees is on the right.
    """

    averaged = Signal()

    def __init__(
        self, actions: Actions, comparing: Comparing, moving: Moving,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.moving = MovingStrip(moving)
        self.acts, self.focus = actions, actions.focus
        self.comparing = comparing
        self.boxes: dict[int, QCheckBox] = {}
        self._named: list[tuple[int, str]] = []
        self.view = ResultView(
            _HEADS, "Which clusters are stable across trees?", (84, 52, 140, 140), 26, _BARS
        )
        self.says = text()
        self.loose = _Loose(comparing)
        self.bar = InquiryBar(
            comparing.shelf, comparing.ask_shelf, "Comparing with the other trees …"
        )
        self._trees = QVBoxLayout()
        self._trees.setSpacing(2)
        side = panel()
        fill(side, self.loose, edges=(2 * SPACE, SPACE, SPACE, SPACE))
        fill_row(self, (self._left(actions), 3), (side, 2), space=SPACE)

    def _left(self, actions: Actions) -> QWidget:
        self.take = TakeAway.of(actions, "stands-whatever")
        head = in_row(heading("Stability"), None, self.take)
        trees = QWidget()
        trees.setLayout(self._trees)
        box = panel()
        tip = "Consensus of these and the current tree, face to face"
        self.average = button("Show consensus tree", self._average, "", tip)
        count = in_row(heading("Trees included", "text"), None, self.average)
        fill(
            box, head, self.bar, self.says, (self.view, 3), text(_WORDS, "note", soft=True), count,
            (scrolled(trees), 1), self.moving, edges=(2 * SPACE, SPACE, SPACE, SPACE),
        )  # fmt: skip
        return box

    def _average(self) -> None:
        self.comparing.put_consensus()
        self.averaged.emit()

    def follow(self) -> None:
        """Another cut, other trees, or others that count."""
        self._list_trees()
        self.average.setVisible(bool(self.comparing.averaged))
        found, cut = self.comparing.standing, self.focus.cut
        self.take.setEnabled(found is not None)
        if found is None or cut is None:
            idle = self.comparing.shelf.job is None and bool(self.comparing.beside)
            self.says.setText("No tree is included: tick one below." if idle else "")
            self.view.setRowCount(0)
            self.loose.show_cases(())
            return
        names = self.focus.identities
        self.says.setText(standing_words(found, [who.told for who in names]))
        known = self.acts.findings()
        self.view.show_table(None if known is None else stability_table(known))
        cases = np.argsort(np.nan_to_num(found.cases, nan=2.0), kind="stable").tolist()
        self.loose.show_cases(cases)

    def _list_trees(self) -> None:
        """A box for each other tree, ticked where it counts."""
        study = self.focus.shelf.study
        entries = () if study is None else study.trees
        others = [entry for entry in entries if study is not None and entry.id != study.in_hand]
        shown = [(entry.id, self.focus.shelf.name_of(entry)) for entry in others]
        if shown != self._named:
            clear(self._trees)
            self.boxes, self._named = {}, shown
            for number, _ in shown:
                box = QCheckBox()
                box.setFont(font("table"))
                box.setChecked(number not in self.comparing.passed_over)
                box.toggled.connect(partial(self.comparing.count_in, number))
                self._trees.addWidget(box)
                self.boxes[number] = box
            self._trees.addStretch(1)
        for number, name in shown:
            alike = self.comparing.alike(number)
            told = "not grown yet" if alike is None else f"adjusted Rand {fixed(alike, 2)}"
            self.boxes[number].setText(f"{name}  ·  {told}")
            self.boxes[number].setEnabled(alike is not None)
