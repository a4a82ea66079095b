"""What each page found, in one line."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from gorvel.core.base.numbers import counted, fixed, listed, unit
from gorvel.core.cases.prepared import Prepared
from gorvel.core.grow.grown import Grown
from gorvel.core.profile.lanes import Lane
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.tree.cuts import Cut

_LISTED = 6  # clusters whose sizes are told one by one
_MOST = 3  # questions that are named


def cases_result(prepared: Prepared | None, problem: str) -> str:
    """How many cases a plan uses. problem : why it cannot run."""
    if prepared is None:
        return "This plan cannot run" if problem else ""
    dropped = len(prepared.dropped)
    if not dropped:
        return f"All {prepared.read:,} cases are used"
    are = "is" if dropped == 1 else "are"
    return f"{dropped:,} of {prepared.read:,} cases {are} excluded"


def plan_result(prepared: Prepared | None, problem: str, grown: bool, out_of_date: bool) -> str:
    """How a plan stands to the tree. grown : is there one?; out_of_date : by another plan?"""
    if problem:
        return "This plan cannot run"
    if prepared is None:
        return ""
    if not grown:
        return "This plan can run"
    return "This plan grows another tree" if out_of_date else "The tree was grown by this plan"


def tree_result(grown: Grown, cut: Cut) -> str:
    """The clusters of a cut, and how much of the variance lies between them."""
    sizes = grown.tree.sizes[cut.roots].tolist()
    if len(sizes) == 1:
        return f"One cluster of {unit(grown.of, sizes[0])}"
    told = listed([f"{size:,}" for size in sizes])
    if len(sizes) > _LISTED:
        told = f"{min(sizes):,} to {max(sizes):,}"
    words = f"{counted(cut.clusters, 'cluster')} of {told} {grown.of}"
    spread, place = grown.schedule.spread, grown.tree.joins - cut.clusters
    if spread is None or cut.split or not 0 <= place < grown.tree.joins:
        return words
    r2 = float(spread.r2[place])
    return words if np.isnan(r2) else f"{words}; R² {fixed(r2, 2)}"


def profiles_result(lanes: Sequence[Lane]) -> str:
    """The questions in which the clusters differ most. lanes : of all questions."""
    told = [(-lane.effect, lane.title) for lane in lanes if lane.effect > 0]
    if not told:
        return ""
    names = [title for _, title in sorted(told)[:_MOST]]
    return f"{listed(names)} {'separates' if len(names) == 1 else 'separate'} the clusters most"


def compare_result(met: PairAtCut | None) -> str:
    """How far two trees agree at their cuts."""
    if met is None or not met.faced.pair.common:
        return ""
    common, found = met.faced.pair.common, met.crossed.agreement
    words = f"{common - found.moved:,} of {common:,} cases are in matching clusters"
    return f"{words}; adjusted Rand index {fixed(found.adjusted_rand, 2)}"


def memberships_result(grown: Grown, cut: Cut, saved_to: Path | None) -> str:
    """What is to be saved, or where it was."""
    words = f"{unit(grown.of, grown.tree.n)} in {counted(cut.clusters, 'cluster')}"
    return f"{words}, saved in {saved_to.name}" if saved_to is not None else words
