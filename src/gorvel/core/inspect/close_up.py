"""One variable, or two, looked at closely: what a histogram, a box plot or a scatter plot shows."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import fixed, number
from gorvel.core.cases.rows import left_out, rows_looked_at
from gorvel.core.inspect.outliers import robust_z
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.scaling import average_ranks, pearson
from gorvel.core.table.table import Table

Floats = NDArray[np.float64]

_MOST_CLASSES = 60
_MOST_BARS = 14
_MOST_POINTS = 4000
_FENCE = 1.5  # interquartile ranges
_FAR = 3.5  # robust z that Iglewicz & Hoaglin (1993) call an outlier
_ENDS = (1.0, 99.0)  # percentiles offered first


@dataclass(frozen=True, eq=False)
class Histogram:
    """Counts of classes of equal width. edges : (k+1,); counts : (k,)."""

    edges: Floats
    counts: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Box:
    """A box plot: quartiles, whiskers to the last values inside the fences, and what lies outside.

    low, high : ends of the whiskers; fences : 1.5 interquartile ranges beyond the quartiles.
    """

    quartiles: tuple[float, float, float]
    low: float
    high: float
    fences: tuple[float, float]
    outside: Floats


@dataclass(frozen=True)
class Bars:
    """Counts of single values: names and counts, the rest summed up, and the gaps."""

    names: tuple[str, ...]
    counts: tuple[int, ...]
    others: int
    missing: int


@dataclass(frozen=True, eq=False)
class Scatter:
    """Two variables against each other.

    x, y : at most some thousand cases, drawn evenly; cases : that have both; r : Pearson's; rank_r
    : Spearman's; None where not defined.
    """

    x: Floats
    y: Floats
    cases: int
    r: float | None
    rank_r: float | None


def _known(table: Table, name: str, codes: Collection[str]) -> Floats:
    values = table.numbers(name, codes).values
    return values[~np.isnan(values)]


def histogram_of(table: Table, name: str, codes: Collection[str] = ()) -> Histogram | None:
    """Classes by the rule of Freedman and Diaconis; None without two different numbers.

    References
    ----------
    Freedman & Diaconis 1981, On the histogram as a density estimator.
    """
    known = _known(table, name, codes)
    if known.size < 2 or known.min() == known.max():
        return None
    low, high = np.quantile(known, [0.25, 0.75])
    width = 2 * (high - low) / known.size ** (1 / 3)
    span = float(known.max() - known.min())
    classes = int(np.clip(np.ceil(span / width), 5, _MOST_CLASSES)) if width > 0 else 20
    if np.all(known == np.rint(known)) and span < _MOST_CLASSES:
        edges = np.arange(known.min() - 0.5, known.max() + 1.0)  # a class for each whole number
    else:
        edges = np.linspace(known.min(), known.max(), classes + 1)
    return Histogram(edges, np.histogram(known, edges)[0].astype(np.int64))


def box_of(table: Table, name: str, codes: Collection[str] = ()) -> Box | None:
    """Quartiles (linear interpolation), whiskers and outside values; None without numbers.

    References
    ----------
    Tukey 1977, Exploratory Data Analysis.
    """
    known = _known(table, name, codes)
    if not known.size:
        return None
    q1, q2, q3 = (float(q) for q in np.quantile(known, [0.25, 0.5, 0.75]))
    fences = (q1 - _FENCE * (q3 - q1), q3 + _FENCE * (q3 - q1))
    inside = known[(known >= fences[0]) & (known <= fences[1])]
    outside = known[(known < fences[0]) | (known > fences[1])]
    return Box((q1, q2, q3), float(inside.min()), float(inside.max()), fences, outside)


def bars_of(table: Table, name: str, codes: Collection[str] = ()) -> Bars:
    """The values of a column and how often each comes, the most frequent first."""
    cells = table.series(name, codes)
    counts = cells.drop_nulls().value_counts(sort=True, name="times")
    shown = counts.head(_MOST_BARS)
    others = int(counts["times"].sum() or 0) - int(shown["times"].sum() or 0)
    return Bars(
        tuple(str(value) for value in shown[""]),
        tuple(int(times) for times in shown["times"]),
        others,
        int(cells.null_count()),
    )


def scatter_of(
    table: Table, first: str, second: str, codes: tuple[Collection[str], Collection[str]] = ((), ())
) -> Scatter:
    """Two columns of numbers against each other, with both correlations over all cases."""
    x, y = table.numbers(first, codes[0]).values, table.numbers(second, codes[1]).values
    both = ~np.isnan(x) & ~np.isnan(y)
    x, y = x[both], y[both]
    step = max(1, -(-x.size // _MOST_POINTS))
    return Scatter(
        x[::step], y[::step], int(x.size), pearson(x, y),
        pearson(average_ranks(x), average_ranks(y)),
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class CloseUp:
    """A chart with what there is to say of it. names : of the axes; chart : None, only words."""

    title: str
    names: tuple[str, str] = ("", "")
    chart: Bars | Scatter | tuple[Histogram, Box] | None = None
    bounded: Bounded | None = None


@dataclass(frozen=True)
class Bounded:
    """What becomes of the answers at the ends of a variable in use.

    handling : "keep", "cap" or "trim"; percentiles; ends : the answers at them; beyond : how many
    answers lie outside of them.
    """

    variable: str
    handling: Literal["keep", "cap", "trim"]
    percentiles: tuple[float, float]
    ends: tuple[float, float]
    beyond: int


def bounded_of(table: Table, plan: Plan, name: str) -> Bounded | None:
    """The ends of a variable in use over the cases chosen; None without answers."""
    part = plan.variables
    handling: Literal["keep", "cap", "trim"] = "keep"
    percentiles = _ENDS
    if name in part.cap:
        handling, percentiles = "cap", part.cap[name]
    if name in part.trim:
        handling, percentiles = "trim", part.trim[name]
    untrimmed = {key: list(value) for key, value in part.trim.items() if key != name}
    out = left_out(table, plan.with_("variables", trim=untrimmed))
    values = np.delete(table.numbers(name, plan.codes(name)).values, list(out))
    values = values[~np.isnan(values)]
    if not values.size:
        return None
    low, high = (float(end) for end in np.percentile(values, percentiles))
    beyond = int(np.count_nonzero((values < low) | (values > high)))
    return Bounded(name, handling, percentiles, (low, high), beyond)


def close_up(table: Table, plan: Plan, names: Sequence[str], numeric: bool) -> CloseUp:
    """Look closely at one variable or two, in the rows that are looked at.

    Questions and words of a codebook stand in for names and codes.

    numeric : whether all of them are interval or ordinal.
    """
    whole, table = table, table.of_rows(rows_looked_at(table, plan))
    if not 1 <= len(names) <= 2:
        return CloseUp("Select one variable in the list, or two (Ctrl+click).")
    if len(names) == 2:
        return _two(table, plan, names[0], names[1], numeric)
    name, codes = names[0], plan.codes(names[0])
    title = plan.variables.labels.get(name, name)
    histogram, box = None, None
    if numeric:
        histogram, box = histogram_of(table, name, codes), box_of(table, name, codes)
    if histogram is None or box is None:
        bars = bars_of(table, name, codes)
        values = plan.variables.values.get(name, {})
        bars = replace(bars, names=tuple(values.get(code, code) for code in bars.names))
        return CloseUp(f"{_as_title(title)} How often each answer was given.", (title, ""), bars)
    q1, q2, q3 = box.quartiles
    words = f"{_as_title(title)} Half of the answers lie between {number(q1)} and {number(q3)},"
    words += f" the median is {number(q2)}."
    if box.outside.size:
        words += f" {box.outside.size:,} lie outside the fences at {number(box.fences[0])} and"
        words += f" {number(box.fences[1])} (rings)."
    far = robust_z(table.numbers(name, codes).values[:, None])
    rare = int(np.count_nonzero(np.abs(far[~np.isnan(far)]) > _FAR))
    if rare:
        words += f" {rare:,} lie more than {_FAR:g} robust standard deviations from the median."
    bounded = bounded_of(whole, plan, name) if name in plan.variables.use else None
    return CloseUp(words, (title, ""), (histogram, box), bounded)


def _as_title(words: str) -> str:
    """A question ends with its own mark, a name gets a colon."""
    return words if words.endswith(("?", ".", "!")) else f"{words}:"


def _two(table: Table, plan: Plan, first: str, second: str, numeric: bool) -> CloseUp:
    if not numeric:
        return CloseUp("Two variables can be shown if both are numeric.")
    scatter = scatter_of(table, first, second, (plan.codes(first), plan.codes(second)))
    labels = plan.variables.labels
    one, other = labels.get(first, first), labels.get(second, second)
    words = f"{first} and {second}, {scatter.cases:,} cases"
    if scatter.r is not None and scatter.rank_r is not None:
        words += f": r = {fixed(scatter.r, 3)}, rank correlation {fixed(scatter.rank_r, 3)}"
    return CloseUp(words + ".", (one, other), scatter)
