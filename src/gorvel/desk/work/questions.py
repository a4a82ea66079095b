"""What is asked of data without groups: are there groups, and how far is the verdict right."""

from __future__ import annotations

from functools import partial
from typing import Any

from gorvel.core.base.progress import Progress
from gorvel.core.count.null.evidence import Evidence, evidence_of_groups
from gorvel.core.count.null.validity_profile import CalibratedIndices, calibrated
from gorvel.core.count.null.verdict_simulation import Trial, try_verdict
from gorvel.core.grow.grown import Grown
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.count_rules import COMPARABLE
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.purposes import CHARACTERISTICS
from gorvel.core.study.kept import same_draws
from gorvel.desk.work.count_work import CountWork
from gorvel.desk.work.inquiry import PartialResults, Report

_AT_ONCE = 2_000  # cases up to which it is asked at once whether there are groups
_DRAWN_AT_ONCE = 200  # resamples up to which, likewise


class Questions:
    """Asks for a counting, which hears of what is found.

    index : key of the rule whose curve is shown beside data without groups; in_sd : is the board in
    standard deviations above such data?
    """

    def __init__(self, counting: CountWork) -> None:
        self.counting = counting
        self.index = "silhouette"
        self.in_sd = False
        self._asking: CountPlan | None = None  # what was asked of groups last
        self._measuring: CountPlan | None = None  # what was asked when clusters were measured last

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
        asked = self._asking = asked.model_copy(update=update)
        done = partial(self.counting.found, "groups", asked)
        parts = PartialResults(partial(self._seen, asked))
        self.counting.start("groups", partial(_asked, grown, asked), done, parts)

    def _seen(self, asked: CountPlan, found: Evidence) -> None:
        drawn = asked.model_copy(update={"resamples": found.draws})
        self.counting.found("groups", drawn, {"groups": found})

    @property
    def _for_board(self) -> tuple[str, ...]:
        """Rules whose standing the board shows."""
        return self.counting.asked.wanted if self.in_sd else ()

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
        asked = self._measuring = self.counting.asked
        done = partial(self.counting.found, "purpose", asked)
        work = partial(_measured, grown, asked)
        self.counting.start("purpose", work, done, PartialResults(self._measured, every=True))

    def _measured(self, found: CalibratedIndices) -> None:
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
        work = partial(_tried, grown, count, counting.asked, counting.checks.trial)
        counting.start("trial", work, self._tried, PartialResults(self._tried, every=True))

    def _tried(self, trial: Trial) -> None:
        self.counting.checks.trial = trial
        self.counting.focus.shelf.touch()
        self.counting.changed.emit()


# on a worker thread


def _asked(grown: Grown, asked: CountPlan, progress: Progress, report: Report) -> dict[str, Any]:
    def seen(found: Evidence) -> None:
        if found.draws > 1:
            report(lambda: found)

    with at_hand(grown.tree.n):
        return {"groups": evidence_of_groups(grown, asked, progress, seen)}


def _measured(grown: Grown, asked: CountPlan, progress: Progress, report: Report) -> dict[str, Any]:
    with at_hand(grown.tree.n):
        found = calibrated(grown, asked, progress, lambda found: report(lambda: found))
        return {"purpose": found}


def _tried(
    grown: Grown, count: int, asked: CountPlan, before: Trial | None, progress: Progress,
    report: Report,
) -> Trial:  # fmt: skip
    with at_hand(grown.tree.n):
        return try_verdict(
            grown, count, asked, before, progress, lambda trial: report(lambda: trial)
        )
