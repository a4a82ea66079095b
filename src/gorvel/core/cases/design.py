"""How a sample was drawn, and how far what is told of it would stray in other samples."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepared import Prepared
from gorvel.core.cases.rows import kept_rows, require_column
from gorvel.core.derive.making import as_completed
from gorvel.core.plan.analyses import DesignPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Estimate = Callable[[Floats], Floats]  # from (n,) weights to (q,) values


@dataclass(frozen=True, eq=False)
class Design:
    """Of the n cases of a tree.

    weights : (n,); psu : (n,) place of each case’s sampling unit, or None under replicate weights;
    stratum : (units,) of each unit, those without a case of the tree too; single : how a stratum of
    one unit is taken; replicates : (n, R) weights; factors : (R,) of their squared deviations;
    df : degrees of freedom.
    """

    weights: Floats
    psu: Ints | None
    stratum: Ints
    single: str
    replicates: Floats | None
    factors: Floats
    df: float

    @property
    def units(self) -> int:
        """Sampling units of the sample."""
        return len(self.stratum)

    @property
    def strata(self) -> int:
        return int(self.stratum.max()) + 1 if len(self.stratum) else 0

    def drawn(self, random: np.random.Generator) -> Ints:
        """Places of cases, rising, each as often as it is drawn.

        One sampling unit less than there are of each stratum, with replacement, and all cases of
        each; a lone unit is always drawn. Under replicate weights units are not known, and cases
        are drawn.

        The factor that keeps totals is left out, since a tree has none.

        References
        ----------
        Rao, Wu & Yue 1992, Some recent work on resampling methods for complex surveys.
        """
        n = len(self.weights)
        if self.psu is None:
            return np.sort(random.integers(0, n, n))
        while True:
            times = np.zeros(self.units, dtype=np.int64)
            for stratum in range(self.strata):
                units = np.flatnonzero(self.stratum == stratum)
                lone = len(units) == 1
                chosen = units if lone else random.choice(units, len(units) - 1)
                times += np.bincount(chosen, minlength=self.units)
            of_cases = times[self.psu]
            if np.count_nonzero(of_cases) > 1 or n < 2:
                return np.repeat(np.arange(n), of_cases)

    def covariance(self, estimate: Estimate, linear: Floats) -> Floats:
        """(q, q) covariance of an estimate over samples; NaN where a replicate leaves it undefined.

        Parameters
        ----------
        estimate : from (n,) weights to (q,) values, asked for under replicate weights.
        linear : (n, q) linearised values, with the weights in them, of the other designs.

        References
        ----------
        Woodruff 1971, A simple method for approximating the variance of a complicated estimate;
        Wolter 2007, Introduction to variance estimation.
        """
        if self.replicates is not None:
            whole = estimate(self.weights)
            off = np.stack([estimate(column) for column in self.replicates.T]) - whole
            return np.asarray((off * self.factors[:, None]).T @ off)
        assert self.psu is not None
        totals = np.zeros((self.units, linear.shape[1]))
        np.add.at(totals, self.psu, linear)
        inside = np.bincount(self.stratum)
        sums = np.zeros((len(inside), linear.shape[1]))
        np.add.at(sums, self.stratum, totals)
        mean = (sums / inside[:, None])[self.stratum]
        alone = (inside == 1)[self.stratum]
        if self.single == "centre":
            mean[alone] = totals.mean(axis=0)
        factor = np.where(inside > 1, inside / np.maximum(inside - 1, 1), 1.0)[self.stratum]
        off = (totals - mean) * np.sqrt(factor)[:, None]
        return np.asarray(off.T @ off)


def design_of(table: Table, plan: Plan, numbers: Ints, weights: Floats | None) -> Design | None:
    """The design that a plan tells of the cases of a tree; None where it tells none.

    numbers : (n,) case numbers in the file, from 1; weights : (n,) of these, or None.

    Raises
    ------
    InputError : a column that is not there, a row without stratum, unit or replicate weight, a
        stratum with a single unit under "stop"; names the place.
    """
    part = plan.design
    if part is None:
        return None
    for column in part.columns:
        require_column(table, column, "[design]")
    own = np.ones(len(numbers)) if weights is None else weights
    if part.replicates:
        return _of_replicates(table, plan, part, numbers, own)
    rows = kept_rows(table, plan)
    stratum = _groups(table, plan, part.strata, rows)
    if part.psu is None:
        psu = np.arange(len(rows))
        of_unit = stratum
    else:
        both = np.column_stack([stratum, _groups(table, plan, part.psu, rows)])
        units, psu = np.unique(both, axis=0, return_inverse=True)
        psu, of_unit = psu.ravel(), units[:, 0]
    place = np.full(table.n, -1)
    place[rows] = psu
    df = part.df if part.df is not None else len(of_unit) - (int(of_unit.max()) + 1)
    design = Design(own, place[numbers - 1], of_unit, part.single, None, np.empty(0), df)
    if part.single == "stop":
        _no_single(design, table, plan, part, rows, stratum)
    return design


def sample_of(source: Source, plan: Plan, prepared: Prepared) -> Design | None:
    """The design of the cases that a tree is of; None for other trees, and where none is told.

    Raises
    ------
    InputError : as `design_of`.
    """
    if not isinstance(source, Table) or prepared.of == "variables":
        return None
    table = as_completed(source, plan)
    return design_of(table, plan, prepared.numbers, prepared.weights)


def _groups(table: Table, plan: Plan, column: str | None, rows: Ints) -> Ints:
    """(rows,) the group of each row; a row without one is an error."""
    if column is None:
        return np.zeros(len(rows), dtype=np.int64)
    cells = table.cells(column, plan.codes(column)).values
    seen: dict[str, int] = {}
    out = np.empty(len(rows), dtype=np.int64)
    for at, row in enumerate(rows.tolist()):
        cell = cells[row]
        if cell is None:
            place = f'row {row + 1}, column "{column}"'
            raise InputError("no value", "where each row was drawn", place=place, file=table.name)
        out[at] = seen.setdefault(str(cell), len(seen))
    return out


def _no_single(
    design: Design, table: Table, plan: Plan, part: DesignPlan, rows: Ints, stratum: Ints
) -> None:
    alone = np.flatnonzero(np.bincount(design.stratum) == 1)
    if not alone.size:
        return
    row = int(rows[int(np.flatnonzero(stratum == alone[0])[0])])
    named = "the sample" if part.strata is None else (
        f'the stratum "{table.cells(part.strata, plan.codes(part.strata)).values[row]}"'
    )  # fmt: skip
    raise InputError(
        f"one sampling unit in {named}",
        'at least two, or single = "centre" or "zero"',
        place="[design] single",
        file=table.name,
    )


def _of_replicates(
    table: Table, plan: Plan, part: DesignPlan, numbers: Ints, weights: Floats
) -> Design:
    columns = []
    for name in part.replicates:
        values = table.clean_numbers(name, plan.codes(name), numbers - 1)[numbers - 1]
        bad = np.flatnonzero(~(values >= 0))
        if bad.size:
            row = int(numbers[bad[0]]) - 1
            cell = table.cells(name).values[row]
            raise InputError(
                "no replicate weight" if cell is None else f'the replicate weight "{cell}"',
                "0 or more",
                place=f'row {row + 1}, column "{name}"',
                file=table.name,
            )
        columns.append(values)
    r = len(columns)
    factor = {
        "jackknife": (r - 1) / r, "brr": 1 / r, "bootstrap": 1 / r,
        "fay": 1 / (r * (1 - part.fay) ** 2),
    }[part.kind]  # fmt: skip
    factors = np.full(r, factor)
    df: float = r - 1 if part.kind == "jackknife" else r
    if part.factors:
        factors, df = np.array(part.factors), r
    if part.df is not None:
        df = part.df
    nothing = np.empty(0, dtype=np.int64)
    return Design(weights, None, nothing, part.single, np.column_stack(columns), factors, df)
