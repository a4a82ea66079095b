"""Cases of another file, given to the clusters of a cut."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.derive.making import check_turned, completed
from gorvel.core.grow.assigning import Assigned, Given, assign
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.sample_comparison import Panel, Waves, panel_of, waves_of
from gorvel.core.sources.reading import read_source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut


@dataclass(frozen=True, eq=False)
class NewCases:
    """Cases of another file, given to the clusters of a cut."""

    file: str
    cut: Cut
    assigned: Assigned
    waves: Waves
    panel: Panel | None = None  # of the cases that are in both files

    @property
    def given(self) -> Given:
        return self.assigned.by_count[self.cut.clusters]


def assign_new_cases(
    source: Table, plan: Plan, grown: Grown, cut: Cut, path: Path, progress: Progress
) -> NewCases:
    other = completed(read_source(plan, path, progress), plan, source)
    check_turned(other)
    if not isinstance(other, Table):
        raise InputError("a proximity matrix", "a table of cases", file=str(path))
    group = "" if grown.key.group is None else grown.key.group
    found = assign(source, plan, grown, other, [cut.clusters], group, progress)
    waves = waves_of(cut.membership - 1, cut.clusters, found.by_count[cut.clusters])
    panel = None
    if plan.cases.label is not None:
        panel = panel_of(
            cut.membership - 1, cut.clusters, grown.prepared.labels,
            found.by_count[cut.clusters], found.labels,
        )  # fmt: skip
    return NewCases(path.name, cut, found, waves, panel)
