"""What can be done about a caution: changes of the plan, each with the words of a link."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from gorvel.core.base.errors import InputError
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES

__all__ = ["Remedy", "remedies_of"]


@dataclass(frozen=True)
class Remedy:
    """words : of a link; plan : as it would be."""

    words: str
    plan: Plan


_GOWER: tuple[str, dict[str, dict[str, object]]] = (
    "measure by Gower, join by average linkage",
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
        ("fill gaps with the median", {"missing": {"handling": "median"}}),
        _GOWER,
    ),
    "fit-presence": (
        (
            "measure by simple matching, join by average linkage",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "simple-matching"},
                "tree": {"linkage": "average"},
            },
        ),
        (
            "by Jaccard, which leaves aside what both lack",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "jaccard"},
                "tree": {"linkage": "average"},
            },
        ),
    ),
    "fit-scaled": (("take them as they are", {"scale": {"method": "none"}}),),
    "fit-as-they-are": (("use z-scores", {"scale": {"method": "zscore"}}),),
    "fit-mixed": (_GOWER,),
    "skewed-margins": (("take ranks", {"scale": {"method": "rank"}}),),
    "yes-no-unscaled": (
        ("scale them like the others", {"scale": {"binary": "scale"}}),
        _GOWER,
    ),
    "linkage-geometry": (
        ("take them as squares", {"tree": {"proximities_are": "squares"}}),
        ("join by average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-ignored": (
        ("leave the weights out", {"cases": {"weight": None}}),
        ("join by average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-as-frequencies": (("grow it unweighted", {"cases": {"weight": None}}),),
}


def remedies_of(code: str, plan: Plan) -> list[Remedy]:
    """What can be done about a caution, of which the plan allows it and it changes anything."""
    return list(_remedies(code, plan))


def _remedies(code: str, plan: Plan) -> Iterator[Remedy]:
    for words, changes in _CHANGES.get(code, ()):
        if words == "take them as squares" and not _are_squares(plan):
            continue
        try:
            changed = plan.with_parts(changes)
        except InputError:
            continue
        if changed != plan:
            yield Remedy(words, changed)


def _are_squares(plan: Plan) -> bool:
    return plan.source.kind == "table" and MEASURES[plan.proximity.measure].are_squares
