"""Which questions are shown of the clusters, by which figure, and what stands beside them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.spread import Spread
from gorvel.core.tree.cluster_names import Identity

SpreadKind = Literal["box", "density", "stacked"]
CellFigure = Literal["mean", "median", "sd", "away"]
CELL_FIGURES: dict[CellFigure, str] = {
    "mean": "Means and shares",
    "median": "Medians",
    "sd": "Standard deviations",
    "away": "SD from all cases",
}


@dataclass(frozen=True, eq=False)
class Beside:
    """Another grouping of the same cases, as columns beside the clusters.

    name : of the grouping; order, cases, shares : as of the clusters; groups : names, which have
    a colour where they are clusters of the same tree; lanes : by title.
    """

    name: str
    order: Sequence[int]
    groups: Sequence[str | Identity]
    cases: Sequence[int]
    shares: Sequence[float]
    lanes: Mapping[str, Lane]

    def called(self, group: int) -> str:
        """A group in a sentence."""
        who = self.groups[group]
        return who if isinstance(who, str) else who.told


@dataclass(frozen=True, eq=False)
class Profiles:
    """What is shown.

    lanes : in their order; figure : of their cells; kind, spreads : how rows show the answers, by
    name of the question, "" for letters at the means; beside : another grouping, if any; common :
    are all lanes on one scale, of standard deviations from the mean of all?
    """

    lanes: Sequence[Lane]
    figure: CellFigure = "mean"
    kind: SpreadKind | Literal[""] = ""
    spreads: Mapping[str, Spread] = field(default_factory=dict)
    beside: Beside | None = None
    common: bool = False


def cell_value(lane: Lane, cluster: int, figure: CellFigure) -> float:
    """The number of a cell."""
    of = {"mean": lane.values, "median": lane.values if lane.share else lane.median,
          "sd": lane.sd, "away": lane.away}  # fmt: skip
    known = np.isfinite(lane.values[cluster])
    return float(of[figure][cluster]) if known else float("nan")
