"""A plan in plain words."""

from __future__ import annotations

from dataclasses import dataclass

from gorvel.core.base.numbers import counted, unit
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.kinds import IN_FILE
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS

HANDLING_WORDS = {
    "drop": "exclude the case",
    "stop": "are not allowed",
    "mean": "are replaced by the mean",
    "median": "are replaced by the median",
    "mode": "are replaced by the mode",
    "pairwise": "are excluded pairwise",
}


@dataclass(frozen=True)
class Phrase:
    """A piece of the plan sentence. part : what a click on it edits, or "" for plain words."""

    text: str
    part: str = ""


def measure_name(plan: Plan) -> str:
    """The measure with its parameters, as it reads in the plan sentence."""
    measure = MEASURES[plan.proximity.measure]
    letters_of = {"power": "p", "root": "r"}
    told = [f"{letters_of[k]} = {getattr(plan.proximity, k):g}" for k in measure.parameters]
    return f"{measure.name} ({', '.join(told)})" if told else measure.name


def linkage_name(plan: Plan) -> str:
    """The joining rule with its parameter, as it reads in the plan sentence."""
    if plan.source.kind == "counts":
        return "the least loss of chi-square"
    linkage = TREE_RULES[plan.tree.linkage]
    as_squares = plan.tree.proximities_are == "squares"
    if linkage.squares and as_squares and plan.proximity.measure != "squared-euclidean":
        return f"{linkage.name} (proximities as squares)"
    if not linkage.parameters:
        return linkage.name
    return f"{linkage.name} (β = {plan.tree.beta:g})".replace("-", "−")


def neighbours_name(plan: Plan) -> str:
    """Which clusters may join, as it reads in the plan sentence; "" where all may."""
    order = plan.tree.neighbours
    if order is None:
        return ""
    return "neighbours in file order" if order == IN_FILE else f"neighbours in order of {order}"


def _neighbours(plan: Plan) -> list[Phrase]:
    name = neighbours_name(plan)
    return [Phrase(", "), Phrase(f"only {name}", "neighbours")] if name else []


def plan_phrases(plan: Plan, cases: int) -> list[Phrase]:
    """The plan as one sentence, cut into pieces that can be clicked.

    cases : how many are kept.
    """
    noun, group = unit("cases", cases), [Phrase("Group", "of"), Phrase(" ")]
    linkage = [Phrase(linkage_name(plan), "linkage"), *_neighbours(plan)]
    if plan.source.kind == "proximities":
        kind = "similarities" if plan.source.similarity else "distances"
        return [
            Phrase("Group "), Phrase(noun, "cases"), Phrase(f" by the {kind} of "),
            Phrase(plan.source.file, "cases"), Phrase(", joined by "), *linkage, Phrase("."),
        ]  # fmt: skip
    turned = plan.tree.of == "variables"
    used = len(plan.variables.use)
    if plan.source.kind == "counts":
        rows = Phrase(counted(cases, "row"), "cases")
        columns = Phrase(counted(used, "column"), "variables")
        one, other = (columns, rows) if turned else (rows, columns)
        return [
            *group, one, Phrase(" of counts by "), other, Phrase(", joined by "), *linkage,
            Phrase("."),
        ]  # fmt: skip
    answers = unit("variables", used)
    bounded = [
        f"{', '.join(list(names)[:3])}{' …' if len(names) > 3 else ''} {word}"
        for names, word in ((plan.variables.cap, "capped"), (plan.variables.trim, "trimmed"))
        if names
    ]
    bounds = [Phrase(" ("), Phrase("; ".join(bounded), "variables"), Phrase(")")]
    scale = SCALINGS[plan.scale.method].name
    if plan.scale.by == "cases" and plan.scale.method != "none":
        scale += " within each case"
    weight = plan.cases.weight
    by = plan.cases.split
    split = [Phrase("; "), Phrase(f"split by {by}", "cases")] if by else []
    chosen = [Phrase(" where "), Phrase(plan.cases.keep, "cases")] if plan.cases.keep else []
    if plan.cases.set_aside:
        words = f"{len(plan.cases.set_aside):,} set aside"
        words += " but assigned at the end" if plan.cases.place_set_aside else ""
        chosen += [Phrase(", "), Phrase(words, "cases")]
    whom = [Phrase(noun, "cases"), *chosen]
    what = [Phrase(answers, "variables"), *(bounds if bounded else [])]
    return [
        *group, *(what if turned else whom), Phrase(" by "), *(whom if turned else what),
        Phrase(" on "), Phrase(scale, "scale"),
        Phrase(", measured by "), Phrase(measure_name(plan), "measure"),
        Phrase(", joined by "), *linkage,
        Phrase("; missing answers "), Phrase(HANDLING_WORDS[plan.handling], "missing"),
        Phrase("; "), Phrase(f"weighted by {weight}" if weight else "unweighted", "weight"),
        *split,
        Phrase("."),
    ]  # fmt: skip
