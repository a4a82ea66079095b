"""Cautions in words, each with links to what can be done about it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from gorvel.core.base.errors import Caution
from gorvel.core.plan.remedies import remedies_of
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.texts import button, clear, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE


class CautionList(QWidget):
    """A click on a link changes the plan, which can be undone."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(SPACE)
        self._told: list[tuple[Caution, list[str]]] = []
        self.hide()

    def show_cautions(self, cautions: Sequence[Caution]) -> None:
        """Tell these, instead of what was told before; where that is the same, it stays."""
        plan = self.focus.shelf.plan
        all_of = [
            (caution, remedies_of(caution.code, plan) if plan is not None else [])
            for caution in cautions
        ]
        told_now = [(caution, [one.words for one in remedies]) for caution, remedies in all_of]
        if told_now == self._told:
            return
        self._told = told_now
        clear(self._layout)
        for caution, remedies in all_of:
            told = QVBoxLayout()
            told.setSpacing(4)
            told.addWidget(text(caution.text))
            ways = [
                button(remedy.words, partial(self.focus.shelf.change_by, remedy.change), "",
                       "Apply this change")
                for remedy in remedies
            ]  # fmt: skip
            if ways:
                told.addWidget(flowing(*ways, gap=SPACE))
            self._layout.addLayout(told)
        self.setVisible(bool(cautions))
