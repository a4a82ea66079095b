"""The reading: in plain sentences what is under the pointer or selected."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QApplication, QFrame, QWidget

from gorvel.core.words.tree import (
    describe_answer,
    describe_case,
    describe_cluster,
    describe_join,
    describe_level,
    describe_pair,
    describe_parts,
    describe_tree,
)
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, counted, heading, scrolled, text
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.tree_focus import TreeFocus
from gorvel.paint.theme import SPACE

_BEAT = 700  # milliseconds between two joins that are played


class TreeSummaryPanel(QFrame):
    """Follows the focus; steps through the joins or plays them; copies what it says.

    Signals: asked_to_compare(), two cases are to be compared; asked_to_correlate(yes or stop);
    cautions_wanted(), what to be careful about is to be read.
    """

    asked_to_compare = Signal()
    asked_to_correlate = Signal(bool)
    cautions_wanted = Signal()

    def __init__(self, focus: TreeFocus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self._clock = QTimer(self)
        self._clock.timeout.connect(self._beat)
        self.setProperty("panel", True)
        self.words = text()
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setAccessibleName("Reading")
        self.back = button("‹ Previous join", lambda: focus.step(-1), "link", "Down")
        self.on = button("Next join ›", lambda: focus.step(1), "link", "Up")
        self.copy = button("Copy text", self._copy, "link")
        tip = "Show them on the Plan page (Alt+2)"
        self.cautions = button("", self.cautions_wanted.emit, "link", tip)
        head = in_row(heading("Reading"), None, self.cautions)
        area = scrolled(self.words)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.play = button("Play joins", self.play_or_stop, "link")
        self.compare = button(
            "Compare two cases",
            self.asked_to_compare.emit,
            "link",
            "Proximity of two cases and where they join",
        )
        self.correlate = button(
            "", lambda: self.asked_to_correlate.emit(not focus.correlating), "link",
            "Cophenetic correlation: heights against proximities of all pairs",
        )  # fmt: skip
        links = in_row(self.back, self.on, self.play, self.copy, self.compare, self.correlate, None)
        fill(self, head, (area, 1), links, edges=(2 * SPACE, SPACE, 2 * SPACE, SPACE))
        WhenSeen(
            self, self._follow, focus.mark_changed, focus.cut_changed, focus.tree_changed,
            focus.faithful_changed,
        )  # fmt: skip
        self._follow()

    def play_or_stop(self) -> None:
        """Step on through the joins by itself, from the one selected or the first; or stop."""
        if self._clock.isActive():
            self._clock.stop()
        elif self.focus.grown is not None and self.focus.grown.tree.joins:
            chosen = self.focus.selected
            last = self.focus.grown.tree.joins - 1
            if chosen is None or chosen.kind != "join" or chosen.number == last:
                self.focus.select(Mark("join", 0))
            self._clock.start(_BEAT)
        self.play.setText("Stop" if self._clock.isActive() else "Play joins")

    def _beat(self) -> None:
        grown, before = self.focus.grown, self.focus.selected
        self.focus.step(1)
        if grown is None or self.focus.selected == before:
            self.play_or_stop()

    def _follow(self) -> None:
        grown, cut, mark = self.focus.grown, self.focus.cut, self.focus.mark
        open_still = grown is not None and self.focus.faithful is None and mark is None
        self.correlate.setVisible(open_still and grown is not None and grown.tree.joins > 0)
        self.correlate.setText("Stop" if self.focus.correlating else "Correlate")
        told = [] if grown is None else grown.cautions
        self.cautions.setText(counted(len(told), "caution"))
        self.cautions.setVisible(bool(told))
        if grown is None or cut is None:
            self.words.setText("")
            return
        names = [who.told for who in self.focus.identities]
        if mark is None:
            known = self.focus.faithful
            words = describe_tree(grown, cut, names, known.correlation if known else None)
            if self.focus.correlating:
                words += f"\n{self.focus.correlating}"
        elif self.focus.pair is not None:
            words = describe_pair(grown, *self.focus.pair)
        elif mark.kind == "join":
            found = self.focus.support
            own = float("nan") if found is None else float(found.shown[mark.number])
            of = "cases" if found is None else found.of
            words = describe_join(grown, mark.number, cut, names, own, of)
            if self.focus.hovered is None:
                words += "\n" + describe_parts(grown, mark.number)
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
        """With the cautions where it is the tree that is read."""
        grown, words = self.focus.grown, [self.words.text()]
        if grown is not None and self.focus.mark is None:
            words += [caution.text for caution in grown.cautions]
        QApplication.clipboard().setText("\n".join(words))
