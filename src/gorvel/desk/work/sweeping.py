"""The work behind the sweep: trees of many combinations, beside the one in hand."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.compare.sweep import KEYS, Combination, Sweep, Swept, combinations_of, sweep
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.analyses import OtherTree
from gorvel.core.plan.others import adopted
from gorvel.core.plan.plan import Plan
from gorvel.core.table.source import Source
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry, PartialResults, Report
from gorvel.desk.work.jobs import JobKind, Jobs

CHOICE = "choice"  # some of each kind, every one with every other
AGAINST = {
    "measures": "measures", "scales": "scales", "handlings": "missing answers",
    CHOICE: "a choice of all three",
}  # fmt: skip
_MOST_BOARDS = 1_000  # cases up to which each tree is asked for its best counts, too


class Sweeping(QObject):
    """Sweeps linkages against measures, scales or handlings of gaps."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.trees = Inquiry(jobs, JobKind.SWEEP, self)
        self.against = "measures"
        self.chosen: dict[str, tuple[str, ...]] = {}  # by kind, the keys of a choice
        focus.shelf.study_changed.connect(self.trees.forget)

    @property
    def why_not(self) -> str:
        """Why nothing can be swept; "" where it can."""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return "There is no tree yet."
        if grown.of != "cases":
            return "A sweep needs trees of cases: choose cases on the Plan page."
        if grown.key.group is not None:
            return "With a split, each group has its own tree: remove the split first."
        return ""

    def begin(self) -> None:
        """Grow the trees, from the first on."""
        study, plan, grown = self.focus.shelf.study, self.focus.plan_of_tree, self.focus.grown
        if self.why_not or study is None or plan is None or grown is None:
            return
        cut = self.focus.cut
        assert cut is not None
        keys: dict[str, object] = {"linkages": "all"}
        kinds: tuple[str, ...] = ()
        if plan.source.kind == "table":
            if self.against == CHOICE:
                own = self._own(plan)
                kinds = tuple(kind for kind in KEYS if self.choice[kind] != (own[kind],))
                keys |= self.choice
            else:
                kinds = (self.against,)
                keys[self.against] = "all"
        asked = plan.with_whole("sweep", keys)
        if asked.count is None and grown.tree.n <= _MOST_BOARDS:
            asked = asked.with_whole("count", {})
        at_own = Combination("", "", "", "")
        pairs = combinations_of(asked)
        for at, tree in pairs:
            if _grows_the_same(plan, tree):
                at_own = at
        begun = Sweep(tuple(at for at, _ in pairs), (), self.against, kinds, cut.clusters, at_own)
        work = partial(_sweep, study.source_for(plan), asked, grown, begun)
        about, seen = (grown.tree, self.against, cut.clusters), self.trees.seen
        self.trees.ask_in_parts(about, work, seen, PartialResults(seen, first=True))

    @property
    def choice(self) -> dict[str, tuple[str, ...]]:
        """The keys of each kind that are swept together: those chosen, or else the plan's own."""
        plan = self.focus.plan_of_tree
        assert plan is not None
        return {kind: self.chosen.get(kind) or (key,) for kind, key in self._own(plan).items()}

    @staticmethod
    def _own(plan: Plan) -> dict[str, str]:
        """The key of each kind by which a plan grows its tree."""
        return {"scales": plan.scale.method, "handlings": plan.handling,
                "measures": plan.proximity.measure}  # fmt: skip

    @property
    def known(self) -> Sweep | None:
        """What is known, where it is about the tree in hand."""
        found: Sweep | None = self.trees.found
        return found

    @property
    def is_old(self) -> bool:
        """Was it begun from another tree, or another cut, than those in hand?"""
        grown, cut, found = self.focus.grown, self.focus.cut, self.known
        if grown is None or cut is None or found is None:
            return False
        return not self.trees.is_about((grown.tree, found.against, cut.clusters))

    def plan_of(self, at: Combination) -> Plan:
        """The plan that grows a combination.

        Raises
        ------
        InputError : it does not go together.
        """
        plan, found = self.focus.plan_of_tree, self.known
        if plan is None or found is None:
            raise InputError("no tree", "one that is current")
        keys = {"name": "-", "linkage": at.linkage}
        for kind in KEYS if found.against == CHOICE else found.kinds:
            keys[KEYS[kind]] = getattr(at, KEYS[kind])
        return adopted(plan, OtherTree.model_validate(keys))


def _grows_the_same(plan: Plan, tree: OtherTree) -> bool:
    try:
        return adopted(plan, tree).grows_as(plan)
    except InputError:
        return False


def _sweep(
    source: Source, plan: Plan, own: Grown, begun: Sweep, progress: Progress, report: Report
) -> Sweep:
    """On a worker thread."""
    kept: list[Swept] = []

    def grew(one: Swept) -> None:
        kept.append(one)
        report(by_now)

    def by_now() -> Sweep:
        return replace(begun, found=tuple(kept))

    sweep(source, plan, own, [begun.count], None, progress, grew)
    return by_now()
