"""All that is known of the tree in hand, brought together for what is shown, copied and saved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gorvel.core.results.findings import Findings
from gorvel.core.scene.points import Points
from gorvel.core.tree.cuts import Cut
from gorvel.desk.state.focus import Focus
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.counting import Counting
from gorvel.desk.work.imputation import Imputation
from gorvel.desk.work.profiling import Profiling
from gorvel.desk.work.replicating import Replicating
from gorvel.desk.work.sweeping import Sweeping


@dataclass(frozen=True, eq=False)
class Collecting:
    """Asks all who work on the tree."""

    focus: Focus
    counting: Counting
    profiling: Profiling
    comparing: Comparing
    imputation: Imputation
    replicating: Replicating
    sweeping: Sweeping

    def _planes(self, cut: Cut) -> dict[str, Points]:
        """Those that show the clusters of a cut."""
        own = cut.membership - 1
        return {
            key: points
            for key, points in self.profiling.planes.items()
            if points is not None and np.array_equal(points.own, own)
        }

    def findings(self) -> Findings | None:
        """As of now; None without a tree."""
        focus, plan = self.focus, self.focus.plan_of_tree
        if focus.grown is None or focus.cut is None or plan is None:
            return None
        counting, comparing, profiling = self.counting, self.comparing, self.profiling
        return Findings(
            plan, focus.grown, focus.cut, focus.identities, counting.board, counting.rule,
            counting.left_out, counting.checks.groups, counting.questions.index,
            counting.questions.null, counting.checks.purpose, counting.asked.purpose,
            counting.silhouettes(focus.cut.clusters),
            counting.known_groups, comparing.faced, comparing.met, comparing.titles,
            self.sweeping.known, comparing.standing, self.imputation.known, self.replicating.known,
            profiling.portrayed, profiling.profiles, profiling.adjusted,
            profiling.principal_components, self._planes(focus.cut), profiling.against,
            profiling.grid, profiling.driven or (), profiling.forms,
            profiling.short_form, profiling.assigned,
        )  # fmt: skip
