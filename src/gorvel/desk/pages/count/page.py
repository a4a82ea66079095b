"""The Count page: what every rule says, how stable counts are, and the choice."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSpinBox, QWidget

from gorvel.core.base.numbers import counted
from gorvel.desk.controls.arranging import fill, in_row, split
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.growing import NoTree, StaleBar
from gorvel.desk.controls.job_bar import JobBar
from gorvel.desk.controls.texts import aside, button, heading, panel, scrolled, text
from gorvel.desk.pages.count.checks_card import ChecksCard
from gorvel.desk.pages.count.choice_card import ChoiceCard
from gorvel.desk.pages.count.evidence_card import EvidenceCard
from gorvel.desk.pages.count.groups_card import GroupsCard
from gorvel.desk.pages.count.purpose_card import PurposeCard
from gorvel.desk.pages.count.rule_card import RuleCard
from gorvel.desk.pages.count.rule_menus import MoreRules
from gorvel.desk.pages.count.silhouettes_card import SilhouettesCard
from gorvel.desk.pages.count.verdict_bar import VerdictBar
from gorvel.desk.views.board_view import BoardView
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.tabbed_page import TabbedPage
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.counting import Counting
from gorvel.desk.work.moving import Moving
from gorvel.paint.theme import SPACE, text_scale

_TABS = (
    ("Evidence", "Silhouettes compared with data without groups"),
    ("Rule", "The selected rule: its curve and what it favours"),
    ("Silhouettes", "How well each case fits its cluster"),
    ("Checks", "Structure, splits, branches, case order"),
    ("Known groups", "Clusters compared with a known grouping"),
    ("Purpose", "What clusters are for, and which number serves that best"),
)
_RULE, _SILHOUETTES = 1, 2
_UNITS_TIP = "Values, or standard deviations above data without groups"
_SHOWN = {"rules": "Computing the rules …", "resamples": "Resampling …"}  # by the bar


class CountPage(TabbedPage):
    """Before there is a tree it says how to get one."""

    def __init__(
        self, actions: Actions, counting: Counting, moving: Moving, layout: Layout,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__("Count", layout, parent)
        self.acts, self.counting, self.focus = actions, counting, actions.focus
        self.board = BoardView(counting)
        self.evidence = EvidenceCard(actions, counting)
        self.rule = RuleCard(actions, counting)
        self.silhouettes = SilhouettesCard(actions, counting)
        self.checks = ChecksCard(counting, moving)
        self.purpose = PurposeCard(actions, counting)
        self.groups = GroupsCard(actions, counting)
        self.choice = ChoiceCard(counting, layout)
        take, draft = self.choice.take_it, self.choice.draft_it
        self.verdict = VerdictBar(actions, counting, take, draft, self)
        self.first, self.last = QSpinBox(), QSpinBox()
        self.resamples, self.seed = QSpinBox(), QSpinBox()
        self.draw = button("Resample", self._work, "", "Run the resampling rules (Ctrl+R)")
        self.stop = button("Stop", self._stop, "link")
        self.note = aside("", "text")
        self.bar = JobBar(self._show_work, self.note)
        self.hint = aside("", "note")
        self.more = MoreRules(counting)
        self.units = button("", self._change_units, "link", _UNITS_TIP)
        self._at_work = ""  # what the bar is about
        words = "Grow the tree to compare numbers of clusters."
        self._stack.addWidget(NoTree(actions, "No tree to cut yet", words))
        self._stack.addWidget(self._page())
        for keys, act in (
            ("Ctrl+R", self._draw_or_stop), ("Ctrl+F", self._find),
            ("Ctrl+Return", self.choice.take_it),
        ):  # fmt: skip
            QShortcut(QKeySequence(keys), self, act)
        counting.looked.connect(self._looked)
        self._rule = ""  # selected last
        WhenSeen(self, self.verdict.follow, counting.changed, self.focus.shelf.plan_changed)
        WhenSeen(
            self, self._follow, counting.changed, self.focus.shelf.plan_changed,
            self.focus.tree_changed, self.focus.cut_changed,
        )  # fmt: skip
        self._follow()
        self._show_work(False)
        self.show_kept_tab()
        self._tell_units()
        for what in _SHOWN:
            counting.work[what].worked.connect(self._worked)
        self._worked()  # what was begun before the page was built anew

    # building

    def _page(self) -> QWidget:
        left = panel()
        self.area: QScrollArea = scrolled(self.board)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        fill(
            left, self._board_head(), (self.area, 1), self._foot(),
            edges=(SPACE, SPACE, SPACE, SPACE),
        )  # fmt: skip
        upper = panel()
        row = self.tab_row(
            _TABS, self.evidence, self.rule, self.silhouettes, self.checks, self.groups,
            self.purpose,
        )  # fmt: skip
        fill(upper, row, (self._front, 1), edges=(2 * SPACE, SPACE // 2, 2 * SPACE, SPACE))
        right = split(upper, self.choice, sizes=(390, 290), shares=(1,), down=True)
        both = split(left, right, sizes=(760, 470), shares=(3, 2))
        page = QWidget()
        fill(
            page, StaleBar(self.acts, self), self.verdict, (both, 1), space=SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        return page

    def _board_head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(heading("How many clusters?"))
        row.addWidget(self.hint, 1)
        row.addWidget(self.units)
        row.addWidget(self.more)
        for field, name, key in (
            (self.first, "Smallest number", "from"), (self.last, "Largest number", "to"),
        ):  # fmt: skip
            field.setRange(1, 60)
            field.setFixedWidth(round(54 * text_scale()))
            field.setAccessibleName(name)
            field.setKeyboardTracking(False)
            field.valueChanged.connect(partial(self._set, key))
            if key == "to":
                row.addWidget(text("to", soft=True, wrap=False))
            row.addWidget(field)
        self.take_away = TakeAway.of(self.acts, "rules")
        row.addWidget(self.take_away)
        return row

    def _foot(self) -> QHBoxLayout:
        self.times = text("times, seed", soft=True, wrap=False)
        for field, name, key, top in (
            (self.resamples, "Resamples", "resamples", 10_000),
            (self.seed, "Seed", "seed", 999_999),
        ):
            field.setRange(1 if key == "resamples" else 0, top)
            field.setAccessibleName(name)
            field.setKeyboardTracking(False)
            field.valueChanged.connect(partial(self._set, key))
        return in_row(
            self.draw, self.resamples, self.times, self.seed, (self.note, 1), (self.bar, 1),
            self.stop,
        )  # fmt: skip

    def _looked(self) -> None:
        """A rule that is selected is told of, where its card is not in sight."""
        before, self._rule = self._rule, self.counting.rule
        if before and self._rule != before and self._cards.currentIndex() == 0:
            self.show_tab(_RULE)

    def _draw_or_stop(self) -> None:
        if self._at_work:
            self._stop()
        elif self.draw.isEnabled():
            self._work()

    def _work(self) -> None:
        """The rules first, where they were stopped; then those that resample."""
        if not self.counting.complete:
            self.counting.work_out()
        else:
            self.counting.resample()

    def _change_units(self) -> None:
        questions = self.counting.questions
        questions.show_standing(not questions.in_sd)
        self._tell_units()

    def _tell_units(self) -> None:
        in_sd = self.counting.questions.in_sd
        self.units.setText("Show values" if in_sd else "Show z")
        self.hint.setText(
            "z relative to data without groups" if in_sd else "ring = best, grey = no vote"
        )

    def _find(self) -> None:
        self.show_tab(_SILHOUETTES)
        self.silhouettes.sought.setFocus(Qt.FocusReason.ShortcutFocusReason)

    # following

    def _set(self, key: str, value: int) -> None:
        plan = self.focus.shelf.plan
        if plan is None:
            return
        asked = plan.counting
        changes = {key: value}
        if key == "from" and value > asked.to:
            changes["to"] = value
        if key == "to" and value < asked.from_:
            changes["from"] = value
        self.focus.shelf.change("count", **changes)

    def showEvent(self, event: object) -> None:
        self.counting.work_out()
        self.counting.questions.ask_at_once()
        self.board.setFocus(Qt.FocusReason.OtherFocusReason)
        super().showEvent(event)  # type: ignore[arg-type]

    def _follow(self) -> None:
        grown, plan, board = self.focus.grown, self.focus.shelf.plan, self.counting.board
        self._stack.setCurrentIndex(0 if grown is None else 1)
        if plan is None or grown is None:
            return
        asked = plan.counting
        fields = (self.first, self.last, self.resamples, self.seed)
        values = (asked.from_, asked.to, asked.resamples, asked.seed)
        for field, value in zip(fields, values, strict=True):
            with QSignalBlocker(field):
                field.setValue(value)
        if board is not None and self.counting.rule not in board.verdicts and board.verdicts:
            self.counting.select("silhouette" if "silhouette" in board.verdicts
                                 else next(iter(board.verdicts)))  # fmt: skip
        if not self._at_work:
            self.note.setText(self._draws_note())
        whole = self.counting.complete
        self.draw.setText("Resample" if whole else "Compute the rules")
        found = self.counting.checks.groups
        self.units.setEnabled(found is None or not found.why)
        draws = bool(self.counting.draws and board is not None and board.counts)
        self.draw.setEnabled(not whole or draws)
        if self.isVisible():
            self.counting.questions.ask_at_once()

    def _draws_note(self) -> str:
        board, asked = self.counting.board, self.counting.focus.shelf.plan
        if board is None or asked is None:
            return ""
        if not self.counting.complete:
            return "Some rules are not computed yet."
        if not board.counts:
            return "There are too few cases to compare numbers of clusters."
        rounds = self.counting.rounds
        if not rounds:
            more = len(self.counting.draws)
            if not more:
                return "The plan asks for no resampling rule."
            return f"{counted(more, 'more rule')} run when you press Resample."
        whole = rounds >= asked.counting.resamples
        return f"{rounds:,} resamples" + (
            "" if whole else f" of {asked.counting.resamples:,}, stopped"
        )

    def _worked(self) -> None:
        work = self.counting.work
        self._at_work = next((what for what in _SHOWN if work[what].job is not None), "")
        if self._at_work:
            self.bar.watch(work[self._at_work].job, _SHOWN[self._at_work])
            return
        self.bar.watch(None)
        self._follow()

    def _stop(self) -> None:
        if self._at_work:
            self.counting.work[self._at_work].stop()

    def _show_work(self, working: bool) -> None:
        for widget in (self.draw, self.resamples, self.times, self.seed):
            widget.setVisible(not working)
        self.bar.setVisible(working)
        self.stop.setVisible(working)
