"""Tables of a tree: schedule, labels, icicle plot, proximities, answers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.grow.grown import Grown
from gorvel.core.results.table import ResultTable
from gorvel.core.scene.arrangement import Arrangement
from gorvel.core.tree.cuts import cut_at_count

MOST_PAIRS = 2000  # cases whose proximities are copied
MOST_CELLS = 500_000  # of an icicle plot, to be copied


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


def schedule_table(grown: Grown, support: NDArray[np.float64] | None = None) -> ResultTable:
    """Every join in order, with all its columns; support : (n-1,) of the joins, if measured."""
    columns = schedule_columns(grown)
    if support is not None:
        columns["support"] = support.tolist()
    return ResultTable(list(columns), list(zip(*columns.values(), strict=True)))


def labels_table(
    grown: Grown, at: Arrangement, names: Sequence[str], members: Sequence[int]
) -> ResultTable:
    """The cases as drawn, with their clusters. names : of clusters; members : (n,) from 1."""
    labels, numbers = grown.prepared.labels, grown.prepared.numbers
    rows = [
        (position, int(numbers[case]), labels[case], names[members[case] - 1])
        for position, case in enumerate(at.order.tolist(), 1)
    ]
    return ResultTable(("position", "case", "label", "cluster"), rows)


def icicle_table(grown: Grown, at: Arrangement, first: int, last: int) -> ResultTable:
    """The cluster number of each case at each count, cases as drawn.

    Raises
    ------
    InputError : there would be more than `MOST_CELLS` cells.
    """
    if (last - first + 1) * grown.tree.n > MOST_CELLS:
        found = f"{grown.tree.n:,} cases at {last - first + 1:,} counts"
        raise InputError(found, f"at most {MOST_CELLS:,} cells to be copied", place="the clipboard")
    counts = list(range(first, last + 1))
    members = [cut_at_count(grown.tree, count).membership[at.order].tolist() for count in counts]
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    return ResultTable(
        ("label", *(f"{count} clusters" for count in counts)),
        list(zip(labels, *members, strict=True)),
    )


def proximities_table(grown: Grown, at: Arrangement) -> ResultTable:
    """All proximities, cases as drawn both ways.

    Raises
    ------
    InputError : there are more than `MOST_PAIRS` cases.
    """
    if grown.tree.n > MOST_PAIRS:
        found = f"the proximities of {grown.tree.n:,} cases"
        raise InputError(found, f"at most {MOST_PAIRS:,} to be copied", place="the clipboard")
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    block = grown.pairs.block(at.order, at.order).tolist()
    rows = [(label, *values) for label, values in zip(labels, block, strict=True)]
    return ResultTable(("", *labels), rows)


def answers_table(grown: Grown, at: Arrangement) -> ResultTable:
    """The answers as they were measured before scaling, cases as drawn."""
    raw = grown.prepared.raw
    assert raw is not None
    names = [variable.name for variable in grown.prepared.variables]
    labels = [grown.prepared.labels[case] for case in at.order.tolist()]
    rows = [(label, *values) for label, values in zip(labels, raw[at.order].tolist(), strict=True)]
    return ResultTable(("label", *names), rows)
