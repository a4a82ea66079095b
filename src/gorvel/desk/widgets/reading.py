"""The reading: in plain sentences what is under the pointer or selected."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from gorvel.core.sentences import (
    describe_answer,
    describe_case,
    describe_cluster,
    describe_join,
    describe_level,
    describe_pair,
    describe_tree,
)
from gorvel.desk.state import Focus
from gorvel.desk.theme import SPACE
from gorvel.desk.widgets.texts import button, heading, scrolled, text

__all__ = ["ReadingPanel"]


class ReadingPanel(QFrame):
    """Follows the focus; steps through the joins; copies what it says."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.setProperty("panel", True)
        self.words = text()
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setAccessibleName("Reading")
        self.back = button("‹ step back", lambda: focus.step(-1), "link", "The join before (Down)")
        self.on = button("step on ›", lambda: focus.step(1), "link", "The next join (Up)")
        self.copy = button("copy this", self._copy, "link", "Copy the sentences")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, SPACE)
        layout.setSpacing(SPACE // 2)
        layout.addWidget(heading("Reading"))
        area = scrolled(self.words)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout.addWidget(area, 1)
        links = QHBoxLayout()
        for link in (self.back, self.on, self.copy):
            links.addWidget(link)
        links.addStretch(1)
        layout.addLayout(links)
        for signal in (focus.mark_changed, focus.cut_changed, focus.tree_changed):
            signal.connect(self._follow)
        self._follow()

    def _follow(self) -> None:
        grown, cut, mark = self.focus.grown, self.focus.cut, self.focus.mark
        if grown is None or cut is None:
            self.words.setText("")
            return
        names = [who.name for who in self.focus.identities]
        if mark is None:
            cautions = [caution.text for caution in grown.cautions]
            words = "\n".join([describe_tree(grown, cut, names), *cautions[:2]])
        elif self.focus.pair is not None:
            words = describe_pair(grown, *self.focus.pair)
        elif mark.kind == "join":
            words = describe_join(grown, mark.number, cut, names)
        elif mark.kind == "case":
            words = describe_case(grown, mark.number, cut, names)
            words += " Point at another label to compare the two."
        elif mark.kind == "level":
            words = describe_level(grown, mark.number, mark.other, mark.clusters)
        elif mark.kind == "answer":
            words = describe_answer(grown, mark.number, mark.other)
        else:
            words = describe_cluster(grown, cut, mark.number, names)
        self.words.setText(words)

    def _copy(self) -> None:
        QApplication.clipboard().setText(self.words.text())
