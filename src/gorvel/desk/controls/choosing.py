"""What there is to choose in each part of the plan, and what each choice does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.kinds import HANDLINGS, IN_FILE
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES, Measure
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.table.table import Table
from gorvel.core.words.plan import HANDLING_WORDS
from gorvel.desk.state.focus import Focus

__all__ = ["Choice", "Dial", "PartChoices", "Switch", "choices_for"]

_HANDLING_TEXTS = {
    "drop": ("Only cases with an answer to every active variable are grouped.",
             "Can lose many cases; those who leave gaps may differ from the others."),
    "stop": ("Growing is refused while an active answer is missing.", ""),
    "mean": ("Every gap takes the mean of its variable.",
             "Draws such cases to the middle; spread is understated."),
    "median": ("Every gap takes the median of its variable.",
               "Draws such cases to the middle; spread is understated."),
    "mode": ("Every gap takes the most frequent answer.", "Strengthens what is frequent already."),
    "pairwise": ("A pair is compared on the variables both have, scaled up to all of them.",
                 "Pairs rest on different variables; two cases without one in common are refused."),
}  # fmt: skip


@dataclass(frozen=True)
class Dial:
    """A number that goes with a choice. part, key : in the plan; low, high : its bounds."""

    part: str
    key: str
    name: str
    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Switch:
    """A yes or no that goes with a choice. part, key : in the plan; off, on : what they hold."""

    part: str
    key: str
    name: str
    off: str
    on: str


_GROUPS = {
    "numbers": "Numbers", "mixed": "Any mixture", "counts": "Counts",
    "binary": "Yes/no answers",
}  # fmt: skip


@dataclass(frozen=True)
class Choice:
    """One thing to choose. key : in the plan; why_not : a caution or reason in words."""

    key: str | None
    name: str
    formula: str = ""
    purpose: str = ""
    misleads: str = ""
    source: str = ""
    why_not: str = ""
    fits: str = ""
    allowed: bool = True
    group: str = ""
    dials: tuple[Dial, ...] = ()
    switches: tuple[Switch, ...] = ()


@dataclass(frozen=True)
class PartChoices:
    """All choices of one part; take puts one in force."""

    title: str
    part: str
    chosen: str | None
    choices: tuple[Choice, ...]
    take: Callable[[str | None], str]


def choices_for(focus: Focus, part: str) -> PartChoices:
    """The choices of a part of the plan in force."""
    plan = focus.shelf.plan
    assert plan is not None
    return {
        "of": _grouped, "scale": _scales, "measure": _measures, "linkage": _linkages,
        "neighbours": _orders, "missing": _handlings, "weight": _weights,
    }[part](focus, plan)  # fmt: skip


def _taken(focus: Focus, part: str, name: str) -> Callable[[str | None], str]:
    """Puts a key of the plan in force, or says why it does not go with the rest."""
    return lambda key: focus.shelf.attempt(lambda plan: plan.with_(part, **{name: key}))


_OF_COUNTS = (
    Choice(
        "cases", "the rows", purpose="Rows whose counts stand in like proportions come together."
    ),
    Choice(
        "variables", "the columns",
        purpose="Columns whose counts stand in like proportions come together.",
    ),
)  # fmt: skip
_LEAST_LOSS = Choice(
    "ward", "the least loss of chi-square", "N r s/(r + s) Σ (p − q)²/c, p and q the two profiles",
    purpose="Joins the two rows (or columns) that, added up, lower the chi-square of the table"
    " least: what is left tells how much of the link between rows and columns the clusters keep.",
    misleads="Rows with few counts join early, whatever they are like: they cost little.",
    source="Greenacre 1988",
    fits="The height of a join is the chi-square lost by it; all heights sum to the table’s.",
)  # fmt: skip


def _grouped(focus: Focus, plan: Plan) -> PartChoices:
    choices = _OF_COUNTS if plan.source.kind == "counts" else (
        Choice(
            "cases", "the cases", "kinds of respondents",
            purpose="Finds kinds of respondents: cases that answered alike come together.",
        ),
        Choice(
            "variables", "the variables", "questions that go together",
            purpose="Finds questions that go together: variables that the cases answered alike come"
            " together. Each is drawn as a branch of the tree.",
            misleads="Under a distance two variables are near only at the same level: scale them,"
            " or measure by correlation. Case weights and importances do not apply.",
        ),
    )  # fmt: skip
    return PartChoices(
        "Choose what is grouped", "of", plan.tree.of, choices, partial(_group, focus),
    )  # fmt: skip


def _group(focus: Focus, of: str | None) -> str:
    """Group the cases or the variables; only among cases can others be given a place."""

    def grouped(plan: Plan) -> Plan:
        kept = plan.cases.place_set_aside and of == "cases"
        cases = {"place_set_aside": kept} if plan.cases.place_set_aside else {}
        return plan.with_parts({"tree": {"of": of}, "cases": cases})

    return focus.shelf.attempt(grouped)


def _scales(focus: Focus, plan: Plan) -> PartChoices:
    within = Switch(
        "scale", "by", "within each case, instead of each variable", "variables", "cases"
    )
    yes_no = Switch("scale", "binary", "yes/no variables too", "keep", "scale")
    numbers = plan.scale.by == "variables" and MEASURES[plan.proximity.measure].kind == "numbers"
    switches = (within, yes_no) if numbers and _has_yes_no(plan) else (within,)
    choices = tuple(
        Choice(
            s.key, s.name, s.formula, s.purpose, s.misleads,
            switches=switches if s.key != "none" else (),
        )
        for s in SCALINGS.values()
    )  # fmt: skip
    return PartChoices(
        "Put the variables on comparable scales", "scale", plan.scale.method, choices,
        _taken(focus, "scale", "method"),
    )  # fmt: skip


def _has_yes_no(plan: Plan) -> bool:
    return any(plan.variables.level(name) == "binary" for name in plan.variables.use)


def _measures(focus: Focus, plan: Plan) -> PartChoices:
    squares = TREE_RULES[plan.tree.linkage]
    nominal = _has_nominal(focus, plan)
    choices = []
    for m in MEASURES.values():
        why_not = ""
        if squares.squares and not m.flat and plan.tree.proximities_are != "squares":
            rule = squares.name[0].upper() + squares.name[1:]
            why_not = f"{rule} is made for Euclidean distances; a caution will be kept."
        if nominal and not m.mixed:
            why_not = f"{nominal} is nominal: only Gower distance can use it."
        else:
            why_not = _unfit(focus, plan, m) or why_not
        why_not = plan.why_not("proximity", measure=m.key) or why_not
        fits = "Goes with " + ", ".join(
            rule.name for rule in TREE_RULES.values() if m.euclidean or not rule.squares
        ) + "."  # fmt: skip
        choices.append(
            Choice(
                m.key,
                m.name,
                m.formula,
                m.purpose,
                m.misleads,
                m.source,
                why_not,
                fits,
                group=_GROUPS[m.kind],
                dials=tuple(
                    Dial("proximity", key, name, getattr(plan.proximity, key), 0.1, 20.0)
                    for key, name in (("power", "p ="), ("root", "r ="))
                    if key in m.parameters
                ),
            )
        )

    return PartChoices(
        "Measure how far apart two cases are", "measure", plan.proximity.measure,
        tuple(choices), _taken(focus, "proximity", "measure"),
    )  # fmt: skip


def _unfit(focus: Focus, plan: Plan, measure: Measure) -> str:
    """Why the active variables do not suit a measure, if they do not."""
    source = focus.shelf.study.source if focus.shelf.study else None
    if measure.kind not in ("binary", "counts") or not isinstance(source, Table):
        return ""
    if measure.kind == "counts":
        scaled = plan.scale.method not in ("none", "range01", "max1", "rank")
        return "Made for counts: scale by none, or values fall below 0." if scaled else ""
    for name in plan.variables.use:
        numbers = source.numbers(name, plan.codes(name))
        two = numbers.mostly and numbers.two_valued
        if plan.variables.level(name) != "binary" and not two:
            return f"{name} is not binary: this measure takes yes/no answers only."
    return ""


def _has_nominal(focus: Focus, plan: Plan) -> str:
    source = focus.shelf.study.source if focus.shelf.study else None
    if not isinstance(source, Table):
        return ""
    for name in plan.variables.use:
        if plan.variables.level(name) == "nominal":
            return name
    return ""


def _linkages(focus: Focus, plan: Plan) -> PartChoices:
    if plan.source.kind == "counts":
        return PartChoices(
            "What is joined next", "linkage", "ward", (_LEAST_LOSS,),
            _taken(focus, "tree", "linkage"),
        )  # fmt: skip
    matrix = plan.source.kind == "proximities"
    euclidean = not matrix and MEASURES[plan.proximity.measure].euclidean
    shown = "a proximity matrix" if matrix else MEASURES[plan.proximity.measure].name
    flat = not matrix and MEASURES[plan.proximity.measure].flat
    squares = plan.proximities_are == "squares"
    switch = Switch(
        "tree", "proximities_are", "take the proximities as squares", "distances", "squares"
    )
    choices = []
    for rule in TREE_RULES.values():
        why_not = ""
        if rule.squares and not flat and not squares:
            why_not = f"Made for Euclidean distances, not for {shown}; a caution will be kept."
            if not matrix and MEASURES[plan.proximity.measure].are_squares:
                why_not = f"{shown[:1].upper()}{shown[1:]} is a square already: take it as such."
        elif plan.cases.weight and not rule.masses:
            why_not = "Does not use the case weights; a caution will be kept."
        choices.append(
            Choice(
                rule.key, rule.name, rule.formula, rule.purpose, rule.misleads, rule.source,
                why_not, f"The height of a join is {rule.height_means}.",
                switches=(switch,) if rule.squares and not euclidean else (),
                dials=tuple(
                    Dial("tree", "beta", "β =", plan.tree.beta, -1.0, 0.99)
                    for _ in rule.parameters
                ),
            )
        )  # fmt: skip
    return PartChoices(
        "Choose which two clusters are joined next", "linkage", plan.tree.linkage,
        tuple(choices), _taken(focus, "tree", "linkage"),
    )  # fmt: skip


def _orders(focus: Focus, plan: Plan) -> PartChoices:
    why_not = plan.why_not("tree", neighbours=IN_FILE)
    careful = "Heights may step back. The tree tells nothing of cases alike but far apart."
    choices = [
        Choice(None, "any two clusters", purpose="The nearest clusters join, wherever they stand."),
        Choice(
            IN_FILE, "neighbours in the file", purpose="Only clusters next to each other in the"
            " order of the rows join: waves, stops of a route, layers. Each cluster is a stretch"
            " of that order.", misleads=careful, source="Gordon 1981", why_not=why_not,
            allowed=not why_not,
        ),
    ]  # fmt: skip
    source = focus.shelf.study.source if focus.shelf.study else None
    table = source if isinstance(source, Table) and not why_not else None
    columns = [] if table is None else [name for name in table.names if table.looks_numeric(name)]
    choices += [
        Choice(
            name, f"neighbours by {name}", purpose="Only clusters next to each other in the order"
            f" of {name} join: each cluster is a range of it, such as an age band. Equal values"
            " stand in file order.", misleads=careful, source="Gordon 1981",
        )
        for name in columns
    ]  # fmt: skip
    return PartChoices(
        "Decide which clusters may join", "neighbours", plan.tree.neighbours, tuple(choices),
        _taken(focus, "tree", "neighbours"),
    )  # fmt: skip


def _handlings(focus: Focus, plan: Plan) -> PartChoices:
    choices = []
    for key in HANDLINGS:
        purpose, misleads = _HANDLING_TEXTS[key]
        why_not = plan.why_not("missing", handling=key)
        name = f"missing answers {HANDLING_WORDS[key]}"
        choices.append(
            Choice(key, name, "", purpose, misleads, why_not=why_not, allowed=not why_not)
        )
    return PartChoices(
        "Decide what becomes of missing answers", "missing", plan.handling, tuple(choices),
        _taken(focus, "missing", "handling"),
    )  # fmt: skip


def _weights(focus: Focus, plan: Plan) -> PartChoices:
    source = focus.shelf.study.source if focus.shelf.study else None
    none = Choice(None, "unweighted", purpose="Every case counts once.")
    choices = [none]
    if isinstance(source, Table):
        for name in source.names:
            if name in plan.variables.use or name == plan.cases.label:
                continue
            if not source.looks_numeric(name):
                continue
            numbers = source.numbers(name, plan.codes(name))
            if numbers.mostly and numbers.bad_row < 0 and bool((numbers.values > 0).all()):
                choices.append(
                    Choice(
                        name, f"weighted by {name}",
                        purpose="A case counts as often as this column says: a survey weight, or"
                        " how many people a row stands for.",
                        misleads="Some linkages, such as single, take no notice of weights.",
                    )
                )  # fmt: skip
    return PartChoices(
        "Let cases count more or less", "weight", plan.cases.weight, tuple(choices),
        _taken(focus, "cases", "weight"),
    )  # fmt: skip
