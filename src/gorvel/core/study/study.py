"""A study: what was read, and any number of trees, each with a plan of its own."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from gorvel.core.base.errors import InputError
from gorvel.core.derive.making import completed
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.growth import columns_looked_at, word_order
from gorvel.core.plan.making import needed_for
from gorvel.core.plan.others import adopted, other_plans
from gorvel.core.plan.plan import Plan
from gorvel.core.study.kept import KeptTree
from gorvel.core.table.levels import LEVELS
from gorvel.core.table.source import Source


@dataclass(frozen=True)
class TreeEntry:
    """One tree, grown or still to grow.

    id : never given twice in a study; title : "" for one that is called by its plan; note : in the
    analyst's words; kept : it stands on the shelf, and its plan grows what it grew.
    """

    id: int
    plan: Plan
    title: str = ""
    note: str = ""
    kept: bool = False


@dataclass(frozen=True, eq=False)
class Study:
    """What can be chosen and taken back; frozen, so that a step back is the study before.

    read : as it was read from data_file, before anything is made of it; trees : in the order of
    the shelf; in_hand : the id of the one that is looked at; plan_file : where its plan was saved
    last, if anywhere.
    """

    read: Source
    data_file: Path
    trees: tuple[TreeEntry, ...]
    in_hand: int
    plan_file: Path | None = None

    @property
    def entry(self) -> TreeEntry:
        """The tree in hand."""
        return self.tree(self.in_hand)

    @property
    def plan(self) -> Plan:
        """The plan of the tree in hand."""
        return self.entry.plan

    @property
    def source(self) -> Source:
        """What was read, with what the plan of the tree in hand makes of it."""
        return self.source_for(self.plan)

    def source_for(self, plan: Plan) -> Source:
        """What was read, with the columns that a plan makes of it; see `completed`."""
        return completed(self.read, plan)

    @property
    def kept(self) -> tuple[TreeEntry, ...]:
        """The trees on the shelf."""
        return tuple(entry for entry in self.trees if entry.kept)

    def tree(self, number: int) -> TreeEntry:
        """The tree of an id.

        Raises
        ------
        KeyError : there is none.
        """
        for entry in self.trees:
            if entry.id == number:
                return entry
        raise KeyError(number)

    def has(self, number: int) -> bool:
        """Is there a tree of this id?"""
        return any(entry.id == number for entry in self.trees)

    @property
    def next_id(self) -> int:
        """An id that no tree of this study has."""
        return max(entry.id for entry in self.trees) + 1

    # changes, each of them another study

    def planned(self, plan: Plan, new_id: int | None = None) -> Study:
        """The study with another plan for the tree in hand.

        Where that grows another tree, what belongs to the one in hand (decisions in its plan,
        title, note) does not go over to it. If the one in hand is kept, a tree of its own begins,
        and the kept one stays as it is; it takes the place of one that was begun and not kept.
        What is said of the columns and makes no tree is handed on to the other trees.

        new_id : of a tree that may begin.
        """
        entry = self.entry
        if plan.grows_as(entry.plan):
            return self.with_entry(replace(entry, plan=plan))._worded(plan)
        if plan.growth() == entry.plan.growth():  # names wait until all cases are grown again
            plan = plan.without_decisions(entry.plan, ("count",))
        else:
            plan = plan.without_decisions(entry.plan)
        if entry.kept:
            begun = TreeEntry(new_id or self.next_id, plan)
            trees = (*self.kept, begun)
            return replace(self, trees=trees, in_hand=begun.id)._worded(plan)
        return self.with_entry(replace(entry, plan=plan, title="", note=""))._worded(plan)

    def _worded(self, plan: Plan) -> Study:
        trees = tuple(replace(entry, plan=_worded(entry.plan, plan)) for entry in self.trees)
        return replace(self, trees=trees)

    def with_entry(self, entry: TreeEntry) -> Study:
        """The study with another state of one of its trees."""
        trees = tuple(entry if other.id == entry.id else other for other in self.trees)
        return replace(self, trees=trees)

    def keep(self, other: TreeEntry | None = None, new_id: int | None = None) -> Study:
        """Put the tree in hand on the shelf.

        other : one that it replaced, with all that belongs to it; then that stands beside the one
        in hand, under the new id, unless both are the same.
        """
        if other is None or other.plan.grows_as(self.plan):
            return self.with_entry(replace(self.entry, kept=True))
        kept = replace(other, id=new_id or self.next_id, kept=True)
        return replace(self, trees=(*self.kept, kept, *self._begun()))

    def added(self, plan: Plan, new_id: int | None = None, title: str = "") -> Study:
        """Put a tree on the shelf that is still to grow; the one in hand stays in hand."""
        kept = TreeEntry(new_id or self.next_id, plan, title, kept=True)
        return replace(self, trees=(*self.kept, kept, *self._begun()))

    def _begun(self) -> tuple[TreeEntry, ...]:
        return tuple(entry for entry in self.trees if not entry.kept)

    def take(self, number: int) -> Study:
        """Take another tree in hand. Raises KeyError : there is none."""
        return replace(self, in_hand=self.tree(number).id)

    def called(self, number: int, title: str, note: str | None = None) -> Study:
        """Give a tree a title, and a note. Raises KeyError : there is none."""
        entry = self.tree(number)
        return self.with_entry(
            replace(entry, title=title.strip(), note=entry.note if note is None else note.strip())
        )

    def without(self, number: int) -> Study:
        """Take a tree off the shelf; the one in hand stays in hand, and is no longer kept.

        Raises
        ------
        KeyError : there is none.
        """
        entry = self.tree(number)
        if number == self.in_hand:
            others = tuple(e for e in self.trees if e.kept or e.id == number)  # one is begun
            return replace(self, trees=others).with_entry(replace(entry, kept=False))
        return replace(self, trees=tuple(e for e in self.trees if e.id != number))

    def moved(self, number: int, place: int) -> Study:
        """Put a tree at another place (from 0) of the shelf. Raises KeyError : there is none."""
        entry = self.tree(number)
        others = [e for e in self.trees if e.id != number]
        place = min(max(place, 0), len(others))
        return replace(self, trees=(*others[:place], entry, *others[place:]))


def belonging(tree: KeptTree, entry: TreeEntry) -> KeptTree:
    """A tree with what its entry has for it, where that plans the same tree."""
    mine = (tree.plan, tree.title, tree.note)
    if mine == (entry.plan, entry.title, entry.note) or not tree.grows_as(entry.plan):
        return tree
    return tree.with_(plan=entry.plan, title=entry.title, note=entry.note)


def study_of(source: Source, data_file: Path, plan: Plan, plan_file: Path | None = None) -> Study:
    """A study that begins: one tree, which is in hand and not kept.

    Raises
    ------
    InputError : the parts of the plan do not go together; what is to be chosen may be open.
    """
    check_fit(plan, unfinished=True)
    return Study(source, data_file, (TreeEntry(1, plan),), 1, plan_file)


def with_others(study: Study) -> Study:
    """The study with the other trees that its plan names on the shelf, still to grow.

    Raises
    ------
    InputError : keys of one that do not go together; see `other_plans`.
    """
    other_plans(study.plan)
    for tree in study.plan.trees:
        study = study.added(adopted(study.plan, tree), title=tree.name)
    return study


def _worded(plan: Plan, other: Plan) -> Plan:
    """A plan with what another says of the columns, as far as that makes no tree.

    These are the label of the cases and known groups, wordings and words of codes, and of columns
    that this plan does not look at the levels, roles and missing codes. Of columns that it looks at
    these make the tree, and two trees may differ in them.
    """
    mine, said, looked_at = plan.variables, other.variables, columns_looked_at(plan)

    def handed_on(key: str) -> tuple[str, ...]:
        kept = [name for name in getattr(mine, key) if name in looked_at]
        return (*kept, *(name for name in getattr(said, key) if name not in looked_at))

    missing = {name: codes for name, codes in mine.missing.items() if name in looked_at}
    missing |= {name: codes for name, codes in said.missing.items() if name not in looked_at}
    ordered = {name: words for name, words in mine.values.items() if word_order(plan, name)}
    values = {**said.values, **ordered}
    told: dict[str, Any] = {"labels": said.labels, "values": values, "missing": missing}
    told |= {key: handed_on(key) for key in (*LEVELS, "asymmetric", "profile")}
    cases = {"label": other.cases.label, "groups": other.cases.groups}
    changes = {
        "variables": {key: value for key, value in told.items() if _other(mine, key, value)},
        "cases": {key: value for key, value in cases.items() if _other(plan.cases, key, value)},
    }
    told_plan = _with_made(plan, other)
    told_plan = told_plan.with_parts(changes) if any(changes.values()) else told_plan
    if told_plan.design == other.design:
        return told_plan
    design = None if other.design is None else other.design.model_dump(exclude_unset=True)
    try:
        return told_plan.with_whole("design", design)
    except InputError:  # a tree of variables
        return told_plan


def _with_made(plan: Plan, other: Plan) -> Plan:
    """A plan with what another makes, but for what its own tree is made of."""
    mine = {make.name: make for make in needed_for(plan.make, columns_looked_at(plan))}
    makes = [mine.pop(make.name, make) for make in other.make]
    makes += mine.values()
    if tuple(makes) == plan.make:
        return plan
    try:
        return plan.with_made(makes)
    except InputError:  # one is made of another that stands behind it now
        return plan


def _other(part: BaseModel, key: str, value: Any) -> bool:
    """Does a part of a plan say something else? The order of columns says nothing."""
    now = getattr(part, key)
    return set(now) != set(value) if isinstance(now, tuple) else now != value
