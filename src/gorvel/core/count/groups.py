"""Groups known beforehand, held against the clusters: a check, never a rule."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.agreement import adjusted_rand, cross_counts, normalised_information
from gorvel.core.derive.making import as_completed
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut

Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class KnownGroups:
    """name : of the column; groups : names, sorted; codes : (n,) of the cases kept, -1 unknown."""

    name: str
    groups: tuple[str, ...]
    codes: Ints


@dataclass(frozen=True, eq=False)
class Check:
    """How the clusters of one cut go with known groups.

    table : (clusters, groups) cases; rand : adjusted Rand index; information : normalised mutual
    information; unknown : cases without a group, which are left out.
    """

    table: Ints
    rand: float
    information: float
    unknown: int


def groups_of(grown: Grown, source: object, plan: Plan) -> KnownGroups | None:
    """The known groups of the cases of a tree, as the plan names their column; None for none.

    source : what was read.
    """
    name = plan.cases.groups
    if name is None or not isinstance(source, Table) or grown.prepared.of != "cases":
        return None
    cells = as_completed(source, plan).cells(name, plan.codes(name)).values
    return known_groups(name, [cells[int(number) - 1] for number in grown.prepared.numbers])


def known_groups(name: str, answers: list[str | None]) -> KnownGroups | None:
    """The groups of the cases kept, from their answers; None where there are not two.

    answers : (n,), None for unknown.
    """
    groups = tuple(sorted({answer for answer in answers if answer is not None}))
    if len(groups) < 2:
        return None
    code = {group: k for k, group in enumerate(groups)}
    codes = [-1 if answer is None else code[answer] for answer in answers]
    return KnownGroups(name, groups, np.array(codes, dtype=np.int64))


def check_of(groups: KnownGroups, cut: Cut) -> Check:
    """Hold a cut against known groups."""
    known = groups.codes >= 0
    table = cross_counts(cut.membership[known] - 1, groups.codes[known])
    room = (cut.clusters - len(table), len(groups.groups) - table.shape[1])
    table = np.pad(table, ((0, room[0]), (0, room[1])))
    return Check(table, adjusted_rand(table), normalised_information(table), int((~known).sum()))
