"""Trees of the groups of a split: grown one after the other, and saved side by side."""

from __future__ import annotations

from dataclasses import dataclass

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.rows import left_out, split_rows
from gorvel.core.compare.cross_validation import Replication, found_again
from gorvel.core.derive.making import as_completed
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.plan import Plan
from gorvel.core.study.kept import KeptTree, grown_again
from gorvel.core.table.table import Table

_FEWEST = 2  # cases of a tree


@dataclass(frozen=True, eq=False)
class GrownGroups:
    """Trees of one plan by group.

    first : the group whose tree is at hand as a whole, grown; kept : of every group, in the order
    of first appearance; without : groups that have no tree, each with the reason.
    """

    first: str
    grown: Grown
    kept: dict[str, KeptTree]
    without: dict[str, str]


def grow_groups(
    source: Table, plan: Plan, wanted: str | None = None, progress: Progress = silent
) -> GrownGroups:
    """Grow a tree for each group of the split.

    wanted : the group whose tree is to be at hand, where it has one; progress : told how far all of
    them together are; may raise to stop.

    Raises
    ------
    InputError : a row has no group, or no group can have a tree.
    TooLargeError : see `check_memory`.
    """
    source = as_completed(source, plan)
    groups = split_rows(source, plan)
    kept: dict[str, KeptTree] = {}
    without: dict[str, str] = {}
    at_hand: tuple[str, Grown] | None = None
    for place, (group, rows) in enumerate(groups.items()):

        def told(phase: Phase, share: float, place: int = place) -> None:
            progress(phase, (place + share) / len(groups))

        out = left_out(source, plan, rows)
        chosen = sum(row not in out for row in rows)
        if chosen < _FEWEST:
            without[group] = f"{chosen} of {len(rows)} cases: too few for a tree"
            continue
        try:
            prepared = prepare(source, plan, rows)
            if prepared.n < _FEWEST:
                without[group] = f"{prepared.n} of {chosen} cases used: too few for a tree"
                continue
            grown = grow_prepared(prepared, plan, {}, told, group)
        except InputError as error:
            without[group] = str(error)
            continue
        kept[group] = KeptTree.of(plan, grown)
        if at_hand is None or group == wanted:
            at_hand = group, grown
    if at_hand is None:
        why = next(iter(without.values()), "there are no groups")
        place_words = f"[cases] split by {plan.cases.split}"
        raise InputError(f"no group has a tree ({why})", place=place_words, file=source.name)
    return GrownGroups(*at_hand, kept, without)


@dataclass(frozen=True, eq=False)
class Replicated:
    """Of the trees of all groups at one count.

    number : of their entry; groups : what each is called, with its cases; found : by the group
    whose tree it is, and whose cases are given.
    """

    number: int
    count: int
    groups: dict[str, tuple[str, int]]
    found: dict[tuple[str, str], Replication]


def replicate_groups(
    table: Table, plan: Plan, number: int, kept: dict[str, KeptTree], here: Grown, count: int,
    progress: Progress,
) -> Replicated:  # fmt: skip
    trees = {group: here if tree.tree is here.tree else grown_again(table, tree, None, progress)
             for group, tree in kept.items()}  # fmt: skip
    groups = {group: (group_words(plan, group), tree.tree.n) for group, tree in trees.items()}
    return Replicated(number, count, groups, found_again(table, plan, trees, count, progress))


def group_words(plan: Plan, group: str) -> str:
    """What a group of a split is called."""
    return plan.variables.values.get(plan.cases.split or "", {}).get(group, group)
