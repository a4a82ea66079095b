"""What can be done about a caution: changes of the plan, each with the words of a link."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from gorvel.core.base.errors import InputError
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES


@dataclass(frozen=True)
class Remedy:
    """words : of a link; plan : as it would be."""

    words: str
    plan: Plan


_GOWER: tuple[str, dict[str, dict[str, object]]] = (
    "Use Gower distance and average linkage",
    {
        "missing": {"handling": None},
        "scale": {"method": "none"},
        "proximity": {"measure": "gower"},
        "tree": {"linkage": "average"},
    },
)
# by the code of a caution: the words, the parts of the plan that change
_CHANGES: dict[str, tuple[tuple[str, dict[str, dict[str, object]]], ...]] = {
    "dropped": (
        ("Impute the median", {"missing": {"handling": "median"}}),
        _GOWER,
    ),
    "fit-presence": (
        (
            "Use simple matching and average linkage",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "simple-matching"},
                "tree": {"linkage": "average"},
            },
        ),
        (
            "Use Jaccard, which ignores what both lack",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "jaccard"},
                "tree": {"linkage": "average"},
            },
        ),
    ),
    "fit-scaled": (("Use them unscaled", {"scale": {"method": "none"}}),),
    "fit-as-they-are": (("Use z-scores", {"scale": {"method": "zscore"}}),),
    "fit-mixed": (_GOWER,),
    "skewed-margins": (("Use ranks", {"scale": {"method": "rank"}}),),
    "yes-no-unscaled": (
        ("Scale them like the others", {"scale": {"binary": "scale"}}),
        _GOWER,
    ),
    "linkage-geometry": (
        ("Take them as squares", {"tree": {"proximities_are": "squares"}}),
        ("Use average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-ignored": (
        ("Drop the weights", {"cases": {"weight": None}}),
        ("Use average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-as-frequencies": (("Grow it unweighted", {"cases": {"weight": None}}),),
}


def remedies_of(code: str, plan: Plan) -> list[Remedy]:
    """What can be done about a caution, of which the plan allows it and it changes anything."""
    return list(_remedies(code, plan))


def _remedies(code: str, plan: Plan) -> Iterator[Remedy]:
    for words, changes in _CHANGES.get(code, ()):
        if words == "Take them as squares" and not _are_squares(plan):
            continue
        try:
            changed = plan.with_parts(changes)
        except InputError:
            continue
        if changed != plan:
            yield Remedy(words, changed)


def _are_squares(plan: Plan) -> bool:
    return plan.source.kind == "table" and MEASURES[plan.proximity.measure].are_squares
