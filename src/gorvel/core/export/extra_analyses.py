"""What a plan asks for beside its tree: other trees, a sweep, cases that move between centroids."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.progress import Progress, silent
from gorvel.core.compare.consensus import average_tree, shared_branches
from gorvel.core.compare.relocation import MANY_MOVE, Relocation, k_means, reassigned, why_not
from gorvel.core.compare.sweep import sweep
from gorvel.core.count.groups import groups_of
from gorvel.core.count.resampling.resampled_rules import RESAMPLING
from gorvel.core.export.comparison import (
    kmeans_columns,
    reassigned_columns,
    reassigned_told,
    write_comparisons,
)
from gorvel.core.export.files import write_csv, write_json
from gorvel.core.export.results import safe_name, write_results
from gorvel.core.grow.allocation import place_set_aside
from gorvel.core.grow.grown import Grown, wanted_counts
from gorvel.core.plan.others import OWN, other_plans
from gorvel.core.plan.plan import Plan
from gorvel.core.results.comparison import sweep_columns
from gorvel.core.table.source import Source
from gorvel.core.tree.cophenetic import cophenetic_correlation

_LISTED = 1_000  # cases of a branch up to which their numbers are listed


def reassigned_cuts(plan: Plan, grown: Grown) -> dict[int, Relocation]:
    """What becomes of the cuts that [reassign] names."""
    if plan.reassign is None or why_not(grown):
        return {}
    counts = plan.reassign.counts
    if counts is None:
        return {count: reassigned(grown, count) for count in wanted_counts(plan, grown.tree.n)}
    for count in counts:
        if count > grown.tree.n:
            expected = f"1 to {grown.tree.n}, the number of cases used"
            raise InputError(f"{count}", expected, place="[reassign] counts")
    return {count: reassigned(grown, count) for count in dict.fromkeys(counts)}


def moving_cautions(moved: Mapping[int, Relocation], plan: Plan, grown: Grown) -> list[Caution]:
    """That many cases lie nearer to another centroid, or that there are no centroids."""
    out = []
    if plan.kmeans is not None and why_not(grown):
        out.append(Caution("no-k-means", f"K-means is left out. {why_not(grown)}"))
    for count, one in moved.items():
        share = one.moved / len(one.before)
        if share > MANY_MOVE:
            words = (
                f"At {count} clusters, {one.moved:,} of {len(one.before):,} cases ({share:.0%}) "
                "change cluster when each is moved to the nearest centroid."
            )
            out.append(Caution("cases-move", words))
    return out


def write_moving(
    plan: Plan, grown: Grown, moved: Mapping[int, Relocation], labels: Sequence[str],
    numbers: Sequence[int], folder: Path, progress: Progress,
) -> None:  # fmt: skip
    """Write what [reassign] and [kmeans] ask for."""
    why = why_not(grown)
    if plan.reassign is not None:
        write_json({"why": why} if why else reassigned_told(moved), folder / "reassign.json")
        if not why:
            columns = reassigned_columns(grown, labels, numbers, moved)
            write_csv(columns, folder / "reassigned.csv")
    if plan.kmeans is not None and not why:
        asked = plan.kmeans
        counts = range(asked.from_, min(asked.to, grown.tree.n - 1) + 1)
        found = k_means(grown, counts, asked.starts, asked.seed, progress)
        write_csv(kmeans_columns(found), folder / "kmeans.csv")


def write_sweep(
    source: Source, plan: Plan, own: Grown, rows: list[int] | None, folder: Path, progress: Progress
) -> None:
    """Write what becomes of every combination that the plan asks for."""
    counts = wanted_counts(plan, own.tree.n)
    found = sweep(source, plan, own, counts, rows, progress)
    wanted = () if plan.count is None else plan.count.wanted
    rules = [key for key in wanted if key not in RESAMPLING]
    write_csv(sweep_columns(found, rules, counts), folder / "sweep.csv")


def write_other_trees(
    source: Source, plan: Plan, own: Grown, labels: Sequence[str], numbers: Sequence[int],
    grow: Callable[[Plan], Grown], folder: Path, progress: Progress = silent,
) -> None:  # fmt: skip
    """Grow the other trees that the plan names, write them, and how they go with each other.

    own : the plan's tree; labels, numbers : of every row that was read; grow : grows a tree of the
    same rows.
    """
    trees, groups = {OWN: own}, {OWN: groups_of(own, source, plan)}
    taken: list[str] = []
    (folder / "trees").mkdir(exist_ok=True)
    for name, other in other_plans(plan).items():
        try:
            grown = grow(other)
        except InputError as error:
            place = f'[[trees]] "{name}"'
            error.place = f"{place}, {error.place}" if error.place else place
            raise
        trees[name], groups[name] = grown, groups_of(grown, source, other)
        taken.append(safe_name(name, taken))
        cophenetic = cophenetic_correlation(grown.tree, grown.pairs, progress)
        fitting, told = _counts_that_fit(other, grown)
        write_results(
            told, fitting, labels, numbers, folder / "trees" / taken[-1], cophenetic,
            placed=place_set_aside(source, other, grown), progress=progress, pairs=False,
        )  # fmt: skip
    to = 10 if plan.count is None else plan.count.to
    write_comparisons(trees, groups, to, folder, progress)
    if plan.consensus is not None:
        _write_consensus(plan, list(trees.values()), labels, numbers, folder, progress)


def _write_consensus(
    plan: Plan, trees: Sequence[Grown], labels: Sequence[str], numbers: Sequence[int], folder: Path,
    progress: Progress,
) -> None:  # fmt: skip
    """Write the average tree, and the branches that most trees have."""
    name = trees[0].prepared.file
    grown, own = average_tree(trees, plan.cut.counts, name, progress)
    _, told = _counts_that_fit(plan, grown)
    cophenetic = cophenetic_correlation(grown.tree, grown.pairs, progress)
    into = folder / "consensus"
    write_results(told, own, labels, numbers, into, cophenetic, progress=progress, pairs=False)
    common = grown.prepared.numbers
    places = [(one.tree, np.searchsorted(one.prepared.numbers, common)) for one in trees]
    branches = shared_branches(places)
    write_csv(
        {
            "branch": list(range(1, len(branches) + 1)),
            "cases": [branch.size for branch in branches],
            "share": [branch.share for branch in branches],
            "members": [
                " ".join(map(str, common[branch.cases].tolist())) if branch.size <= _LISTED else ""
                for branch in branches
            ],
        },
        into / "branches.csv",
    )  # fmt: skip


def _counts_that_fit(plan: Plan, grown: Grown) -> tuple[Plan, Grown]:
    """Without counts above the cases of a tree, of which a caution tells."""
    asked = plan.cut.counts or ()
    above = [count for count in asked if count > grown.tree.n]
    if not above:
        return plan, grown
    told = ", ".join(str(count) for count in above)
    caution = Caution("counts-left-out", f"{told} clusters are left out: {grown.tree.n:,} cases are"
                      " kept.")  # fmt: skip
    fitting = plan.with_("cut", counts=[count for count in asked if count <= grown.tree.n])
    return fitting, replace(grown, cautions=(*grown.cautions, caution))
