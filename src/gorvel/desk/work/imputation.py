"""The work behind the question whether clusters hang on how gaps are handled."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.compare.gap_handlings import GapHandlings, handle_gaps
from gorvel.core.table.table import Table
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs


class Imputation(QObject):
    """Asks of the cut in hand."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.inquiry = Inquiry(jobs, JobKind.IMPUTE, self)
        focus.shelf.study_changed.connect(self.inquiry.forget)

    @property
    def why_not(self) -> str:
        """Why nothing can be asked; "" where it can."""
        plan, grown = self.focus.plan_of_tree, self.focus.grown
        if grown is None or self.focus.cut is None or plan is None:
            return "There is no tree yet."
        if plan.source.kind != "table" or grown.of != "cases":
            return "Only cases have missing answers."
        if grown.key.group is not None:
            return "With a split, each group has its own tree: remove the split first."
        return ""

    @property
    def known(self) -> GapHandlings | None:
        """What is known of the cut in hand."""
        found: GapHandlings | None = self.inquiry.found
        return found if found is not None and found.cut is self.focus.cut else None

    def ask(self) -> None:
        """Grow the trees."""
        study, plan = self.focus.shelf.study, self.focus.plan_of_tree
        grown, cut = self.focus.grown, self.focus.cut
        if self.why_not or study is None or plan is None or grown is None or cut is None:
            return
        source = study.source_for(plan)
        if isinstance(source, Table):
            work = partial(handle_gaps, source, plan, grown, cut)
            self.inquiry.again((grown.tree, cut), work)
