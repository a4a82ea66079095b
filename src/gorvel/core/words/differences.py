"""What differs between two plans, and what a change was, in words."""

from __future__ import annotations

from collections.abc import Iterator

from gorvel.core.base.numbers import sentence
from gorvel.core.plan.growth import Entries, GrowthKey
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.words.plan import HANDLING_WORDS, linkage_name, measure_name, neighbours_name

_MOST_NAMED = 3

# what is other than before with a variable that both use, by what makes a tree
_OF_VARIABLES = {
    "level": "other levels", "codes": "other missing codes", "asymmetric": "other levels",
    "importance": "other importances", "cap": "other caps", "trim": "other trimming",
    "order": "another order of answers",
}  # fmt: skip

# what a change of a key is called, after "Take back: "; "" for any other key of the part
_CHANGES = {
    "make": {"": "created variables"},
    "source": {"missing_codes": "missing codes", "": "how the file is read"},
    "cases": {
        "label": "the label", "weight": "the weight", "split": "the split",
        "groups": "known groups", "": "cases used",
    },
    "variables": {
        "use": "active variables", "importance": "importances", "labels": "wordings",
        "values": "wordings", "cap": "caps", "trim": "trimming", "missing": "missing codes",
        "profile": "roles", "": "levels",
    },
    "missing": {"": "missing answers"},
    "scale": {"": "the scale"},
    "proximity": {"": "the measure"},
    "tree": {"of": "what is grouped", "neighbours": "which clusters may join", "": "the linkage"},
    "cut": {
        "names": "the name of a cluster", "portraits": "the portrait of a cluster",
        "notes": "the note on a cluster", "colours": "the colour of a cluster", "": "cuts",
    },
    "count": {"chosen": "the number chosen", "reasons": "reasons", "left_out": "votes",
              "more": "the rules", "purpose": "the purpose of clusters",
              "groups_by": "indices compared with data without groups",
              "": "count settings"},
    "design": {"": "the sample design"},
    "profile": {"": "maps and short forms"}, "assign": {"": "new cases"},
    "trees": {"": "other trees"}, "sweep": {"": "the sweep"},
    "consensus": {"": "the consensus"},
    "reassign": {"": "the reassignment"}, "kmeans": {"": "k-means"},
    "title": {"": "the title"},
}  # fmt: skip


def change_words(before: Plan, after: Plan) -> str:
    """What was changed between two plans, in a few words; empty only where they are equal."""
    told = []
    for part, keys in _CHANGES.items():
        one, other = _part(before, part), _part(after, part)
        if one == other:
            continue
        names = getattr(type(other), "model_fields", {"": None})
        changed = [key for key in names if getattr(one, key, None) != getattr(other, key, None)]
        told += [keys.get(key, keys[""]) for key in changed] or [keys[""]]
    distinct = list(dict.fromkeys(told)) or (["the plan"] if before != after else [])
    return ", ".join(distinct[:_MOST_NAMED]) + (" …" if len(distinct) > _MOST_NAMED else "")


def _part(plan: Plan, part: str) -> object:
    return plan.counting if part == "count" else getattr(plan, part)


def tree_name(plan: Plan) -> str:
    """What a tree is called that has no title: "Ward’s rule on z-scores"."""
    words = linkage_name(plan)
    if plan.source.kind == "table" and plan.scale.method != "none":
        words += f" on {SCALINGS[plan.scale.method].name}"
    return sentence(words)


def differences(plan: Plan, other: Plan) -> list[str]:
    """How another plan differs from one, in short phrases.

    None where both grow the same trees: what does not make a tree is passed over.
    """
    told = list(dict.fromkeys(_differences(plan, other)))
    if told or plan.grows_as(other):
        return told
    return ["read differently"]


def _differences(plan: Plan, other: Plan) -> Iterator[str]:
    one, two = plan.growth(), other.growth()
    joined, measured = _changed(one.joined, two.joined), _changed(one.measured, two.measured)
    if "of" in joined:
        yield f"of {other.tree.of}"
    if joined - {"of", "neighbours"}:
        yield linkage_name(other)
    if "neighbours" in joined:
        yield f"only {neighbours_name(other)}" if other.tree.neighbours else "any clusters join"
    if measured - {"handling", "scale", "by", "binary"}:
        yield measure_name(other)
    if measured & {"scale", "by"}:
        scaled = other.scale.method != "none" and other.scale.by == "cases"
        within = ", within each case" if scaled else ""
        yield f"{SCALINGS[other.scale.method].name}{within}"
    if "binary" in measured:
        yield "yes/no answers scaled" if other.scales("binary") else "yes/no answers not scaled"
    yield from _variables(one, two)
    yield from _made(plan, other, _changed(one.made, two.made))
    if "handling" in measured:
        yield f"missing answers {HANDLING_WORDS[other.handling]}"
    yield from _cases(other, _changed(one.rows, two.rows))
    if plan.cases.split != other.cases.split:
        yield f"split by {other.cases.split}" if other.cases.split else "not split"


def _changed(one: Entries, two: Entries) -> set[str]:
    """The names of entries that differ, or that only one side has."""
    mine, theirs = dict(one), dict(two)
    return {name for name in {*mine, *theirs} if mine.get(name) != theirs.get(name)}


def _variables(one: GrowthKey, two: GrowthKey) -> Iterator[str]:
    mine = {dict(entries)["name"]: entries for entries in one.variables}
    theirs = {dict(entries)["name"]: entries for entries in two.variables}
    for word, names in (
        ("with", [name for name in theirs if name not in mine]),
        ("without", [name for name in mine if name not in theirs]),
    ):
        if names:
            left = len(names) - _MOST_NAMED
            more = f" and {left} more" if left > 0 else ""
            yield f"{word} {', '.join(names[:_MOST_NAMED])}{more}"
    both = [name for name in mine if name in theirs]
    for name in both:
        yield from (_OF_VARIABLES[key] for key in _changed(mine[name], theirs[name]))
    if both != [name for name in theirs if name in mine]:
        yield "variables in another order"


def _made(plan: Plan, other: Plan, changed: set[str]) -> Iterator[str]:
    """Variables that both make, and not alike."""
    mine, theirs = ({make.name: make for make in one.make} for one in (plan, other))
    told = [name for name in mine if name in changed and name in theirs]
    if told:
        left = len(told) - _MOST_NAMED
        more = f" and {left} more" if left > 0 else ""
        yield f"{', '.join(told[:_MOST_NAMED])}{more} created differently"


def _cases(other: Plan, changed: set[str]) -> Iterator[str]:
    cases = other.cases
    if "keep" in changed:
        yield f"where {cases.keep}" if cases.keep else "all cases"
    if "set_aside" in changed:
        yield f"{len(cases.set_aside):,} set aside"
    if "weight" in changed:
        yield f"weighted by {cases.weight}" if cases.weight else "unweighted"
    if changed == {"codes"}:  # of the columns that choose and weigh
        yield "other missing codes"
