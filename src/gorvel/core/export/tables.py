"""Results as columns, ready to be written, shown or copied."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import polars as pl

from gorvel.core.grow.allocation import Placed
from gorvel.core.grow.grown import Grown
from gorvel.core.profile.lost import Lost
from gorvel.core.tree.cuts import Cut

__all__ = [
    "cluster_column",
    "dropped_columns",
    "membership_columns",
    "order_columns",
    "placed_column",
    "schedule_columns",
]


def dropped_columns(lost: Sequence[Lost]) -> dict[str, Any]:
    """Cases left out for missing answers beside those kept: a row for each variable or level."""
    return {
        "variable": [one.variable for one in lost],
        "level": [one.level for one in lost],
        "n_kept": [one.n_kept for one in lost],
        "n_dropped": [one.n_lost for one in lost],
        "kept": [one.kept for one in lost],
        "dropped": [one.lost for one in lost],
        "difference": [one.difference for one in lost],
        "in_sd": [one.effect for one in lost],
    }


def schedule_columns(grown: Grown) -> dict[str, Any]:
    """The agglomeration schedule: a row for each join, in order of joining."""
    tree, rows = grown.tree, grown.schedule
    numbers, labels = grown.prepared.numbers, grown.prepared.labels

    called = pl.concat(
        [
            "c" + pl.Series(numbers).cast(pl.String),
            "j" + pl.Series(np.arange(1, tree.joins + 1)).cast(pl.String),
        ]
    )
    first_labels = pl.Series(labels, dtype=pl.String).gather(tree.firsts)
    columns: dict[str, Any] = {
        "join": rows.join,
        "left": called.gather(rows.left),
        "right": called.gather(rows.right),
        "left_label": first_labels.gather(rows.left),
        "right_label": first_labels.gather(rows.right),
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
    total = grown.prepared.chi_square
    columns["within_ss"] = spread.within if spread and total is None else empty
    columns["r2"] = spread.r2 if spread else empty
    columns["semipartial_r2"] = spread.semipartial_r2 if spread else empty
    if spread and total is not None:
        columns |= {
            "chi2": spread.r2 * total if total > 0 else np.zeros(tree.joins),
            "chi2_lost": rows.height,
        }
    return columns


def membership_columns(
    grown: Grown,
    all_labels: Sequence[str],
    numbers: Sequence[int],
    cuts: dict[str, Cut],
    placed: Placed | None = None,
) -> dict[str, Any]:
    """A row for each case of the source (or of its group), empty where a case was dropped.

    all_labels, numbers : of every row that was read, numbers rising; cuts : column name -> cut;
    placed : cases set aside that are given clusters, and are marked so in a column of that name.
    """
    columns: dict[str, Any] = {
        "case": np.asarray(numbers),
        "label": pl.Series(all_labels, dtype=pl.String),
    }
    for name, cut in cuts.items():
        columns[name] = cluster_column(grown, numbers, cut, placed)
    if placed is not None:
        columns["placed"] = placed_column(numbers, placed)
    return columns


def cluster_column(
    grown: Grown, numbers: Sequence[int], cut: Cut, placed: Placed | None = None
) -> pl.Series:
    """The cluster (from 1) of each case, none where it was dropped; see `membership_columns`."""
    rising = np.asarray(numbers)
    cells = np.zeros(len(rising), dtype=np.int64)  # 0 for none
    cells[np.searchsorted(rising, grown.prepared.numbers)] = cut.membership
    if placed is not None:
        cells[np.searchsorted(rising, placed.cases)] = [k or 0 for k in placed.clusters(cut)]
    return pl.Series(cells).replace(0, None)


def placed_column(numbers: Sequence[int], placed: Placed) -> pl.Series:
    """1 for cases set aside that were given a cluster, 0 for all others."""
    return pl.Series(np.isin(np.asarray(numbers), placed.cases).astype(np.int64))


def order_columns(grown: Grown) -> dict[str, Any]:
    """The cases as drawn."""
    order = grown.order
    return {
        "position": np.arange(1, grown.tree.n + 1),
        "case": grown.prepared.numbers[order],
        "label": pl.Series(grown.prepared.labels, dtype=pl.String).gather(order),
    }
