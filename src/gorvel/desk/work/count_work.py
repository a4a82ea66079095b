"""Work on the number of clusters: begun, stopped, and seen in parts while it goes on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from gorvel.core.count.checks import CHECKS, Checks
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.null.conclusion import Conclusion, concluded
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry, PartialResults, PartialWork
from gorvel.desk.work.jobs import JobKind, Jobs

_RULES = ("rules", "resamples", "trial")  # beside the checks


class CountWork(QObject):
    """What is known of the number of clusters, and the work on it.

    work : on the "rules", on "resamples", on the "trial" of the verdict and on each check.

    Signals: changed(), the board or a check; failed(sentence); looked(), another count is looked
    at or another rule is selected.
    """

    changed = Signal()
    failed = Signal(str)
    looked = Signal()

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus, self.jobs = focus, jobs
        self.board: IndexTable | None = None
        self.checks = Checks()
        kinds = {what: JobKind.named(what) for what in (*_RULES, *CHECKS)}
        self.work = {what: Inquiry(jobs, kind, self) for what, kind in kinds.items()}
        for one in self.work.values():
            one.failed.connect(self.failed)
        self._checked_by: dict[str, CountPlan] = {}  # what was asked when a check was made

    @property
    def grown(self) -> Grown | None:
        """The tree in force."""
        return self.focus.grown

    @property
    def asked(self) -> CountPlan:
        """The range, rules and draws that the plan now asks for."""
        return ALL_RULES if self.focus.shelf.plan is None else self.focus.shelf.plan.counting

    @property
    def complete(self) -> bool:
        """Is there every rule that does not resample?"""
        raise NotImplementedError

    @property
    def left_out(self) -> tuple[str, ...]:
        """Rules without a vote."""
        plan = self.focus.shelf.plan
        return plan.counting.left_out if plan is not None else ()

    @property
    def conclusion(self) -> Conclusion | None:
        """What it all comes to, as far as it is known."""
        if self.board is None:
            return None
        return concluded(self.board, self.checks.groups, self.left_out)

    def found(self, what: str, asked: CountPlan, found: dict[str, Any]) -> None:
        """Take what a check found. asked : of it."""
        self._checked_by[what] = asked
        self.focus.shelf.touch()
        for name, value in found.items():
            setattr(self.checks, name, value)
        if "support" in found:
            self.focus.set_support(found["support"])
        self.changed.emit()

    # work

    def start(
        self, what: str, work: PartialWork, done: Callable[[Any], None],
        parts: PartialResults | None = None,
    ) -> None:  # fmt: skip
        """Begin some work, named after what it is about. done : gets what it finds."""
        self.work[what].ask_in_parts((self.grown, self.asked), work, done, parts)

    def at_work(self, what: str) -> bool:
        """Is some work going on?"""
        return self.work[what].job is not None
