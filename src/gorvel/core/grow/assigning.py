"""Cases of another file given to the clusters of a tree."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.columns import answers_by_level
from gorvel.core.cases.percentiles import ends_of
from gorvel.core.cases.prepared import Prepared, Variable
from gorvel.core.cases.rows import labelled_by, require_column
from gorvel.core.grow.allocation import filled, follow
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.differences import gower
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS, scale_cases
from gorvel.core.table.levels import present_value
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import cut_at_count

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_DRAW = 1e-12  # relative: distances this close are equal, and the smaller cluster wins
_BLOCK = 1 << 22  # cells of a block


@dataclass(frozen=True, eq=False)
class Given:
    """At one count, each (m,): the cluster, from 1, 0 for none; its distance.

    The next best cluster, 0 for none; its distance less the best; whether the case is farther from
    its cluster than any member.
    """

    cluster: Ints
    distance: Floats
    second: Ints
    margin: Floats
    far: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Assigned:
    """Cases of another file, given to the clusters of a tree.

    cases : m row numbers of the other file, from 1; labels : m; method : by which distance;
    by_count : what is given at each count of the cut.
    """

    cases: tuple[int, ...]
    labels: tuple[str, ...]
    method: str
    by_count: dict[int, Given]


def assign(
    table: Table, plan: Plan, grown: Grown, other: Table, counts: Sequence[int],
    group: str = "", progress: Progress = silent,
) -> Assigned:  # fmt: skip
    """Give the cases of another table with the same questions to the clusters.

    Missing codes, levels, fills, caps and scales are those of the first study. Which rows are kept,
    and which are set aside, is not asked.

    Parameters
    ----------
    table : that the tree was grown from; other : with columns of the same names; group : of a
        split, whose rows alone are given; counts : of clusters; progress : told "assign".

    Raises
    ------
    InputError : a column that is not there, a cell that its level does not allow, a new value of a
        binary variable, a gap under "stop", centroids where there are none.
    """
    prepared = grown.prepared
    method = _method(plan, grown)
    rows = _rows(plan, other, group)
    raw = np.column_stack([_column(table, other, plan, v) for v in prepared.variables])[rows]
    if plan.handling == "stop" and np.isnan(raw).any():
        at, j = (int(k) for k in np.argwhere(np.isnan(raw))[0])
        place = f'row {rows[at] + 1}, column "{prepared.variables[j].name}"'
        raise InputError(
            "a missing answer", 'none under handling = "stop"', place=place, file=other.name
        )
    if plan.handling in ("mean", "median", "mode"):
        raw = filled(raw, prepared, plan.handling)
    labels = _labels(plan, other, rows)
    gaps = np.isnan(raw)
    complete = plan.handling == "drop" or method == "centroid"
    whole = np.asarray(~gaps.any(axis=1) if complete else ~gaps.all(axis=1))
    points = np.full(raw.shape, np.nan)
    if whole.any():
        names = [labels[k] for k in np.flatnonzero(whole)]
        points[whole] = _scaled(raw[whole], plan, prepared, names)
    by_count = {}
    for done, count in enumerate(counts):
        progress(Phase.ASSIGN, done / len(counts))
        own = cut_at_count(grown.tree, count).membership - 1
        judge = _Judge(grown, own, count, method)
        by_count[count] = judge.given(points, whole)
    numbers = tuple(int(row) + 1 for row in rows)
    return Assigned(numbers, tuple(labels), method, by_count)


def _method(plan: Plan, grown: Grown) -> str:
    """The distance by which cases are given."""
    asked = "auto" if plan.assign is None else plan.assign.method
    flat = MEASURES[grown.method.measure].flat
    fits = flat and grown.prepared.measurable_spread
    if asked == "auto":
        return "centroid" if fits else "mean"
    if asked == "centroid" and not fits:
        raise InputError(
            '"centroid"',
            "mean or nearest: centroids need complete numbers and a Euclidean measure",
            place="[assign] method",
        )
    return asked


def _rows(plan: Plan, other: Table, group: str) -> Ints:
    if not group:
        return np.arange(other.n)
    column = plan.cases.split
    assert column is not None
    require_column(other, column, "[assign] file")
    cells = other.cells(column, plan.codes(column)).values
    return np.flatnonzero([cell is not None and str(cell) == group for cell in cells])


def _labels(plan: Plan, other: Table, rows: Ints) -> list[str]:
    column, words = labelled_by(plan)
    if column is None or column not in other.names:
        return [str(row + 1) for row in rows.tolist()]
    cells = other.cells(column).values
    return [
        str(row + 1) if cells[row] is None else words.get(str(cells[row]), str(cells[row]))
        for row in rows.tolist()
    ]


def _column(table: Table, other: Table, plan: Plan, variable: Variable) -> Floats:
    """(rows of the other file,) answers in the codes of the first study."""
    name, codes = variable.name, plan.codes(variable.name)
    require_column(other, name, "[assign] file")
    if variable.level not in ("nominal", "binary"):
        return answers_by_level(other, plan, name, variable.level)[0]
    first = table.cells(name, codes).values
    cells = other.cells(name, codes).values
    if variable.level == "nominal":
        words = sorted({cell for cell in first if cell is not None})
        known = {word: float(code) for code, word in enumerate(words)}
        for cell in cells:
            if cell is not None:
                known.setdefault(cell, float(len(known)))  # a new word differs from all
        return np.array([np.nan if cell is None else known[cell] for cell in cells])
    seen = {cell.lower() for cell in first if cell is not None}
    present = present_value(seen)
    out = np.full(len(cells), np.nan)
    for row, cell in enumerate(cells):
        if cell is None:
            continue
        if cell.lower() not in seen:
            raise InputError(
                f'the value "{cell}"',
                f"one of {', '.join(sorted(seen))}, as in {table.name}",
                place=f'row {row + 1}, column "{name}"',
                file=other.name,
            )
        out[row] = float(cell.lower() == present)
    return out


def _scaled(raw: Floats, plan: Plan, prepared: Prepared, names: list[str]) -> Floats:
    """Answers on the scales of the first study; those by cases are scaled each by itself."""
    assert prepared.raw is not None
    assert prepared.answers is not None
    out, mixed = raw.copy(), MEASURES[plan.proximity.measure].mixed
    numeric = [j for j, v in enumerate(prepared.variables) if plan.scales(v.level)]
    own_scale = plan.scale.by == "cases" and plan.scale.method != "none"
    for j, variable in enumerate(prepared.variables):
        before = prepared.raw[:, j]
        if variable.name in plan.variables.cap:
            ends = ends_of(before, plan.variables.cap[variable.name])
            before = np.clip(before, *ends)
            out[:, j] = np.clip(out[:, j], *ends)
        ranked = mixed and variable.level == "ordinal"
        if ranked or (j in numeric and not own_scale and plan.scale.method == "rank"):
            out[:, j] = _rank_among(out[:, j], before)
        elif j in numeric and not own_scale and SCALINGS[plan.scale.method].affine:
            out[:, j] = follow(out[:, j], before, prepared.answers.values[:, j], True)
    if own_scale:
        out[:, numeric] = scale_cases(out[:, numeric], names, plan.scale.method)
    return out


def _rank_among(x: Floats, values: Floats) -> Floats:
    """The average rank that each would have among known values."""
    known = np.sort(values[~np.isnan(values)])
    less, no_more = np.searchsorted(known, x, "left"), np.searchsorted(known, x, "right")
    return np.where(np.isnan(x), np.nan, less + (no_more - less + 1) / 2)


@dataclass(frozen=True, eq=False)
class _Judge:
    """Distances to the clusters of one cut. own : (n,) clusters from 0."""

    grown: Grown
    own: Ints
    count: int
    method: str

    def given(self, points: Floats, whole: NDArray[np.bool_]) -> Given:
        """points : (m, p); whole : (m,) those that can be given."""
        m = len(points)
        cluster, second = np.zeros((2, m), dtype=np.int64)
        distance, margin = np.full((2, m), np.nan)
        far, rows = np.zeros(m, dtype=bool), np.flatnonzero(whole)
        reach = self._reach()
        step = max(1, _BLOCK // self.grown.tree.n)
        for begin in range(0, len(rows), step):
            some = rows[begin : begin + step]
            away = self._away(points[some])
            known = ~np.isnan(away).all(axis=1)
            some, away = some[known], np.where(np.isnan(away), np.inf, away)[known]
            best = _first_of_least(away)
            at = np.arange(len(some))
            cluster[some], distance[some] = best + 1, away[at, best]
            far[some] = away[at, best] > reach[best] * (1 + _DRAW)
            if self.count > 1:
                rest = away.copy()
                rest[at, best] = np.inf
                next_ = _first_of_least(rest)
                with np.errstate(invalid="ignore"):
                    margin[some] = rest[at, next_] - away[at, best]
                second[some] = np.where(np.isfinite(rest[at, next_]), next_ + 1, 0)
                margin[some] = np.where(np.isfinite(margin[some]), margin[some], np.nan)
        return Given(cluster, distance, second, margin, far)

    @property
    def _answers(self) -> Answers:
        answers = self.grown.prepared.answers
        assert answers is not None
        return answers

    def _centroids(self) -> Floats:
        """(clusters, p) in the space of straight distances."""
        points, weights = self._answers.points, self.grown.prepared.weights
        masses = np.ones(len(points)) if weights is None else weights
        mass = np.bincount(self.own, masses, self.count)
        sums = [np.bincount(self.own, masses * column, self.count) for column in points.T]
        return np.stack(sums, axis=1) / mass[:, None]

    def _away(self, points: Floats) -> Floats:
        """(m, clusters) distances of new cases; NaN where nothing is in common."""
        if self.method == "centroid":
            places = replace(self._answers, values=points).points
            return _straight(places, self._centroids())
        n, kept = self.grown.tree.n, self._answers
        both = replace(kept, values=np.vstack([points, kept.values]))
        measure, rows = MEASURES[self.grown.method.measure], slice(0, len(points))
        with np.errstate(over="ignore", invalid="ignore"):
            far = gower(both, rows, within=True) if measure.mixed else measure.function(both, rows)
        return self._of_clusters(far[:, len(points) : len(points) + n])

    def _of_clusters(self, far: Floats) -> Floats:
        """(rows, clusters) from proximities to the cases of the tree, NaN ones passed over."""
        out = np.full((len(far), self.count), np.nan)
        for cluster in range(self.count):
            block = far[:, self.own == cluster]
            known = ~np.isnan(block)
            some = known.any(axis=1)
            if self.method == "nearest":
                out[some, cluster] = np.where(known, block, np.inf).min(axis=1)[some]
            else:
                totals = np.where(known, block, 0.0).sum(axis=1)
                out[some, cluster] = totals[some] / known.sum(axis=1)[some]
        return out

    def _reach(self) -> Floats:
        """(clusters,) the largest distance of a member to its own cluster; 0 for one case."""
        if self.method == "centroid":
            away = _straight(self._answers.points, self._centroids())
            own = away[np.arange(len(self.own)), self.own]
            sizes = np.bincount(self.own, minlength=self.count)
            out = np.zeros(self.count)
            np.maximum.at(out, self.own, own)
            return np.where(sizes > 1, out, 0.0)
        reach = np.zeros(self.count)
        for cluster in range(self.count):
            rows = np.flatnonzero(self.own == cluster)
            step = max(1, _BLOCK // len(rows))
            for begin in range(0, len(rows) if len(rows) > 1 else 0, step):
                some = rows[begin : begin + step]
                block = self.grown.pairs.block(some, rows)
                if self.method == "nearest":
                    block[some[:, None] == rows] = np.inf
                    found = block.min(axis=1)
                else:
                    found = block.sum(axis=1) / (len(rows) - 1)
                reach[cluster] = max(reach[cluster], float(found.max()))
        return reach


def _straight(points: Floats, centroids: Floats) -> Floats:
    return np.stack([np.sqrt(((points - c) ** 2).sum(axis=1)) for c in centroids], axis=1)


def _first_of_least(away: Floats) -> Ints:
    """The smallest of each row, the first of equals."""
    least = away.min(axis=1, keepdims=True)
    return np.asarray((away <= least * (1 + _DRAW)).argmax(axis=1))
