"""From a table and a plan to the numeric cases that are measured, and what was left out and why."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.numbers import is_too_large
from gorvel.core.cases.cautions import answer_cautions
from gorvel.core.cases.columns import answers_by_level
from gorvel.core.cases.counts import prepare_counts
from gorvel.core.cases.percentiles import ends_of
from gorvel.core.cases.prepared import Dropped, Prepared, Variable, measurable, transposed
from gorvel.core.cases.rows import case_labels, chosen_rows, left_out, require_column, sequence_in
from gorvel.core.derive.making import check_turned, completed
from gorvel.core.kernels.loading import MANY
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES, Measure
from gorvel.core.proximity.scaling import average_ranks, scale_cases, scale_variables
from gorvel.core.table.levels import LEVELS, NUMERIC, are_yes_no, guess_level
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Level, Table

Floats = NDArray[np.float64]


Filling = Callable[[Floats, Sequence[Variable]], Floats]


def prepare(
    source: Source, plan: Plan, rows: Collection[int] | None = None, fill: Filling | None = None
) -> Prepared:
    """Choose, check and scale what the plan asks for.

    Parameters
    ----------
    rows : the rows (from 0) of one group of a split; None for all; fill : makes complete answers of
        those of the cases chosen, (n, p) codes, in place of the plan's handling of gaps.

    Raises
    ------
    InputError : a column that is not there, a cell that is no number, a missing answer under
        "stop", no case or only cases without answers left, no spread; names the place.
    """
    if isinstance(source, ProximityTable):
        return _of_matrix(source, plan)
    check_fit(plan, source.name)
    table = completed(source, plan)
    assert isinstance(table, Table)
    check_turned(table, chosen_rows(table, plan))
    if plan.source.kind == "counts":
        return prepare_counts(table, plan, rows)
    return _Preparation(table, plan, rows, fill).result()


def _of_matrix(source: ProximityTable, plan: Plan) -> Prepared:
    numbers = np.arange(1, source.n + 1)
    sequence = None if plan.tree.neighbours is None else np.arange(source.n)
    return Prepared(
        source.name, source.n, numbers, source.labels, None, (), None, None,
        source.values, "cases", (), (), sequence,
    )  # fmt: skip


class _Preparation:
    """The steps, in the order of the contract: read, drop or fill, rank, scale."""

    def __init__(
        self, table: Table, plan: Plan, rows: Collection[int] | None, fill: Filling | None = None
    ) -> None:
        self.table, self.plan, self.fill = table, plan, fill
        self.rows = np.arange(table.n) if rows is None else np.array(sorted(rows), dtype=np.int64)
        self.read = len(self.rows)
        self.cautions: list[Caution] = [*table.cautions]
        self.dropped: list[Dropped] = []

    def result(self) -> Prepared:
        self._check_columns()
        labels = case_labels(self.table, self.plan)
        self._choose(labels)
        variables = tuple(self._variable(name) for name in self.plan.variables.use)
        weights = self._weights()
        raw = np.column_stack([self._column(v) for v in variables])[self.rows]
        if self.fill is not None:
            raw = self.fill(raw, variables)
        kept = self._kept(raw, variables, labels)
        rows, raw = self.rows[kept], raw[kept]
        if weights is not None:
            weights = weights[rows]
        names = [labels[row] for row in rows]
        raw = self._filled(raw, variables, weights)
        values = self._scaled(raw, variables, names, weights)
        lacking = int((~kept).sum())
        self.cautions += answer_cautions(self.plan, variables, values, len(kept), lacking)
        prepared = Prepared(
            self.table.name, self.read, rows + 1, tuple(names), weights, variables, raw,
            self._answers(values, variables), None, "cases",
            tuple(sorted(self.dropped, key=lambda dropped: dropped.case)), tuple(self.cautions),
            sequence_in(self.table, self.plan, rows),
        )  # fmt: skip
        if self.plan.tree.of == "variables":
            prepared = transposed(prepared)
        prepared = measurable(prepared, self.plan.proximity.measure)
        if prepared.n > MANY:
            prepared.equal_rows  # noqa: B018 - looked for here, not where it is asked for
        return prepared

    def _check_columns(self) -> None:
        for key in ("label", "weight", "groups"):
            column = getattr(self.plan.cases, key)
            if column is not None:
                require_column(self.table, column, f"[cases] {key}")
        part = self.plan.variables
        for key in ("use", *LEVELS, "asymmetric", "profile", "missing"):
            for column in getattr(part, key):
                require_column(self.table, column, f"[variables] {key}")

    def _choose(self, labels: list[str]) -> None:
        """Leave out the rows that the condition does not choose, and those set aside."""
        reasons = left_out(self.table, self.plan, self.rows.tolist())
        for row in self.rows.tolist():
            if row in reasons:
                self.dropped.append(Dropped(row + 1, labels[row], reasons[row]))
        if reasons:
            kept = [row for row in self.rows.tolist() if row not in reasons]
            self.rows = np.array(kept, dtype=np.int64)
        if not self.rows.size:
            raise InputError(
                f"none of {self.read} cases used",
                "at least one",
                place=f"[cases] {'keep' if self.plan.cases.keep else 'set_aside'}",
                file=self.table.name,
            )

    def _variable(self, name: str) -> Variable:
        part = self.plan.variables
        measure = MEASURES[self.plan.proximity.measure]
        level = part.level(name) or self._guessed(name, measure)
        if measure.kind == "binary" and level not in ("binary", "nominal"):
            raise InputError(
                f"a variable of level {level}",
                f"two values, named under binary, for {measure.name}",
                place=f'variable "{name}"',
                file=self.table.name,
            )
        if level == "nominal" and not measure.mixed:
            codes = self.plan.codes(name)
            if is_too_large(self.table.numbers(name, codes).bad_cell):
                self.table.clean_numbers(name, codes, self.rows)  # which names the cell
            other = "list it under binary, " if self._two_words(name) else ""
            raise InputError(
                "a nominal variable",
                f"numbers for {measure.name}; {other}measure by gower, or leave it out",
                place=f'variable "{name}"',
                file=self.table.name,
            )
        return Variable(name, level, part.importance.get(name, 1.0), name in part.asymmetric)

    def _guessed(self, name: str, measure: Measure) -> Level:
        """The level of a variable nobody has named.

        Two numbers, or yes and no, are present and absent where the measure looks for nothing else.
        """
        codes = self.plan.codes(name)
        level = guess_level(self.table, name, codes)
        if measure.kind != "binary":
            return level
        if level == "nominal":
            return "binary" if are_yes_no(self._words(name)) else level
        if level == "interval":
            values = self.table.clean_numbers(name, codes, self.rows)[self.rows]
            return "binary" if np.unique(values[~np.isnan(values)]).size <= 2 else level
        return level

    def _words(self, name: str) -> set[str]:
        """The different cells of the rows looked at, in lower case."""
        cells = self.table.series(name, self.plan.codes(name))
        return {cell.lower() for cell in cells.gather(self.rows).drop_nulls().unique()}

    def _two_words(self, name: str) -> bool:
        return len(self._words(name)) == 2

    def _column(self, variable: Variable) -> Floats:
        values, _, cautions = answers_by_level(
            self.table, self.plan, variable.name, variable.level, self.rows
        )
        self.cautions += cautions
        return values

    def _weights(self) -> Floats | None:
        column = self.plan.cases.weight
        if column is None:
            return None
        weights = self.table.clean_numbers(column, self.plan.codes(column), self.rows)
        for row in self.rows:
            if not weights[row] > 0:
                cell = self.table.cells(column).values[row]
                raise InputError(
                    "no weight" if cell is None else f'the weight "{cell}"',
                    "a number above 0",
                    place=f'row {row + 1}, column "{column}"',
                    file=self.table.name,
                )
        return weights

    def _kept(
        self, raw: Floats, variables: tuple[Variable, ...], labels: list[str]
    ) -> NDArray[np.bool_]:
        """(rows,) flags of the rows that stay."""
        gaps = np.isnan(raw)
        if self.plan.handling == "stop" and gaps.any():
            at, j = (int(k) for k in np.argwhere(gaps)[0])
            raise InputError(
                "a missing answer",
                'none under handling = "stop"',
                place=f'row {self.rows[at] + 1}, column "{variables[j].name}"',
                file=self.table.name,
            )
        incomplete: NDArray[np.bool_] = np.asarray(gaps.any(axis=1))
        out = incomplete & (self.plan.handling == "drop")
        for i in np.flatnonzero(out):
            row = int(self.rows[i])
            names = [v.name for v, gap in zip(variables, gaps[i], strict=True) if gap]
            reason = "no answer to " + ", ".join(names)
            self.dropped.append(Dropped(row + 1, labels[row], reason, lacking=True))
        if out.all():
            raise InputError(
                f"no case left of {len(raw)}: each has a missing answer",
                "at least one complete case; try another treatment of missing answers",
                place="[missing] handling",
                file=self.table.name,
            )
        return ~out

    def _filled(
        self, raw: Floats, variables: tuple[Variable, ...], weights: Floats | None
    ) -> Floats:
        handling = self.plan.handling
        if handling not in ("mean", "median", "mode"):
            return raw
        raw = raw.copy()
        for j, variable in enumerate(variables):
            gap = np.isnan(raw[:, j])
            if not gap.any():
                continue
            known = raw[~gap, j]
            if known.size == 0:
                raise InputError(
                    "no answer at all",
                    f"known values to take the {handling} of",
                    place=f'variable "{variable.name}"',
                    file=self.table.name,
                )
            raw[gap, j] = centre_of(known, handling, None if weights is None else weights[~gap])
        return raw

    def _capped(self, raw: Floats, variables: tuple[Variable, ...]) -> Floats:
        """A copy in which answers beyond a variable's percentiles are moved to them."""
        values = raw.copy()
        for j, variable in enumerate(variables):
            if variable.name not in self.plan.variables.cap:
                continue
            if variable.level not in NUMERIC:
                raise InputError(
                    f"a {variable.level} variable",
                    "numbers to cap",
                    place=f"[variables] cap.{variable.name}",
                    file=self.table.name,
                )
            ends = ends_of(values[:, j], self.plan.variables.cap[variable.name])
            values[:, j] = np.clip(values[:, j], *ends)
        return values

    def _scaled(
        self, raw: Floats, variables: tuple[Variable, ...], names: list[str], weights: Floats | None
    ) -> Floats:
        values = self._capped(raw, variables)
        if MEASURES[self.plan.proximity.measure].mixed:
            for j, variable in enumerate(variables):
                if variable.level == "ordinal":
                    values[:, j] = average_ranks(values[:, j])
        numeric = [j for j, v in enumerate(variables) if self.plan.scales(v.level)]
        if not numeric:
            return values
        scale = self.plan.scale
        try:
            if scale.by == "cases":
                values[:, numeric] = scale_cases(values[:, numeric], names, scale.method)
            else:
                columns = [variables[j].name for j in numeric]
                values[:, numeric] = scale_variables(
                    values[:, numeric], columns, scale.method, weights
                )
        except InputError as error:
            raise error.in_file(self.table.name) from None
        return values

    def _answers(self, values: Floats, variables: tuple[Variable, ...]) -> Answers:
        return Answers.of(
            values,
            np.array([v.importance for v in variables]),
            tuple(v.level for v in variables),
            tuple(v.asymmetric for v in variables),
            self.plan.proximity.power,
            self.plan.proximity.root,
        )


def case_codes(table: Table, plan: Plan) -> Floats:
    """(rows of the file, p) answers to the variables in use as numbers, NaN where missing.

    Raises
    ------
    InputError : as `prepare`.
    """
    preparation = _Preparation(table, plan, chosen_rows(table, plan).tolist())
    return np.column_stack(
        [preparation._column(preparation._variable(name)) for name in plan.variables.use]
    )


def centre_of(known: Floats, handling: str, weights: Floats | None) -> float:
    """The mean (weighted), median or most frequent of known answers; the smallest of several."""
    if handling == "mean":
        return float(np.average(known, weights=weights))
    if handling == "median":
        return float(np.median(known))
    values, counts = np.unique(known, return_counts=True)
    return float(values[counts.argmax()])
