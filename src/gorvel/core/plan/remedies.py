"""What can be done about a caution: changes of the plan, each with the words of a link."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial

from gorvel.core.base.errors import InputError
from gorvel.core.plan.plan import Plan
from gorvel.core.plan.remedy import Remedy
from gorvel.core.proximity.measures import MEASURES

Changes = Mapping[str, Mapping[str, object]]  # of keys, by part


def _always(plan: Plan) -> bool:
    return True


def _are_squares(plan: Plan) -> bool:
    return plan.source.kind == "table" and MEASURES[plan.proximity.measure].are_squares


@dataclass(frozen=True)
class _Offer:
    """words : of a link; changes : of the plan; applies : to a plan."""

    words: str
    changes: Changes
    applies: Callable[[Plan], bool] = _always


_GOWER = _Offer(
    "Use Gower distance and average linkage",
    {
        "missing": {"handling": None},
        "scale": {"method": "none"},
        "proximity": {"measure": "gower"},
        "tree": {"linkage": "average"},
    },
)
# by the code of a caution
_OFFERS: dict[str, tuple[_Offer, ...]] = {
    "dropped": (_Offer("Impute the median", {"missing": {"handling": "median"}}), _GOWER),
    "fit-presence": (
        _Offer(
            "Use simple matching and average linkage",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "simple-matching"},
                "tree": {"linkage": "average"},
            },
        ),
        _Offer(
            "Use Jaccard, which ignores what both lack",
            {
                "scale": {"method": "none"},
                "proximity": {"measure": "jaccard"},
                "tree": {"linkage": "average"},
            },
        ),
    ),
    "fit-scaled": (_Offer("Use them unscaled", {"scale": {"method": "none"}}),),
    "fit-as-they-are": (_Offer("Use z-scores", {"scale": {"method": "zscore"}}),),
    "fit-mixed": (_GOWER,),
    "skewed-margins": (_Offer("Use ranks", {"scale": {"method": "rank"}}),),
    "yes-no-unscaled": (
        _Offer("Scale them like the others", {"scale": {"binary": "scale"}}),
        _GOWER,
    ),
    "linkage-geometry": (
        _Offer("Take them as squares", {"tree": {"proximities_are": "squares"}}, _are_squares),
        _Offer("Use average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-ignored": (
        _Offer("Drop the weights", {"cases": {"weight": None}}),
        _Offer("Use average linkage", {"tree": {"linkage": "average"}}),
    ),
    "weights-as-frequencies": (_Offer("Grow it unweighted", {"cases": {"weight": None}}),),
}


def remedies_of(code: str, plan: Plan) -> list[Remedy]:
    """What can be done about a caution, of which the plan allows it and it changes anything."""
    return list(_remedies(code, plan))


def _remedies(code: str, plan: Plan) -> Iterator[Remedy]:
    for offer in _OFFERS.get(code, ()):
        if not offer.applies(plan):
            continue
        try:
            changed = plan.with_parts(offer.changes)
        except InputError:
            continue
        if changed != plan:
            yield Remedy(offer.words, partial(Plan.with_parts, changes=offer.changes))
