"""Which rows of a table a plan looks at, what they are called, and in which groups they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.cases.percentiles import ends_of
from gorvel.core.language.condition import parse_condition
from gorvel.core.plan.kinds import IN_FILE, nearest
from gorvel.core.plan.plan import Plan
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table


def kept_rows(table: Table, plan: Plan) -> NDArray[np.int64]:
    """The rows (from 0) that the condition of a plan chooses, all where it has none.

    Raises
    ------
    InputError : the condition does not fit the table.
    """
    if plan.cases.keep is None:
        return np.arange(table.n)
    try:
        chosen = parse_condition(plan.cases.keep).rows(table, plan.codes)
    except InputError as error:
        error.place = "[cases] keep"
        raise error.in_file(table.name) from None
    return np.flatnonzero(chosen)


def chosen_rows(table: Table, plan: Plan) -> NDArray[np.int64]:
    """The rows (from 0) that the condition of a plan leaves and that are not set aside.

    Raises
    ------
    InputError : the condition does not fit the table.
    """
    aside = np.array(plan.cases.set_aside, dtype=np.int64) - 1
    return np.setdiff1d(kept_rows(table, plan), aside)


def rows_looked_at(table: Table, plan: Plan) -> NDArray[np.int64]:
    """See `chosen_rows`; all rows while the condition does not fit the table."""
    try:
        return chosen_rows(table, plan)
    except InputError:
        return np.arange(table.n)


def left_out(table: Table, plan: Plan, rows: Sequence[int] | None = None) -> dict[int, str]:
    """The rows (from 0) that are not looked at, each with the reason in words.

    rows : of one group of a split, whose percentiles trim; None for all.

    Raises
    ------
    InputError : the condition or a column trimmed does not fit the table, or a case set aside is
        not in it.
    """
    cases = plan.cases
    others = np.setdiff1d(np.arange(table.n), kept_rows(table, plan))
    reasons = dict.fromkeys(others.tolist(), f"not chosen by {cases.keep}")
    for case in cases.set_aside:
        if case > table.n:
            place = "[cases] set_aside"
            raise InputError(f"case {case}", f"1 to {table.n}", place=place, file=table.name)
        reasons[case - 1] = "set aside"
    if not plan.variables.trim:
        return reasons
    looked_at = [r for r in (range(table.n) if rows is None else rows) if r not in reasons]
    return reasons | _trimmed_out(table, plan, looked_at)


def _trimmed_out(table: Table, plan: Plan, rows: Sequence[int]) -> dict[int, str]:
    """Those of the rows chosen with an answer beyond a variable's percentiles, with the reason.

    Percentiles (linear interpolation, unweighted) are those of the rows handed in, of every
    variable before any row is left out.

    Raises
    ------
    InputError : the column is not there, or a cell is no number.
    """
    reasons: dict[int, list[str]] = {}
    places = np.array(rows, dtype=np.int64)
    for name, (low, high) in plan.variables.trim.items():
        require_column(table, name, "[variables] trim")
        values = table.clean_numbers(name, plan.codes(name), places)[places]
        ends = ends_of(values, (low, high))
        for row in places[(values < ends[0]) | (values > ends[1])].tolist():
            reasons.setdefault(row, []).append(name)
    return {row: f"trimmed for {', '.join(names)}" for row, names in reasons.items()}


def labelled_by(plan: Plan) -> tuple[str | None, dict[str, str]]:
    """The column that names the cases of a table, and the words for its cells."""
    column = plan.cases.label
    return column, plan.variables.values.get(column or "", {})


def source_labels(source: Source, plan: Plan) -> list[str]:
    """The label of all that was read: of every row of a matrix or a table.

    Or, where the tree is of variables, of these.
    """
    if isinstance(source, ProximityTable):
        return list(source.labels)
    if plan.tree.of == "variables":
        return list(plan.variables.use)
    return case_labels(source, plan)


def case_labels(table: Table, plan: Plan) -> list[str]:
    """The label of every row.

    Its cell in the label column, in words where the plan has some, or else its number.
    """
    column, words = labelled_by(plan)
    if column is None:
        return [str(i + 1) for i in range(table.n)]
    labels = table.series(column)
    if not words and not labels.null_count():
        return labels.to_list()
    return [
        str(i + 1) if cell is None else words.get(cell, str(cell))
        for i, cell in enumerate(table.cells(column).values)
    ]


def split_rows(table: Table, plan: Plan) -> dict[str, list[int]]:
    """The rows of each group of the split column, in order of first appearance.

    Raises
    ------
    InputError : a row has no value in that column; names the row.
    """
    column = plan.cases.split
    assert column is not None
    require_column(table, column, "[cases] split")
    groups: dict[str, list[int]] = {}
    out = left_out(table, plan)
    for row, cell in enumerate(table.cells(column, plan.codes(column)).values):
        if cell is None and row in out:
            continue
        if cell is None:
            place = f'row {row + 1}, column "{column}"'
            raise InputError("no value", "the group of the case", place=place, file=table.name)
        groups.setdefault(str(cell), []).append(row)
    return groups


def split_words(table: Table, plan: Plan) -> str:
    """The groups of the split column with their sizes, and which are too small for a tree.

    Raises
    ------
    InputError : as `split_rows`.
    """
    out = left_out(table, plan)
    sizes = {
        group: sum(row not in out for row in rows)
        for group, rows in split_rows(table, plan).items()
    }
    ranked = sorted(sizes.items(), key=lambda item: -item[1])
    words = plan.variables.values.get(plan.cases.split or "", {})
    ranked = [(words.get(group, group), size) for group, size in ranked]
    shown = ", ".join(f"{group} {size:,}" for group, size in ranked[:8])
    more = f" and {len(ranked) - 8:,} more" if len(ranked) > 8 else ""
    text = f"{len(ranked):,} groups by {plan.cases.split}: {shown}{more}."
    small = [group for group, size in ranked if size < 2]
    if small:
        text += f" Too small for a tree: {', '.join(small[:8])}."
    return text


def require_column(table: Table, column: str, place: str) -> None:
    """A column that a plan names must be there.

    Raises
    ------
    InputError : names the place in the plan, and the nearest column.
    """
    if column not in table.names:
        raise InputError(
            f'no column "{column}"',
            f'a column of the table (nearest: "{nearest(column, table.names)}")',
            place=place,
            file=table.name,
        )


def sequence_in(table: Table, plan: Plan, rows: NDArray[np.int64]) -> NDArray[np.int64] | None:
    """The places of some rows (from 0) in the order in which only neighbours join.

    Equal values stand in file order; None where all may join.

    Raises
    ------
    InputError : the column is not there, or a cell of these rows is empty or no number.
    """
    column = plan.tree.neighbours
    if column is None:
        return None
    if column == IN_FILE:
        return np.arange(len(rows))
    require_column(table, column, "[tree] neighbours")
    values = table.clean_numbers(column, plan.codes(column), rows)[rows]
    gaps = np.flatnonzero(np.isnan(values))
    if gaps.size:
        raise InputError(
            "no value",
            "a number, by which the cases stand in order",
            place=f'row {int(rows[gaps[0]]) + 1}, column "{column}"',
            file=table.name,
        )
    return np.argsort(np.argsort(values, kind="stable"), kind="stable")
