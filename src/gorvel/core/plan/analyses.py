"""What a plan may ask for beside its tree and its cut."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BeforeValidator, Field

from gorvel.core.linkage.rules import LINKAGES, TREE_RULES
from gorvel.core.plan.kinds import (
    HANDLINGS,
    Names,
    Part,
    Positive,
    Rounds,
    Whole,
    as_tuple,
    each_of,
    one_of,
)
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS


class ProfilePlan(Part):
    """What is told of the clusters beside their profiles."""

    map: bool = False  # the cases in two dimensions
    typing: Whole | None = None  # so many questions that tell clusters apart best


class OtherTree(Part):
    """Another tree of the same source: what is in the place of the plan's own keys, by name."""

    name: Annotated[str, AfterValidator(str.strip), Field(min_length=1)]
    use: Names | None = None
    scale: Annotated[str, one_of(SCALINGS)] | None = None
    by: Annotated[str, one_of(("variables", "cases"))] | None = None
    measure: Annotated[str, one_of(MEASURES)] | None = None
    power: Positive | None = None
    root: Positive | None = None
    linkage: Annotated[str, one_of(TREE_RULES)] | None = None
    beta: Annotated[float, Field(ge=-1, lt=1, allow_inf_nan=False)] | None = None
    handling: Annotated[str, one_of(HANDLINGS)] | None = None
    weight: str | None = None  # "" for none
    importance: dict[str, Positive] | None = None


class SweepPlan(Part):
    """Every combination of some choices; None for the plan's own alone."""

    scales: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(SCALINGS) if v == "all" else v),
        each_of(SCALINGS),
    ] = None
    handlings: Annotated[
        Names | None, BeforeValidator(lambda v: HANDLINGS if v == "all" else v), each_of(HANDLINGS)
    ] = None
    measures: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(MEASURES) if v == "all" else v),
        each_of(MEASURES),
    ] = None
    linkages: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(LINKAGES) if v == "all" else v),
        each_of(TREE_RULES),
    ] = None


class ConsensusPlan(Part):
    """What the plan's tree and those of [[trees]] have in common."""


class ReassignPlan(Part):
    """Cuts whose cases go to the nearest centroid until nobody moves; None: those of [cut]."""

    counts: Annotated[tuple[Whole, ...], BeforeValidator(as_tuple)] | None = None


class KmeansPlan(Part):
    """K-means from many starts, one of which is the cut."""

    from_: Annotated[Whole, Field(alias="from")] = 2
    to: Whole = 10
    starts: Rounds = 10
    seed: Annotated[int, Field(ge=0)] = 1


class AssignPlan(Part):
    """Cases of another file, with the same questions, that are given to the clusters."""

    file: str
    method: Annotated[str, one_of(("auto", "centroid", "mean", "nearest"))] = "auto"


class DesignPlan(Part):
    """How the sample was drawn."""

    strata: str | None = None
    psu: str | None = None  # without it each case is drawn by itself
    single: Annotated[str, one_of(("stop", "centre", "zero"))] = "stop"  # a stratum with one PSU
    replicates: Names = ()  # columns of replicate weights, instead of strata and psu
    kind: Annotated[str, one_of(("jackknife", "brr", "bootstrap", "fay"))] = "jackknife"
    fay: Annotated[float, Field(ge=0, lt=1)] = 0.5
    factors: Annotated[tuple[Positive, ...], BeforeValidator(as_tuple)] = ()
    df: Positive | None = None

    @property
    def columns(self) -> tuple[str, ...]:
        """All that it names."""
        return tuple(name for name in (self.strata, self.psu, *self.replicates) if name is not None)
