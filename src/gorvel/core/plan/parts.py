"""What a plan is made of: every choice of an analysis, frozen and checked key by key."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import BeforeValidator, Field, ValidationInfo, field_validator  # fmt: skip

from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.plan.analyses import (
    AssignPlan,
    ConsensusPlan,
    DesignPlan,
    KmeansPlan,
    OtherTree,
    ProfilePlan,
    ReassignPlan,
    SweepPlan,
)
from gorvel.core.plan.count_rules import CHECK_NAMES, COMPARABLE, COUNT_RULES, FURTHER, USUAL
from gorvel.core.plan.kinds import (
    HANDLINGS,
    Code,
    Colours,
    CountKey,
    Finite,
    Names,
    Numbers,
    Part,
    Percentiles,
    Positive,
    Rounds,
    Texts,
    Titles,
    Whole,
    as_tuple,
    one_of,
)
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.purposes import CHARACTERISTICS, MOST_WEIGHT
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.table.detect import DELIMITERS
from gorvel.core.table.levels import LEVELS, NUMERIC
from gorvel.core.table.table import Level

DEFAULT_COUNTS = (2, 3, 4, 5)
NOT_OF_MATRICES = ("sheets", "also", "join", "table", "query", "codebook")  # keys of [source]


class JoinPlan(Part):
    """Columns of another file, put beside by a key column of both."""

    file: str
    by: Annotated[str, Field(min_length=1)]


class SourcePlan(Part):
    file: str
    kind: Literal["table", "proximities", "counts"] = "table"
    sheet: str | None = None
    # sheets, or other files of one form, whose rows stand below each other
    sheets: Literal["all"] | Names = ()
    also: Names = ()
    join: Annotated[tuple[JoinPlan, ...], BeforeValidator(as_tuple)] = ()
    table: str | None = None  # of a database, or else
    query: str | None = None
    codebook: str | None = None  # tells where the columns of a fixed-width file stand
    delimiter: Annotated[str, one_of(("auto", *DELIMITERS))] = "auto"
    decimal: Annotated[str, one_of(("auto", ".", ","))] = "auto"
    encoding: str = "auto"
    skip: Annotated[int, Field(ge=0)] = 0  # lines, or rows of a sheet, above the header
    header: bool = True  # false: the first row is a case, columns are called column_1, column_2 …
    missing_codes: Annotated[tuple[Code, ...], BeforeValidator(as_tuple)] = ()
    similarity: bool = False

    def of_kind(self, kind: Literal["table", "proximities", "counts"]) -> Self:
        """The same file taken for another kind, without the keys that do not go with that."""
        left_out = (*NOT_OF_MATRICES, "header") if kind == "proximities" else ("similarity",)
        kept = {key: getattr(self, key) for key in self.model_fields_set if key not in left_out}
        return type(self)(**kept | {"kind": kind})


class CasesPlan(Part):
    label: str | None = None
    weight: str | None = None
    split: str | None = None
    groups: str | None = None  # known beforehand: never used to group, kept to check against
    keep: str | None = None  # a condition; only rows for which it is true are used
    set_aside: Numbers = ()
    place_set_aside: bool = False  # memberships: cases set aside go to the nearest cluster


class VariablesPlan(Part):
    use: Names = ()
    ordinal: Names = ()
    interval: Names = ()
    nominal: Names = ()
    binary: Names = ()
    count: Names = ()  # numbers that are not negative; used like interval ones
    profile: Names = ()  # not used to group, but to tell what the clusters are like
    asymmetric: Names = ()
    importance: dict[str, Positive] = Field(default_factory=dict)
    # of a codebook: the question behind a column, and the words behind its codes
    labels: dict[str, str] = Field(default_factory=dict)
    values: dict[str, dict[str, str]] = Field(default_factory=dict)
    # percentiles, such as [1, 99], at which a variable's answers are capped
    cap: dict[str, Percentiles] = Field(default_factory=dict)
    # percentiles beyond which a case is left out
    trim: dict[str, Percentiles] = Field(default_factory=dict)
    # codes read as missing in one column only, beside those of [source]
    missing: dict[str, Annotated[tuple[Code, ...], BeforeValidator(as_tuple)]] = Field(
        default_factory=dict
    )

    def level(self, name: str) -> Level | None:
        """The level given to a column, if any."""
        for level in LEVELS:
            if name in getattr(self, level):
                return level
        return "binary" if name in self.asymmetric else None


class MissingPlan(Part):
    # None: drop, or pairwise under gower
    handling: Annotated[str, one_of(HANDLINGS)] | None = None


class ScalePlan(Part):
    method: Annotated[str, one_of(SCALINGS)] = "none"
    by: Annotated[str, one_of(("variables", "cases"))] = "variables"
    binary: Annotated[str, one_of(("keep", "scale"))] = "keep"  # yes/no variables: 0 and 1, or not


class ProximityPlan(Part):
    measure: Annotated[str, one_of(MEASURES)] = "squared-euclidean"
    power: Positive = 2.0
    root: Positive = 2.0


class TreePlan(Part):
    of: Annotated[str, one_of(("cases", "variables"))] = "cases"
    linkage: Annotated[str, one_of(TREE_RULES)] = "ward"
    beta: Annotated[float, Field(ge=-1, lt=1, allow_inf_nan=False)] = -0.25
    # what Ward's rule, centroid and median take the proximities for; None: distances, but squares
    # under squared-euclidean
    proximities_are: Annotated[str, one_of(("distances", "squares"))] | None = None
    # only neighbours in an order join: that of a numeric column, or "file"
    neighbours: Annotated[str, Field(min_length=1)] | None = None


class Branches(Part):
    """A cut at a cluster count with some branches cut lower: joins (from 1) that are undone."""

    clusters: Whole
    split: Annotated[tuple[Whole, ...], BeforeValidator(as_tuple)]


class CutPlan(Part):
    # None: the default counts, trimmed to what there is
    counts: Annotated[tuple[Whole, ...], BeforeValidator(as_tuple)] | None = None
    heights: Annotated[tuple[Finite, ...], BeforeValidator(as_tuple)] = ()
    branches: Annotated[tuple[Branches, ...], BeforeValidator(as_tuple)] = ()
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
    return BeforeValidator(lambda value: every if value == "all" else as_tuple(value))


class CountPlan(Part):
    from_: Annotated[int, Field(ge=1, alias="from")] = 2
    to: Annotated[int, Field(ge=1)] = 10
    rules: Annotated[tuple[Annotated[str, one_of(USUAL)], ...], _or_all(USUAL)] = USUAL
    more: Annotated[tuple[Annotated[str, one_of(FURTHER)], ...], _or_all(FURTHER)] = ()
    resamples: Rounds = 100
    # where even noise is drawn for the gap and Hopkins: along the principal axes, or the variables
    box: Annotated[str, one_of(("axes", "straight"))] = "axes"
    seed: Annotated[int, Field(ge=0)] = 1
    # rules that have no say in the vote, the count taken in the end, and why
    left_out: Annotated[
        tuple[Annotated[str, one_of(tuple(COUNT_RULES))], ...], BeforeValidator(as_tuple)
    ] = ()
    checks: Annotated[
        tuple[Annotated[str, one_of(CHECK_NAMES)], ...], BeforeValidator(as_tuple)
    ] = ()
    # what clusters are for: weights of their characteristics
    purpose: dict[
        Annotated[str, one_of(CHARACTERISTICS)], Annotated[float, Field(ge=0, le=MOST_WEIGHT)]
    ] = Field(default_factory=dict)
    # rules held against data without groups beside the silhouette
    groups_by: Annotated[tuple[Annotated[str, one_of(COMPARABLE)], ...], _or_all(COMPARABLE)] = ()
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


class WholePlan(Part):
    """Every choice of one analysis.

    Only the source is required, and for a table `variables.use`.
    """

    gorvel: Annotated[Literal[1], BeforeValidator(_version)] = 1
    title: str = ""
    source: SourcePlan
    make: Annotated[tuple[MakePlan, ...], BeforeValidator(as_tuple)] = ()
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
    consensus: ConsensusPlan | None = None
    trees: Annotated[tuple[OtherTree, ...], BeforeValidator(as_tuple)] = ()

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
