"""Results as columns, ready to be written, shown or copied."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from gorvel.core.analysis import Grown
from gorvel.core.cuts import Cut
from gorvel.core.placing import Placed

__all__ = ["membership_columns", "order_columns", "schedule_columns"]


def schedule_columns(grown: Grown) -> dict[str, Any]:
    """The agglomeration schedule: a row for each join, in order of joining."""
    tree, rows = grown.tree, grown.schedule
    numbers, labels = grown.prepared.numbers, grown.prepared.labels

    def names(nodes: Iterable[int]) -> list[str]:
        return [f"c{numbers[v]}" if v < tree.n else f"j{v - tree.n + 1}" for v in nodes]

    def first_labels(nodes: Iterable[int]) -> list[str]:
        return [labels[int(tree.firsts[v])] for v in nodes]

    columns: dict[str, Any] = {
        "join": rows.join,
        "left": names(rows.left),
        "right": names(rows.right),
        "left_label": first_labels(rows.left),
        "right_label": first_labels(rows.right),
        "size": rows.size,
        "mass": rows.mass,
        "height": rows.height,
        "jump": rows.jump,
        "clusters": rows.clusters,
        "left_made_at": rows.left_made_at,
        "right_made_at": rows.right_made_at,
        "used_at": rows.used_at,
        "tied": rows.tied.astype(np.int64),
        "tie_matters": rows.tie_matters.astype(np.int64),
    }
    empty = np.full(tree.joins, np.nan)
    spread = rows.spread
    columns["within_ss"] = spread.within if spread else empty
    columns["r2"] = spread.r2 if spread else empty
    columns["semipartial_r2"] = spread.semipartial_r2 if spread else empty
    return columns


def membership_columns(
    grown: Grown,
    all_labels: Sequence[str],
    numbers: Sequence[int],
    cuts: dict[str, Cut],
    placed: Placed | None = None,
) -> dict[str, Any]:
    """A row for each case of the source (or of its group), empty where a case was dropped.

    all_labels, numbers : of every row that was read; cuts : column name -> cut; placed : cases set
    aside that are given clusters, and are marked so in a column of that name.
    """
    place = {int(number): row for row, number in enumerate(numbers)}
    kept = [place[int(number)] for number in grown.prepared.numbers]
    columns: dict[str, Any] = {"case": list(numbers), "label": list(all_labels)}
    for name, cut in cuts.items():
        cells: list[int | None] = [None] * len(numbers)
        for row, cluster in zip(kept, cut.membership.tolist(), strict=True):
            cells[row] = cluster
        for case, given in zip(placed.cases, placed.clusters(cut), strict=True) if placed else ():
            cells[place[case]] = given
        columns[name] = cells
    if placed is not None:
        columns["placed"] = [int(number in placed.cases) for number in numbers]
    return columns


def order_columns(grown: Grown) -> dict[str, Any]:
    """The cases as drawn."""
    order = grown.tree.order
    return {
        "position": np.arange(1, grown.tree.n + 1),
        "case": grown.prepared.numbers[order],
        "label": [grown.prepared.labels[int(i)] for i in order],
    }
