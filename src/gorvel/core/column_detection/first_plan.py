"""A first plan for a table that nobody has described yet: guesses that the user sees and mends."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import polars as pl

from gorvel.core.column_detection.columns import look_at
from gorvel.core.plan.default_method import method_for
from gorvel.core.plan.parts import (
    CasesPlan,
    ProximityPlan,
    ScalePlan,
    SourcePlan,
    TreePlan,
    VariablesPlan,
)
from gorvel.core.plan.plan import Plan
from gorvel.core.table.levels import guess_level
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.reading import first_rows
from gorvel.core.table.table import Table

_MOST_RATINGS = 10  # distinct whole numbers up to which a column is taken for a rating
_YES_NO = {"yes", "no", "true", "false", "y", "n"}
_NAMES = ("identifier", "text", "words", "codes")  # what may name cases, where all are different
_WEIGHT_NAMES = {"w", "weight", "wt", "weights"}


def looks_like_matrix(path: Path) -> bool:
    """Do the labels of the first row come again, in the same order, down the first column?

    Only the beginning of the file is read.
    """
    rows, whole = first_rows(path)
    labels = rows[0][1:] if rows else []
    down = [row[0] for row in rows[1:]]
    if len(labels) < 2 or (whole and len(down) != len(labels)):
        return False
    return len(down) >= 2 and down == labels[: len(down)]


def propose_matrix_plan(matrix: ProximityTable, source: SourcePlan | None = None) -> Plan:
    """A plan for a proximity matrix: average linkage, which stays true to the proximities.

    source : how it was read, where that was chosen.
    """
    source = source or SourcePlan(file=matrix.name, kind="proximities")
    source = source.model_copy(update={"similarity": matrix.similarity})
    return Plan(title=Path(matrix.name).stem, source=source, tree=TreePlan(linkage="average"))


def propose_plan(table: Table, source: SourcePlan | None = None) -> Plan:
    """A plan for a table: numbers and yes/no answers are active, by the method that suits them.

    source : how it was read, where that was chosen.
    """
    source = source or SourcePlan(file=table.name)
    if source.kind == "counts":
        return _cross_table(table, source)
    if not source.missing_codes:
        table.read_numbers()
    label: str | None = None
    use: list[str] = []
    ordinal: list[str] = []
    binary: list[str] = []
    for name in table.names:
        seen = table.overview[name]
        text = not source.missing_codes and 2 * seen.finite <= seen.answered
        values: pl.Series | range = range(seen.different)
        if source.missing_codes or (text and seen.different in (2, table.n)):
            values = table.series(name, source.missing_codes).drop_nulls().unique()
        if text or guess_level(table, name, source.missing_codes) == "nominal":
            unique = label is None and table.n > 1 and len(values) == table.n
            if unique and look_at(table, name, source.missing_codes)[1].kind in _NAMES:
                label = name
            elif (
                len(values) == 2
                and not isinstance(values, range)
                and {value.lower() for value in values} <= _YES_NO
            ):
                binary.append(name)
                use.append(name)
            continue
        numbers = table.numbers(name, source.missing_codes)
        known = numbers.values[~np.isnan(numbers.values)]
        whole = bool(np.all(known == np.rint(known)))
        if len(values) < 2 or name.lower() in _WEIGHT_NAMES:
            continue
        if whole and _counts_up(known):
            label = label or name
            continue
        if whole and len(values) <= _MOST_RATINGS and known.min() >= 0:
            ordinal.append(name)
        use.append(name)
    levels = ["binary" if n in binary else "ordinal" if n in ordinal else "interval" for n in use]
    columns = [table.numbers(name, source.missing_codes).values for name in use]
    method = method_for(levels, columns)
    return Plan(
        title=Path(table.name).stem,
        source=source,
        cases=CasesPlan(label=label) if label else CasesPlan(),
        variables=VariablesPlan(use=tuple(use), ordinal=tuple(ordinal), binary=tuple(binary)),
        scale=ScalePlan(**method["scale"]),
        proximity=ProximityPlan(**method["proximity"]),  # type: ignore[arg-type]
        tree=TreePlan(**method["tree"]),  # type: ignore[arg-type]
    )


def _cross_table(table: Table, source: SourcePlan) -> Plan:
    """Columns of numbers are counts, the first column of words names the rows."""
    numbers = [name for name in table.names if table.looks_numeric(name)]
    words = [name for name in table.names if name not in numbers]
    cases = CasesPlan(label=words[0]) if words else CasesPlan()
    use = VariablesPlan(use=tuple(numbers))
    return Plan(title=Path(table.name).stem, source=source, cases=cases, variables=use)


def _counts_up(values: np.ndarray) -> bool:
    """Is it a running number?"""
    return bool(values.size > 2 and np.all(np.diff(values) == 1))
