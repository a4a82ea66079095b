"""What a plan is made of: every choice of an analysis, frozen and checked key by key."""

from __future__ import annotations

import difflib
import re
from collections.abc import Collection
from typing import Annotated, Any, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationInfo,
    field_validator,
)  # fmt: skip

from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.count_rules import CHECK_NAMES, COMPARABLE, COUNT_RULES, FURTHER, USUAL
from gorvel.core.plan.purposes import CHARACTERISTICS, MOST_WEIGHT
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.table.detect import DELIMITERS
from gorvel.core.table.levels import LEVELS, NUMERIC, Level

__all__ = [
    "ALL_RULES",
    "DEFAULT_COUNTS",
    "HANDLINGS",
    "TOLD_OF_CLUSTERS",
    "AssignPlan",
    "CasesPlan",
    "CountPlan",
    "CutPlan",
    "DesignPlan",
    "KmeansPlan",
    "OtherTree",
    "ProfilePlan",
    "ProximityPlan",
    "ReassignPlan",
    "ScalePlan",
    "SourcePlan",
    "SweepPlan",
    "TreePlan",
    "VariablesPlan",
    "WholePlan",
    "nearest",
]

DEFAULT_COUNTS = (2, 3, 4, 5)
HANDLINGS = ("drop", "stop", "mean", "median", "mode", "pairwise")


def nearest(word: str, valid: Collection[str]) -> str:
    """The valid word most like a mistyped one."""
    return difflib.get_close_matches(word.lower(), list(valid), n=1, cutoff=0.0)[0]


def _one_of(valid: Collection[str]) -> AfterValidator:
    def check(word: str) -> str:
        if word not in valid:
            raise ValueError(
                f'one of {", ".join(valid)} (nearest: "{nearest(word, valid)}")',
            )
        return word

    return AfterValidator(check)


def _tuple(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


def _code(value: Any) -> Any:
    """Missing codes may be written as numbers."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return value
    return f"{value:g}" if isinstance(value, float) else str(value)


def _distinct(values: tuple[Any, ...]) -> tuple[Any, ...]:
    for place, value in enumerate(values):
        if value in values[:place]:
            raise ValueError(f'each entry once ("{value}" stands twice)')
    return values


def _count_key(key: str) -> str:
    if not (key.isascii() and key.isdigit() and key[0] != "0"):
        raise ValueError("a cluster count, from 1")
    return key


def _colours(colours: tuple[str, ...]) -> tuple[str, ...]:
    for colour in colours:
        if colour and not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise ValueError('a colour such as "#2F66B5"', colour)
    return colours


def _told_once(titles: tuple[str, ...]) -> tuple[str, ...]:
    _distinct(tuple(title for title in titles if title))
    return titles


Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Percentiles = Annotated[tuple[Percent, Percent], BeforeValidator(_tuple)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(ge=1)]
Names = Annotated[tuple[str, ...], BeforeValidator(_tuple), AfterValidator(_distinct)]
Code = Annotated[str, BeforeValidator(_code)]
Title = Annotated[str, AfterValidator(str.strip)]
Titles = Annotated[tuple[Title, ...], BeforeValidator(_tuple), AfterValidator(_told_once)]
Texts = Annotated[tuple[Title, ...], BeforeValidator(_tuple)]
Colours = Annotated[tuple[str, ...], BeforeValidator(_tuple), AfterValidator(_colours)]
CountKey = Annotated[str, AfterValidator(_count_key)]
TOLD_OF_CLUSTERS = ("names", "portraits", "notes", "colours")  # keys of [cut]


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, populate_by_name=True)


class SourcePlan(_Part):
    file: str
    kind: Literal["table", "proximities"] = "table"
    sheet: str | None = None
    delimiter: Annotated[str, _one_of(("auto", *DELIMITERS))] = "auto"
    decimal: Annotated[str, _one_of(("auto", ".", ","))] = "auto"
    encoding: str = "auto"
    header: bool = True  # false: the first row is a case, columns are called column_1, column_2 …
    missing_codes: Annotated[tuple[Code, ...], BeforeValidator(_tuple)] = ()
    similarity: bool = False


class CasesPlan(_Part):
    label: str | None = None
    weight: str | None = None
    split: str | None = None
    groups: str | None = None  # known beforehand: never used to group, kept to check against
    keep: str | None = None  # a condition; only rows for which it is true are used
    set_aside: Annotated[tuple[Whole, ...], BeforeValidator(_tuple), AfterValidator(_distinct)] = ()
    place_set_aside: bool = False  # memberships: cases set aside go to the nearest cluster


class VariablesPlan(_Part):
    use: Names = ()
    ordinal: Names = ()
    interval: Names = ()
    nominal: Names = ()
    binary: Names = ()
    count: Names = ()  # numbers that are not negative; used like interval ones
    profile: Names = ()  # not used to group, but to tell what the clusters are like
    asymmetric: Names = ()
    importance: dict[str, Positive] = Field(default_factory=dict)
    # of a code book: the question behind a column, and the words behind its codes
    labels: dict[str, str] = Field(default_factory=dict)
    values: dict[str, dict[str, str]] = Field(default_factory=dict)
    # percentiles, such as [1, 99], at which a variable's answers are capped
    cap: dict[str, Percentiles] = Field(default_factory=dict)
    # percentiles beyond which a case is left out
    trim: dict[str, Percentiles] = Field(default_factory=dict)
    # codes read as missing in one column only, beside those of [source]
    missing: dict[str, Annotated[tuple[Code, ...], BeforeValidator(_tuple)]] = Field(
        default_factory=dict
    )

    def level(self, name: str) -> Level | None:
        """The level given to a column, if any."""
        for level in LEVELS:
            if name in getattr(self, level):
                return level
        return "binary" if name in self.asymmetric else None


class MissingPlan(_Part):
    # None: drop, or pairwise under gower
    handling: Annotated[str, _one_of(HANDLINGS)] | None = None


class ScalePlan(_Part):
    method: Annotated[str, _one_of(SCALINGS)] = "none"
    by: Annotated[str, _one_of(("variables", "cases"))] = "variables"
    binary: Annotated[str, _one_of(("keep", "scale"))] = "keep"  # yes/no variables: 0 and 1, or not


class ProximityPlan(_Part):
    measure: Annotated[str, _one_of(MEASURES)] = "squared-euclidean"
    power: Positive = 2.0
    root: Positive = 2.0


class TreePlan(_Part):
    of: Annotated[str, _one_of(("cases", "variables"))] = "cases"
    linkage: Annotated[str, _one_of(LINKAGES)] = "ward"
    beta: Annotated[float, Field(ge=-1, lt=1, allow_inf_nan=False)] = -0.25
    # what Ward's rule, centroid and median take the proximities for; None: distances, but squares
    # under squared-euclidean
    proximities_are: Annotated[str, _one_of(("distances", "squares"))] | None = None


class Branches(_Part):
    """A cut at a cluster count with some branches cut lower: joins (from 1) that are undone."""

    clusters: Whole
    split: Annotated[tuple[Whole, ...], BeforeValidator(_tuple)]


class CutPlan(_Part):
    # None: the default counts, trimmed to what there is
    counts: Annotated[tuple[Whole, ...], BeforeValidator(_tuple)] | None = None
    heights: Annotated[tuple[Finite, ...], BeforeValidator(_tuple)] = ()
    branches: Annotated[tuple[Branches, ...], BeforeValidator(_tuple)] = ()
    # titles of clusters by count, in the order of cluster numbers; "" for one without
    names: dict[CountKey, Titles] = Field(default_factory=dict)
    # what is said of them, and colours such as "#2F66B5", likewise
    portraits: dict[CountKey, Texts] = Field(default_factory=dict)
    notes: dict[CountKey, Texts] = Field(default_factory=dict)
    colours: dict[CountKey, Colours] = Field(default_factory=dict)


def _version(value: Any) -> Any:
    """true equals 1, but is no version."""
    return str(value).lower() if isinstance(value, bool) else value


def _or_all(every: tuple[str, ...]) -> BeforeValidator:
    return BeforeValidator(lambda value: every if value == "all" else _tuple(value))


class ProfilePlan(_Part):
    """What is told of the clusters beside their profiles."""

    map: bool = False  # the cases in two dimensions
    typing: Whole | None = None  # so many questions that tell clusters apart best


class OtherTree(_Part):
    """Another tree of the same source: what is in the place of the plan's own keys, by name."""

    name: Annotated[str, AfterValidator(str.strip), Field(min_length=1)]
    use: Names | None = None
    scale: Annotated[str, _one_of(SCALINGS)] | None = None
    by: Annotated[str, _one_of(("variables", "cases"))] | None = None
    measure: Annotated[str, _one_of(MEASURES)] | None = None
    power: Positive | None = None
    root: Positive | None = None
    linkage: Annotated[str, _one_of(LINKAGES)] | None = None
    beta: Annotated[float, Field(ge=-1, lt=1, allow_inf_nan=False)] | None = None
    handling: Annotated[str, _one_of(HANDLINGS)] | None = None
    weight: str | None = None  # "" for none
    importance: dict[str, Positive] | None = None


def _each_of(valid: Collection[str]) -> AfterValidator:
    def check(words: tuple[str, ...] | None) -> tuple[str, ...] | None:
        for word in words or ():
            if word not in valid:
                expected = f'one of {", ".join(valid)} (nearest: "{nearest(word, valid)}")'
                raise ValueError(expected, word)
        return words

    return AfterValidator(check)


class SweepPlan(_Part):
    """Every combination of some choices; None for the plan's own alone."""

    scales: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(SCALINGS) if v == "all" else v),
        _each_of(SCALINGS),
    ] = None
    handlings: Annotated[
        Names | None, BeforeValidator(lambda v: HANDLINGS if v == "all" else v), _each_of(HANDLINGS)
    ] = None
    measures: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(MEASURES) if v == "all" else v),
        _each_of(MEASURES),
    ] = None
    linkages: Annotated[
        Names | None,
        BeforeValidator(lambda v: tuple(LINKAGES) if v == "all" else v),
        _each_of(LINKAGES),
    ] = None


class ReassignPlan(_Part):
    """Cuts whose cases go to the nearest centroid until nobody moves; None: those of [cut]."""

    counts: Annotated[tuple[Whole, ...], BeforeValidator(_tuple)] | None = None


class KmeansPlan(_Part):
    """K-means from many starts, one of which is the cut."""

    from_: Annotated[Whole, Field(alias="from")] = 2
    to: Whole = 10
    starts: Whole = 10
    seed: Annotated[int, Field(ge=0)] = 1


class AssignPlan(_Part):
    """Cases of another file, with the same questions, that are given to the clusters."""

    file: str
    method: Annotated[str, _one_of(("auto", "centroid", "mean", "nearest"))] = "auto"


class DesignPlan(_Part):
    """How the sample was drawn."""

    strata: str | None = None
    psu: str | None = None  # without it each case is drawn by itself
    single: Annotated[str, _one_of(("stop", "centre", "zero"))] = "stop"  # a stratum with one PSU
    replicates: Names = ()  # columns of replicate weights, instead of strata and psu
    kind: Annotated[str, _one_of(("jackknife", "brr", "bootstrap", "fay"))] = "jackknife"
    fay: Annotated[float, Field(ge=0, lt=1)] = 0.5
    factors: Annotated[tuple[Positive, ...], BeforeValidator(_tuple)] = ()
    df: Positive | None = None

    @property
    def columns(self) -> tuple[str, ...]:
        """All that it names."""
        return tuple(name for name in (self.strata, self.psu, *self.replicates) if name is not None)


class CountPlan(_Part):
    from_: Annotated[int, Field(ge=1, alias="from")] = 2
    to: Annotated[int, Field(ge=1)] = 10
    rules: Annotated[tuple[Annotated[str, _one_of(USUAL)], ...], _or_all(USUAL)] = USUAL
    more: Annotated[tuple[Annotated[str, _one_of(FURTHER)], ...], _or_all(FURTHER)] = ()
    resamples: Whole = 100
    # where even noise is drawn for the gap and Hopkins: along the principal axes, or the variables
    box: Annotated[str, _one_of(("axes", "straight"))] = "axes"
    seed: Annotated[int, Field(ge=0)] = 1
    # rules that have no say in the vote, the count taken in the end, and why
    left_out: Annotated[
        tuple[Annotated[str, _one_of(tuple(COUNT_RULES))], ...], BeforeValidator(_tuple)
    ] = ()
    checks: Annotated[
        tuple[Annotated[str, _one_of(CHECK_NAMES)], ...], BeforeValidator(_tuple)
    ] = ()
    # what clusters are for: weights of their characteristics
    purpose: dict[
        Annotated[str, _one_of(CHARACTERISTICS)], Annotated[float, Field(ge=0, le=MOST_WEIGHT)]
    ] = Field(default_factory=dict)
    # rules held against data without groups beside the silhouette
    groups_by: Annotated[tuple[Annotated[str, _one_of(COMPARABLE)], ...], _or_all(COMPARABLE)] = ()
    chosen: Whole | None = None
    reasons: str = ""

    @property
    def wanted(self) -> tuple[str, ...]:
        """Keys of all rules asked for, in the order of the registry."""
        return tuple(key for key in COUNT_RULES if key in {*self.rules, *self.more})

    @field_validator("to")
    @classmethod
    def _not_before(cls, to: int, info: ValidationInfo) -> int:
        if to < info.data.get("from_", to):
            raise ValueError(f"a count from {info.data['from_']} on, where it begins")
        return to


ALL_RULES = CountPlan()  # what is asked where nothing is said


class WholePlan(_Part):
    """Every choice of one analysis.

    Only the source is required, and for a table `variables.use`.
    """

    gorvel: Annotated[Literal[1], BeforeValidator(_version)] = 1
    title: str = ""
    source: SourcePlan
    cases: CasesPlan = CasesPlan()
    variables: VariablesPlan = VariablesPlan()
    missing: MissingPlan = MissingPlan()
    scale: ScalePlan = ScalePlan()
    proximity: ProximityPlan = ProximityPlan()
    tree: TreePlan = TreePlan()
    cut: CutPlan = CutPlan()
    count: CountPlan | None = None
    design: DesignPlan | None = None
    profile: ProfilePlan | None = None
    assign: AssignPlan | None = None
    reassign: ReassignPlan | None = None
    kmeans: KmeansPlan | None = None
    sweep: SweepPlan | None = None
    trees: Annotated[tuple[OtherTree, ...], BeforeValidator(_tuple)] = ()

    @property
    def handling(self) -> str:
        """How missing answers are handled, with the default that goes with the measure."""
        if self.missing.handling is not None:
            return self.missing.handling
        return "pairwise" if MEASURES[self.proximity.measure].mixed else "drop"

    def scales(self, level: Level) -> bool:
        """Is a variable of this level scaled, where any is?"""
        if level == "binary":
            return (
                self.scale.binary == "scale" and MEASURES[self.proximity.measure].kind == "numbers"
            )
        return level in NUMERIC

    @property
    def proximities_are(self) -> str:
        """What rules on squared geometry take the proximities for: "distances" or "squares"."""
        if self.tree.proximities_are is not None:
            return self.tree.proximities_are
        table = self.source.kind == "table"
        squared = table and self.proximity.measure == "squared-euclidean"
        return "squares" if squared else "distances"

    @property
    def counting(self) -> CountPlan:
        """How the cluster count is looked into; the defaults where the plan does not say."""
        return self.count or ALL_RULES

    def codes(self, column: str) -> tuple[str, ...]:
        """The codes read as missing in a column."""
        return tuple(
            dict.fromkeys((*self.source.missing_codes, *self.variables.missing.get(column, ())))
        )
