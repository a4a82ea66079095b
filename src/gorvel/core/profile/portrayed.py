"""What is told of the clusters of one cut: answers, spreads, another grouping beside them."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.cases.design import Design, sample_of
from gorvel.core.count.groups import known_groups
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.analyses import DesignPlan
from gorvel.core.plan.parts import VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.lanes import Lane, lanes_of
from gorvel.core.profile.raw_answers import Question, read_answers
from gorvel.core.profile.spread import Spread, spread_of
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Other:
    """Another grouping of the cases.

    own : (n,) groups from 0, -1 for none; cut : whose clusters they are, None for known groups,
    whose names are words.
    """

    name: str
    own: Ints
    words: tuple[str, ...]
    lanes: list[Lane]
    cut: Cut | None = None


@dataclass(frozen=True, eq=False)
class Portrayed:
    """What is told of one cut.

    said : what the plan says of questions and sample; masses : (n,); problem : why answers cannot
    be read, "" where they can; spreads : by question, once asked for.
    """

    tree: Tree
    cut: Cut
    said: tuple[VariablesPlan, DesignPlan | None]
    told: list[Question]
    masses: Floats
    design: Design | None
    lanes: list[Lane]
    other: Other | None = None
    problem: str = ""
    spreads: dict[str, Spread] = field(default_factory=dict)

    @property
    def own(self) -> Ints:
        """(n,) clusters from 0."""
        return self.cut.membership - 1


def portrayed(
    source: Source, plan: Plan, grown: Grown, cut: Cut, before: Portrayed | None,
    beside: int | str | None, in_spread: bool, progress: Progress,
) -> Portrayed:  # fmt: skip
    """Read the answers, unless they were read before, and lay the clusters side by side."""
    told: list[Question] = [] if before is None else before.told
    design, problem = (None, "") if before is None else (before.design, before.problem)
    if before is None and isinstance(source, Table) and grown.of == "cases":
        try:
            told = read_answers(source, plan, grown.prepared)
            design = sample_of(source, plan, grown.prepared)
        except InputError as error:  # where it is of the design, answers are told without
            problem = str(error)
    weights = grown.prepared.weights
    masses = np.ones(grown.tree.n) if weights is None else weights
    own = cut.membership - 1
    if before is not None and before.cut is cut:
        lanes = before.lanes
    else:
        lanes = lanes_of(told, own, cut.clusters, masses, design) if told else []
    spreads = {one.name: spread_of(one, own, cut.clusters, masses) for one in told if in_spread}
    other = _other(source, plan, grown, beside, told, masses, design) if told else None
    said = plan.variables, plan.design
    return Portrayed(grown.tree, cut, said, told, masses, design, lanes, other, problem, spreads)


def _other(
    source: Source, plan: Plan, grown: Grown, beside: int | str | None, told: list[Question],
    masses: Floats, design: Design | None,
) -> Other | None:  # fmt: skip
    if isinstance(beside, int) and 1 <= beside <= grown.tree.n:
        cut = cut_at_count(grown.tree, beside)
        own = cut.membership - 1
        lanes = lanes_of(told, own, beside, masses, design)
        return Other(f"{beside} clusters", own, (), lanes, cut)
    if not isinstance(beside, str) or not isinstance(source, Table) or beside not in source.names:
        return None
    cells = source.cells(beside, plan.codes(beside)).values
    groups = known_groups(beside, [cells[int(k) - 1] for k in grown.prepared.numbers])
    if groups is None or len(groups.groups) > _MOST_GROUPS:
        return None
    own, count = groups.codes, len(groups.groups)
    inside = np.where(own < 0, count, own)  # those of no group are one more, which is not shown
    lanes = lanes_of(told, inside, count + 1, masses, design)
    return Other(beside, own, tuple(groups.groups), lanes)


_MOST_GROUPS = 12  # of another grouping that fit beside the clusters
