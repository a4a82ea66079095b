"""The plan: every choice of an analysis, frozen and checked key by key."""

from __future__ import annotations

import difflib
from collections.abc import Collection, Mapping, Sequence
from typing import Annotated, Any, Literal

import pydantic
from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationInfo,
    field_validator,
)  # fmt: skip

from gorvel.core.count_rules import CHECK_NAMES, COUNT_RULES
from gorvel.core.errors import InputError
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.scaling import SCALINGS
from gorvel.core.table.detect import DELIMITERS
from gorvel.core.table.levels import LEVELS, Level

__all__ = [
    "DEFAULT_COUNTS",
    "HANDLINGS",
    "RULES",
    "CasesPlan",
    "CountPlan",
    "CutPlan",
    "Plan",
    "SourcePlan",
    "VariablesPlan",
    "nearest",
    "validated",
]

DEFAULT_COUNTS = (2, 3, 4, 5)
HANDLINGS = ("drop", "stop", "mean", "median", "mode", "pairwise")
RULES = tuple(COUNT_RULES)


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


Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Percentiles = Annotated[tuple[Percent, Percent], BeforeValidator(_tuple)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(ge=1)]
Names = Annotated[tuple[str, ...], BeforeValidator(_tuple), AfterValidator(_distinct)]
Code = Annotated[str, BeforeValidator(_code)]


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


class ProximityPlan(_Part):
    measure: Annotated[str, _one_of(MEASURES)] = "squared-euclidean"
    power: Positive = 2.0
    root: Positive = 2.0


class TreePlan(_Part):
    of: Annotated[str, _one_of(("cases", "variables"))] = "cases"
    linkage: Annotated[str, _one_of(LINKAGES)] = "ward"
    beta: Annotated[float, Field(ge=-1, lt=1, allow_inf_nan=False)] = -0.25


class Branches(_Part):
    """A cut at a cluster count with some branches cut lower: joins (from 1) that are undone."""

    clusters: Whole
    split: Annotated[tuple[Whole, ...], BeforeValidator(_tuple)]


class CutPlan(_Part):
    # None: the default counts, trimmed to what there is
    counts: Annotated[tuple[Whole, ...], BeforeValidator(_tuple)] | None = None
    heights: Annotated[tuple[Finite, ...], BeforeValidator(_tuple)] = ()
    branches: Annotated[tuple[Branches, ...], BeforeValidator(_tuple)] = ()


def _version(value: Any) -> Any:
    """true equals 1, but is no version."""
    return str(value).lower() if isinstance(value, bool) else value


def _rules(value: Any) -> Any:
    return RULES if value == "all" else _tuple(value)


class CountPlan(_Part):
    from_: Annotated[int, Field(ge=1, alias="from")] = 2
    to: Annotated[int, Field(ge=1)] = 10
    rules: Annotated[tuple[Annotated[str, _one_of(RULES)], ...], BeforeValidator(_rules)] = RULES
    resamples: Whole = 100
    seed: Annotated[int, Field(ge=0)] = 1
    # rules that have no say in the vote, the count taken in the end, and why
    left_out: Annotated[tuple[Annotated[str, _one_of(RULES)], ...], BeforeValidator(_tuple)] = ()
    checks: Annotated[
        tuple[Annotated[str, _one_of(CHECK_NAMES)], ...], BeforeValidator(_tuple)
    ] = ()
    chosen: Whole | None = None
    reasons: str = ""

    @field_validator("to")
    @classmethod
    def _not_before(cls, to: int, info: ValidationInfo) -> int:
        if to < info.data.get("from_", to):
            raise ValueError(f"a count from {info.data['from_']} on, where it begins")
        return to


class Plan(_Part):
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

    @property
    def handling(self) -> str:
        """How missing answers are handled, with the default that goes with the measure."""
        if self.missing.handling is not None:
            return self.missing.handling
        return "pairwise" if MEASURES[self.proximity.measure].mixed else "drop"

    @property
    def counting(self) -> CountPlan:
        """How the cluster count is looked into; the defaults where the plan does not say."""
        return self.count or CountPlan()

    def codes(self, column: str) -> tuple[str, ...]:
        """The codes read as missing in a column."""
        return tuple(
            dict.fromkeys((*self.source.missing_codes, *self.variables.missing.get(column, ())))
        )

    def with_(self, part: str, **changes: Any) -> Plan:
        """A copy with some keys of one part changed; checked like a plan file.

        Raises
        ------
        InputError : a value does not fit.
        """
        old = getattr(self, part)
        kept = {} if old is None else old.model_dump(by_alias=True, exclude_unset=True)
        data = kept | changes
        whole = self.model_dump(by_alias=True, exclude_unset=True) | {part: data}
        return validated(whole, "plan")

    def using(self, names: Sequence[str]) -> Plan:
        """A copy with these variables in use; what was said of others that were is forgotten."""
        part = self.variables
        kept = {
            key: {name: value for name, value in getattr(part, key).items() if name in names}
            for key in ("importance", "cap", "trim")
            if getattr(part, key)
        }
        return self.with_("variables", use=list(names), **kept)

    def understood(self) -> dict[str, Any]:
        """The plan with all defaults filled in, as plain data."""
        data = self.model_dump(by_alias=True, mode="json")
        data["missing"]["handling"] = self.handling
        if self.cut.counts is None:
            data["cut"]["counts"] = list(DEFAULT_COUNTS)
        return data


def validated(data: Mapping[str, Any], file: str) -> Plan:
    """A plan from plain data.

    Raises
    ------
    InputError : names the key, what was found and what was expected.
    """
    try:
        return Plan.model_validate(data)
    except pydantic.ValidationError as error:
        raise _in_words(error.errors()[0], file) from None


def _fields(path: tuple[str | int, ...]) -> list[str]:
    """The valid keys of a table of the plan."""
    model: type[BaseModel] = Plan
    for step in path:
        kinds = {
            name: field.annotation
            for name, field in model.model_fields.items()
            if isinstance(name, str)
        }
        found = kinds.get(str(step))
        if step == "count":
            found = CountPlan
        if not (isinstance(found, type) and issubclass(found, BaseModel)):
            return []
        model = found
    return [field.alias or name for name, field in model.model_fields.items()]


def _in_words(problem: Any, file: str) -> InputError:
    loc = tuple(problem["loc"])
    table, *keys = loc
    place = f"[{table}]" if keys else str(table)
    if keys:
        place += " " + ".".join(str(key) for key in keys if not isinstance(key, int))
    value = problem["input"]
    if problem["type"] == "extra_forbidden":
        valid = _fields(loc[:-1])
        kind = "table" if isinstance(value, Mapping) and len(loc) == 1 else "key"
        hint = f'nearest valid: "{nearest(str(loc[-1]), valid)}"' if valid else "no such key"
        return InputError(f'unknown {kind} "{loc[-1]}"', hint, place=place, file=file)
    if problem["type"] == "missing" and isinstance(loc[-1], int):
        return InputError("too few entries", _EXPECTED["too_short"], place=place, file=file)
    if problem["type"] == "missing":
        return InputError("nothing", "a value: this key is required", place=place, file=file)
    found = f'"{value}"' if isinstance(value, str) else _short(value)
    expected = _EXPECTED.get(problem["type"]) or problem["msg"].removeprefix("Value error, ")
    expected = expected.removeprefix("Input should be ").replace("a valid ", "a ").replace("'", '"')
    return InputError(found, expected, place=place, file=file)


_EXPECTED = {
    "tuple_type": "a list",
    "dict_type": "a table",
    "model_type": "a table",
    "string_type": "a text",
    "bool_type": "true or false",
    "int_type": "a whole number",
    "float_type": "a number",
    "too_short": "two percentiles, such as [1, 99]",
    "too_long": "two percentiles, such as [1, 99]",
}


def _short(value: Any) -> str:
    text = str(value).replace("True", "true").replace("False", "false")
    return text if len(text) <= 60 else text[:57] + "..."
