"""What differs between two plans, and what a change was, in words."""

from __future__ import annotations

from collections.abc import Iterator

from gorvel.core.plan.plan import Plan
from gorvel.core.scaling import SCALINGS
from gorvel.core.sentences import HANDLING_WORDS, linkage_name, measure_name

__all__ = ["change_words", "differences", "tree_name"]

_MOST_NAMED = 3

# what a change of a key is called, after "Take back: "; "" for any other key of the part
_CHANGES = {
    "source": {"missing_codes": "missing codes", "": "how the file is read"},
    "cases": {
        "label": "the label", "weight": "the weight", "split": "the split",
        "groups": "known groups", "": "which cases",
    },
    "variables": {
        "use": "which variables", "importance": "importances", "labels": "wordings",
        "values": "wordings", "cap": "caps", "trim": "trimming", "missing": "missing codes",
        "profile": "roles", "": "levels",
    },
    "missing": {"": "missing answers"},
    "scale": {"": "the scale"},
    "proximity": {"": "the measure"},
    "tree": {"of": "what is grouped", "": "the linkage"},
    "cut": {"": "cuts"},
    "count": {"chosen": "the count taken", "reasons": "reasons", "left_out": "votes",
              "": "what is asked of the count"},
    "title": {"": "the title"},
}  # fmt: skip


def change_words(before: Plan, after: Plan) -> str:
    """What was changed between two plans, in a few words."""
    told = []
    for part, keys in _CHANGES.items():
        one, other = getattr(before, part), getattr(after, part)
        if one == other:
            continue
        fields = type(other if other is not None else one)
        names = getattr(fields, "model_fields", {"": None})
        changed = [key for key in names if getattr(one, key, None) != getattr(other, key, None)]
        told += [keys.get(key, keys[""]) for key in changed] or [keys[""]]
    distinct = list(dict.fromkeys(told))
    return ", ".join(distinct[:_MOST_NAMED]) + (" …" if len(distinct) > _MOST_NAMED else "")


def tree_name(plan: Plan) -> str:
    """What a tree is called that has no title: "Ward’s rule on z-scores"."""
    words = linkage_name(plan)
    if plan.source.kind == "table" and plan.scale.method != "none":
        words += f" on {SCALINGS[plan.scale.method].name}"
    return words[:1].upper() + words[1:]


def differences(plan: Plan, other: Plan) -> list[str]:
    """How another plan differs from one, in short phrases; none where both grow the same tree."""
    return list(_differences(plan, other))


def _differences(plan: Plan, other: Plan) -> Iterator[str]:
    if plan.tree.of != other.tree.of:
        yield f"of {other.tree.of}"
    if linkage_name(plan) != linkage_name(other):
        yield linkage_name(other)
    if measure_name(plan) != measure_name(other):
        yield measure_name(other)
    if plan.scale != other.scale:
        within = ", within each case" if other.scale.by == "cases" else ""
        yield f"{SCALINGS[other.scale.method].name}{within}"
    yield from _variables(plan, other)
    if plan.handling != other.handling:
        yield f"missing answers {HANDLING_WORDS[other.handling]}"
    yield from _cases(plan, other)
    if plan.source.missing_codes != other.source.missing_codes:
        yield f"missing codes {', '.join(other.source.missing_codes) or 'none'}"


def _variables(plan: Plan, other: Plan) -> Iterator[str]:
    mine, use = plan.variables.use, other.variables.use
    for word, names in (
        ("with", [name for name in use if name not in mine]),
        ("without", [name for name in mine if name not in use]),
    ):
        if names:
            left = len(names) - _MOST_NAMED
            more = f" and {left} more" if left > 0 else ""
            yield f"{word} {', '.join(names[:_MOST_NAMED])}{more}"
    both = set(mine) & set(use)
    for key, word in (
        ("importance", "importances"), ("cap", "caps"), ("trim", "trimming"),
        ("missing", "missing codes"),
    ):  # fmt: skip
        one, two = getattr(plan.variables, key), getattr(other.variables, key)
        if any(one.get(name) != two.get(name) for name in both):
            yield f"other {word}"
    if any(plan.variables.level(name) != other.variables.level(name) for name in both):
        yield "other levels"


def _cases(plan: Plan, other: Plan) -> Iterator[str]:
    one, two = plan.cases, other.cases
    if one.keep != two.keep:
        yield f"where {two.keep}" if two.keep else "all cases"
    if set(one.set_aside) != set(two.set_aside):
        yield f"{len(two.set_aside):,} set aside"
    if one.weight != two.weight:
        yield f"weighted by {two.weight}" if two.weight else "unweighted"
    if one.split != two.split:
        yield f"split by {two.split}" if two.split else "not split"
