"""The work behind the Count page: rules at once, resampling as it grows, checks when asked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QObject

from gorvel.core.base.progress import Progress
from gorvel.core.cases.design import Design, sample_of
from gorvel.core.count.checks import CHECKS, Check, Checks
from gorvel.core.count.groups import KnownGroups, groups_of
from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.indices.silhouettes import Silhouettes, silhouettes_of
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.resampling.resampled_rules import RESAMPLING, resampled
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.analyses import DesignPlan
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan
from gorvel.core.study.kept import Drawn, KeptTree
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.count_work import CountWork
from gorvel.desk.work.inquiry import PartialResults, Report
from gorvel.desk.work.jobs import Jobs
from gorvel.desk.work.questions import Questions

_AT_ONCE = 10_000  # cases up to which the rules are worked out as soon as there is a tree
_RULES = ("rules", "more")
_BOARD = ("from_", "to", *_RULES)
_RANDOM = ("resamples", "seed", "box")
_DRAWS = (*_BOARD, *_RANDOM)


class Counting(CountWork):
    """Follows the tree in force."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(focus, jobs, parent)
        self._silhouettes: dict[int, Silhouettes] = {}
        self._sums: object = None  # they were made from
        self._groups: tuple[Grown, str | None, KnownGroups | None] | None = None
        self.rounds = 0  # of resampling, that the board holds
        self.hovered = 0  # count under the pointer, 0 for none
        self.rule = ""  # key of the one selected
        self._drawn: Drawn | None = None  # what rules said that resample
        self._of: tuple[Grown, CountPlan] | None = None  # whose board it is
        self._drawn_by: DesignPlan | None = None  # how the sample was drawn, when it was worked out
        self._drawing: CountPlan | None = None  # what resampling that was begun last was asked
        focus.tree_changed.connect(self._follow)
        focus.shelf.plan_changed.connect(self._follow)
        focus.contributors.append(self._add_found)
        self.questions = Questions(self)

    @property
    def _design(self) -> DesignPlan | None:
        """How the plan says that the sample was drawn."""
        return None if self.focus.shelf.plan is None else self.focus.shelf.plan.design

    def _follow(self) -> None:
        grown, asked = self.grown, self.asked
        if grown is None:
            if self._of is not None or self.board is not None:
                self._forget()
                self.changed.emit()
            return
        if self._of is not None and self._of[0].tree is grown.tree:
            before = self._of[1]
            if self._drawn_by != self._design:
                self._drawn_by = self._design
                self.checks.support = None
                self._checked_by.pop("support", None)
                self._of = (grown, asked)
                self._forget_draws()
            if _alike(before, asked, _DRAWS):
                return
            if _alike(before, asked, _BOARD):
                self._of = (grown, asked)
                self._forget_draws()
                return
            if _alike(before, asked, ("from_", "to", *_RANDOM)):
                self._other_rules(grown, asked)
                return
            checks, checked = self.checks, self._checked_by
            self._forget()
            self.checks = replace(checks, orders=None, groups=None, trial=None, purpose=None)
            self._checked_by = checked
            for what in ("orders", "groups", "purpose"):
                self._checked_by.pop(what, None)
            self.work_out()
            return
        self._forget()
        self._take_up()
        if grown.tree.n <= _AT_ONCE or self._drawn is not None:
            self.work_out()
        self.changed.emit()

    def _other_rules(self, grown: Grown, asked: CountPlan) -> None:
        """More rules are asked for, or fewer: what is there of the others stays."""
        self.work["rules"].forget()
        self.work["resamples"].forget()
        self._of = (grown, asked)
        if self.board is not None:
            kept = {k: v for k, v in self.board.verdicts.items() if k in asked.wanted}
            self.board = replace(self.board, verdicts=kept)
        self._with_drawn()
        self.changed.emit()
        self.work_out()

    def _take_up(self) -> None:
        """What was found of a tree that is shown again."""
        kept = self.focus.came_with
        if kept is not None:
            self.checks, self._checked_by = replace(kept.checks), dict(kept.checked)
            self._drawn = kept.drawn
            self.rounds = 0 if kept.drawn is None else kept.drawn.asked.resamples

    def _add_found(self, kept: KeptTree) -> KeptTree:
        """The same with what was found here."""
        if self._of is None or self._of[0].tree is not kept.tree:
            before = self.focus.came_with
            if before is None or before.tree is not kept.tree:
                return kept
            return kept.with_(drawn=before.drawn, checks=before.checks, checked=before.checked)
        checks, checked = replace(self.checks), dict(self._checked_by)
        return kept.with_(drawn=self._drawn, checks=checks, checked=checked)

    def _forget(self) -> None:
        for one in self.work.values():
            one.forget()
        self.board, self.checks, self.rounds, self._of = None, Checks(), 0, None
        self._drawn, self._checked_by = None, {}
        self.questions.forget()

    def _forget_draws(self) -> None:
        self.work["resamples"].forget()
        self.rounds, self._drawn = 0, None
        if self.board is not None:
            self.board = self.board.without_draws()
        self.changed.emit()

    # what is looked at

    def look_at(self, count: int) -> None:
        """The pointer is over a count, or over none."""
        if count != self.hovered:
            self.hovered = count
            self.looked.emit()

    def select(self, rule: str) -> None:
        """Tell of one rule."""
        if rule != self.rule:
            self.rule = rule
            self.looked.emit()

    def let_vote(self, keys: list[str], vote: bool) -> None:
        """Give rules a vote or take it; can be undone."""
        left = set(self.left_out) - set(keys) if vote else {*self.left_out, *keys}
        self.focus.shelf.change("count", left_out=[key for key in COUNT_RULES if key in left])

    # rules

    def silhouettes(self, count: int) -> Silhouettes | None:
        """Of a count, from 2 to the largest of the board; None beyond, or without proximities."""
        board = self.board
        if board is None or board.sums is None or board.nested is None:
            return None
        if self._sums is not board.sums:
            self._silhouettes, self._sums = {}, board.sums
        if not 2 <= count <= board.nested.finest:
            return None
        if count not in self._silhouettes:
            self._silhouettes[count] = silhouettes_of(board.sums, count)
        return self._silhouettes[count]

    @property
    def known_groups(self) -> KnownGroups | None:
        """The groups of the cases of the tree, which the plan names."""
        grown, plan, study = self.focus.grown, self.focus.shelf.plan, self.focus.shelf.study
        if grown is None or plan is None or study is None:
            return None
        asked = (grown, plan.cases.groups)
        if self._groups is None or self._groups[:2] != asked:
            self._groups = (*asked, groups_of(grown, study.source, plan))
        return self._groups[2]

    @property
    def complete(self) -> bool:
        """Is there every rule that does not resample?"""
        if self.grown is None or self.board is None:
            return False
        wanted = set(self.asked.wanted) - set(RESAMPLING)
        return wanted <= set(self.board.verdicts)

    def work_out(self) -> None:
        """The rules that do not resample, unless they are there already."""
        grown = self.grown
        if grown is None or self.complete or self.at_work("rules"):
            return
        self._of, self._drawn_by = (grown, self.asked), self._design
        there = set() if self.board is None else set(self.board.verdicts)
        keys = [key for key in self.asked.wanted if key not in there]
        work = partial(self._rules, *self._of, keys)
        parts = PartialResults(self._rules_done, every=grown.tree.n > _AT_ONCE)
        self.start("rules", work, self._rules_done, parts)

    def _rules(
        self, grown: Grown, asked: CountPlan, keys: list[str], progress: Progress, report: Report
    ) -> IndexTable:
        """On a worker thread."""
        return compute_indices(grown, asked, keys, progress, lambda board: report(lambda: board))

    def _rules_done(self, board: IndexTable) -> None:
        if self.board is not None:  # of the same tree and counts
            kept = list(self.board.verdicts.values())
            sums = board.sums if board.sums is not None else self.board.sums
            board = replace(board.with_verdicts(kept), sums=sums)
        self.board = board
        self._with_drawn()
        self.changed.emit()

    def _with_drawn(self) -> None:
        """What was drawn before is on the board too."""
        if self._drawn is not None and self.board is not None:
            wanted = self.asked.wanted
            verdicts = [v for v in self._drawn.verdicts if v.key in wanted]
            self.board = self.board.with_verdicts(verdicts)
            self.rounds = self._drawn.asked.resamples if verdicts else 0

    # resampling

    @property
    def draws(self) -> list[str]:
        """The rules of the plan that resample."""
        return [key for key in RESAMPLING if self.grown and key in self.asked.wanted]

    def resample(self) -> None:
        """The rules that draw again; what is finished is shown while it grows."""
        grown = self.grown
        if grown is None or not self.complete:
            return
        asked = self._drawing = self.asked
        work = partial(self._draw, grown, asked, self._sample)
        self.start(
            "resamples", work, self._draws_done, PartialResults(self._draws_seen, first=True)
        )

    @property
    def _sample(self) -> Callable[[], Design | None]:
        """Reads how the cases of the tree were drawn; for a worker thread."""
        study, plan, grown = self.focus.shelf.study, self.focus.shelf.plan, self.grown
        if study is None or plan is None or grown is None or plan.design is None:
            return lambda: None
        return partial(sample_of, study.source_for(plan), plan, grown.prepared)

    def _draw(
        self, grown: Grown, asked: CountPlan, sample: Callable[[], Design | None],
        progress: Progress, report: Report,
    ) -> list[Verdict]:  # fmt: skip
        """On a worker thread."""

        def seen(done: int, verdicts: Callable[[], list[Verdict]]) -> None:
            report(lambda: (done, verdicts()))

        with at_hand(grown.tree.n):
            return resampled(grown, asked, None, progress, seen, design=sample())

    def _draws_seen(self, part: tuple[int, list[Verdict]]) -> None:
        self.rounds, verdicts = part
        self._take(verdicts)

    def _draws_done(self, verdicts: list[Verdict]) -> None:
        self.rounds = 0 if self._drawing is None else self._drawing.resamples
        self._take(verdicts)

    def _take(self, verdicts: list[Verdict]) -> None:
        asked = self._drawing
        if asked is not None and self.rounds:  # stopped before the end: what fewer rounds give
            asked = asked.model_copy(update={"resamples": self.rounds})
            self._drawn = Drawn(asked, tuple(verdicts))
            self.focus.shelf.touch()
        if self.board is not None:
            self.board = self.board.with_verdicts(verdicts)
        self.changed.emit()

    # checks

    @property
    def board_of(self) -> str:
        """What the tree is of."""
        return "cases" if self.board is None else self.board.of

    @property
    def undecided(self) -> bool:
        """Is it still drawn whether there are groups, too little yet to say anything of it?"""
        found = self.checks.groups
        return self.at_work("groups") and (found is None or not (found.why or found.enough))

    def check(self, what: str) -> None:
        """Make one of the checks of `CHECKS`; what is drawn of groups is shown as it grows."""
        grown, asked = self.grown, self.asked
        if grown is not None and what == "groups":
            self.questions.ask()
        elif grown is not None and what == "purpose":
            self.questions.measure()
        elif grown is not None:
            work = partial(_checked, CHECKS[what], grown, asked, self._sample)
            self.start(what, work, partial(self.found, what, asked))


def _checked(
    check: Check, grown: Grown, asked: CountPlan, sample: Callable[[], Design | None],
    progress: Progress, report: Report,
) -> dict[str, Any]:  # fmt: skip
    """On a worker thread: one of the checks."""
    return check(grown, asked, progress, sample())


def _alike(one: CountPlan, other: CountPlan, keys: Sequence[str]) -> bool:
    return all(getattr(one, key) == getattr(other, key) for key in keys)
