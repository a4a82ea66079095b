"""What is wrong with the columns of a table: flags in words, each with its remedy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.plan import Plan
from gorvel.core.progress import Progress, silent
from gorvel.core.sentences import number
from gorvel.core.table.table import Table

__all__ = ["Flag", "Remedy", "apply_remedy", "screen"]

_NEARLY = 0.95  # share of one value from which a column is nearly constant
_MOSTLY = 0.5  # share of gaps from which a column is mostly missing
_FOLLOWS = 0.95  # absolute correlation
_FAR = 3.0  # interquartile ranges beyond the quartiles: Tukey's outer fences
_SCALES = 50.0  # times the typical standard deviation
_CODES = {-1.0, -7.0, -8.0, -9.0, -77.0, -88.0, -98.0, -99.0, -999.0} | {
    *(7.0, 8.0, 9.0, 77.0, 88.0, 97.0, 98.0, 99.0, 777.0, 888.0, 997.0, 998.0, 999.0, 9999.0),
}
_MOST_COMPARED = 150  # numeric columns, beyond which they are not compared with each other

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Remedy:
    """One change of the plan. words : of a button; values : columns, codes or a scaling."""

    words: str
    change: Literal["leave out", "read as missing", "scale", "name cases"]
    values: tuple[str, ...]


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


def apply_remedy(plan: Plan, remedy: Remedy) -> Plan:
    """The plan with a remedy put in force."""
    part = plan.variables
    if remedy.change == "read as missing":
        codes = [*plan.source.missing_codes, *remedy.values]
        return plan.with_("source", missing_codes=list(dict.fromkeys(codes)))
    if remedy.change == "scale":
        return plan.with_("scale", method=remedy.values[0])
    use = [name for name in part.use if name not in remedy.values]
    importance = {name: v for name, v in part.importance.items() if name in use}
    changed = plan.with_("variables", use=use, importance=importance)
    if remedy.change == "name cases":
        return changed.with_("cases", label=remedy.values[0])
    return changed


def screen(table: Table, plan: Plan, progress: Progress = silent) -> list[Flag]:
    """All flags of the columns in use, and of missing codes in any column; most pressing first.

    References
    ----------
    Tukey 1977, Exploratory Data Analysis (fences).
    """
    flags: list[Flag] = []
    codes = plan.source.missing_codes
    numeric: dict[str, Floats] = {}
    for place, name in enumerate(table.names):
        progress("screening", place / len(table.names))
        numbers = table.numbers(name, codes)
        used = name in plan.variables.use
        if numbers.mostly:
            flags += _code_flags(table, name, numbers.values, used)
        if used:
            level = plan.variables.level(name) or ("interval" if numbers.mostly else "nominal")
            flags += _column_flags(table, plan, name)
            if level in ("interval", "ordinal"):
                numeric[name] = numbers.values
                flags += _bad_cells(name, numbers.bad_row, numbers.bad_cell)
                flags += _tail_flag(name, numbers.values)
    flags += _doubled(numeric)
    if plan.scale.method == "none" and plan.proximity.measure != "gower":
        flags += _scale_flags(numeric)
    return sorted(flags, key=lambda flag: -flag.weight)


def _leave_out(name: str) -> Remedy:
    return Remedy(f"leave {name} out", "leave out", (name,))


def _column_flags(table: Table, plan: Plan, name: str) -> list[Flag]:
    cells = [
        c for c in table.cells(name, plan.source.missing_codes).values.tolist() if c is not None
    ]
    gaps = table.n - len(cells)
    out = []
    if not cells:
        return [Flag("mostly-missing", name, "holds no answer at all", 9, _leave_out(name))]
    if gaps > _MOSTLY * table.n:
        said = f"{gaps / table.n:.0%} missing"
        out.append(Flag("mostly-missing", name, said, 6, _leave_out(name)))
    values, counts = np.unique(np.array(cells, dtype=str), return_counts=True)
    share = counts.max() / len(cells)
    mode = values[counts.argmax()]
    if len(values) == 1:
        said = f"every answer is {mode}: no spread"
        out.append(Flag("constant", name, said, 8, _leave_out(name)))
    elif share >= _NEARLY and len(cells) >= 20:
        said = f"nearly constant: {share:.0%} are {mode}"
        out.append(Flag("nearly-constant", name, said, 4, _leave_out(name)))
    if len(values) == len(cells) and table.n > 10 and _is_identifier(table, name):
        said = "looks like an identifier: every value is different"
        label = Remedy(f"name the cases by {name}", "name cases", (name,))
        out.append(Flag("identifier", name, said, 7, label))
    return out


def _is_identifier(table: Table, name: str) -> bool:
    """Text that never repeats, or a running number."""
    numbers = table.numbers(name)
    if not numbers.mostly:
        return True
    steps = np.diff(numbers.values)
    return bool(steps.size and np.all(steps == steps[0]) and steps[0] == 1)


def _bad_cells(name: str, row: int, cell: str) -> list[Flag]:
    if row < 0:
        return []
    remedy = Remedy(f'read "{cell}" as missing', "read as missing", (cell,))
    said = f'row {row + 1} holds "{cell}", which is no number'
    return [Flag("no-number", name, said, 10, remedy)]


def _code_flags(table: Table, name: str, values: Floats, used: bool) -> list[Flag]:
    """Whole numbers far beyond all others that are customary codes for "no answer"."""
    known = values[~np.isnan(values)]
    whole = known[known == np.rint(known)]
    if whole.size < known.size or known.size == 0 or not used:
        return []
    distinct = np.unique(known)
    codes = [value for value in distinct.tolist() if value in _CODES]
    while codes:
        rest = distinct[~np.isin(distinct, codes)]
        if rest.size < 2:
            return []
        kept = [c for c in codes if _stands_apart(c, rest)]
        if kept == codes:
            break
        codes = kept
    if not codes:
        return []
    words = ", ".join(f"{code:.0f}" for code in codes)
    times = int(np.isin(known, codes).sum())
    elsewhere = _plain_answers(table, name, codes)
    said = f"{words} look like codes for no answer ({times} times)"
    if elsewhere:
        said += f"; {elsewhere} would lose answers to it"
    remedy = Remedy(
        f"read {words} as missing", "read as missing", tuple(f"{code:.0f}" for code in codes)
    )
    return [Flag("codes", name, said, 9, remedy)]


def _stands_apart(code: float, rest: Floats) -> bool:
    """Is a value farther above the others than they span, or the only one below zero?"""
    spread = max(float(rest.max() - rest.min()), 1.0)
    return bool(code > rest.max() + spread or code < 0 <= rest.min())


def _plain_answers(table: Table, but: str, codes: Sequence[float]) -> str:
    """Other columns in which a code is an answer like the others: missing codes hold everywhere."""
    found = []
    for name in table.names:
        numbers = table.numbers(name)
        if name == but or not numbers.mostly or _is_identifier(table, name):
            continue
        known = numbers.values[~np.isnan(numbers.values)]
        rest = known[~np.isin(known, codes)]
        if rest.size and any(c in known and not _stands_apart(c, rest) for c in codes):
            found.append(name)
    return " and ".join(found[:3])


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
    said = f"{int(far.sum())} far out, up to {worst:.0f} box lengths beyond the box"
    return [Flag("heavy-tail", name, said, 3)]


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
            said = f"follows {best} (r = {best_r:.3f}): the same thing would count twice"
            flags.append(Flag("follows", later, said, 5, _leave_out(later)))
    return flags


def _correlation(x: Floats, y: Floats) -> float:
    """Pearson's r over the cases that have both; 0 where it is not defined."""
    both = ~np.isnan(x) & ~np.isnan(y)
    if both.sum() < 3:
        return 0.0
    a, b = x[both] - x[both].mean(), y[both] - y[both].mean()
    size = np.sqrt((a @ a) * (b @ b))
    return float(a @ b / size) if size > 0 else 0.0


def _scale_flags(numeric: dict[str, Floats]) -> list[Flag]:
    spreads = {}
    for name, values in numeric.items():
        known = values[~np.isnan(values)]
        if known.size > 1 and known.std() > 0:
            spreads[name] = float(known.std())
    if len(spreads) < 2:
        return []
    flags = []
    remedy = Remedy("use z-scores", "scale", ("zscore",))
    for name, spread in spreads.items():
        others = float(np.median([other for key, other in spreads.items() if key != name]))
        if spread > _SCALES * others:
            said = f"its scale is {number(round(spread / others))} times the others’"
            flags.append(Flag("scale", name, f"{said}, and it would decide alone", 7, remedy))
    return flags
