"""What is wrong with the columns of a table: flags in words, each with its remedy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import counted, fixed, number
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.columns import level_told
from gorvel.core.cases.rows import rows_looked_at
from gorvel.core.plan.plan import Plan
from gorvel.core.plan.remedy import Remedy
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import pearson
from gorvel.core.table.levels import NUMERIC
from gorvel.core.table.table import Numbers, Table

_NEARLY = 0.95  # share of one value from which a column is nearly constant
_MOSTLY = 0.5  # share of gaps from which a column is mostly missing
_FOLLOWS = 0.95  # absolute correlation
_FAR = 3.0  # interquartile ranges beyond the quartiles: Tukey's outer fences
_SCALES = 50.0  # times the typical standard deviation
_CODES = {-1.0, -7.0, -8.0, -9.0, -77.0, -88.0, -98.0, -99.0, -999.0} | {
    *(7.0, 8.0, 9.0, 77.0, 88.0, 97.0, 98.0, 99.0, 777.0, 888.0, 997.0, 998.0, 999.0, 9999.0)
}
_MOST_NAMED = 4
_MOST_COMPARED = 150  # numeric columns, beyond which they are not compared with each other

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class ColumnChange:
    """A change of the plan. columns : that it is about; values : codes, or the key of a scaling."""

    kind: Literal["leave out", "read as missing", "confine codes", "scale", "cap", "name cases"]
    columns: tuple[str, ...] = ()
    values: tuple[str, ...] = ()

    def __call__(self, plan: Plan) -> Plan:
        """The plan with it in force."""
        part = plan.variables
        if self.kind in ("read as missing", "confine codes"):
            missing = {name: list(codes) for name, codes in part.missing.items()}
            for name in self.columns:
                codes = [*missing.get(name, []), *self.values]
                missing[name] = list(dict.fromkeys(codes))
            if self.kind == "confine codes":
                plan = plan.with_("source", missing_codes=[])
            return plan.with_("variables", missing=missing)
        if self.kind == "scale":
            return plan.with_("scale", method=self.values[0])
        if self.kind == "cap":
            ends = [float(value) for value in self.values]
            caps = {name: list(kept) for name, kept in part.cap.items()}
            return plan.with_("variables", cap=caps | dict.fromkeys(self.columns, ends))
        changed = plan.using([name for name in part.use if name not in self.columns])
        if self.kind == "name cases":
            return changed.with_("cases", label=self.columns[0])
        return changed


@dataclass(frozen=True)
class Flag:
    """Something about a column that wants an eye.

    kind : for programs; column; text : in words; weight : the larger the more pressing.
    """

    kind: str
    column: str
    text: str
    weight: int
    remedy: Remedy | None = None
    others: tuple[str, ...] = ()  # columns of which the same holds

    @property
    def columns(self) -> tuple[str, ...]:
        return (self.column, *self.others)


_TOGETHER = {  # kind of flag: what many columns have in common, and the remedy for all of them
    "constant": ("are constant", "Deactivate them"),
    "nearly-constant": ("are nearly constant", "Deactivate them"),
    "mostly-missing": ("are mostly missing", "Deactivate them"),
    "nominal": ("are nominal; only Gower distance can use them", "Deactivate them"),
    "follows": ("nearly duplicate another variable, which would count twice", "Deactivate them"),
    "heavy-tail": ("have extreme values", "Cap all at 1st and 99th percentiles"),
    "scale": ("have a far larger SD than the others", "Use z-scores"),
}


def grouped(flags: Sequence[Flag], most: int = 3) -> list[Flag]:
    """Flags of one kind put together where they are more than `most`, lest they crowd the rest."""
    out: list[Flag] = []
    for kind in dict.fromkeys(flag.kind for flag in flags):
        same = [flag for flag in flags if flag.kind == kind]
        if len(same) <= most or kind not in _TOGETHER:
            out += same
            continue
        names = tuple(flag.column for flag in same)
        words, mend = _TOGETHER[kind]
        shown = f"{', '.join(names[:_MOST_NAMED])} and {len(names) - _MOST_NAMED} more"
        if len(names) <= _MOST_NAMED:
            shown = ", ".join(names)
        first = same[0].remedy
        assert first is not None
        assert isinstance(first.change, ColumnChange)
        change = replace(first.change, columns=names if first.change.columns else ())
        text = f"{len(names)} variables {words}: {shown}"
        out.append(Flag(kind, names[0], text, same[0].weight, Remedy(mend, change), names[1:]))
    return out


def screen(table: Table, plan: Plan, progress: Progress = silent) -> list[Flag]:
    """All flags of the columns in use, in the rows that are looked at; the most pressing first.

    References
    ----------
    Tukey 1977, Exploratory Data Analysis (fences).
    """
    rows = rows_looked_at(table, plan)
    table = table if len(rows) == table.n else table.of_rows(rows)
    flags: list[Flag] = []
    numeric: dict[str, Floats] = {}
    coded: dict[str, list[float]] = {}
    for place, name in enumerate(table.names):
        progress(Phase.SCREENING, place / len(table.names))
        if name not in plan.variables.use:
            continue
        numbers = table.numbers(name, plan.codes(name))
        level = level_told(table, plan, name)
        flags += _column_flags(table, plan, name)
        if level == "nominal" and not MEASURES[plan.proximity.measure].mixed:
            flags.append(_unmeasured(plan, name))
        if level in NUMERIC:
            numeric[name] = numbers.values
            flags += _bad_cells(name, rows, numbers)
            coded[name] = _codes_in(numbers.values)
            plain = numbers.values[~np.isin(numbers.values, coded[name])]
            if name not in plan.variables.cap:
                flags += _tail_flag(name, plain)
    flags += _code_flags(numeric, coded) + _lost_flags(table, plan, numeric)
    flags += _doubled(numeric)
    if plan.scale.method == "none" and plan.proximity.measure != "gower":
        flags += _scale_flags(numeric)
    return sorted(flags, key=lambda flag: -flag.weight)


def _leave_out(name: str) -> Remedy:
    return Remedy(f"Deactivate {name}", ColumnChange("leave out", (name,)))


def _unmeasured(plan: Plan, name: str) -> Flag:
    measure = MEASURES[plan.proximity.measure].name
    said = f"is nominal, which {measure} cannot use; Gower distance can"
    return Flag("nominal", name, said, 10, _leave_out(name))


def _column_flags(table: Table, plan: Plan, name: str) -> list[Flag]:
    cells = table.series(name, plan.codes(name)).drop_nulls()
    gaps = table.n - len(cells)
    out = []
    if not len(cells):
        return [Flag("mostly-missing", name, "has no answers at all", 9, _leave_out(name))]
    if gaps > _MOSTLY * table.n:
        said = f"{gaps / table.n:.0%} missing"
        out.append(Flag("mostly-missing", name, said, 6, _leave_out(name)))
    counts = cells.value_counts(sort=True, name="times")
    mode, times = counts.row(0)
    share = times / len(cells)
    if counts.height == 1:
        said = f"constant: every answer is {mode}"
        out.append(Flag("constant", name, said, 8, _leave_out(name)))
    elif share >= _NEARLY and len(cells) >= 20:
        said = f"nearly constant: {share:.0%} are {mode}"
        out.append(Flag("nearly-constant", name, said, 4, _leave_out(name)))
    if counts.height == len(cells) and table.n > 10 and _is_identifier(table, name):
        said = "looks like an identifier: every value is different"
        label = Remedy(f"Label cases by {name}", ColumnChange("name cases", (name,)))
        out.append(Flag("identifier", name, said, 7, label))
    return out


def _is_identifier(table: Table, name: str) -> bool:
    """Text that never repeats, or a running number."""
    numbers = table.numbers(name)
    if not numbers.mostly:
        return True
    steps = np.diff(numbers.values)
    return bool(steps.size and np.all(steps == steps[0]) and steps[0] == 1)


def _bad_cells(name: str, rows: NDArray[np.int64], numbers: Numbers) -> list[Flag]:
    """rows : (from 0) of the file that the numbers are of."""
    if numbers.bad_row < 0:
        return []
    row, cell = int(rows[numbers.bad_row]), numbers.bad_cell
    remedy = Remedy(f"Read “{cell}” as missing", ColumnChange("read as missing", (name,), (cell,)))
    said = f"row {row + 1} holds “{cell}”, which is not a number"
    return [Flag("no-number", name, said, 10, remedy)]


def _codes_in(values: Floats) -> list[float]:
    """Customary codes for "no answer" that stand far beyond all other values of a column."""
    known = values[~np.isnan(values)]
    distinct = np.unique(known)
    if np.any(distinct != np.rint(distinct)):
        return []
    codes: list[float] = [value for value in distinct.tolist() if value in _CODES]
    while codes:
        rest = distinct[~np.isin(distinct, codes)]
        kept = [code for code in codes if rest.size > 1 and _stands_apart(code, rest)]
        if kept == codes:
            break
        codes = kept
    return codes


def _code_flags(numeric: dict[str, Floats], coded: dict[str, list[float]]) -> list[Flag]:
    """One flag for all columns that seem to hold codes, as a questionnaire repeats its own."""
    found = {name: codes for name, codes in coded.items() if codes}
    if not found:
        return []
    codes = sorted({code for those in found.values() for code in those})
    words = ", ".join(f"{code:.0f}" for code in codes)
    where = [f"{name} ({int(np.isin(numeric[name], found[name]).sum())})" for name in found]
    shown = ", ".join(where[:_MOST_NAMED])
    if len(where) > _MOST_NAMED:
        shown += f" and {len(where) - _MOST_NAMED} more"
    cells = tuple(f"{code:.0f}" for code in codes)
    change = ColumnChange("read as missing", tuple(found), cells)
    remedy = Remedy(f"Read {words} as missing there", change)
    said = f"{words} look like missing-value codes in {shown}"
    return [Flag("codes", next(iter(found)), said, 9, remedy)]


def _lost_flags(table: Table, plan: Plan, numeric: dict[str, Floats]) -> list[Flag]:
    """Answers that a code given for the whole file takes away where it is an answer like others."""
    codes = plan.source.missing_codes
    lost: dict[str, int] = {}
    apart: list[str] = []
    for name, kept in numeric.items():
        taken = np.isnan(kept) & ~np.isnan(table.numbers(name).values)
        rest = kept[~np.isnan(kept)]
        gone = table.numbers(name).values[taken]
        if not gone.size or not rest.size:
            continue
        plain = sum(not _stands_apart(float(value), rest) for value in gone)
        if plain:
            lost[name] = plain
        if plain < gone.size:
            apart.append(name)
    if not lost or not codes:
        return []
    words = ", ".join(codes)
    where = ", ".join(f"{name} ({times})" for name, times in list(lost.items())[:_MOST_NAMED])
    remedy = Remedy(
        "Keep them as answers there", ColumnChange("confine codes", tuple(apart), tuple(codes))
    )
    said = f"{words} are read as missing, but look like real answers in: {where}"
    return [Flag("lost", next(iter(lost)), said, 8, remedy)]


def _stands_apart(code: float, rest: Floats) -> bool:
    """Is a value farther above the others than they span, or the only one below zero?"""
    spread = max(float(rest.max() - rest.min()), 1.0)
    return bool(code > rest.max() + spread or code < 0 <= rest.min())


def _tail_flag(name: str, values: Floats) -> list[Flag]:
    known = values[~np.isnan(values)]
    if known.size < 20:
        return []
    low, high = np.quantile(known, [0.25, 0.75])
    box = float(high - low)
    far = (known > high + _FAR * box) | (known < low - _FAR * box)
    if box <= 0 or not far.any():
        return []
    worst = float(max((known.max() - high) / box, (low - known.min()) / box))
    extreme = counted(int(far.sum()), "extreme value")
    said = f"{extreme}, up to {worst:.0f} IQR beyond the quartiles"
    remedy = Remedy("Cap at 1st and 99th percentiles", ColumnChange("cap", (name,), ("1", "99")))
    return [Flag("heavy-tail", name, said, 3, remedy)]


def _doubled(numeric: dict[str, Floats]) -> list[Flag]:
    """Columns that nearly repeat one that stands before them."""
    names = list(numeric)[:_MOST_COMPARED]
    flags = []
    for j, later in enumerate(names):
        best, best_r = "", 0.0
        for earlier in names[:j]:
            r = _correlation(numeric[earlier], numeric[later])
            if abs(r) > abs(best_r):
                best, best_r = earlier, r
        if abs(best_r) >= _FOLLOWS:
            said = f"nearly duplicates {best} (r = {fixed(best_r, 3)}): it would count twice"
            flags.append(Flag("follows", later, said, 5, _leave_out(later)))
    return flags


def _correlation(x: Floats, y: Floats) -> float:
    """Pearson's r over the cases that have both; 0 where it is not defined."""
    both = ~np.isnan(x) & ~np.isnan(y)
    return pearson(x[both], y[both]) or 0.0


def _scale_flags(numeric: dict[str, Floats]) -> list[Flag]:
    spreads = {}
    for name, values in numeric.items():
        known = values[~np.isnan(values)]
        if known.size > 1 and known.std() > 0:
            spreads[name] = float(known.std())
    if len(spreads) < 2:
        return []
    flags = []
    remedy = Remedy("Use z-scores", ColumnChange("scale", (), ("zscore",)))
    for name, spread in spreads.items():
        others = float(np.median([other for key, other in spreads.items() if key != name]))
        if spread > _SCALES * others:
            said = f"its SD is {number(round(spread / others))} times the median SD of the others"
            flags.append(Flag("scale", name, f"{said}; it would dominate", 7, remedy))
    return flags
