"""Every result of a study: what it is called, and how its table is made of what is known.

Cards show and copy them, figures are drawn by the same keys (`paint.figures`). A new result is one
entry here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gorvel.core.results import comparison, count, profiles
from gorvel.core.results.findings import Findings
from gorvel.core.results.table import ResultTable


@dataclass(frozen=True)
class Result:
    """title : in a report; stem : of its files; table : None where there is nothing to tell."""

    key: str
    title: str
    table: Callable[[Findings], ResultTable | None]
    stem: str = ""

    @property
    def file(self) -> str:
        """The beginning of the names of its files."""
        return self.stem or self.key


RESULTS: dict[str, Result] = {
    one.key: one
    for one in (
        Result("rules", "Number of clusters by rule", count.rules_table),
        Result("rule", "One rule by number of clusters", count.rule_table),
        Result("null", "Compared with data without groups", count.null_table, "groups"),
        Result("purpose", "Numbers of clusters by purpose", count.purpose_table),
        Result("silhouettes", "Silhouettes", count.silhouettes_table),
        Result("known-groups", "Clusters by known groups", count.known_groups_table),
        Result("profiles", "What the clusters are like", profiles.profiles_table),
        Result("tests", "Tests of each question", profiles.tests_table),
        Result("map", "Map of the cases", profiles.map_table),
        Result("scatter", "Questions against each other", profiles.scatter_table),
        Result("components", "Principal components", profiles.components_table),
        Result("drivers", "Clusters without each variable", profiles.drivers_table),
        Result("short-form", "Short form", profiles.short_form_table),
        Result("new-cases", "Sizes of the clusters in both files", profiles.new_sizes_table),
        Result("new-case-clusters", "Clusters of the new cases", profiles.new_cases_table),
        Result("alike", "Agreement by number of clusters", comparison.agreement_table),
        Result("who-is-where", "Cross-tabulation of two trees", comparison.cross_table),
        Result("face-to-face", "Cases in two trees", comparison.pair_table),
        Result("sweep", "Sweep", comparison.sweep_table),
        Result("stands-whatever", "Stability across trees", comparison.stability_table),
        Result("gaps", "Treatments of missing answers", comparison.handlings_table),
        Result("imputations", "Clusters across imputations", comparison.imputed_table),
        Result("split-groups", "Agreement between groups", comparison.replication_table, "groups"),
    )
}
