"""Cases set aside given a cluster at the end; the tree knows nothing of them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.cases.percentiles import ends_of
from gorvel.core.cases.prepare import case_codes, centre_of
from gorvel.core.cases.prepared import Prepared
from gorvel.core.derive.making import as_completed
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS, scale_cases
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cuts import Cut

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Placed:
    """Where the cases set aside stand among those of the tree.

    cases : m numbers in the file; points : (m, p) scaled answers; proximities : (m, n) to the
    cases of the tree, NaN where nothing is in common.
    """

    grown: Grown
    cases: tuple[int, ...]
    points: Floats
    proximities: Floats

    def clusters(self, cut: Cut) -> list[int | None]:
        """The cluster (from 1) each case is given, None for none.

        The one with the nearest centroid where centroids exist (numbers without gaps under a
        Euclidean measure), else with the smallest mean proximity; the earlier of equals. None where
        no case has an answer in common with it.
        """
        prepared = self.grown.prepared
        euclidean = MEASURES[self.grown.method.measure].euclidean
        if euclidean and prepared.measurable_spread and not np.isnan(self.points).any():
            far = self._from_centroids(cut)
        else:
            far = self._mean_proximities(cut)
        return [None if np.isnan(row).all() else int(np.nanargmin(row)) + 1 for row in far]

    def _from_centroids(self, cut: Cut) -> Floats:
        answers, weights = self.grown.prepared.answers, self.grown.prepared.weights
        assert answers is not None
        masses = np.ones(len(answers.values)) if weights is None else weights
        out = np.empty((len(self.cases), cut.clusters))
        for cluster in range(cut.clusters):
            own = cut.membership == cluster + 1
            centroid = np.average(answers.values[own], axis=0, weights=masses[own])
            out[:, cluster] = ((self.points - centroid) ** 2) @ answers.importance
        return out

    def _mean_proximities(self, cut: Cut) -> Floats:
        out = np.full((len(self.cases), cut.clusters), np.nan)
        for cluster in range(cut.clusters):
            block = self.proximities[:, cut.membership == cluster + 1]
            known = ~np.isnan(block)
            some = known.any(axis=1)
            totals = np.where(known, block, 0.0).sum(axis=1)
            out[some, cluster] = totals[some] / known.sum(axis=1)[some]
        return out


def place_set_aside(source: Source, plan: Plan, grown: Grown) -> Placed | None:
    """Measure the cases that a plan sets aside against those of the tree, if it asks for it.

    Their answers are filled, capped and scaled as those of the tree were, by the same means,
    percentiles and spreads. Where a case with a gap is dropped, one set aside is not placed either.

    Returns
    -------
    None when the plan does not ask for it, or there is nobody to place.
    """
    prepared = grown.prepared
    if not plan.cases.place_set_aside or not isinstance(source, Table):
        return None
    aside = set(plan.cases.set_aside)
    cases = [dropped.case for dropped in prepared.dropped if dropped.case in aside]
    if not cases or prepared.answers is None or prepared.raw is None:
        return None
    raw = case_codes(as_completed(source, plan), plan)[np.array(cases) - 1]
    if plan.handling in ("mean", "median", "mode"):
        raw = filled(raw, prepared, plan.handling)
    if plan.handling != "pairwise":
        whole = ~np.isnan(raw).any(axis=1)
        cases = [case for case, kept in zip(cases, whole, strict=True) if kept]
        raw = raw[whole]
    if not cases:
        return None
    points = _scaled(raw, plan, prepared, cases)
    kept = prepared.answers
    both = replace(kept, values=np.vstack([kept.values, points]))
    measure = MEASURES[plan.proximity.measure]
    with np.errstate(over="ignore"):
        far = measure.function(both, slice(prepared.n, prepared.n + len(cases)))
    return Placed(grown, tuple(cases), points, far[:, : prepared.n])


def filled(raw: Floats, prepared: Prepared, handling: str) -> Floats:
    """Gaps filled by the centre of the cases of the tree, which filling has not moved."""
    assert prepared.raw is not None
    raw = raw.copy()
    for j in range(raw.shape[1]):
        gap = np.isnan(raw[:, j])
        if gap.any():
            raw[gap, j] = centre_of(prepared.raw[:, j], handling, prepared.weights)
    return raw


def _scaled(raw: Floats, plan: Plan, prepared: Prepared, cases: list[int]) -> Floats:
    """Answers on the scales of the tree, read off what became of the answers of its cases."""
    assert prepared.raw is not None
    assert prepared.answers is not None
    out = raw.copy()
    mixed = MEASURES[plan.proximity.measure].mixed
    numeric = [j for j, v in enumerate(prepared.variables) if plan.scales(v.level)]
    own_scale = plan.scale.by == "cases" and plan.scale.method != "none"
    for j in numeric:
        name = prepared.variables[j].name
        before, after = prepared.raw[:, j], prepared.answers.values[:, j]
        if name in plan.variables.cap:
            ends = ends_of(before, plan.variables.cap[name])
            before = np.clip(before, *ends)
            out[:, j] = np.clip(out[:, j], *ends)
        ranked = mixed and prepared.variables[j].level == "ordinal"
        if own_scale and not ranked:
            continue
        affine = SCALINGS[plan.scale.method].affine and not ranked
        out[:, j] = follow(out[:, j], before, after, affine)
    if own_scale:
        names = [str(case) for case in cases]
        out[:, numeric] = scale_cases(out[:, numeric], names, plan.scale.method)
    return out


def follow(x: Floats, before: Floats, after: Floats, affine: bool) -> Floats:
    """Carry x over as `before` became `after`: along a straight line, or between ranks.

    Where nothing was known before, x tells nothing either.
    """
    known = ~np.isnan(before)
    if not known.any():
        return np.full(x.shape, np.nan)
    seen, first = np.unique(before[known], return_index=True)
    became = after[known][first]
    if not affine:
        return np.where(np.isnan(x), np.nan, np.interp(x, seen, became))
    slope = (became[-1] - became[0]) / (seen[-1] - seen[0]) if len(seen) > 1 else 1.0
    return np.asarray(became[0] + slope * (x - seen[0]))
