"""The work behind the check whether cases stay where the tree has put them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject

from gorvel.core.base.progress import Progress
from gorvel.core.compare.relocation import Best, Relocation, k_means, reassigned, why_not
from gorvel.core.grow.grown import Grown
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.inquiry import Inquiry
from gorvel.desk.work.jobs import JobKind, Jobs

STARTS = 10  # of k-means, one of which is the cut
_UNASKED = 200_000  # cases x clusters x variables up to which it is worked out when it is seen


@dataclass(frozen=True, eq=False)
class Moves:
    """Of one cut: where cases go that may go to the nearest centroid, and the best of k-means."""

    grown: Grown
    moved: Relocation
    best: Best


class Moving(QObject):
    """Asks of the count in hand."""

    def __init__(self, focus: Focus, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.inquiry = Inquiry(jobs, JobKind.MOVING, self)
        focus.tree_changed.connect(self._follow)

    def _follow(self) -> None:
        if self.focus.grown is None:
            self.inquiry.forget()

    @property
    def why_not(self) -> str:
        """Why cases cannot move between centroids; "" where they can."""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return "There is no tree yet."
        if grown.of != "cases":
            return "Variables have no centroids."
        if cut.split:
            return "Some branches are cut lower: cut by number of clusters to check this."
        return why_not(grown)

    @property
    def known(self) -> Moves | None:
        """What is known of the cut in hand."""
        found: Moves | None = self.inquiry.found
        grown, cut = self.focus.grown, self.focus.cut
        if (
            found is None
            or cut is None
            or self.why_not
            or grown is None
            or found.grown.tree is not grown.tree
        ):
            return None
        return found if found.best.count == cut.clusters else None

    def ask(self) -> None:
        """Work it out, by hand or again."""
        self._ask(again=True)

    def ask_unasked(self) -> bool:
        """The same where it takes no time; False where the hand has to ask."""
        grown, cut = self.focus.grown, self.focus.cut
        if self.why_not or grown is None or cut is None:
            return False
        if grown.tree.n * cut.clusters * len(grown.prepared.variables) > _UNASKED:
            return False
        self._ask(again=False)
        return True

    def _ask(self, again: bool) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        if self.why_not or grown is None or cut is None:
            return
        ask = self.inquiry.again if again else self.inquiry.ask
        ask((grown.tree, cut.clusters), partial(_moves, grown, cut.clusters))


def _moves(grown: Grown, count: int, progress: Progress) -> Moves:
    moved = reassigned(grown, count)
    return Moves(grown, moved, k_means(grown, [count], STARTS, 1, progress)[0])
