"""What is kept of a grown tree: its joins and what took long to find out, not what follows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.rows import split_rows
from gorvel.core.count.checks import Checks
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.resampling.resampled_rules import RESAMPLING
from gorvel.core.derive.making import completed
from gorvel.core.grow.grown import Grown, grown_from
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cophenetic import Faithful
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_at_height, cut_branches
from gorvel.core.tree.schedule import WithinSS
from gorvel.core.tree.tree import Tree

_DRAWS = ("from_", "to", "resamples", "seed")


@dataclass(frozen=True)
class KeptCut:
    """Where a tree is cut, whatever is worked out of it.

    clusters : before branches are cut lower; split : joins (from 0) that are; height : of a line
    put by hand; lettered : clusters and split of the cut whose clusters have letters of their own.
    """

    clusters: int
    split: tuple[int, ...] = ()
    height: float | None = None
    lettered: tuple[int, tuple[int, ...]] | None = None

    @classmethod
    def of(cls, cut: Cut, height: float | None, lettered: Cut | None) -> KeptCut:
        """What is kept of a cut."""
        named = None if lettered is None else (lettered.level, lettered.split)
        return cls(cut.level, cut.split, height, named)

    def cut(self, tree: Tree) -> Cut:
        """The cut of a tree, at as many clusters as it has cases for."""
        if self.height is not None and not self.split:
            return cut_at_height(tree, self.height)
        return _cut(tree, self.clusters, self.split)

    def lettered_cut(self, tree: Tree) -> Cut:
        """The cut whose clusters have letters of their own."""
        return _cut(tree, *(self.lettered or (self.clusters, self.split)))


def _cut(tree: Tree, clusters: int, split: tuple[int, ...]) -> Cut:
    clusters = min(max(clusters, 1), tree.n)
    if not split:
        return cut_at_count(tree, clusters)
    return cut_branches(tree, clusters, [join for join in split if 0 <= join < tree.joins])


def same_draws(one: CountPlan | None, other: CountPlan, in_box: bool = False) -> bool:
    """Do two count parts of a plan draw the same? in_box : even noise, which needs a box."""
    keys = (*_DRAWS, "box") if in_box else _DRAWS
    return one is not None and all(getattr(one, key) == getattr(other, key) for key in keys)


def same_check(name: str, one: CountPlan | None, other: CountPlan) -> bool:
    """Is a check made by one count part of a plan what the other asks for?"""
    if one is None or not same_draws(one, other, in_box=name == "structure"):
        return False
    return name != "groups" or one.groups_by == other.groups_by


@dataclass(frozen=True, eq=False)
class Drawn:
    """What rules that resample said. asked : the count part of the plan at that time."""

    asked: CountPlan
    verdicts: tuple[Verdict, ...]

    def answers(self, asked: CountPlan) -> bool:
        """Are these what drawing again by this part of a plan would give?"""
        wanted = set(asked.wanted) & set(RESAMPLING)
        return same_draws(self.asked, asked, in_box="gap" in wanted) and wanted <= {
            v.key for v in self.verdicts
        }


@dataclass(frozen=True, eq=False)
class Looked:
    """How the tree is looked at.

    flipped : (n-1,) joins whose parts are exchanged; folded : nodes shown as one mark; sorted_by :
    what the order is by; scale : of heights; frames : counts.
    """

    flipped: NDArray[np.bool_] | None = None
    folded: frozenset[int] = frozenset()
    sorted_by: str = ""
    scale: str = ""
    frames: frozenset[int] = frozenset()


@dataclass(frozen=True, eq=False)
class KeptTree:
    """One grown tree with all that belongs to it, as it is kept, replaced, restored and saved.

    plan : by which it was looked at last, with what was decided about it; title, note : as in its
    `TreeEntry`; group : of its split, None for all cases; spread : sums of squares along
    the joins, if there are any; faithful, drawn, checks : what was found of it so far; checked : by
    name, the count part of the plan by which each check was made.
    """

    plan: Plan
    group: str | None
    tree: Tree
    spread: WithinSS | None
    cut: KeptCut | None = None
    faithful: Faithful | None = None
    drawn: Drawn | None = None
    checks: Checks = field(default_factory=Checks)
    checked: Mapping[str, CountPlan] = field(default_factory=dict)
    looked: Looked = field(default_factory=Looked)
    title: str = ""
    note: str = ""

    @classmethod
    def of(cls, plan: Plan, grown: Grown, **found: Any) -> KeptTree:
        """What is kept of a tree that a plan grew. found : other fields, as far as known."""
        return cls(plan, grown.key.group, grown.tree, grown.schedule.spread, **found)

    def with_(self, **found: Any) -> KeptTree:
        """A copy with some fields changed."""
        return replace(self, **found)

    def grows_as(self, plan: Plan) -> bool:
        """Would this plan grow the same tree?"""
        return self.plan.growth(self.group) == plan.growth(self.group)


def grown_again(
    source: Source, kept: KeptTree, plan: Plan | None = None, progress: Progress = silent
) -> Grown:
    """The whole of a kept tree, without growing it.

    plan : in force, where that grows the same tree; that which grew it otherwise.

    Raises
    ------
    InputError : the tree does not go with what was read, or its group is not there.
    """
    plan = kept.plan if plan is None else plan
    source = completed(source, plan)
    rows = None
    if kept.group is not None and isinstance(source, Table):
        groups = split_rows(source, plan)
        if kept.group not in groups:
            place = "[cases] split"
            raise InputError(f'no group "{kept.group}"', place=place, file=source.name)
        rows = groups[kept.group]
    prepared = prepare(source, plan, rows)
    return grown_from(prepared, plan, kept.tree, kept.spread, progress, kept.group)
