"""Rules on the whole matrix of scatter within clusters: variables may be correlated."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.nested import Nested

Floats = NDArray[np.float64]
_SINGULAR = 1e-10  # of the scatter of all cases: what is left of a variable that clusters explain


@dataclass(frozen=True, eq=False)
class Scatters:
    """Pooled scatter within clusters; place k stands for k clusters.

    points : (n, p) values times the roots of importances; masses : (n,);
    within : (finest + 1, p, p) sums of squares and products, W, NaN at 0.
    """

    nested: Nested
    points: Floats
    masses: Floats
    within: Floats

    @property
    def mass(self) -> float:
        return float(self.masses.sum())

    def of_total(self, count: int) -> float:
        """det W / det T; NaN where either is singular."""
        total, within = self.within[1], self.within[count]
        values, vectors = np.linalg.eigh(total)
        if not values[0] > _SINGULAR * values[-1]:
            return float("nan")
        whiten = vectors / np.sqrt(values)
        shares = np.linalg.eigvalsh(whiten.T @ within @ whiten)
        return float(np.prod(shares)) if shares[0] > _SINGULAR else float("nan")


def scatters(nested: Nested, values: Floats, importance: Floats, masses: Floats) -> Scatters:
    """Work the matrices up from those of the finest clusters.

    values : (n, p), complete; importance : (p,); masses : (n,).
    """
    points = values * np.sqrt(importance)
    finest, p = nested.finest, points.shape[1]
    x, w = points[nested.order], masses[nested.order]
    begins = nested.bounds[:-1]
    mass = np.add.reduceat(w, begins)
    first = x[begins]  # means about a case of the piece, so that equal cases have no scatter
    off = x - np.repeat(first, nested.sizes, axis=0)
    mean = first + np.add.reduceat(off * w[:, None], begins, axis=0) / mass[:, None]
    away = x - np.repeat(mean, nested.sizes, axis=0)
    within = np.full((finest + 1, p, p), np.nan)
    within[finest] = away.T @ (away * w[:, None])
    for row, (a, m, _) in enumerate(nested.merges):
        left = finest - 1 - row
        apart = mean[a] - mean[m]
        within[left] = within[left + 1] + mass[a] * mass[m] / (mass[a] + mass[m]) * np.outer(
            apart, apart
        )
        mean[a] += (mean[m] - mean[a]) * (mass[m] / (mass[a] + mass[m]))
        mass[a] += mass[m]
    return Scatters(nested, points, masses, within)


def cubic_criterion(of: Scatters, count: int) -> float:
    """The cubic clustering criterion along the principal axes; NaN for one cluster.

    References
    ----------
    Sarle 1983, Cubic clustering criterion.
    """
    total, n, k = of.within[1], of.mass, count
    whole, within = float(np.trace(total)), float(np.trace(of.within[count]))
    if k < 2 or not within > _SINGULAR * whole:
        return float("nan")
    unexplained = within / whole
    roots = np.sqrt(np.maximum(np.linalg.eigvalsh(total)[::-1] / (n - 1), 0.0))
    for axes in range(min(k - 1, len(roots)), 0, -1):
        with np.errstate(divide="ignore", invalid="ignore"):
            edge = np.exp((np.log(roots[:axes]).sum() - np.log(k)) / axes)
            u = roots / edge
        if u[axes - 1] >= 1:
            break
    rest = (1 / (n + u[:axes])).sum() + (u[axes:] ** 2 / (n + u[axes:])).sum()
    expected = 1 - rest / (u**2).sum() * (n - k) ** 2 / n * (1 + 4 / n)
    if not 0.001 + expected > 0:
        return float("nan")
    steep = np.sqrt(n * axes / 2) / (0.001 + expected) ** 1.2
    return float(np.log((1 - expected) / unexplained) * steep)


def normal_bic(of: Scatters, count: int) -> float:
    """BIC of normal groups of one covariance, with the shares and centroids of the cut.

    Masses are normed to sum to the number of cases. NaN where the covariance is singular.

    References
    ----------
    Fraley & Raftery 1998, How many clusters? Which clustering method? Answers via model-based
    cluster analysis (the criterion; there the groups are those of largest likelihood).
    """
    n, p = of.points.shape
    w = of.masses * (n / of.mass)
    if not np.isfinite(of.of_total(count)):
        return float("nan")
    covariance = of.within[count] / of.mass
    values, vectors = np.linalg.eigh(covariance)
    white = of.points @ (vectors / np.sqrt(values))
    clusters = of.nested.clusters(count)
    mass = np.bincount(clusters, w, count)
    centres = np.stack(
        [np.bincount(clusters, w * white[:, j], count) / mass for j in range(p)], axis=1
    )
    far = ((white[:, None] - centres) ** 2).sum(axis=2)
    height = np.log(mass / n) - far / 2
    top = height.max(axis=1)
    mixed = top + np.log(np.exp(height - top[:, None]).sum(axis=1))
    normed = (p * np.log(2 * np.pi) + np.log(values).sum()) / 2
    likelihood = float((w * (mixed - normed)).sum())
    parameters = count * p + count - 1 + p * (p + 1) / 2
    return float(2 * likelihood - parameters * np.log(n))
