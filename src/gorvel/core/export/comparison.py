"""Trees against each other, as files."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress, silent
from gorvel.core.compare.pair import Pair, common_places, over_counts
from gorvel.core.compare.partitions import Agreement, agreement
from gorvel.core.compare.relocation import Best, Relocation
from gorvel.core.compare.trees import compare_trees
from gorvel.core.count.groups import KnownGroups
from gorvel.core.export.files import write_csv
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.cuts import cut_at_count

Ints = NDArray[np.int64]

KNOWN = "known groups"
_INDICES = (
    "rand", "adjusted_rand", "fowlkes_mallows", "variation_of_information", "normalised_mi",
    "moved",
)  # fmt: skip


def reassigned_columns(
    grown: Grown, all_labels: Sequence[str], numbers: Sequence[int], found: Mapping[int, Relocation]
) -> dict[str, Any]:
    """A row for each case that was read: where the cut has it, and where it ends.

    Empty where it was dropped. all_labels, numbers : of every row that was read, numbers rising.
    """
    out: dict[str, Any] = {"case": list(numbers), "label": list(all_labels)}
    rows = np.searchsorted(np.asarray(numbers), grown.prepared.numbers)
    for count, one in found.items():
        for name, own in (("tree", one.before), ("final", one.after)):
            cells: list[int | None] = [None] * len(numbers)
            for row, cluster in zip(rows.tolist(), own.tolist(), strict=True):
                cells[row] = cluster + 1
            out[f"k{count}_{name}"] = cells
    return out


def reassigned_told(found: Mapping[int, Relocation]) -> dict[str, Any]:
    """What reassign.json holds."""
    return {
        str(count): {
            "moved": one.moved, "rounds": one.rounds, "w_before": one.w_before,
            "w_after": one.w_after, "adjusted_rand": one.agreement, "emptied": one.emptied,
        }
        for count, one in found.items()
    }  # fmt: skip


def kmeans_columns(found: Sequence[Best]) -> dict[str, list[Any]]:
    """A row for each count."""
    return {
        "clusters": [one.count for one in found], "w": [one.w for one in found],
        "w_tree": [one.w_tree for one in found],
        "adjusted_rand": [one.agreement for one in found],
    }  # fmt: skip


def write_comparisons(
    trees: Mapping[str, Grown], groups: Mapping[str, KnownGroups | None], to: int,
    directory: Path, progress: Progress = silent,
) -> None:  # fmt: skip
    """Write comparison.csv and partitions.csv.

    trees : by name, the plan's own first; groups : known ones of the cases of each; to : the
    largest count.
    """
    write_csv(comparison_columns(trees, progress), directory / "comparison.csv")
    write_csv(partition_columns(trees, groups, to), directory / "partitions.csv")


def _places(one: Grown, other: Grown) -> tuple[Ints, Ints]:
    """(m,) of the cases that both keep, in each tree."""
    return common_places(one.prepared.numbers, other.prepared.numbers)


def comparison_columns(
    trees: Mapping[str, Grown], progress: Progress = silent
) -> dict[str, list[Any]]:
    """A row for each two trees."""
    names = ("a", "b", "cases", "cophenetic_pearson", "cophenetic_spearman", "baker_gamma",
             "branches_a", "branches_b", "shared_branches")  # fmt: skip
    out: dict[str, list[Any]] = {name: [] for name in names}
    for a, b in combinations(trees, 2):
        found = compare_trees(trees[a].tree, trees[b].tree, *_places(trees[a], trees[b]), progress)
        row = (a, b, found.cases, found.pearson, found.spearman, found.gamma, *found.branches,
               found.shared)  # fmt: skip
        for name, value in zip(names, row, strict=True):
            out[name].append(value)
    return out


def partition_columns(
    trees: Mapping[str, Grown], groups: Mapping[str, KnownGroups | None], to: int
) -> dict[str, list[Any]]:
    """A row for each two trees, and each tree with the known groups, at each count."""
    out: dict[str, list[Any]] = {name: [] for name in ("a", "b", "clusters", *_INDICES)}

    def add(a: str, b: str, count: int, found: Agreement) -> None:
        row = (a, b, count, *(getattr(found, name) for name in _INDICES))
        for name, value in zip(out, row, strict=True):
            out[name].append(value)

    for a, b in combinations(trees, 2):
        pair = Pair(trees[a], trees[b], *_places(trees[a], trees[b]))
        for count, found in over_counts(pair, to).items():
            add(a, b, count, found)
    for name, grown in trees.items():
        known = groups.get(name)
        if known is None:
            continue
        inside = known.codes >= 0
        for count in range(2, min(to, int(inside.sum()) - 1) + 1):
            own = cut_at_count(grown.tree, count).membership[inside] - 1
            add(name, KNOWN, count, agreement(own, known.codes[inside]))
    return out
