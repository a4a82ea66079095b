"""Checks made when asked for, each by its name: what window and command line have in common."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gorvel.core.base.progress import Progress
from gorvel.core.cases.design import Design
from gorvel.core.count.indices.index_table import count_range
from gorvel.core.count.null.evidence import Evidence, evidence_of_groups
from gorvel.core.count.null.structure import Finding, hopkins, permuted_cophenetic
from gorvel.core.count.null.validity_profile import CalibratedIndices, calibrated
from gorvel.core.count.null.verdict_simulation import Trial
from gorvel.core.count.resampling.order_stability import Orders, random_orders
from gorvel.core.count.resampling.splits import SplitTests, split_tests
from gorvel.core.count.resampling.support import Support, branch_support
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import CountPlan

_MOST_ORDERS = 25
Check = Callable[[Grown, CountPlan, Progress, Design | None], dict[str, Any]]


@dataclass
class Checks:
    """What was found; None where it was not asked for."""

    groups: Evidence | None = None
    trial: Trial | None = None
    hopkins: Finding | None = None
    shuffled: Finding | None = None
    splits: SplitTests | None = None
    support: Support | None = None
    orders: Orders | None = None
    purpose: CalibratedIndices | None = None


def _structure(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    return {
        "hopkins": hopkins(grown, asked.resamples, asked.seed, progress, asked.box),
        "shuffled": permuted_cophenetic(grown, asked.resamples, asked.seed, progress),
    }


def _groups(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    return {"groups": evidence_of_groups(grown, asked, progress)}


def _splits(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    return {"splits": split_tests(grown, asked.resamples, asked.seed, progress=progress)}


def _support(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    return {"support": branch_support(grown, asked.resamples, asked.seed, progress, design)}


def _orders(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    orders = min(asked.resamples, _MOST_ORDERS)
    return {
        "orders": random_orders(
            grown, count_range(asked, grown.tree.n), orders, asked.seed, progress
        )
    }


def _purpose(
    grown: Grown, asked: CountPlan, progress: Progress, design: Design | None = None
) -> dict[str, Any]:
    return {"purpose": calibrated(grown, asked, progress)}


# what makes each check; the design of the sample is for those that draw cases
CHECKS: dict[str, Check] = {
    "groups": _groups, "structure": _structure, "splits": _splits, "support": _support,
    "orders": _orders, "purpose": _purpose,
}  # fmt: skip
# the parts of `Checks` by the check that finds them
CHECK_PARTS: dict[str, tuple[str, ...]] = {
    "groups": ("groups",), "structure": ("hopkins", "shuffled"), "splits": ("splits",),
    "support": ("support",), "orders": ("orders",),
    "purpose": ("purpose",),
}  # fmt: skip
