"""The plans of other trees of the same source, which a plan names beside its own."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gorvel.core.base.errors import InputError
from gorvel.core.plan.analyses import OtherTree
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.plan import Plan, validated

OWN = "plan"  # what the tree of the plan itself is called beside others
_OF_MATRICES = ("name", "linkage", "beta")
_OWN_PARTS = (  # what is asked of the plan's own tree alone
    "count", "design", "profile", "assign", "reassign", "kmeans", "sweep", "consensus", "trees",
)  # fmt: skip
_PLACES = {  # of keys of an entry of [[trees]] in a plan
    "scale": ("scale", "method"), "by": ("scale", "by"), "measure": ("proximity", "measure"),
    "power": ("proximity", "power"), "root": ("proximity", "root"), "linkage": ("tree", "linkage"),
    "beta": ("tree", "beta"), "handling": ("missing", "handling"),
}  # fmt: skip


def other_plans(plan: Plan) -> dict[str, Plan]:
    """The whole plan of each tree of [[trees]] by its name, in file order.

    They grow and cut a tree, and ask nothing more of it. Importances of variables that a tree does
    not use are passed over.

    Raises
    ------
    InputError : a name twice, or that of the plan's own tree; keys that do not go with the source,
        or with each other; names the tree.
    """
    out: dict[str, Plan] = {}
    if plan.trees and plan.tree.of == "variables":
        found, expected = "a tree of variables", "a tree of cases"
        raise InputError(found, expected, place="[[trees]]")
    for tree in plan.trees:
        place = f'[[trees]] "{tree.name}"'
        if tree.name == OWN or tree.name in out:
            found = f'the name "{tree.name}"' + ("" if tree.name == OWN else " twice")
            expected = f'a name of its own, and not "{OWN}"'
            raise InputError(found, expected, place="[[trees]] name")
        try:
            out[tree.name] = variant(plan, tree)
        except InputError as error:
            error.place = f"{place}, {error.place}" if error.place else place
            error.file = ""  # that of the plan, which whoever read it knows
            raise
    return out


def variant(plan: Plan, tree: OtherTree) -> Plan:
    """The whole plan of one other tree; see `other_plans`."""
    said = tree.model_dump(exclude_unset=True, exclude_none=True)
    if plan.source.kind == "proximities":
        for key in said:
            if key not in _OF_MATRICES:
                raise InputError(f"the key {key}", "linkage or beta, for a matrix", place=key)
    return _put(plan, _without(plan, _OWN_PARTS), said).without_decisions()


def adopted(plan: Plan, tree: OtherTree) -> Plan:
    """A plan that grows the other tree in place of its own and is asked the same as before.

    Raises
    ------
    InputError : keys that do not go with the source, or with each other.
    """
    said = tree.model_dump(exclude_unset=True, exclude_none=True)
    return _put(plan, _without(plan, ("consensus", "trees")), said).without_decisions()


def _without(plan: Plan, parts: Sequence[str]) -> Plan:
    """A copy in which some parts are not said."""
    if not plan.model_fields_set & set(parts):
        return plan
    whole = plan.model_dump(by_alias=True, exclude_unset=True)
    return validated({key: value for key, value in whole.items() if key not in parts}, "plan")


def _put(plan: Plan, base: Plan, said: dict[str, Any]) -> Plan:
    """What an entry says in the place of a plan's own keys. base : what stays of the plan."""
    parts = _changed(plan, said)
    importance = said.get("importance", plan.variables.importance)
    out = base.using(said["use"]) if "use" in said else base
    kept = {name: value for name, value in importance.items() if name in out.variables.use}
    if kept != out.variables.importance:
        parts["variables"] = {"importance": kept}
    out = out.with_parts(parts)
    check_fit(out, "")
    return out


def _changed(plan: Plan, said: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """Keys of the plan by part, as the entry has them."""
    parts: dict[str, dict[str, Any]] = {}
    if said.keys() & {"linkage", "measure"} and plan.tree.proximities_are is not None:
        parts["tree"] = {"proximities_are": None}
    for key, (part, name) in _PLACES.items():
        if key in said:
            parts[part] = parts.get(part, {}) | {name: said[key]}
    if "weight" in said:
        parts["cases"] = {"weight": said["weight"] or None}
    return parts
