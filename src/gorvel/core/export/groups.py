"""Groups of a split and clusters of each case, beside the columns that were read."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import polars as pl

from gorvel.core.cases.rows import split_rows
from gorvel.core.derive.making import as_completed
from gorvel.core.export.membership import check_savable, free_name, typed_frame, write_frame
from gorvel.core.export.tables import cluster_column
from gorvel.core.grow.allocation import place_set_aside
from gorvel.core.study.kept import KeptCut, KeptTree, grown_again
from gorvel.core.table.table import Table
from gorvel.core.tree.cluster_names import identities


def group_frame(source: Table, trees: Sequence[KeptTree]) -> pl.DataFrame:
    """The table as it was read, with what `groups_added` says."""
    source = as_completed(source, trees[0].plan)
    frame = typed_frame(source)
    return frame.hstack(groups_added(source, trees, frame.columns))


def groups_added(source: Table, trees: Sequence[KeptTree], taken: Sequence[str]) -> pl.DataFrame:
    """`group` of each row, and in it `cluster` and `letter`; called otherwise where one is taken.

    trees : of one plan, each with its cut. Rows that are in no tree have no cluster; where cases
    set aside are given clusters, a column `placed` marks them by 1.
    """
    source = as_completed(source, trees[0].plan)
    rows = range(1, source.n + 1)
    groups = np.full(source.n, None, dtype=object)
    for group, places in split_rows(source, trees[0].plan).items():
        groups[places] = group
    added = [pl.Series(free_name("group", taken), groups.tolist(), dtype=pl.String)]
    column: dict[str, list[pl.Series]] = {"cluster": [], "letter": []}
    placed_cases: list[int] = []
    asked = False
    for kept in trees:
        grown = grown_again(source, kept)
        cut = (kept.cut or KeptCut(1)).cut(kept.tree)
        lettered = (kept.cut or KeptCut(1)).lettered_cut(kept.tree)
        placed = place_set_aside(source, kept.plan, grown)
        if placed is not None:
            placed_cases += placed.cases
        asked = asked or kept.plan.cases.place_set_aside
        clusters = cluster_column(grown, rows, cut, placed)
        names = [who.name for who in identities(kept.tree, lettered, cut)]
        letters = clusters.replace_strict(
            list(range(1, cut.clusters + 1)), names, default=None, return_dtype=pl.String
        )
        column["cluster"].append(clusters)
        column["letter"].append(letters)
    for name, parts in column.items():
        whole = pl.select(pl.coalesce(parts)).to_series()
        added.append(whole.alias(free_name(name, taken)))
    if asked and placed_cases:
        marks = np.isin(np.arange(1, source.n + 1), placed_cases).astype(np.int64)
        added.append(pl.Series(free_name("placed", taken), marks))
    return pl.DataFrame(added)


def save_groups(
    source: Table, trees: Sequence[KeptTree], path: Path, apostrophes: bool = False
) -> pl.DataFrame:
    """Write the table with group and cluster of each case to a .csv or .xlsx file.

    apostrophes : see `write_frame`.

    Raises
    ------
    InputError : another file type, or a place that cannot be written.
    """
    check_savable(path)
    frame = group_frame(source, trees)
    write_frame(frame, path, apostrophes=apostrophes)
    return frame
