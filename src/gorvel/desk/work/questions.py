"""What is asked of data without groups: are there groups, and how far is the verdict right."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any, Protocol

from PySide6.QtCore import QObject, Signal, SignalInstance

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Progress
from gorvel.core.count.checks import Checks
from gorvel.core.count.null.conclusion import Conclusion
from gorvel.core.count.null.evidence import Evidence, evidence_of_groups
from gorvel.core.count.null.validity_profile import CalibratedIndices, calibrated
from gorvel.core.count.null.verdict_simulation import Trial, try_verdict
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.count_rules import COMPARABLE
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.purposes import CHARACTERISTICS
from gorvel.core.study.kept import same_draws
from gorvel.desk.state.focus import Focus

_AT_ONCE = 2_000  # cases up to which it is asked at once whether there are groups
_DRAWN_AT_ONCE = 200  # resamples up to which, likewise
_BETWEEN_SIGHTS = 0.3  # seconds between two sights of what is drawn


class Counts(Protocol):
    """Whose questions these are."""

    focus: Focus
    checks: Checks
    changed: SignalInstance
    looked: SignalInstance

    @property
    def grown(self) -> Grown | None: ...
    @property
    def asked(self) -> CountPlan: ...
    @property
    def complete(self) -> bool: ...
    @property
    def conclusion(self) -> Conclusion | None: ...
    def start(
        self, what: str, work: Callable[[Progress], Any], done: Callable[[Any], None]
    ) -> None: ...
    def found(self, what: str, asked: CountPlan, found: dict[str, Any]) -> None: ...
    def at_work(self, what: str) -> bool: ...


class Questions(QObject):
    """Asks for a counting, which hears of what is found.

    index : key of the rule whose curve is shown beside data without groups; in_sd : is the board in
    standard deviations above such data?
    """

    _sight = Signal(object, object)
    _trial_sight = Signal(object, object)
    _purpose_sight = Signal(object, object)

    def __init__(self, counting: Counts, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.index = "silhouette"
        self.in_sd = False
        self._asking: CountPlan | None = None  # what was asked of groups last
        self._trying: CountPlan | None = None  # what was asked when the verdict was tried last
        self._measuring: CountPlan | None = None  # what was asked when clusters were measured last
        self._sight.connect(self._seen)
        self._purpose_sight.connect(self._measured)
        self._trial_sight.connect(self._trial_seen)

    def forget(self) -> None:
        """Of another tree, or of other counts, it is asked anew."""
        self._asking = self._measuring = None

    # groups

    def ask_at_once(self) -> None:
        """Ask whether there are groups, where that takes seconds and was not asked before."""
        counting = self.counting
        grown, asked = counting.grown, counting.asked
        if (
            grown is not None
            and counting.complete
            and grown.tree.n <= _AT_ONCE
            and asked.resamples <= _DRAWN_AT_ONCE
            and not counting.at_work("groups")
            and (self._unasked or (self.in_sd and self.missing(self._for_board)))
        ):
            self.ask()

    @property
    def _unasked(self) -> bool:
        counting = self.counting
        return counting.checks.groups is None and not same_draws(self._asking, counting.asked)

    def ask(self) -> None:
        """Draw data without groups; what is drawn is shown as it grows."""
        grown = self.counting.grown
        if grown is None:
            return
        asked = self.counting.asked
        wanted = {*asked.groups_by, *self._for_board}
        update = {"groups_by": tuple(key for key in COMPARABLE if key in wanted)}
        asked = self._asking = asked.model_copy(update=update)  # its own: its sights are known
        work, done = partial(self._ask, grown, asked), partial(self.counting.found, "groups", asked)
        self.counting.start("groups", work, done)

    @property
    def _for_board(self) -> tuple[str, ...]:
        """Rules whose standing the board shows."""
        return self.counting.asked.wanted if self.in_sd else ()

    def _ask(self, grown: Grown, asked: CountPlan, progress: Progress) -> dict[str, Any]:
        """On a worker thread: sights of what is drawn go to the interface thread."""
        last, latest = time.monotonic(), None

        def report(found: Evidence) -> None:
            nonlocal last, latest
            latest, now = found, time.monotonic()
            if found.draws > 1 and now - last >= _BETWEEN_SIGHTS:
                last = now
                self._sight.emit(asked, found)

        try:
            with at_hand(grown.tree.n):
                return {"groups": evidence_of_groups(grown, asked, progress, report)}
        except Cancelled:
            if latest is not None and latest.draws > 1:
                self._sight.emit(asked, latest)
            raise

    def _seen(self, asked: CountPlan, found: Evidence) -> None:
        if asked is self._asking and self.counting.at_work("groups"):
            drawn = asked.model_copy(update={"resamples": found.draws})
            self.counting.found("groups", drawn, {"groups": found})

    # other indices

    def missing(self, keys: tuple[str, ...]) -> bool:
        """Is one of these rules not yet held against data without groups, though it could be?"""
        found, asked = self.counting.checks.groups, self._asking
        held = set() if found is None else {*found.beside, "silhouette"}
        if asked is not None and (found is None or same_draws(asked, self.counting.asked)):
            held |= set(asked.groups_by)  # one that cannot be worked out is not asked again
        return bool(set(keys) & set(COMPARABLE) - held)

    def show_index(self, key: str) -> None:
        """Show the curve of a rule; one that is not there becomes part of the plan and is drawn."""
        self.index = key
        asked = self.counting.asked
        if key != "silhouette" and key not in asked.groups_by:
            keys = [one for one in COMPARABLE if one in {*asked.groups_by, key}]
            self.counting.focus.shelf.change("count", groups_by=keys)
        if self.missing((key,)):
            self.ask()
        self.counting.looked.emit()

    def leave_index(self, key: str) -> None:
        """A rule is no longer held against data without groups."""
        keys = [one for one in self.counting.asked.groups_by if one != key]
        self.counting.focus.shelf.change("count", groups_by=keys)
        self.show_index("silhouette")

    @property
    def null(self) -> Evidence | None:
        """Data without groups, where the board is shown beside them."""
        found = self.counting.checks.groups
        return found if self.in_sd and found is not None and found.told else None

    def show_standing(self, on: bool) -> None:
        """The board in standard deviations above data without groups, or in values."""
        self.in_sd = on
        if on and self.counting.complete and self.missing(self._for_board):
            self.ask()
        self.counting.looked.emit()

    # what clusters are for

    def measure_at_once(self) -> None:
        """Measure what clusters are like at each count, unless that was done or stopped."""
        counting = self.counting
        unmeasured = counting.checks.purpose is None and not counting.at_work("purpose")
        again = self._measuring is not None and same_draws(self._measuring, counting.asked)
        if counting.complete and unmeasured and not again:
            self.measure()

    def measure(self) -> None:
        """Characteristics at each count beside random groupings; shown as they come."""
        grown = self.counting.grown
        if grown is None:
            return
        asked = self._measuring = self.counting.asked.model_copy()
        done = partial(self.counting.found, "purpose", asked)
        self.counting.start("purpose", partial(self._measure, grown, asked), done)

    def _measure(self, grown: Grown, asked: CountPlan, progress: Progress) -> dict[str, Any]:
        """On a worker thread: each count goes to the interface thread."""

        def report(found: CalibratedIndices) -> None:
            self._purpose_sight.emit(asked, found)

        with at_hand(grown.tree.n):
            return {"purpose": calibrated(grown, asked, progress, report)}

    def _measured(self, asked: CountPlan, found: CalibratedIndices) -> None:
        if asked is self._measuring and self.counting.at_work("purpose"):
            self.counting.checks.purpose = found
            self.counting.changed.emit()

    def weigh(self, weights: dict[str, float]) -> None:
        """What clusters are for; can be undone."""
        weights = {key: weights[key] for key in CHARACTERISTICS if weights.get(key, 0) > 0}
        self.counting.focus.shelf.change("count", purpose=weights)

    # the verdict tried

    def try_verdict(self) -> None:
        """Try the verdict on made-up studies, or go on with that; what is done is kept."""
        counting = self.counting
        grown, told = counting.grown, counting.conclusion
        if grown is None or told is None:
            return
        cut = counting.focus.cut
        count = told.count or max(cut.clusters if cut else 2, 2)
        asked = self._trying = counting.asked.model_copy()
        work = partial(self._try, grown, count, asked, counting.checks.trial)
        counting.start("trial", work, self._tried)

    def _try(
        self, grown: Grown, count: int, asked: CountPlan, before: Trial | None, progress: Progress
    ) -> Trial:
        """On a worker thread: each study goes to the interface thread."""

        def report(trial: Trial) -> None:
            self._trial_sight.emit(asked, trial)

        with at_hand(grown.tree.n):
            return try_verdict(grown, count, asked, before, progress, report)

    def _trial_seen(self, asked: CountPlan, trial: Trial) -> None:
        if asked is self._trying and self.counting.at_work("trial"):
            self._tried(trial)

    def _tried(self, trial: Trial) -> None:
        self.counting.checks.trial = trial
        self.counting.focus.shelf.touch()
        self.counting.changed.emit()
