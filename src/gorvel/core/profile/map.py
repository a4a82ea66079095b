"""A map of the cases in two dimensions, near where their distances are small."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.pairsums import Distances
from gorvel.core.grow.grown import Grown
from gorvel.core.proximity.measures import MEASURES

__all__ = ["LANDMARKS", "MOST", "CaseMap", "case_map", "classical", "least_stress"]

Floats = NDArray[np.float64]

MOST = 2_000  # cases that are mapped by all their distances
LANDMARKS = 1_000  # of larger studies: others are mapped by their distances to these
_ENOUGH = 1e-6  # of the raw stress: a step that lowers it by less is the last
_MOST_STEPS = 1_000
_BLOCK = 1 << 20  # cells of a block
_ROWS = 64  # of a step at a time
_FEW = 300  # cases up to which all eigenvalues are worked out
_VECTORS, _ROUNDS = 8, 100  # of the iteration for the two largest


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
    squares = far**2
    row = squares.mean(axis=1)
    inner = -0.5 * (squares - row[:, None] - row + row.mean())
    leading = _leading(inner) if straight and n > _FEW else None
    if leading is None:
        values, vectors = np.linalg.eigh(inner)
        values, vectors = values[::-1], vectors[:, ::-1]
    else:  # none is below 0, and all sum to the trace
        vectors, largest = leading
        values = np.append(largest, max(float(np.trace(inner) - largest.sum()), 0.0))
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


def _leading(inner: Floats) -> tuple[Floats, Floats] | None:
    """(n, 2) eigenvectors of the two largest eigenvalues, and these; None where they do not come

    apart quickly from the others. inner : no eigenvalue is below 0.

    References
    ----------
    Rutishauser 1970, Simultaneous iteration method for symmetric matrices.
    """
    block = np.random.default_rng(1).normal(size=(len(inner), _VECTORS))
    for _ in range(_ROUNDS):
        turned = np.linalg.qr(inner @ block)[0]
        after = inner @ turned
        small = turned.T @ after
        values, inside = np.linalg.eigh((small + small.T) / 2)
        values, inside = values[::-1], inside[:, ::-1]
        block = turned @ inside
        off = np.linalg.norm(after @ inside[:, :2] - block[:, :2] * values[:2], axis=0)
        if values[0] > 0 and off.max() < 1e-12 * values[0]:
            return block[:, :2], values[:2]
    return None


def least_stress(far: Floats, places: Floats, progress: Progress = silent) -> tuple[Floats, float]:
    """Places from which no step lowers the raw stress by more than 1e-6 of it, and their stress-1.

    Each step majorises the sum of (d - e)^2, e the distances of places, which cannot rise; nor can
    it by steps of twice the length, which need half as many.

    References
    ----------
    de Leeuw & Heiser 1980, Multidimensional scaling with restrictions on the configuration.
    """
    now = places.copy()
    if len(far) < 2:
        return now, 0.0
    squares = float((far**2).sum()) / 2
    after, stress = _step(far, now, squares)
    for twice in (True, False):  # steps of twice the length, until they end; then plain ones
        for step in range(_MOST_STEPS):
            progress(Phase.MAP, step / _MOST_STEPS)
            next_ = 2 * after - now if twice else after
            beyond, found = _step(far, next_, squares)
            if found > stress:  # by rounding alone
                break
            enough = stress - found < _ENOUGH * stress
            now, after, stress = next_, beyond, found
            if enough:
                break
    whole = _sum_of_squares(now)
    return now, float(np.sqrt(stress / whole)) if whole > 0 else 0.0


def _step(far: Floats, now: Floats, squares: float) -> tuple[Floats, float]:
    """Places one step on, and the raw stress of those at hand; some rows at a time, in the cache.

    squares : sum of d^2 over all pairs.
    """
    n = len(far)
    after, both = np.zeros_like(now), 0.0
    for begin in range(0, n, _ROWS):  # each pair once: these rows with themselves and later ones
        end = min(begin + _ROWS, n)
        mine, own = now[begin:end], end - begin
        apart = np.subtract.outer(mine[:, 0], now[begin:, 0])
        other = np.subtract.outer(mine[:, 1], now[begin:, 1])
        apart *= apart
        other *= other
        apart += other
        np.sqrt(apart, out=apart)
        block = far[begin:end, begin:]
        both += float(np.vdot(block[:, :own], apart[:, :own])) / 2
        both += float(np.vdot(block[:, own:], apart[:, own:]))
        apart[apart == 0] = np.inf
        np.divide(block, apart, out=apart)
        after[begin:end] += apart.sum(axis=1)[:, None] * mine - apart @ now[begin:]
        later = apart[:, own:]
        after[end:] += later.sum(axis=0)[:, None] * now[end:] - later.T @ mine
    after /= n
    return after, max(squares - 2 * both + _sum_of_squares(now), 0.0)


def _sum_of_squares(places: Floats) -> float:
    """Of the distances of all pairs."""
    return float(len(places) * (places**2).sum() - (places.sum(axis=0) ** 2).sum())


def _apart(one: Floats, other: Floats) -> Floats:
    """(rows, columns) straight distances in the plane."""
    return np.asarray(
        np.hypot(one[:, None, 0] - other[None, :, 0], one[:, None, 1] - other[None, :, 1])
    )


def _added(away: Floats, far: Floats, places: Floats, values: Floats) -> Floats:
    """(m, 2) where Gower’s formula puts new points; away : (m, landmarks) distances."""
    means = (far**2).mean(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        axes = np.where(values > 0, places / values, 0.0)
    return np.asarray(-0.5 * (away**2 - means) @ axes)


def _fitted(away: Floats, places: Floats, begin: Floats) -> Floats:
    """(m, 2) each point moved until its own stress to the landmarks is smallest."""
    now, n = begin.copy(), len(places)
    moving, centre = np.arange(len(now)), places.sum(axis=0)
    apart = _apart(now, places)
    stress = ((away - apart) ** 2).sum(axis=1)
    for _ in range(_MOST_STEPS):
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.where(apart > 0, away / apart, 0.0)
        after = (centre + ratio.sum(axis=1)[:, None] * now[moving] - ratio @ places) / n
        apart_after = _apart(after, places)
        found = ((away - apart_after) ** 2).sum(axis=1)
        goes_on = stress - found > _ENOUGH * stress
        now[moving[goes_on]] = after[goes_on]
        moving, away = moving[goes_on], away[goes_on]
        apart, stress = apart_after[goes_on], found[goes_on]
        if not moving.size:
            break
    return now
