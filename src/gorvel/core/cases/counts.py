"""Cross tables: rows or columns of counts, as they are joined by the least loss of chi-square."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepared import Dropped, Prepared
from gorvel.core.cases.rows import case_labels, left_out, require_column, sequence_in
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]


def prepare_counts(table: Table, plan: Plan, rows: Collection[int] | None = None) -> Prepared:
    """The rows of a cross table, or its columns where the tree is of variables.

    rows : of one group of a split (from 0); None for all.

    Raises
    ------
    InputError : a cell that is empty, no number or below 0; a row or column without counts; names
        row and column.
    """
    for column, place in (
        (plan.cases.label, "[cases] label"),
        (plan.cases.groups, "[cases] groups"),
    ):
        if column is not None:
            require_column(table, column, place)
    chosen = np.arange(table.n) if rows is None else np.array(sorted(rows), dtype=np.int64)
    labels, reasons = case_labels(table, plan), left_out(table, plan, chosen.tolist())
    dropped = tuple(Dropped(row + 1, labels[row], reasons[row])
                    for row in chosen.tolist() if row in reasons)  # fmt: skip
    kept = np.array([row for row in chosen.tolist() if row not in reasons], dtype=np.int64)
    if not kept.size:
        raise InputError("no row chosen", "at least one", place="[cases] keep", file=table.name)
    counts = np.column_stack([_column(table, plan, name, kept) for name in plan.variables.use])
    names = [labels[row] for row in kept.tolist()]
    _check_totals(counts, kept, plan.variables.use, table.name)
    numbers, of = kept + 1, "cases"
    sequence = sequence_in(table, plan, kept)
    if plan.tree.of == "variables":
        counts, names, of = counts.T, list(plan.variables.use), "variables"
        numbers = np.arange(1, len(names) + 1)
    distances, total = chi_square_distances(counts)
    return Prepared(
        table.name, len(chosen), numbers, tuple(names), counts.sum(axis=1), (), None, None,
        distances, of, dropped, (), sequence, total,
    )  # fmt: skip


def chi_square_distances(counts: Floats) -> tuple[Floats, float]:
    """(n, n) distances of the rows of a cross table, and its chi-square.

    d_ij = sqrt(sum_k (p_ik - p_jk)^2 / c_k), p the profiles of the rows and c the masses of the
    columns. Proportional rows are at 0.

    counts : (n, p), none below 0, no row or column without any.

    References
    ----------
    Greenacre 1988, Clustering the rows and columns of a contingency table.
    """
    whole = counts.sum()
    masses = counts.sum(axis=0) / whole
    profiles = counts / counts.sum(axis=1, keepdims=True)
    n = len(counts)
    squares = np.zeros((n, n))
    for row in range(n - 1):
        off = profiles[row + 1 :] - profiles[row]
        squares[row, row + 1 :] = squares[row + 1 :, row] = (off * off / masses).sum(axis=1)
    away = profiles - masses
    total = float((counts.sum(axis=1) * (away * away / masses).sum(axis=1)).sum())
    return np.sqrt(squares), total


def _column(table: Table, plan: Plan, name: str, rows: NDArray[np.int64]) -> Floats:
    require_column(table, name, "[variables] use")
    values = table.clean_numbers(name, plan.codes(name), rows)[rows]
    for bad, found in ((np.isnan(values), "no count"), (values < 0, "")):
        at = np.flatnonzero(bad)
        if at.size:
            row = int(rows[at[0]])
            raise InputError(
                found or f'"{table.cells(name).values[row]}"',
                "a count, 0 or more",
                place=f'row {row + 1}, column "{name}"',
                file=table.name,
            )
    return np.asarray(values)


def _check_totals(
    counts: Floats, rows: NDArray[np.int64], names: Collection[str], file: str
) -> None:
    empty = np.flatnonzero(counts.sum(axis=1) == 0)
    if empty.size:
        place = f"row {int(rows[empty[0]]) + 1}"
        raise InputError("no counts", "at least one above 0", place=place, file=file)
    for name, total in zip(names, counts.sum(axis=0).tolist(), strict=True):
        if total == 0:
            place = f'column "{name}"'
            raise InputError("no counts", "at least one above 0", place=place, file=file)
