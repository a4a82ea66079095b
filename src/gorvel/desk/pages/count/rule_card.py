"""The selected rule: its curve, what it says here, what it favours and when it misleads."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from gorvel.core.count.indices.uneven import Uneven, uneven_of
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.words.count import uneven_words, verdict_words
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, heading, scrolled, text
from gorvel.desk.views.count_views import CurveView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import SPACE

_UNEVEN_TIP = "Cut some branches lower, as the rule finds best"


class RuleCard(QWidget):
    """Follows the rule selected on the board."""

    def __init__(self, actions: Actions, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.name = heading("")
        self.source = text(size="note", soft=True, wrap=False)
        self.curve = CurveView(counting)
        self.says = text(weight=600)
        self.formula = text(soft=True)
        self.about = text()
        self.says.setAccessibleName("What the rule says")
        self.cut_so = button("", self._cut_unevenly, "", _UNEVEN_TIP)
        self.take = TakeAway.of(actions, "rule")
        head = in_row(self.name, (self.source, 1), self.cut_so, self.take)
        words = QWidget()
        inside = QVBoxLayout(words)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(SPACE // 2)
        for label in (self.says, self.about, self.formula):
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            inside.addWidget(label)
        inside.addStretch(1)
        area = scrolled(words)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        fill(self, head, (self.curve, 3), (area, 2))
        WhenSeen(self, self._follow, counting.changed, counting.looked).follow()

    def _follow(self) -> None:
        board, key = self.counting.board, self.counting.rule
        known = board is not None and key in board.verdicts
        self.curve.setVisible(known)
        uneven = self._uneven
        self.cut_so.setVisible(uneven is not None)
        if board is None or not known:
            self.name.setText("")
            for label in (self.source, self.says, self.about, self.formula):
                label.setText("")
            return
        rule, verdict = COUNT_RULES[key], board.verdicts[key]
        self.name.setText(rule.name)
        self.source.setText(rule.source)
        self.source.setToolTip(as_tip(rule.source))
        words = verdict_words(verdict)
        if uneven is not None:
            words += " " + uneven_words(uneven, verdict)
            self.cut_so.setText(f"Cut into these {uneven.clusters}")
        self.says.setText(words)
        self.about.setText(f"{rule.favours} {rule.misleads}")
        self.formula.setText(rule.formula)
        self.curve.setVisible(bool(np.isfinite(verdict.values).any()))

    @property
    def _uneven(self) -> Uneven | None:
        """The best uneven cut, where the rule has one."""
        board, grown = self.counting.board, self.counting.focus.grown
        if board is None or grown is None or self.counting.rule != "cop":
            return None
        return uneven_of(grown, board)

    def _cut_unevenly(self) -> None:
        uneven = self._uneven
        if uneven is not None:
            self.counting.focus.cut_unevenly(uneven.level, uneven.split)
