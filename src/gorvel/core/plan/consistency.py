"""What goes together in a plan: one law for plan files, for the window and for every change."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import sentence
from gorvel.core.language.condition import parse_condition
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.kinds import IN_FILE, TOLD_OF_CLUSTERS, nearest
from gorvel.core.plan.making import make_misfits
from gorvel.core.plan.misfit import Misfit
from gorvel.core.plan.parts import NOT_OF_MATRICES, WholePlan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.table.file_kinds import endings, kind_named
from gorvel.core.table.levels import LEVELS

_TABLE_ONLY = (
    "proximity",
    "variables",
    "scale",
    "missing",
    "design",
    "assign",
    "reassign",
    "kmeans",
)
_CASES_OF_TABLES = (
    "label", "weight", "split", "groups", "keep", "set_aside", "place_set_aside",
)  # fmt: skip
_NOT_OF_COUNTS = (
    "scale", "proximity", "missing", "trees", "sweep", "design", "assign", "reassign", "kmeans",
    "profile", "consensus",
)  # fmt: skip
_FILLS = ("mean", "median", "mode")


def misfits(plan: WholePlan) -> Iterator[Misfit]:
    """All that does not go together, what a reader meets first before the rest."""
    laws = {"table": _OF_TABLES, "proximities": _OF_MATRICES, "counts": _OF_COUNTS}
    for law in (_source, _skip, _names, *laws[plan.source.kind]):
        yield from law(plan)


def check_fit(plan: WholePlan, file: str = "plan", unfinished: bool = False) -> None:
    """A plan whose parts go together passes; unfinished : also one that has still to be completed.

    Raises
    ------
    InputError : what does not, by key, and what would.
    """
    for misfit in misfits(plan):
        if not (unfinished and misfit.unfinished):
            raise misfit.error(file)


def _skip(plan: WholePlan) -> Iterator[Misfit]:
    if plan.source.skip and "skip" not in _options(plan):
        yield Misfit("[source] skip", f"{plan.source.skip}", "0: only texts and sheets have lines")


def _names(plan: WholePlan) -> Iterator[Misfit]:
    for key in TOLD_OF_CLUSTERS:
        for count, told in getattr(plan.cut, key).items():
            if len(told) != int(count):
                expected = f'{count}, one for each cluster ("" for one without)'
                yield Misfit(f"[cut] {key}.{count}", f"{len(told)} {key}", expected)


def _options(plan: WholePlan) -> Collection[str]:
    """What can be chosen of the file."""
    kind = kind_named(plan.source.file)
    return () if kind is None else kind.options


def _source(plan: WholePlan) -> Iterator[Misfit]:
    told, options = plan.source, _options(plan)
    for key in ("sheet", "sheets"):
        if getattr(told, key) and key not in options:
            yield Misfit(f"[source] {key}", "a sheet", "none: only workbooks have sheets")
    if told.sheets and (told.sheet is not None or told.also):
        other = "also" if told.also else "sheet"
        yield Misfit("[source] sheets", f"sheets beside {other}", "one of the two")
    kind = kind_named(told.file)
    if kind is not None and kind.one_of:
        chosen = [key for key in kind.one_of if getattr(told, key) is not None]
        if len(chosen) != 1:
            found = " and ".join(chosen) or kind.unchosen[0]
            yield Misfit(f"[source] {kind.one_of[0]}", found, kind.unchosen[1])
    for key in ("table", "query"):
        if getattr(told, key) is not None and key not in options:
            such = ", ".join(endings(lambda kind: "table" in kind.options))
            found = f"a {key} of a file that is no database"
            yield Misfit(f"[source] {key}", found, f"a file such as {such}")
    if told.codebook is not None and "codebook" not in options:
        yield Misfit("[source] codebook", "a file that is not fixed-width", "it left out")
    if told.kind == "proximities":
        for key in NOT_OF_MATRICES:
            if getattr(told, key):
                yield Misfit(f"[source] {key}", "a proximity matrix", "it left out")


def _made(plan: WholePlan) -> Iterator[Misfit]:
    yield from make_misfits(plan.make)


def _matrix_has_no_answers(plan: WholePlan) -> Iterator[Misfit]:
    for make in plan.make:
        found = "a variable created from a proximity matrix"
        yield Misfit(f'[[make]] "{make.name}"', found, 'it left out, or kind = "table"')
    for table in _TABLE_ONLY:
        if table in plan.model_fields_set:
            found = "a table that does not fit a proximity matrix"
            yield Misfit(f"[{table}]", found, 'it left out, or kind = "table"')
    if not plan.source.header:
        yield Misfit("[source] header", "false", "true: a matrix has its labels there")
    for key in _CASES_OF_TABLES:
        if getattr(plan.cases, key):
            found = "a key that does not fit a proximity matrix"
            yield Misfit(f"[cases] {key}", found, 'it left out, or kind = "table"')
    if plan.tree.of == "variables":
        yield Misfit("[tree] of", '"variables"', '"cases": a matrix has no variables')


def _counts(plan: WholePlan) -> Iterator[Misfit]:
    """Rows of a cross table are joined in one way, and there are no cases behind them."""
    for table in _NOT_OF_COUNTS:
        if table in plan.model_fields_set and getattr(plan, table):
            found = "a table that does not fit a cross table of counts"
            where = f"[[{table}]]" if table == "trees" else f"[{table}]"
            yield Misfit(where, found, 'it left out, or kind = "table"')
    if plan.cases.weight:
        found = "a key that does not fit a cross table of counts"
        yield Misfit("[cases] weight", found, "it left out: counts are the weights")
    for key in ("importance", "cap", "trim", "asymmetric"):
        if getattr(plan.variables, key):
            found = "a key that does not fit a cross table of counts"
            yield Misfit(f"[variables] {key}", found, "it left out")
    if plan.tree.linkage != "ward":
        said = "Rows of counts are joined by the least loss of chi-square, which is Ward’s rule."
        yield Misfit("[tree] linkage", f'"{plan.tree.linkage}"', '"ward"', said)
    if plan.tree.proximities_are is not None:
        yield Misfit("[tree] proximities_are", f'"{plan.tree.proximities_are}"', "it left out")


def _cases(plan: WholePlan) -> Iterator[Misfit]:
    if plan.source.similarity:
        yield Misfit("[source] similarity", "true", 'kind = "proximities" with it')
    if plan.cases.place_set_aside and plan.tree.of == "variables":
        said = "Only cases can be assigned to clusters of cases: group the cases."
        yield Misfit("[cases] place_set_aside", "true", "a tree of cases with it", said)
    if plan.cases.keep is not None:
        try:
            parse_condition(plan.cases.keep)
        except InputError as error:
            yield Misfit("[cases] keep", error.found, error.expected)


def _variables(plan: WholePlan) -> Iterator[Misfit]:
    part = plan.variables
    if not part.use:
        said = "No variable is active yet: choose some on the Cases page."
        yield Misfit("[variables] use", "no variables", "at least one", said, unfinished=True)
    for key in ("importance", "cap", "trim"):
        for name in getattr(part, key):
            if name not in part.use:
                hint = f' (nearest: "{nearest(name, part.use)}")' if part.use else ""
                found = f'"{name}", which is not active'
                yield Misfit(f"[variables] {key}", found, f"an active variable{hint}")
    for key in ("cap", "trim"):
        for name, (low, high) in getattr(part, key).items():
            if low >= high:
                where = f"[variables] {key}.{name}"
                yield Misfit(where, f"{low:g} to {high:g}", "the lower percentile first")
    for name in part.profile:
        if name in part.use:
            found = f'"{name}", which is active'
            yield Misfit("[variables] profile", found, "a variable that is not active")


def _levels(plan: WholePlan) -> Iterator[Misfit]:
    part = plan.variables
    for name in part.asymmetric:
        if part.level(name) not in (None, "binary"):
            found = f'"{name}", which is {part.level(name)}'
            yield Misfit("[variables] asymmetric", found, "a binary variable")
    for place, level in enumerate(LEVELS):
        for other in LEVELS[:place]:
            for name in sorted(set(getattr(part, level)) & set(getattr(part, other))):
                found = f'"{name}", which is also {other}'
                yield Misfit(f"[variables] {level}", found, "one level for a variable")


def _measure(plan: WholePlan) -> Iterator[Misfit]:
    measure = MEASURES[plan.proximity.measure]
    name_ = measure.name[0].upper() + measure.name[1:]
    if not measure.importances:
        for name, value in plan.variables.importance.items():
            if value != 1:
                where = f"[variables] importance.{name}"
                alike = f"no importances: {measure.name} weights all variables equally"
                said = f"{name_} weights all variables equally: set the importance of {name} to 1."
                yield Misfit(where, f"{value:g}", alike, said)
    if not measure.gaps and plan.handling == "pairwise":
        found = f'"pairwise" with {measure.key}'
        said = f"{name_} needs complete cases: choose another treatment of missing answers."
        yield Misfit("[missing] handling", found, "drop, stop, mean, median or mode", said)
    if measure.mixed and plan.handling in _FILLS:
        found = f'"{plan.handling}" with {measure.key}'
        said = f"{name_} does not impute: choose another treatment of missing answers."
        yield Misfit("[missing] handling", found, "pairwise, drop or stop", said)


def _design(plan: WholePlan) -> Iterator[Misfit]:
    part = plan.design
    if part is None:
        return
    if plan.tree.of == "variables":
        said = "A sample design does not apply to a tree of variables."
        yield Misfit("[design]", "a tree of variables", "a tree of cases", said)
    if part.replicates and (part.strata or part.psu):
        found = "replicates beside " + ("strata" if part.strata else "psu")
        yield Misfit("[design] replicates", found, "replicate weights, or strata and psu")
    if part.factors and not part.replicates:
        yield Misfit("[design] factors", "no replicates", "replicate weights with it")
    if part.replicates and part.factors and len(part.factors) != len(part.replicates):
        expected = f"{len(part.replicates)}, one for each replicate"
        yield Misfit("[design] factors", f"{len(part.factors)} factors", expected)


def _moving(plan: WholePlan) -> Iterator[Misfit]:
    for key in ("reassign", "kmeans"):
        if getattr(plan, key) is not None and plan.tree.of == "variables":
            said = "Variables have no centroids: group the cases."
            yield Misfit(f"[{key}]", "a tree of variables", "a tree of cases", said)
    if plan.kmeans is not None and plan.kmeans.to < plan.kmeans.from_:
        yield Misfit("[kmeans] to", f"{plan.kmeans.to}", f"{plan.kmeans.from_} or more")


def _neighbours(plan: WholePlan) -> Iterator[Misfit]:
    order = plan.tree.neighbours
    if order is None:
        return
    if plan.tree.of == "variables":
        said = "Only cases have an order: group the cases."
        yield Misfit("[tree] neighbours", "a tree of variables", "a tree of cases", said)
    rule = TREE_RULES[plan.tree.linkage]
    if rule.recurrence is None:
        name = sentence(rule.name)
        said = f"{name} does not go with neighbours in an order: choose another linkage."
        expected = "a linkage that updates the proximities of the two parts"
        yield Misfit("[tree] neighbours", f'linkage = "{rule.key}"', expected, said)
    if plan.source.kind == "proximities" and order != IN_FILE:
        expected = f'"{IN_FILE}": a matrix has no columns of answers'
        yield Misfit("[tree] neighbours", f'"{order}"', expected)


def _consensus(plan: WholePlan) -> Iterator[Misfit]:
    if plan.consensus is not None and not plan.trees:
        said = "A consensus needs several trees: add others to the plan."
        yield Misfit("[consensus]", "no other tree", "[[trees]] beside the plan's", said)


def _sweep(plan: WholePlan) -> Iterator[Misfit]:
    if plan.sweep is None:
        return
    if plan.tree.of == "variables":
        said = "A sweep needs trees of cases: group the cases."
        yield Misfit("[sweep]", "a tree of variables", "a tree of cases", said)
    if plan.source.kind == "proximities":
        for key in ("scales", "handlings", "measures"):
            if getattr(plan.sweep, key) is not None:
                yield Misfit(f"[sweep] {key}", "a proximity matrix", "linkages alone")


def _profile(plan: WholePlan) -> Iterator[Misfit]:
    if plan.assign is not None and plan.tree.of == "variables":
        said = "New cases are assigned to clusters of cases: group the cases."
        yield Misfit("[assign]", "a tree of variables", "a tree of cases", said)
    if plan.profile is None:
        return
    if plan.tree.of == "variables":
        said = "Variables are not mapped, and have no short form: group the cases."
        yield Misfit("[profile]", "a tree of variables", "a tree of cases", said)
    if plan.profile.typing is not None and plan.source.kind == "proximities":
        yield Misfit("[profile] typing", "a proximity matrix", "a table of answers")


_OF_MATRICES = (_matrix_has_no_answers, _profile, _sweep, _consensus, _neighbours)
_OF_COUNTS = (_made, _counts, _cases, _variables, _neighbours)
_OF_TABLES = (
    _made, _cases, _variables, _levels, _measure, _design, _profile, _sweep, _moving, _neighbours,
    _consensus,
)  # fmt: skip
