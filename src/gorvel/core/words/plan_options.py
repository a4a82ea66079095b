"""What there is to choose in each part of the plan, and what each choice does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.kinds import HANDLINGS, IN_FILE
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES, Measure
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.words.plan import HANDLING_WORDS

_HANDLING_TEXTS = {
    "drop": (
        "Only cases with an answer to every active variable are used.",
        "Can exclude many cases; those with missing answers may differ from the others.",
    ),
    "stop": ("The tree does not grow while an active variable has missing answers.", ""),
    "mean": (
        "Every missing answer is replaced by the mean of its variable.",
        "Pulls such cases to the centre and understates variation.",
    ),
    "median": (
        "Every missing answer is replaced by the median of its variable.",
        "Pulls such cases to the centre and understates variation.",
    ),
    "mode": (
        "Every missing answer is replaced by the most frequent answer.",
        "Reinforces what is already frequent.",
    ),
    "pairwise": (
        ("A pair is compared on the variables both have answered, scaled up to all of them."),
        ("Pairs are based on different variables; two cases without one in common are an error."),
    ),
}


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
    """One thing to choose.

    key : in the plan; row : its name beside that of its part, where it is another; why_not : a
    caution or reason in words.
    """

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
    row: str = ""


@dataclass(frozen=True)
class PartChoices:
    """All choices of one part. change : the plan with one of them, by its key."""

    title: str
    part: str
    chosen: str | None
    choices: tuple[Choice, ...]
    change: Callable[[Plan, str | None], Plan]


def choices_for(plan: Plan, source: Source | None, part: str) -> PartChoices:
    """The choices of a part of a plan. source : what it is about, as far as it is known."""
    return {
        "of": _grouped, "scale": _scales, "measure": _measures, "linkage": _linkages,
        "neighbours": _orders, "missing": _handlings, "weight": _weights,
    }[part](plan, source)  # fmt: skip


def _key(part: str, name: str) -> Callable[[Plan, str | None], Plan]:
    """Changes a key of the plan."""
    return lambda plan, key: plan.with_(part, **{name: key})


_OF_COUNTS = (
    Choice(
        "cases", "the rows", purpose="Rows with similar proportions are joined."
    ),
    Choice(
        "variables", "the columns",
        purpose="Columns with similar proportions are joined.",
    ),
)  # fmt: skip
_LEAST_LOSS = Choice(
    "ward",
    "the least loss of chi-square",
    "N r s/(r + s) Σ (p − q)²/c, p and q the two profiles",
    purpose=(
        "Joins the two rows (or columns) whose merging lowers the chi-square of the "
        "table least: what remains shows how much of the association the clusters keep."
    ),
    misleads="Rows with few counts join early, whatever their profile: they cost little.",
    source="Greenacre 1988",
    fits=("The height of a join is the chi-square it loses; all heights sum to that of the table."),
)


def _grouped(plan: Plan, source: Source | None) -> PartChoices:
    choices = (
        _OF_COUNTS
        if plan.source.kind == "counts"
        else (
            Choice(
                "cases",
                "the cases",
                "types of respondents",
                purpose="Finds types of respondents: cases with similar answers are joined.",
            ),
            Choice(
                "variables",
                "the variables",
                "variables that go together",
                purpose=(
                    "Finds variables that go together: those with similar answers are joined. Each "
                    "is a leaf of the tree."
                ),
                misleads=(
                    "With a distance, two variables are close only at the same level: scale them, "
                    "or use correlation. Case weights and importances do not apply."
                ),
            ),
        )
    )
    return PartChoices("Choose what to group", "of", plan.tree.of, choices, _group)


def _group(plan: Plan, of: str | None) -> Plan:
    """Group the cases or the variables; only among cases can others be given a place."""
    kept = plan.cases.place_set_aside and of == "cases"
    cases = {"place_set_aside": kept} if plan.cases.place_set_aside else {}
    return plan.with_parts({"tree": {"of": of}, "cases": cases})


def _scales(plan: Plan, source: Source | None) -> PartChoices:
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
        "Choose how variables are scaled", "scale", plan.scale.method, choices,
        _key("scale", "method"),
    )  # fmt: skip


def _has_yes_no(plan: Plan) -> bool:
    return any(plan.variables.level(name) == "binary" for name in plan.variables.use)


def _measures(plan: Plan, source: Source | None) -> PartChoices:
    squares = TREE_RULES[plan.tree.linkage]
    nominal = _has_nominal(plan, source)
    choices = []
    for m in MEASURES.values():
        why_not = ""
        if squares.squares and not m.flat and plan.tree.proximities_are != "squares":
            rule = squares.name[0].upper() + squares.name[1:]
            why_not = f"{rule} is meant for Euclidean distances; a caution is added."
        if nominal and not m.mixed:
            why_not = f"{nominal} is nominal: only Gower distance can use it."
        else:
            why_not = _unfit(plan, source, m) or why_not
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
        "Choose how proximity is measured", "measure", plan.proximity.measure,
        tuple(choices), _key("proximity", "measure"),
    )  # fmt: skip


def _unfit(plan: Plan, source: Source | None, measure: Measure) -> str:
    """Why the active variables do not suit a measure, if they do not."""
    if measure.kind not in ("binary", "counts") or not isinstance(source, Table):
        return ""
    if measure.kind == "counts":
        scaled = plan.scale.method not in ("none", "range01", "max1", "rank")
        return "Meant for counts: do not scale, or values fall below 0." if scaled else ""
    for name in plan.variables.use:
        numbers = source.numbers(name, plan.codes(name))
        two = numbers.mostly and numbers.two_valued
        if plan.variables.level(name) != "binary" and not two:
            return f"{name} is not binary: this measure takes yes/no answers only."
    return ""


def _has_nominal(plan: Plan, source: Source | None) -> str:
    if not isinstance(source, Table):
        return ""
    for name in plan.variables.use:
        if plan.variables.level(name) == "nominal":
            return name
    return ""


def _linkages(plan: Plan, source: Source | None) -> PartChoices:
    if plan.source.kind == "counts":
        return PartChoices(
            "What is joined next", "linkage", "ward", (_LEAST_LOSS,),
            _key("tree", "linkage"),
        )  # fmt: skip
    matrix = plan.source.kind == "proximities"
    euclidean = not matrix and MEASURES[plan.proximity.measure].euclidean
    shown = "a proximity matrix" if matrix else MEASURES[plan.proximity.measure].name
    flat = not matrix and MEASURES[plan.proximity.measure].flat
    squares = plan.proximities_are == "squares"
    switch = Switch(
        "tree", "proximities_are", "Take the proximities as squares", "distances", "squares"
    )
    choices = []
    for rule in TREE_RULES.values():
        why_not = ""
        if rule.squares and not flat and not squares:
            why_not = f"Meant for Euclidean distances, not for {shown}; a caution is added."
            if not matrix and MEASURES[plan.proximity.measure].are_squares:
                why_not = f"{shown[:1].upper()}{shown[1:]} is already a square: take it as such."
        elif plan.cases.weight and not rule.masses:
            why_not = "Does not use the case weights; a caution is added."
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
        "Choose the linkage", "linkage", plan.tree.linkage,
        tuple(choices), _key("tree", "linkage"),
    )  # fmt: skip


def _orders(plan: Plan, source: Source | None) -> PartChoices:
    why_not = plan.why_not("tree", neighbours=IN_FILE)
    careful = (
        "Heights may step back. The tree says nothing of similar cases far apart in the order."
    )
    choices = [
        Choice(None, "any two clusters", purpose="The nearest clusters join, wherever they are."),
        Choice(
            IN_FILE,
            "neighbours in file order",
            purpose=(
                "Only clusters adjacent in the order of the rows join: waves, stops of a "
                "route, layers. Each cluster is a stretch of that order."
            ),
            misleads=careful,
            source="Gordon 1981",
            why_not=why_not,
            allowed=not why_not,
        ),
    ]
    table = source if isinstance(source, Table) and not why_not else None
    columns = [] if table is None else [name for name in table.names if table.looks_numeric(name)]
    choices += [
        Choice(
            name,
            f"neighbours in order of {name}",
            purpose=(
                f"Only clusters adjacent in the order of {name} join: each cluster is a range "
                "of it, such as an age band. Ties are in file order."
            ),
            misleads=careful,
            source="Gordon 1981",
        )
        for name in columns
    ]
    return PartChoices(
        "Choose which clusters may join",
        "neighbours",
        plan.tree.neighbours,
        tuple(choices),
        _key("tree", "neighbours"),
    )


def _handlings(plan: Plan, source: Source | None) -> PartChoices:
    choices = []
    for key in HANDLINGS:
        purpose, misleads = _HANDLING_TEXTS[key]
        why_not = plan.why_not("missing", handling=key)
        name = f"missing answers {HANDLING_WORDS[key]}"
        choices.append(
            Choice(
                key,
                name,
                "",
                purpose,
                misleads,
                why_not=why_not,
                allowed=not why_not,
                row=HANDLING_WORDS[key],
            )
        )
    return PartChoices(
        "Choose how missing answers are treated", "missing", plan.handling, tuple(choices),
        _key("missing", "handling"),
    )  # fmt: skip


def _weights(plan: Plan, source: Source | None) -> PartChoices:
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
                        misleads="Some linkages, such as single, ignore weights.",
                    )
                )  # fmt: skip
    return PartChoices(
        "Choose a weight", "weight", plan.cases.weight, tuple(choices),
        _key("cases", "weight"),
    )  # fmt: skip
