"""The work behind the Count page: rules at once, resampling as it grows, checks when asked."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Progress
from gorvel.core.count.board import Board, quick_board
from gorvel.core.count.checks import CHECKS, Checks
from gorvel.core.count.conclusion import Conclusion, concluded
from gorvel.core.count.evidence import Evidence, evidence_of_groups
from gorvel.core.count.resampling import RESAMPLING, resampled
from gorvel.core.count.trial import Trial, try_verdict
from gorvel.core.count.verdicts import Verdict
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.core.study.kept import Drawn, KeptTree
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.jobs import Job, JobKind, Jobs

__all__ = ["Counting"]

_AT_ONCE = 10_000  # cases up to which the rules are worked out as soon as there is a tree
_ASKED_AT_ONCE = 2_000  # cases up to which it is asked at once whether there are groups
_DRAWN_AT_ONCE = 200  # resamples up to which, likewise
_BETWEEN_SIGHTS = 0.3  # seconds between two sights of what resampling says
_BOARD = ("from_", "to", "rules")
_DRAWS = (*_BOARD, "resamples", "seed", "box")


class Counting(QObject):
    """Follows the tree in force.

    Signals: changed(), the board or a check; worked(what, job or None), work on the "rules", on
    "resamples", or on a check began or ended; failed(sentence); looked(), another count is looked
    at or another rule is selected.
    """

    changed = Signal()
    worked = Signal(str, object)
    failed = Signal(str)
    looked = Signal()
    _part = Signal(object, object)
    _sight = Signal(object, int, object)
    _groups_sight = Signal(object, object)
    _trial_sight = Signal(object, object)

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self.board: Board | None = None
        self.checks = Checks()
        self.rounds = 0  # of resampling, that the board holds
        self.running: dict[str, Job] = {}  # by what is worked on
        self.hovered = 0  # count under the pointer, 0 for none
        self.rule = ""  # key of the one selected
        self._drawn: Drawn | None = None  # what rules said that resample
        self._checked_by: dict[str, CountPlan] = {}  # what was asked when a check was made
        self._of: tuple[Grown, CountPlan] | None = None  # whose board it is
        self._drawing: CountPlan | None = None  # what resampling that was begun last was asked
        focus.tree_changed.connect(self._follow)
        focus.shelf.plan_changed.connect(self._follow)
        focus.contributors.append(self._add_found)
        self._part.connect(self._part_seen)
        self._sight.connect(self._draws_seen)
        self._groups_sight.connect(self._groups_seen)
        self._trial_sight.connect(self._trial_seen)
        self._asking: CountPlan | None = None  # what was asked of groups last
        self._trying: CountPlan | None = None  # what was asked when the verdict was tried last

    @property
    def grown(self) -> Grown | None:
        """The tree in force."""
        return self.focus.grown

    @property
    def asked(self) -> CountPlan:
        """The range, rules and draws that the plan now asks for."""
        return ALL_RULES if self.focus.shelf.plan is None else self.focus.shelf.plan.counting

    def _follow(self) -> None:
        grown, asked = self.grown, self.asked
        if grown is None:
            if self._of is not None or self.board is not None:
                self._forget()
                self.changed.emit()
            return
        if self._of is not None and self._of[0].tree is grown.tree:
            before = self._of[1]
            if _alike(before, asked, _DRAWS):
                return
            if _alike(before, asked, _BOARD):
                self._of = (grown, asked)
                self._forget_draws()
                return
            checks, checked = self.checks, self._checked_by
            self._forget()
            self.checks = replace(checks, orders=None, groups=None, trial=None)
            self._checked_by = checked
            for what in ("orders", "groups"):
                self._checked_by.pop(what, None)
            self.work_out()
            return
        self._forget()
        self._take_up()
        if grown.tree.n <= _AT_ONCE or self._drawn is not None:
            self.work_out()
        self.changed.emit()

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
        for what in ("rules", "resamples", "trial", *CHECKS):
            self._end(what)
        self.board, self.checks, self.rounds, self._of = None, Checks(), 0, None
        self._drawn, self._checked_by, self._asking = None, {}, None

    def _forget_draws(self) -> None:
        self._end("resamples")
        self.rounds, self._drawn = 0, None
        if self.board is not None:
            self.board = self.board.without_draws()
        self.changed.emit()

    def _end(self, what: str) -> None:
        self.jobs.drop(JobKind.named(what))

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

    @property
    def left_out(self) -> tuple[str, ...]:
        """Rules without a vote."""
        plan = self.focus.shelf.plan
        return plan.counting.left_out if plan is not None else ()

    def let_vote(self, keys: list[str], vote: bool) -> None:
        """Give rules a vote or take it; can be undone."""
        left = set(self.left_out) - set(keys) if vote else {*self.left_out, *keys}
        self.focus.shelf.change("count", left_out=[key for key in COUNT_RULES if key in left])

    # rules

    @property
    def complete(self) -> bool:
        """Is there every rule that does not resample?"""
        if self.grown is None or self.board is None:
            return False
        wanted = set(self.asked.rules) - set(RESAMPLING)
        return wanted <= set(self.board.verdicts)

    def work_out(self) -> None:
        """The rules that do not resample, unless they are there already."""
        grown = self.grown
        if grown is None or self.complete or self.jobs.busy(JobKind.RULES):
            return
        self._of = (grown, self.asked)
        self._start("rules", partial(self._rules, *self._of), self._rules_done)

    def _rules(self, grown: Grown, asked: CountPlan, progress: Progress) -> Board:
        """On a worker thread: what is there already goes to the interface thread."""
        began = time.monotonic()

        def report(board: Board) -> None:
            if time.monotonic() - began > _BETWEEN_SIGHTS or grown.tree.n > _AT_ONCE:
                self._part.emit((grown, asked), board)

        return quick_board(grown, asked, None, progress, report)

    def _part_seen(self, seen: tuple[Grown, CountPlan], board: Board) -> None:
        of = self._of  # sights of work that was dropped may still be under way
        if (
            of is not None
            and of[0] is seen[0]
            and _alike(of[1], seen[1], _BOARD)
            and self.jobs.busy(JobKind.RULES)
        ):
            self._rules_done(board)

    def _rules_done(self, board: Board) -> None:
        if self._drawn is not None and self.grown is not None:
            wanted = self.asked.rules
            board = board.with_verdicts([v for v in self._drawn.verdicts if v.key in wanted])
        self.board = board
        self.changed.emit()

    # resampling

    @property
    def draws(self) -> list[str]:
        """The rules of the plan that resample."""
        return [key for key in RESAMPLING if self.grown and key in self.asked.rules]

    def resample(self) -> None:
        """The rules that draw again; what is finished is shown while it grows."""
        grown = self.grown
        if grown is None or not self.complete:
            return
        asked = self._drawing = self.asked.model_copy()  # its own, by which its sights are known
        self._start("resamples", partial(self._draw, grown, asked), self._draws_done)

    def _draw(self, grown: Grown, asked: CountPlan, progress: Progress) -> list[Verdict]:
        """On a worker thread: sights of what is done go to the interface thread."""
        last = time.monotonic()
        latest: tuple[int, Callable[[], list[Verdict]]] | None = None

        def report(done: int, verdicts: Callable[[], list[Verdict]]) -> None:
            nonlocal last, latest
            now, latest = time.monotonic(), (done, verdicts)
            if now - last >= _BETWEEN_SIGHTS or done == 1:
                last = now
                self._sight.emit(asked, done, verdicts())

        try:
            with at_hand(grown.tree.n):
                return resampled(grown, asked, None, progress, report)
        except Cancelled:
            if latest is not None:
                self._sight.emit(asked, latest[0], latest[1]())
            raise

    def _draws_seen(self, asked: CountPlan, done: int, verdicts: list[Verdict]) -> None:
        if asked is self._drawing and self.jobs.busy(JobKind.RESAMPLES):
            self.rounds = done
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
    def conclusion(self) -> Conclusion | None:
        """What it all comes to, as far as it is known."""
        if self.board is None:
            return None
        return concluded(self.board, self.checks.groups, self.left_out)

    def ask_at_once(self) -> None:
        """Ask whether there are groups, where that takes seconds and was not asked before."""
        grown = self.grown
        if (
            grown is not None
            and self.complete
            and grown.tree.n <= _ASKED_AT_ONCE
            and self.asked.resamples <= _DRAWN_AT_ONCE
            and self.checks.groups is None
            and (self._asking is None or not _alike(self._asking, self.asked, _DRAWS))
        ):
            self.check("groups")

    def _ask(self, grown: Grown, asked: CountPlan, progress: Progress) -> dict[str, Any]:
        """On a worker thread: sights of what is drawn go to the interface thread."""
        last, latest = time.monotonic(), None

        def report(found: Evidence) -> None:
            nonlocal last, latest
            latest, now = found, time.monotonic()
            if found.draws > 1 and now - last >= _BETWEEN_SIGHTS:
                last = now
                self._groups_sight.emit(asked, found)

        try:
            with at_hand(grown.tree.n):
                return {"groups": evidence_of_groups(grown, asked, progress, report)}
        except Cancelled:
            if latest is not None and latest.draws > 1:
                self._groups_sight.emit(asked, latest)
            raise

    def _groups_seen(self, asked: CountPlan, found: Evidence) -> None:
        if asked is self._asking and self.jobs.busy(JobKind.GROUPS):
            drawn = asked.model_copy(update={"resamples": found.draws})
            self._checked("groups", drawn, {"groups": found})

    def try_verdict(self) -> None:
        """Try the verdict on made-up studies, or go on with that; what is done is kept."""
        grown, told = self.grown, self.conclusion
        if grown is None or told is None:
            return
        count = told.count or max(self.focus.cut.clusters if self.focus.cut else 2, 2)
        asked = self._trying = self.asked.model_copy()
        work = partial(self._try, grown, count, asked, self.checks.trial)
        self._start("trial", work, self._tried)

    def _try(
        self, grown: Grown, count: int, asked: CountPlan, before: Trial | None, progress: Progress
    ) -> Trial:
        """On a worker thread: each study goes to the interface thread."""

        def report(trial: Trial) -> None:
            self._trial_sight.emit(asked, trial)

        with at_hand(grown.tree.n):
            return try_verdict(grown, count, asked, before, progress, report)

    def _trial_seen(self, asked: CountPlan, trial: Trial) -> None:
        if asked is self._trying and self.jobs.busy(JobKind.TRIAL):
            self._tried(trial)

    def _tried(self, trial: Trial) -> None:
        self.checks.trial = trial
        self.focus.shelf.touch()
        self.changed.emit()

    def check(self, what: str) -> None:
        """Make one of the checks of `CHECKS`; what is drawn of groups is shown as it grows."""
        grown = self.grown
        if grown is not None and what == "groups":
            asked = self._asking = self.asked.model_copy()  # its own, by which its sights are known
            self._start(what, partial(self._ask, grown, asked), partial(self._checked, what, asked))
        elif grown is not None:
            asked = self.asked
            self._start(
                what, partial(CHECKS[what], grown, asked), partial(self._checked, what, asked)
            )

    def _checked(self, what: str, asked: CountPlan, found: dict[str, Any]) -> None:
        self._checked_by[what] = asked
        self.focus.shelf.touch()
        for name, value in found.items():
            setattr(self.checks, name, value)
        if "support" in found:
            self.focus.set_support(found["support"])
        self.changed.emit()

    def _start(
        self, what: str, work: Callable[[Progress], Any], done: Callable[[Any], None]
    ) -> None:
        def ended(result: Any) -> None:
            self._over(what)
            done(result)

        def failed(why: str) -> None:
            self._over(what)
            self.failed.emit(why)

        over = partial(self._over, what)
        job = self.jobs.start(JobKind.named(what), work, ended, failed, over, over)
        self.running[what] = job
        self.worked.emit(what, job)

    def _over(self, what: str) -> None:
        self.running.pop(what, None)
        self.worked.emit(what, None)

    def stop(self, what: str) -> None:
        """Stop some work; what is finished is kept."""
        self.jobs.cancel(JobKind.named(what))

    def at_work(self, what: str) -> bool:
        """Is some work going on?"""
        return self.jobs.busy(JobKind.named(what))


def _alike(one: CountPlan, other: CountPlan, keys: Sequence[str]) -> bool:
    return all(getattr(one, key) == getattr(other, key) for key in keys)
