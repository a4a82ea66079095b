"""A map of the cases in two dimensions, near where their distances are small."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.indices.pairsums import Distances
from gorvel.core.grow.grown import Grown
from gorvel.core.profile.stress import ENOUGH, MOST_STEPS, least_stress
from gorvel.core.proximity.measures import MEASURES

Floats = NDArray[np.float64]

MOST = 2_000  # cases that are mapped by all their distances
LANDMARKS = 1_000  # of larger studies: others are mapped by their distances to these
_BLOCK = 1 << 18  # cells of a block
_FEW = 300  # cases up to which all eigenvalues are worked out
_NEAR = 1e-11  # of the largest eigenvalue: what is left of an equation that holds
_VECTORS, _ROUNDS = 8, 30  # of the iteration for the two largest


@dataclass(frozen=True, eq=False)
class CaseMap:
    """Places of n cases.

    classical : (n, 2) along the axes that explain most; least : (n, 2) from there, with the stress
    made smallest; explained : share of the positive eigenvalues, NaN where there are none; stress1
    : of `least`; landmarks : cases that were mapped by all their distances, 0 for all.
    """

    classical: Floats
    least: Floats
    explained: float
    stress1: float
    landmarks: int = 0


def case_map(grown: Grown, seed: int = 1, progress: Progress = silent) -> CaseMap:
    """Map the cases of a tree, by the distances that silhouettes are made of.

    Above `MOST` cases `LANDMARKS` are drawn and mapped, and each other case is put where its
    distances to them fit best; explained and stress are then those of the landmarks.

    progress : told "map"; may stop the work by raising.

    References
    ----------
    Torgerson 1952, Multidimensional scaling: I. Theory and method.
    Kruskal 1964, Multidimensional scaling by optimizing goodness of fit to a nonmetric hypothesis
    (stress; here metric).
    de Leeuw 1977, Applications of convex analysis to multidimensional scaling.
    Gower 1968, Adding a point to vector diagrams in multivariate analysis.
    """
    n, distances = grown.tree.n, Distances(grown.pairs)
    rows, some = np.arange(n), 0
    if n > MOST:
        rows = np.sort(np.random.default_rng([seed, 14]).choice(n, LANDMARKS, replace=False))
        some = LANDMARKS
    far = distances.block(rows, rows)
    np.fill_diagonal(far, 0.0)
    flat = MEASURES[grown.method.measure].flat and grown.prepared.measurable_spread
    places, explained, values = classical(far, flat)
    least, stress = least_stress(far, places, progress)
    if not some:
        return CaseMap(places, least, explained, stress)
    whole, best = np.zeros((n, 2)), np.zeros((n, 2))
    whole[rows], best[rows] = places, least
    others = np.setdiff1d(np.arange(n), rows)
    step = max(1, _BLOCK // len(rows))
    for begin in range(0, len(others), step):
        progress(Phase.MAP, begin / len(others))
        these = others[begin : begin + step]
        away = distances.block(these, rows)
        whole[these] = _added(away, far, places, values)
        best[these] = _fitted(away, least, whole[these])
    return CaseMap(whole, best, explained, stress, some)


def classical(far: Floats, straight: bool = False) -> tuple[Floats, float, Floats]:
    """(n, 2) places by classical scaling, the share explained, and the two eigenvalues.

    The place largest in size along an axis is positive, the first of equals.

    far : (n, n); straight : are they Euclidean distances, so that no eigenvalue is below 0?
    """
    n = len(far)
    squares = far * far
    leading = _leading(squares) if straight and n > _FEW else None
    if leading is None:
        values, vectors = np.linalg.eigh(_centred(squares))
        values, vectors = values[::-1], vectors[:, ::-1]
    else:  # none is below 0, and all sum to the trace
        vectors, largest = leading
        values = np.append(largest, max(float(squares.mean()) * n / 2 - float(largest.sum()), 0.0))
    positive = values[values > 1e-12 * max(float(np.abs(values).max(initial=0.0)), 1e-300)]
    top = np.zeros(2)
    top[: min(n, 2)] = np.maximum(values[:2], 0.0)
    top[top < 1e-12 * top.max(initial=0.0)] = 0.0
    places = np.zeros((n, 2))
    for axis in range(min(n, 2)):
        along = vectors[:, axis] * np.sqrt(top[axis])
        size = np.abs(along)
        first = int(np.argmax(size >= size.max() * (1 - 1e-9)))
        places[:, axis] = along if along[first] >= 0 else -along
    total = float(positive.sum())
    return places, float(top.sum() / total) if total > 0 else float("nan"), top


def _centred(squares: Floats) -> Floats:
    """(n, n) inner products about the mean of points whose squared distances these are."""
    row = squares.mean(axis=1)
    inner: Floats = squares - row[:, None]
    inner -= row
    inner += row.mean()
    inner *= -0.5
    return inner


def _leading(squares: Floats) -> tuple[Floats, Floats] | None:
    """(n, 2) eigenvectors of the two largest eigenvalues of `_centred`, and these.

    None where they do not come apart quickly from the others. squares : no eigenvalue is below 0.

    References
    ----------
    Golub & Underwood 1977, The block Lanczos method for computing eigenvalues.
    """
    n = len(squares)
    basis, images = np.zeros((n, 0)), np.zeros((n, 0))
    block = np.random.default_rng(1).normal(size=(n, min(_VECTORS, n)))
    for _ in range(_ROUNDS):
        for _ in range(2):  # the second time for what rounding left
            block = np.linalg.qr(block - basis @ (basis.T @ block))[0]
        after = squares @ (block - block.mean(axis=0))
        after -= after.mean(axis=0)
        after *= -0.5
        basis, images = np.hstack([basis, block]), np.hstack([images, after])
        small = basis.T @ images
        values, inside = np.linalg.eigh((small + small.T) / 2)
        values, inside = values[:-3:-1], inside[:, :-3:-1]
        vectors = basis @ inside
        off = np.linalg.norm(images @ inside - vectors * values, axis=0)
        if values[0] > 0 and off.max() < _NEAR * values[0]:
            return vectors, values
        block = after
    return None


def _apart(one: Floats, other: Floats) -> Floats:
    """(rows, columns) straight distances in the plane."""
    out = np.subtract.outer(one[:, 0], other[:, 0])
    along = np.subtract.outer(one[:, 1], other[:, 1])
    out *= out
    along *= along
    out += along
    return np.asarray(np.sqrt(out, out=out))


def _added(away: Floats, far: Floats, places: Floats, values: Floats) -> Floats:
    """(m, 2) where Gower’s formula puts new points; away : (m, landmarks) distances."""
    means = (far**2).mean(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        axes = np.where(values > 0, places / values, 0.0)
    return np.asarray(-0.5 * (away**2 - means) @ axes)


def _fitted(away: Floats, places: Floats, begin: Floats) -> Floats:
    """(m, 2) each point moved until its own stress to the landmarks is smallest.

    Steps of twice the length first, until they end; then plain ones.
    """
    now, centre = begin.copy(), places.sum(axis=0)
    for twice in (True, False):
        moving, left = np.arange(len(now)), away
        apart = _apart(now, places)
        stress = ((left - apart) ** 2).sum(axis=1)
        for _ in range(MOST_STEPS):
            apart[apart == 0] = np.inf
            ratio = np.divide(left, apart, out=apart)
            here = now[moving]
            after = (centre + ratio.sum(axis=1)[:, None] * here - ratio @ places) / len(places)
            after = 2 * after - here if twice else after
            apart = _apart(after, places)
            found = ((left - apart) ** 2).sum(axis=1)
            goes_on = stress - found > ENOUGH * stress
            now[moving[goes_on]] = after[goes_on]
            if not goes_on.any():
                break
            if not goes_on.all():
                moving, left, apart = moving[goes_on], left[goes_on], apart[goes_on]
            stress = found[goes_on]
    return now
