"""The choice: the count in hand on a small tree, why it and not another, and taking it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPlainTextEdit, QSpinBox, QWidget

from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.plan.growth import GrowthKey
from gorvel.core.words.count import draft_reasons, why_not
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, clear, heading, scrolled, text
from gorvel.desk.views.count_views import SummitView
from gorvel.desk.views.layout import Layout
from gorvel.desk.work.counting import Counting
from gorvel.paint.theme import SPACE, font

_OTHERS = 3  # counts that are asked after
_LINES = 2
_LEAST = 236  # pixels of height: the small tree, the reasons and a few lines of the answer


class ChoiceCard(QFrame):
    """Taking a count asks for a sentence of reasons, which goes into the plan."""

    def __init__(self, counting: Counting, layout: Layout, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown = layout
        self.counting, self.focus = counting, counting.focus
        self.setProperty("panel", True)
        self.setMinimumHeight(_LEAST)
        self.count = QSpinBox()
        self.count.setAccessibleName("Your number")
        self.count.setKeyboardTracking(False)
        self.summit = SummitView(counting)
        self.reasons = QPlainTextEdit()
        self.reasons.setFont(font("table"))
        self.reasons.setAccessibleName("Reasons")
        self.reasons.setTabChangesFocus(True)
        self.reasons.setPlaceholderText("Give your reason in a sentence; it is saved in the plan.")
        height = self.reasons.fontMetrics().lineSpacing() * _LINES + 14
        self.reasons.setFixedHeight(height)
        self.take = button("Choose", self.take_it, tip="Ctrl+Return")
        self.taken = text(weight=600)
        self.draft = button("Draft reasons", self.draft_it)
        self.answer = text(soft=True)
        self.answer.setAccessibleName("Why not another number")
        self._others = QHBoxLayout()
        self._asked = 0
        self._draft = ""  # the last one that was asked for
        self._tree: GrowthKey | None = None  # whose reasons these are
        self._reasons = ""  # as the plan had them last
        self._lay_out()
        self.count.valueChanged.connect(self.focus.set_count)
        self._seen = WhenSeen(
            self, self._follow, counting.changed, self.focus.cut_changed, self.focus.tree_changed
        )
        counting.changed.connect(self._draft_follows)  # also where nobody sees it
        counting.work["groups"].worked.connect(self._looked_for_groups)
        self.focus.shelf.plan_changed.connect(self._plan_changed)
        self._tree_changed()
        self.reasons.textChanged.connect(self._typed)
        self.focus.tree_changed.connect(self._tree_changed)
        self.focus.shelf.study_changed.connect(self._new_study)

    def _typed(self) -> None:
        """What was typed and not chosen yet is kept with its tree."""
        written = self.reasons.toPlainText().strip()
        self.shown.reasons[self._tree] = written if written != self._reasons else ""

    def _new_study(self) -> None:
        self._tree, self._draft, self._reasons = None, "", ""
        self._plan_changed()

    def _tree_changed(self) -> None:
        """Another tree has reasons of its own."""
        plan = self.focus.plan_of_tree
        tree = None if self.focus.grown is None else self.focus.grown.key
        if tree != self._tree:
            self._draft = ""
        self._tree = tree
        self._reasons = "" if plan is None else plan.counting.reasons
        self.reasons.setPlainText(self.shown.reasons.get(self._tree) or self._reasons)
        self._seen.follow()

    def _lay_out(self) -> None:
        head = in_row(
            heading("Your number", "text"), self.count, (self.taken, 1), self.draft, self.take
        )
        self.answer.setAlignment(Qt.AlignmentFlag.AlignTop)
        high = self.answer.fontMetrics().lineSpacing() * 3  # no part of a fourth line
        self.answer.setMinimumHeight(high)
        area = scrolled(self.answer)
        area.setMinimumHeight(24)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setMaximumHeight(high)
        fill(
            self, head, (self.summit, 1), self.reasons, self._others, area,
            edges=(2 * SPACE, SPACE, 2 * SPACE, SPACE),
        )  # fmt: skip

    def _plan_changed(self) -> None:
        plan = self.focus.plan_of_tree
        reasons = plan.counting.reasons if plan is not None else ""
        written = self.reasons.toPlainText().strip()
        other = reasons != self._reasons
        if other and (written == self._reasons or reasons):  # what was typed stays else
            self._reasons = reasons
            if written != reasons:
                self.reasons.setPlainText(reasons)
            self._typed()
        self._seen.follow()

    def _follow(self) -> None:
        cut, grown, plan = self.focus.cut, self.focus.grown, self.focus.plan_of_tree
        self.setEnabled(grown is not None)
        if cut is None or grown is None or plan is None:
            return
        with QSignalBlocker(self.count):
            self.count.setRange(1, grown.tree.n)
            self.count.setValue(cut.clusters)
        chosen = plan.counting.chosen
        here = chosen == cut.clusters and not cut.split
        self.taken.setText("" if chosen is None else "chosen" if here else f"{chosen} chosen")
        self.take.setText(f"Choose {cut.clusters}")
        same = here and plan.counting.reasons == self.reasons.toPlainText().strip()
        self.take.setVisible(not same)
        self.take.setEnabled(not self.focus.out_of_date)
        self.draft.setEnabled(not self.counting.undecided)
        self._draft_follows()
        self._show_others()

    def _draft_follows(self) -> None:
        """A draft that nobody changed says what is known by now, also where it was chosen."""
        board, plan = self.counting.board, self.focus.shelf.plan
        chosen = None if plan is None else plan.counting.chosen
        cut = self.focus.cut
        if not self._draft or board is None or cut is None or plan is None:
            return
        if self.counting.undecided or self.reasons.toPlainText().strip() != self._draft:
            return
        taken = plan.counting.reasons == self._draft
        count = chosen if taken and chosen is not None else cut.clusters
        new = self._drafted(board, count)
        if new == self._draft or (taken and self.focus.out_of_date):
            return
        self._draft = new
        if taken:
            self._reasons = new
            self.focus.shelf.amend_plan(plan.with_("count", reasons=new))
        self.reasons.setPlainText(new)

    def _looked_for_groups(self, job: object) -> None:
        self._seen.follow()

    def _others_of(self, board: IndexTable) -> list[int]:
        """Counts with most votes, then those next to the one in hand."""
        cut = self.focus.cut
        here = cut.clusters if cut is not None else 0
        votes = board.votes(self.counting.left_out)
        ranked = sorted((k for k in votes if isinstance(k, int)), key=lambda k: (-votes[k], k))
        near = [here + 1, here - 1, here + 2]
        counts = [k for k in dict.fromkeys([*ranked, *near]) if k in board.counts and k != here]
        return sorted(counts[:_OTHERS])

    def _show_others(self) -> None:
        board, cut = self.counting.board, self.focus.cut
        clear(self._others)
        if board is None or cut is None:
            self.answer.setText("")
            return
        others = self._others_of(board)
        for count in others:
            self._others.addWidget(button(f"Why not {count}?", partial(self.ask, count), "link"))
        self._others.addStretch(1)
        self._answer()

    def ask(self, count: int) -> None:
        """Answer why not a count, which is looked at on the small tree."""
        self._asked = count
        self.counting.look_at(count)
        self._answer()

    def _answer(self) -> None:
        board, cut = self.counting.board, self.focus.cut
        if board is None or cut is None:
            return
        if self._asked not in board.counts or self._asked == cut.clusters:
            self.answer.setText(self._drafted(board, cut.clusters))
            return
        self.answer.setText(why_not(board, self._asked, cut.clusters, self.counting.left_out))

    def _drafted(self, board: IndexTable, count: int) -> str:
        groups = None if self.counting.undecided else self.counting.checks.groups
        return draft_reasons(board, count, self.counting.left_out, groups)

    def draft_it(self) -> None:
        """Write a first sentence of reasons, from the numbers."""
        board, cut = self.counting.board, self.focus.cut
        if board is not None and cut is not None:
            self._draft = self._drafted(board, cut.clusters)
            self.reasons.setPlainText(self._draft)
            self.reasons.selectAll()
            self.reasons.setFocus()

    def take_it(self) -> None:
        """Write the count and the reasons into the plan; without reasons, ask for them."""
        cut = self.focus.cut
        reasons = self.reasons.toPlainText().strip()
        if cut is None or self.focus.out_of_date:
            return
        if not reasons and self.counting.undecided:
            return
        if not reasons:
            self.draft_it()
            self.taken.setText("Give a reason, then choose")
            return
        self.focus.shelf.change("count", chosen=cut.clusters, reasons=reasons)
