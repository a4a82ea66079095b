"""Results as columns, ready to be written, shown or copied."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import polars as pl

from gorvel.core.grow.allocation import Placed
from gorvel.core.grow.grown import Grown
from gorvel.core.profile.dropped_cases import DropoutComparison
from gorvel.core.tree.cuts import Cut


def dropped_columns(lost: Sequence[DropoutComparison]) -> dict[str, Any]:
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
