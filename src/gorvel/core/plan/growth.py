"""What makes a tree: the part of a plan on which the joins depend, and nothing else."""

from __future__ import annotations

from dataclasses import dataclass
from math import isnan
from typing import Any

from gorvel.core.language.condition import parse_condition
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.kinds import IN_FILE
from gorvel.core.plan.making import needed_for
from gorvel.core.plan.parts import WholePlan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.table import parse_number

Entries = tuple[tuple[str, Any], ...]


@dataclass(frozen=True)
class Method:
    """How cases are measured and joined.

    measure, linkage : keys of the registries; beta : of flexible linkage; squares : rules on
    squared geometry take the proximities for squares already. Powers go with the prepared answers.
    """

    measure: str
    linkage: str
    beta: float = -0.25
    squares: bool = False


def method_of(plan: WholePlan) -> Method:
    """The method of a plan."""
    squares = plan.proximities_are == "squares"
    return Method(plan.proximity.measure, plan.tree.linkage, plan.tree.beta, squares)


@dataclass(frozen=True)
class GrowthKey:
    """Two plans with equal keys grow the same tree from the same file.

    source : how the file is read; made : variables made of it that matter; rows : which of its
    rows, under which weights;
    variables : those in use, with all that turns their cells into numbers; measured : how gaps are
    handled, answers scaled and cases measured; joined : the rule; group : of a split, None for all.
    """

    source: Entries
    made: Entries
    rows: Entries
    variables: tuple[Entries, ...]
    measured: Entries
    joined: Entries
    group: str | None = None


def growth_key(plan: WholePlan, group: str | None = None) -> GrowthKey:
    """The key of a plan.

    Labels of cases, questions' wordings, words of codes, profile roles, known groups, cuts, the
    count, and levels or codes of columns that nothing looks at are not in it.
    """
    source = plan.source.model_dump(exclude={"file", "missing_codes", "join"})
    joins = tuple((join.file, join.by) for join in plan.source.join)
    return GrowthKey(
        (*source.items(), ("join", joins)),
        _made(plan, group is not None),
        _rows(plan, group),
        tuple(_variable(plan, name) for name in plan.variables.use),
        _measured(plan),
        _joined(plan),
        group,
    )


def _made(plan: WholePlan, split: bool) -> Entries:
    """The entries that make columns that are looked at, each with the codes that it minds."""
    columns = {*plan.variables.use, *plan.variables.trim, *_columns_of_rows(plan, split)}
    return tuple(
        (
            make.name,
            (make.model_dump_json(), tuple((name, plan.codes(name)) for name in make.looks_at)),
        )
        for make in needed_for(plan.make, columns)
    )


def _rows(plan: WholePlan, group: str | None) -> Entries:
    cases = plan.cases
    codes = tuple((name, plan.codes(name)) for name in _columns_of_rows(plan, group is not None))
    return (
        ("weight", cases.weight),
        ("split", cases.split if group is not None else None),
        ("keep", cases.keep),
        ("set_aside", tuple(sorted(cases.set_aside))),
        ("codes", codes),
    )


def columns_looked_at(plan: WholePlan) -> set[str]:
    """The columns whose levels or codes may matter to a tree of this plan, of all or of a group."""
    columns = {*plan.variables.use, *plan.variables.trim, *_columns_of_rows(plan, True)}
    made_of = (make.looks_at for make in needed_for(plan.make, columns))
    return columns.union(*made_of)


def _columns_of_rows(plan: WholePlan, split: bool) -> list[str]:
    """Those that weigh rows, put them in groups or an order, or choose them."""
    cases = plan.cases
    named = [cases.weight, cases.split if split else None]
    if plan.tree.neighbours not in (None, IN_FILE):
        named.append(plan.tree.neighbours)
    if cases.keep is not None:
        named += parse_condition(cases.keep).columns
    return [name for name in named if name is not None]


def word_order(plan: WholePlan, name: str) -> tuple[str, ...]:
    """The words of an ordinal column in the order that `[variables.values]` tells, if it does.

    Where all of them are numbers, these have their order already.
    """
    words = tuple(plan.variables.values.get(name, ()))
    if plan.variables.level(name) != "ordinal" or not any(isnan(parse_number(w)) for w in words):
        return ()
    return words


def _variable(plan: WholePlan, name: str) -> Entries:
    part = plan.variables
    order = word_order(plan, name)
    return (
        ("name", name),
        ("level", part.level(name)),
        ("codes", plan.codes(name)),
        ("asymmetric", name in part.asymmetric),
        ("importance", part.importance.get(name, 1.0)),
        ("cap", part.cap.get(name)),
        ("trim", part.trim.get(name)),
        *((("order", order),) if order else ()),
    )


def _measured(plan: WholePlan) -> Entries:
    dials = MEASURES[plan.proximity.measure].parameters
    return (
        ("handling", plan.handling),
        ("scale", plan.scale.method),
        ("by", plan.scale.by if plan.scale.method != "none" else None),
        ("binary", plan.scale.method != "none" and plan.scales("binary")),
        ("measure", plan.proximity.measure),
        *((dial, getattr(plan.proximity, dial)) for dial in dials),
    )


def _joined(plan: WholePlan) -> Entries:
    dials = TREE_RULES[plan.tree.linkage].parameters
    return (
        ("of", plan.tree.of),
        ("linkage", plan.tree.linkage),
        ("squares", TREE_RULES[plan.tree.linkage].squares and plan.proximities_are == "squares"),
        *((dial, getattr(plan.tree, dial)) for dial in dials),
        *((("neighbours", plan.tree.neighbours),) if plan.tree.neighbours else ()),
    )
