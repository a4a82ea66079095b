"""The texts of a study's file: what stands in its JSON, checked when it is read."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict, fields, replace
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer

from gorvel.core.count.checks import Checks
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.null.evidence import Evidence, Peaks
from gorvel.core.count.null.null_comparison import IndexComparison
from gorvel.core.count.null.structure import Finding
from gorvel.core.count.null.validity_profile import CalibratedIndices
from gorvel.core.count.null.verdict_simulation import Trial
from gorvel.core.count.resampling.null_model import Tails
from gorvel.core.count.resampling.order_stability import Orders
from gorvel.core.count.resampling.splits import SplitTest, SplitTests
from gorvel.core.count.resampling.support import Support
from gorvel.core.plan.parts import CountPlan
from gorvel.core.study.kept import Drawn, KeptCut, KeptTree, Looked
from gorvel.core.tree.cophenetic import Faithful


def _read_number(value: Any) -> Any:
    return math.nan if value is None else float(value) if isinstance(value, str) else value


def _write_number(value: float) -> float | str | None:
    return value if math.isfinite(value) else None if math.isnan(value) else str(value)


# JSON knows no NaN, which is null, and no infinity, which is a word
Number = Annotated[float, BeforeValidator(_read_number), PlainSerializer(_write_number)]
Numbers = tuple[Number, ...]
Shares = tuple[NDArray[np.float64], NDArray[np.float64]]


class _Document(BaseModel):
    """Keys that are not known are passed over: a later program of the same format wrote them."""

    model_config = ConfigDict(frozen=True, extra="ignore")


class SourceDocument(_Document):
    """What was read, and how. name : of the file; data_file : where it was."""

    kind: Literal["table", "proximities"]
    name: str
    data_file: str
    delimiter: str
    decimal: str
    encoding: str
    header: bool
    skip: int = 0
    cautions: tuple[tuple[str, str], ...] = ()  # of how it was read: code and text
    similarity: bool = False


class GrownDocument(_Document):
    """Where a grown tree of an entry stands.

    group : None for all cases; plan : that grew it; title, note : where that is another tree than
    the one its entry plans.
    """

    group: str | None = None
    plan: str
    title: str = ""
    note: str = ""
    joins: str
    found: str


class TreeDocument(_Document):
    """One tree. plan : the member that holds it."""

    id: int = Field(ge=1)
    plan: str
    title: str = ""
    note: str = ""
    kept: bool = False
    grown: tuple[GrownDocument, ...] = ()


class StudyDocument(_Document):
    """study.json.

    in_hand : the id of a tree; group : of its split that is looked at; data_in : the study or data
    file that has the data, where they do not stand here; data_mark : of the data as they were read.
    """

    source: SourceDocument
    plan_file: str | None = None
    trees: tuple[TreeDocument, ...] = Field(min_length=1)
    in_hand: int
    group: str | None = None
    data_in: str | None = None
    data_mark: str | None = None


class CutDocument(_Document):
    clusters: int = Field(ge=1)
    split: tuple[int, ...] = ()
    height: float | None = None
    lettered: tuple[int, tuple[int, ...]] | None = None


class LookDocument(_Document):
    folded: tuple[int, ...] = ()
    sorted_by: str = ""
    scale: str = ""
    frames: tuple[int, ...] = ()


class VerdictDocument(_Document):
    key: str
    counts: tuple[int, ...]
    values: Numbers
    best: int | None
    runner_up: int | None
    why: str | None
    standing: Numbers
    bound: Numbers | None = None
    error: Numbers | None = None
    lowest: Numbers | None = None
    besides: Literal["", "one", "none"] = ""
    published: int | Literal["one", "none"] | None = None


class DrawnDocument(_Document):
    asked: CountPlan
    verdicts: tuple[VerdictDocument, ...]


class FindingDocument(_Document):
    value: float | None
    p: float | None
    rounds: int
    why: str = ""


class TailsDocument(_Document):
    freedom: float
    of_rest: bool


class PeaksDocument(_Document):
    variable: str
    p: float
    at_most: bool = False


class TrialDocument(_Document):
    count: int
    without: tuple[tuple[Literal["yes", "no", "unsure"] | None, int | None], ...] = ()
    planted: tuple[tuple[Literal["yes", "no", "unsure"] | None, int | None], ...] = ()
    why: str = ""


class BesideDocument(_Document):
    values: Numbers
    drawn: tuple[Numbers, ...]
    sign: float

    def found(self, counts: tuple[int, ...]) -> IndexComparison:
        """As it was found."""
        drawn = np.array(self.drawn, np.float64).reshape(-1, len(counts))
        return IndexComparison(counts, np.array(self.values, np.float64), drawn, self.sign)


class EvidenceDocument(_Document):
    counts: tuple[int, ...]
    values: Numbers
    second: Numbers
    drawn: tuple[Numbers, ...]
    tails: TailsDocument | None = None
    peaks: PeaksDocument | None = None
    part: int = 0
    why: str = ""
    beside: dict[str, BesideDocument] = {}

    def found(self) -> Evidence:
        """As it was found."""
        drawn = np.array(self.drawn, np.float64).reshape(-1, len(self.counts))
        return Evidence(
            self.counts, np.array(self.values, np.float64), np.array(self.second, np.float64),
            drawn, None if self.tails is None else Tails(**dict(self.tails)),
            None if self.peaks is None else Peaks(**dict(self.peaks)), self.part, self.why,
            {key: index.found(self.counts) for key, index in self.beside.items()},
        )  # fmt: skip


class CalibratedDocument(_Document):
    counts: tuple[int, ...]
    values: tuple[Numbers, ...]
    mean: tuple[Numbers, ...]
    sd: tuple[Numbers, ...]
    part: int = 0
    why: str = ""

    def found(self) -> CalibratedIndices:
        """As it was found."""
        shape = len(self.values), len(self.counts)
        values, mean, sd = (
            np.array(one, np.float64).reshape(shape) for one in (self.values, self.mean, self.sd)
        )
        return CalibratedIndices(self.counts, values, mean, sd, self.part, self.why)


class SplitDocument(_Document):
    join: int
    cases: int
    index: float
    p: float
    level: float


class SplitsDocument(_Document):
    tests: tuple[SplitDocument, ...]
    why: str = ""


class OrdersDocument(_Document):
    counts: tuple[int, ...]
    mean: Numbers
    lowest: Numbers
    orders: int


class SupportDocument(_Document):
    """Of branches; the shares themselves stand with the joins. of : what was drawn."""

    rounds: int
    why: str = ""
    of: str = "variables"


class FoundDocument(_Document):
    """What was found of one grown tree; absent what was not looked for.

    correlation : a list of the one value, which may be null.
    """

    cut: CutDocument | None = None
    look: LookDocument = LookDocument()
    correlation: tuple[float | None] | None = None
    drawn: DrawnDocument | None = None
    groups: EvidenceDocument | None = None
    trial: TrialDocument | None = None
    hopkins: FindingDocument | None = None
    shuffled: FindingDocument | None = None
    splits: SplitsDocument | None = None
    orders: OrdersDocument | None = None
    purpose: CalibratedDocument | None = None
    support: SupportDocument | None = None
    checked: dict[str, CountPlan] = Field(default_factory=dict)

    def added_to(self, kept: KeptTree, shares: Shares | None) -> KeptTree:
        """A kept tree with what stands here. shares : support of branches, unbiased and plain."""
        return kept.with_(
            cut=None if self.cut is None else KeptCut(**dict(self.cut)),
            faithful=None if self.correlation is None else Faithful(self.correlation[0]),
            drawn=None if self.drawn is None else self._drawn(self.drawn),
            checks=replace(kept.checks, **self._checks(shares)),
            checked=self.checked,
            looked=Looked(
                kept.looked.flipped, frozenset(self.look.folded), self.look.sorted_by,
                self.look.scale, frozenset(self.look.frames),
            ),
        )  # fmt: skip

    @staticmethod
    def _drawn(drawn: DrawnDocument) -> Drawn:
        verdicts = []
        for one in drawn.verdicts:
            told = dict(one)
            for name in ("values", "standing", "bound", "error", "lowest"):
                told[name] = None if told[name] is None else np.array(told[name], np.float64)
            verdicts.append(Verdict(**told))
        return Drawn(drawn.asked, tuple(verdicts))

    def _checks(self, shares: Shares | None) -> dict[str, Any]:
        out: dict[str, Any] = {
            name: Finding(**dict(found))
            for name, found in (("hopkins", self.hopkins), ("shuffled", self.shuffled))
            if found is not None
        }
        if self.groups is not None:
            out["groups"] = self.groups.found()
        if self.trial is not None:
            out["trial"] = Trial(**dict(self.trial))
        if self.purpose is not None:
            out["purpose"] = self.purpose.found()
        if self.splits is not None:
            tests = tuple(SplitTest(**dict(test)) for test in self.splits.tests)
            out["splits"] = SplitTests(tests, self.splits.why)
        if self.support is not None and shares is not None:
            told = self.support
            out["support"] = Support(*shares, told.rounds, told.why, told.of)
        if self.orders is not None:
            orders, mean = self.orders, np.array(self.orders.mean, np.float64)
            out["orders"] = Orders(
                orders.counts, mean, np.array(orders.lowest, np.float64), orders.orders
            )
        return out


def found_of(kept: KeptTree) -> FoundDocument:
    """What is written of a kept tree beside its joins."""
    cut, look, drawn, checks = kept.cut, kept.looked, kept.drawn, kept.checks
    return FoundDocument.model_validate(
        {
            "cut": None if cut is None else asdict(cut),
            "look": {
                "folded": sorted(look.folded), "sorted_by": look.sorted_by, "scale": look.scale,
                "frames": sorted(look.frames),
            },
            "correlation": None if kept.faithful is None else (kept.faithful.correlation,),
            "drawn": None if drawn is None else {
                "asked": drawn.asked, "verdicts": [_plain(verdict) for verdict in drawn.verdicts],
            },
            "checked": dict(kept.checked),
            **{field.name: _plain(getattr(checks, field.name)) for field in fields(Checks)},
        }
    )  # fmt: skip


def _plain(found: Any) -> dict[str, Any] | None:
    """A frozen value as plain data."""
    if found is None:
        return None
    return {field.name: _cells(getattr(found, field.name)) for field in fields(found)}


def _cells(value: Any) -> Any:
    if isinstance(value, np.ndarray):
        return value.tolist()
    if hasattr(value, "__dataclass_fields__"):
        return _plain(value)
    if isinstance(value, dict):
        return {key: _cells(one) for key, one in value.items()}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_plain(one) if hasattr(one, "__dataclass_fields__") else one for one in value]
    return value
